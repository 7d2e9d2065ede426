"""Steps of colour along a rim, and how they are read where two sides have their own texture."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from scipy import special

from ...scene.boundary import REACH, Rim
from .nulls import (
    FLOOR,
    LENGTHS,
    PARALLELS,
    Controls,
    Spread,
    Temper,
    blocks_along,
    euclidean,
    grown,
    learn_spread,
    learn_temper,
    locally,
    means_along,
    planes_of,
    read_by,
)

#: Where the boundary may really lie against where it was found, pixels.
_CENTRES = (-2, -1, 0, 1, 2)
#: Natural spreads that one sample of a step may count for (2.5 against none: step 8 found with AUC
#: .81 instead of .71 on training photographs).
_MOST = 2.5
#: Bands across the boundary whose colours make a step, pixels from it; inside is negative.
BANDS = ((-6, -4), (-3, -2), (-1, -1), (1, 1), (2, 3), (4, 6))
#: Steps looked for: hard, and feathered by so many pixels.
_FEATHERS = (0.0, 2.0)
#: How many usual gradients a place may count for: a sixth of the boundary that grazes a strong edge
#: must not rule it all.
_RULES = 4.0
#: Gradient across the boundary, over its parallels', that nobody sees, and that counts in full;
#: CIELAB over two pixels, its three planes together.
_UNSEEN = (1.0, 2.2)


@dataclass(frozen=True)
class Lines:
    """One strip measured. `step`, `cut`: (lengths, n) in natural spreads; `seen`: how far a cut can
    be seen at all, 0..1;
    `reported_step`, `reported_cut`: the same as they are reported; `signed`: the step, (lengths, n, 3) CIELAB;
    the plain amounts (n,) in CIELAB at the shortest length, and their parallels (n, p)."""

    step: np.ndarray
    cut: np.ndarray
    seen: np.ndarray
    reported_step: np.ndarray
    reported_cut: np.ndarray
    signed: np.ndarray
    step_plain: np.ndarray
    step_beside: np.ndarray
    cut_plain: np.ndarray
    cut_beside: np.ndarray


def _bands(values: np.ndarray, centres: tuple[int, ...]) -> np.ndarray:
    """Mean colour of `BANDS` on either side at several distances, inner ones first, of a strip's
    values; (n, k, bands, 3).
    """
    return read_by(
        planes_of(values), np.concatenate([_across(c) for c in centres], axis=-1)
    ).reshape(len(values), len(centres), len(BANDS), 3)


def _across(centre: int) -> np.ndarray:
    """The weights that make means of `BANDS` about a distance; (3, 2 * REACH + 1, bands)."""
    templates = np.zeros((2 * REACH + 1, len(BANDS)), np.float32)
    for k, (first, last) in enumerate(BANDS):
        templates[REACH + centre + first : REACH + centre + last + 1, k] = 1 / (last + 1 - first)
    return np.repeat(templates[None], 3, axis=0)


@dataclass(frozen=True)
class Step:
    """How a step is read from the colours on either side of the boundary: best linear unbiased
    estimates (Aitken 1935).

    What lies close to the boundary differs least by nature, what lies far off says whether it is a
    step at all; how much each is worth, this picture tells.

    Attributes: weights: (templates, bands, 3), by which bands are summed; for a hard step and for
        one that was feathered.
    """

    weights: np.ndarray
    _templates: dict[tuple[int, ...], np.ndarray] = field(default_factory=dict)

    def __call__(self, planes: np.ndarray, centres: tuple[int, ...]) -> np.ndarray:
        """Inside minus outside, CIELAB, at each distance by each template; (n, k * templates, 3)."""
        if centres not in self._templates:
            self._templates[centres] = np.concatenate(
                [np.einsum("cdb,tbc->cdt", _across(c), self.weights) for c in centres], axis=-1
            ).astype(np.float32)
        return read_by(planes, self._templates[centres])


def learn_step(samples: list[np.ndarray]) -> Step:
    """From natural bands: for each source their means along some length of rim, (n, k, bands, 3)."""
    rows = np.concatenate([one.reshape(-1, len(BANDS), 3) for one in samples])
    rows = rows - rows.mean(axis=1, keepdims=True)
    middle = np.array([(first + last) / 2 for first, last in BANDS])
    weights = []
    for blur in _FEATHERS:
        wanted = (
            -0.5 * special.erf(middle / (blur * np.sqrt(2))) if blur else -0.5 * np.sign(middle)
        )
        by_channel = []
        for c in range(3):
            own = rows[..., c]
            # Strong places must not rule what is usual.
            size = np.abs(own).max(axis=1)
            own = own[size <= np.quantile(size, 0.9)]
            second = own.T @ own / max(len(own), 1)
            second += (0.05 * np.trace(second) / len(BANDS) + FLOOR**2) * np.eye(len(BANDS)) + 1e4
            solved = np.linalg.solve(second, wanted)
            by_channel.append(solved / (wanted @ solved))
        weights.append(np.stack(by_channel, -1))
    return Step(np.stack(weights))


def cuts(planes: np.ndarray, centres: tuple[int, ...]) -> np.ndarray:
    """Absolute gradient across a strip's planes (3, n, 2 * REACH + 1), summed over L*, a*, b*; (n,
    k).
    """
    at = REACH + np.array(centres)
    light, a, b = np.abs(planes[..., at + 1] - planes[..., at - 1])
    return np.asarray(light + a + b)


@dataclass(eq=False)
class Course:
    """Steps along one rim. `own` at `_CENTRES`, `parallels` at `PARALLELS`, (n, k * templates, 3)
    CIELAB; `near`, `beside`: their means along it, each sample tempered,
    one for each of `LENGTHS`."""

    planes: np.ndarray
    rim: Rim
    own: np.ndarray
    parallels: np.ndarray
    near: list[np.ndarray] = field(default_factory=list)
    beside: list[np.ndarray] = field(default_factory=list)

    @property
    def there(self) -> slice:
        """Which of `own` lie where the boundary was found."""
        middle = _CENTRES.index(0)
        return slice(middle * len(_FEATHERS), (middle + 1) * len(_FEATHERS))

    def tempered(self, temper: Temper) -> Course:
        """Itself, its means made."""
        self.near, self.beside = (
            means_along(temper(self.own), self.rim),
            means_along(temper(self.parallels), self.rim),
        )
        return self


def course_of(controls: Controls, rim: Rim, step: Step) -> Course:
    """A rim of these controls as steps are read along it."""
    planes = controls.planes(rim)
    return Course(planes, rim, step(planes, _CENTRES), step(planes, PARALLELS))


def spread_of(controls: Controls) -> tuple[Step, Temper, Spread, list[Course]]:
    """How steps are read here, and their natural spread, of one sample and of means: on the
    controls at every distance, on the result's own parallels; and the controls read.
    """
    strips = [(controls.strip(rim), (0, *PARALLELS), rim) for rim in controls.placed]
    strips.append((controls.strip(controls.rims[0]), PARALLELS, controls.rims[0]))
    step = learn_step(
        [_bands(blocks_along(values, rim), centres) for values, centres, rim in strips]
    )
    placed = [course_of(controls, rim, step) for rim in controls.placed]
    judged = course_of(controls, controls.rims[0], step)
    temper = learn_temper(
        [np.concatenate([one.own[:, one.there], one.parallels], axis=1) for one in placed]
        + [judged.parallels],
        _MOST,
    )
    natural = [
        [
            np.concatenate([near[:, one.there], beside], axis=1)
            for near, beside in zip(one.near, one.beside, strict=True)
        ]
        for one in (one.tempered(temper) for one in placed)
    ]
    return step, temper, learn_spread([*natural, judged.tempered(temper).beside]), placed


def lines(course: Course, spread: Spread, judged: bool = True) -> Lines:
    """Measure one strip; for a control, which is not `judged`, what would be reported is not worked
    out.
    """
    rim, near, beside = course.rim, course.near, course.beside
    plain = means_along(course.own, rim) if judged else near
    across, parallels = cuts(course.planes, (-1, 0, 1)), cuts(course.planes, PARALLELS)
    # An edge that the rim crosses is no edge along it.
    most = (
        min(1.5 * float(np.quantile(parallels, 0.95)), _RULES * float(np.median(parallels))) + 2.0
    )
    gradient, gradient_beside = (
        means_along(np.minimum(across, most), rim),
        means_along(np.minimum(parallels, most), rim),
    )
    whole = means_along(across, rim) if judged else gradient
    step_levels, cut_levels, seen_levels = [], [], []
    signed_levels, reported_steps, reported_cuts = [], [], []
    for level in range(len(LENGTHS)):
        amounts = spread.amount(near[level], level)
        best = amounts.argmax(axis=1)
        signed_levels.append(np.take_along_axis(plain[level], best[:, None, None], axis=1)[:, 0])
        step_levels.append(locally(amounts.max(axis=1), spread.amount(beside[level], level)))
        reported_steps.append(
            step_levels[-1]
            * grown(
                signed_levels[-1],
                np.take_along_axis(near[level], best[:, None, None], axis=1)[:, 0],
            )
        )
        edge, usual = gradient[level].max(axis=1), np.median(gradient_beside[level], axis=1)
        ratio = np.log((edge + 0.8) / (usual + 0.8))
        seen_levels.append(np.clip((edge - usual - _UNSEEN[0]) / (_UNSEEN[1] - _UNSEEN[0]), 0, 1))
        unrest = np.log((gradient_beside[level] + 0.8) / (usual + 0.8)[:, None]).std()
        cut_levels.append(ratio / max(0.06, float(unrest)))
        if LENGTHS[level] == 0:
            # All along is over most of it, too: what grazes an edge for a third of its length is
            # not cut.
            there, beside_it = (
                np.median(gradient[0], axis=0).max(),
                np.median(gradient_beside[0], axis=0),
            )
            mostly = np.log((beside_it + 0.8) / (np.median(beside_it) + 0.8))
            cut_levels[-1] = np.minimum(
                cut_levels[-1],
                float(np.log((there + 0.8) / (np.median(beside_it) + 0.8)))
                / max(0.06, float(mostly.std())),
            )
        reported_cuts.append(
            np.maximum(np.log((whole[level].max(axis=1) + 0.8) / (usual + 0.8)), ratio)
            / max(0.06, float(unrest))
        )
    return Lines(
        np.stack(step_levels),
        np.stack(cut_levels),
        np.stack(seen_levels),
        np.stack(reported_steps),
        np.stack(reported_cuts),
        np.stack(signed_levels),
        euclidean(plain[0][:, course.there.start]),
        euclidean(means_along(course.parallels, rim, LENGTHS[:1])[0] if judged else beside[0]),
        gradient[0].max(axis=1),
        gradient_beside[0],
    )
