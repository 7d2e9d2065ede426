"""What seam and halo share: strips of a rim, means along it at several lengths, and what is natural
for them.

Natural is learned twice. The *spread* of signed colour differences at each length comes from the
same outline placed over
untouched parts of the original, all distances from it included. The *largest* value that chance
brings along one
whole outline comes from running the measure itself on each of those outlines.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from scipy import ndimage

from ...evidence import Along, Profile, Strip
from ...evidence import Rim as RimEvidence
from ...null import excess
from ...scene.boundary import REACH, Rim, rims_of, unroll
from ...scene.window import Window

#: Distances of the parallels from the boundary, pixels; negative lies inside.
PARALLELS = tuple(range(-24, -8, 3)) + tuple(range(9, 25, 3))
#: Lengths of boundary that are judged at once, pixels; 0 is the whole of it.
LENGTHS = (40, 110, 0)
#: How many control outlines are asked for, and how many there must be.
CONTROLS, LEAST_CONTROLS = 16, 5
#: Of an outline of so many pieces or more fewer are placed of each: together they are as much of it.
_MANY_PIECES = 8
_SEED = 20260
#: CIELAB differences below this are never called natural spread: the finest step an 8 bit picture
#: can hold, about.
FLOOR = 0.22


@dataclass(eq=False)
class Controls:
    """Attributes: window: where all lies; rims: the boundaries judged; placed: rims placed over
    untouched parts of the original;
    pieces: how many of `placed` make up one whole outline (1 where the whole outline found room);
    origins: of each placed one, which samples of the first rim it is and how far (x, y) it was
        moved.
    """

    window: Window
    rims: list[Rim]
    placed: list[Rim]
    pieces: int
    origins: list[tuple[np.ndarray, tuple[int, int]]] = field(default_factory=list)
    _strips: dict[int, np.ndarray] = field(default_factory=dict)
    _planes: dict[int, np.ndarray] = field(default_factory=dict)

    def strip(self, rim: Rim) -> np.ndarray:
        """CIELAB across a rim, (n, 2 * REACH + 1, 3): of the result, or of the original for a
        control.
        """
        if id(rim) not in self._strips:
            self._strips[id(rim)] = self.unrolled(rim, rim)
        return self._strips[id(rim)]

    def unrolled(self, along: Rim, rim: Rim) -> np.ndarray:
        """The same along another, of the picture in which `rim` lies."""
        return unroll(
            self.window.lab_original
            if any(rim is placed for placed in self.placed)
            else self.window.lab_result,
            along,
            REACH,
        )

    def planes(self, rim: Rim) -> np.ndarray:
        """The same channel by channel, as `read_by` takes it; (3, n, 2 * REACH + 1)."""
        if id(rim) not in self._planes:
            self._planes[id(rim)] = planes_of(self.strip(rim))
        return self._planes[id(rim)]


def controls_of(window: Window) -> Controls:
    """The window's rims and controls, made once and shared by the kinds."""
    if "controls" not in window.shared:
        rims = [_alone(window, rim) for rim in rims_of(window.judged)]
        placed, pieces = _place(window, rims[0]) if rims else ([], 1)
        window.shared["controls"] = Controls(
            window,
            rims,
            [rim for rim, _, _ in placed],
            pieces,
            [(indices, place) for _, indices, place in placed],
        )
    made: Controls = window.shared["controls"]
    return made


#: So far outside its boundary another region adjoins, pixels.
_ADJOINS = 5


def _alone(window: Window, rim: Rim) -> Rim:
    """A boundary with those of its samples usable beyond which no smaller region lies: what stands
    there is reported of that.
    """
    if window.smaller is None:
        return rim
    x, y = np.clip(
        np.rint(rim.points + _ADJOINS * rim.normals).astype(int),
        0,
        np.array(window.mask.shape[::-1]) - 1,
    ).T
    return replace(rim, usable=rim.usable & ~window.smaller[y, x])


Control = tuple[Rim, np.ndarray, tuple[int, int]]


def _place(window: Window, rim: Rim) -> tuple[list[Control], int]:
    """The outline placed elsewhere, with which of its samples and how far they were moved; where
    there is no room for the whole of it, its pieces.
    """
    height, width = window.mask.shape

    def controls(indices: np.ndarray, part: Rim, count: int, seed: int) -> list[Control]:
        found = []
        for place in window.room.places(part.band(window.mask.shape, 12), count, seed):
            moved = part.moved(place)
            inside = (
                (moved.points > 2).all(axis=1)
                & (moved.points[:, 0] < width - 3)
                & (moved.points[:, 1] < height - 3)
            )
            # At the frame an outline has no rim, here or anywhere.
            if (part.usable & inside).sum() > 0.6 * max(int(part.usable.sum()), 12):
                found.append((replace(moved, usable=part.usable & inside), indices, place))
        return found

    whole = controls(np.arange(len(rim)), rim, CONTROLS, _SEED)
    if len(whole) >= LEAST_CONTROLS:
        return whole, 1
    for length in (420, 240, 130):
        count = int(np.ceil(len(rim) * rim.step / length))
        if count < 2:
            continue
        edges = np.linspace(0, len(rim), count + 1).astype(int)
        chosen = np.unique(np.linspace(0, count - 1, min(count, 6)).astype(int))
        some = [np.arange(edges[k], edges[k + 1]) for k in chosen]
        each = 4 if count < _MANY_PIECES else 2
        pieces = [
            piece
            for k, indices in zip(chosen, some, strict=True)
            for piece in controls(indices, rim.part(indices), each, _SEED + int(k))
        ]
        if len(pieces) >= 2 * LEAST_CONTROLS:
            return pieces, count
    return whole, 1


def means_along(
    values: np.ndarray, rim: Rim, lengths: tuple[int, ...] = LENGTHS
) -> list[np.ndarray]:
    """Running means of (n, ...) along a rim, one array for each length."""
    n, step, mode = len(values), rim.step, "wrap" if rim.closed else "nearest"
    means = []
    for length in lengths:
        count = n if length == 0 else min(n, max(3, int(length / step) | 1))
        means.append(
            np.broadcast_to(values.mean(axis=0), values.shape)
            if count == n
            else ndimage.uniform_filter1d(values, count, axis=0, mode=mode)
        )
    return means


def blocks_along(values: np.ndarray, rim: Rim) -> np.ndarray:
    """Means of (n, ...) over stretches of the shortest of `LENGTHS` that do not overlap; (blocks,
    ...).
    """
    count = min(len(values), max(3, int(LENGTHS[0] / rim.step)))
    whole = len(values) // count
    return np.asarray(values[: whole * count].reshape(whole, count, *values.shape[1:]).mean(axis=1))


def euclidean(differences: np.ndarray) -> np.ndarray:
    """Euclidean lengths of (..., 3), (...); what `np.linalg.norm` gives, in a sixth of its time for
    so short an axis.
    """
    squares = differences * differences
    return np.asarray(np.sqrt(squares[..., 0] + squares[..., 1] + squares[..., 2]))


@dataclass(frozen=True)
class Spread:
    """Natural second moments of a signed CIELAB difference, one inverse square root (3, 3) for each
    of `LENGTHS`.
    """

    whiten: tuple[np.ndarray, ...]

    def amount(self, difference: np.ndarray, level: int) -> np.ndarray:
        """Differences (..., 3) in natural spreads, (...)."""
        return euclidean(difference @ self.whiten[level])

    def toward(self, difference: np.ndarray, level: int, direction: np.ndarray) -> np.ndarray:
        """The part along a direction, in natural spreads, by the matched filter; signed."""
        w = self.whiten[level]
        wanted = direction @ w
        return np.asarray(difference @ (w @ (wanted / (np.linalg.norm(wanted) + 1e-9))))


@dataclass(frozen=True)
class Temper:
    """How much a single sample of a rim may say. A seam or a ring runs on; what a mean owes to the
    few places where the rim crosses or grazes something strong it owes to
    chance. So differences are held to a few natural spreads before they are averaged (Huber 1964),
    on the rim as on its controls.

    Attributes: most: natural spreads that one sample may count for."""

    whiten: np.ndarray
    most: float

    def __call__(self, difference: np.ndarray) -> np.ndarray:
        """Differences (..., 3), none larger than `most` spreads; their directions stay."""
        amount = euclidean(difference @ self.whiten)
        return np.asarray(
            difference * np.minimum(1.0, self.most / np.maximum(amount, 1e-6))[..., None]
        )


def grown(plain: np.ndarray, tempered: np.ndarray) -> np.ndarray:
    """By how much the plain means (n, 3) outdo the tempered ones, (n,), 1 at least: what is reported of
    a flaw once it is one must grow with it.
    """
    return np.maximum(euclidean(plain) / np.maximum(euclidean(tempered), 1e-6), 1.0)


def reported_at(values: np.ndarray, scores: np.ndarray, indices: np.ndarray) -> float:
    """The largest reported value (n,) among the places of a stretch that score as high as any: scores
    end at one, and what is reported must not.
    """
    best = indices[scores[indices] >= 0.98 * scores[indices].max()]
    return float(values[best].max())


def learn_temper(samples: list[np.ndarray], most: float) -> Temper:
    """From null differences of single samples, (n, k, 3) each. The spread is that of the calmer
    four fifths: strong places must not make room for themselves.
    """
    rows = np.concatenate(
        [source[:: max(1, len(source) // 120)].reshape(-1, 3) for source in samples]
    )
    whiten = np.eye(3)
    for _ in range(2):
        amount = euclidean(rows @ whiten)
        calm = rows[amount <= np.quantile(amount, 0.8)]
        second = calm.T @ calm / max(len(calm), 1) + FLOOR**2 * np.eye(3)
        value, vector = np.linalg.eigh(second)
        whiten = (vector / np.sqrt(value)) @ vector.T
    return Temper(whiten.astype(np.float32), most)


def learn_spread(samples: list[list[np.ndarray]]) -> Spread:
    """From null differences: for each source, one (n, k, 3) array for each of `LENGTHS`.

    The covariance is drawn towards a diagonal one and never falls below `FLOOR` in any direction.
    """
    whiten = []
    for level in range(len(LENGTHS)):
        rows = np.concatenate(
            [
                source[level][:: max(1, len(source[level]) // 300)].reshape(-1, 3)
                for source in samples
            ]
        )
        second = rows.T @ rows / max(len(rows), 1)
        second = 0.9 * second + 0.1 * np.diag(np.diag(second)) + FLOOR**2 * np.eye(3)
        value, vector = np.linalg.eigh(second)
        whiten.append(
            ((vector / np.sqrt(np.maximum(value, FLOOR**2))) @ vector.T).astype(np.float32)
        )
    return Spread(tuple(whiten))


def locally(amount: np.ndarray, beside: np.ndarray) -> np.ndarray:
    """Temper amounts (n,) where the parallels (n, p) at the same place read high too: something
    crosses the boundary there.
    """
    return amount / np.sqrt(1 + 0.5 * np.maximum((beside**2).mean(axis=1) / 3 - 1, 0))


def null_of(
    controls: Controls, run: Callable[[Rim], np.ndarray], fallback: tuple[float, ...]
) -> tuple[np.ndarray, str]:
    """The largest values that chance brings along one whole outline, at each of `LENGTHS`;
    (controls, lengths).

    Args:
        run: measures a control: rim -> (lengths, n), or several such one after the other.
        fallback: what is usual elsewhere, as many, where there are too few controls here.

    Where only pieces found room, whole outlines are drawn from them: the largest of as many as make
        up one.
    """
    values = np.array(
        [np.percentile(run(rim)[:, rim.usable], 98, axis=1) for rim in controls.placed]
    )
    if len(values) < LEAST_CONTROLS:
        return np.repeat(np.array(fallback)[:, None], len(fallback), axis=1), "parallel"
    if controls.pieces > 1:
        rng = np.random.default_rng(_SEED)
        drawn = values[rng.integers(0, len(values), (40, controls.pieces))].max(axis=1)
        # The mean along a whole boundary has no largest piece: it is the mean of so many, and
        # varies by that much less.
        for whole in range(len(LENGTHS) - 1, values.shape[1], len(LENGTHS)):
            drawn[:, whole] = values[rng.integers(0, len(values), 40), whole] / np.sqrt(
                controls.pieces
            )
        return drawn, "outline"
    return values, "outline"


def beyond(
    amounts: np.ndarray, null: np.ndarray, usable: np.ndarray, floor: float, tail: float = 0.5
) -> tuple[np.ndarray, np.ndarray]:
    """How far each sample lies outside its null, at the length where it does so most.

    Args:
        amounts: (lengths, n); null: (controls, lengths); floor: least spread; tail: as in
            `calibrate.excess`.

    Returns:
        (n,) excess, -1e3 where unusable; (n,) which length.
    """
    far = np.stack(
        [excess(amounts[level], null[:, level], floor, tail) for level in range(len(amounts))]
    )
    which = far.argmax(axis=0)
    return np.where(usable, far.max(axis=0), -1e3), which


def pieces_of(hot: np.ndarray, gap: int) -> list[tuple[int, int]]:
    """Runs of True on a ring, gaps up to `gap` closed, as (start, end) with end possibly beyond the
    ring's length.
    """
    n = len(hot)
    if hot.all():
        return [(0, n)]
    if not hot.any():
        return []
    shift = int(np.flatnonzero(~hot)[0])
    rolled = np.roll(hot, -shift)
    closed = (
        ndimage.binary_closing(np.pad(rolled, gap + 1), np.ones(2 * (gap // 2) + 1))[
            gap + 1 : -gap - 1
        ]
        | rolled
    )
    labels, _ = ndimage.label(closed)
    return [
        (int(s[0].start) + shift, int(s[0].stop) + shift)
        for s in ndimage.find_objects(labels)
        if s[0].stop - s[0].start >= 4
    ][:6]


def read_by(planes: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Sums across a strip's planes (3, n, 2 * REACH + 1) by weights (3, 2 * REACH + 1, k), channel
    by channel; (n, k, 3).
    """
    return np.ascontiguousarray(np.matmul(planes, weights).transpose(1, 2, 0))


def planes_of(values: np.ndarray) -> np.ndarray:
    """A strip (n, 2 * REACH + 1, 3) channel by channel; (3, n, 2 * REACH + 1)."""
    return np.ascontiguousarray(values.transpose(2, 0, 1))


def natural_profile(controls: Controls, count: int) -> tuple[np.ndarray, np.ndarray] | None:
    """How the mean lightness of `count` samples of rim runs across it by nature, less its own mean:
    5th and 95th percentile at each distance, (2 * REACH + 1,) each, L*;
    None where too few stretches were placed elsewhere."""
    rows = []
    for rim in controls.placed:
        lightness, some = controls.strip(rim)[..., 0], min(count, len(rim))
        for first in range(0, len(rim) - some + 1, max(1, some))[:6]:
            usable = rim.usable[first : first + some]
            if usable.mean() > 0.6:
                mean = (
                    usable.astype(lightness.dtype) @ lightness[first : first + some] / usable.sum()
                )
                rows.append(mean - mean.mean())
    if len(rows) < LEAST_CONTROLS:
        return None
    low, high = np.percentile(rows, (5, 95), axis=0)
    return low, high


def rim_evidence(
    controls: Controls,
    rim: Rim,
    indices: np.ndarray,
    value: np.ndarray,
    beside: np.ndarray,
    start: int,
    normal_offset: float,
) -> RimEvidence:
    """What a person is shown: the line, the measure at its points and which way is out there
    (smoothed), the mean profile across it and what it is by nature, and the
    measure along the whole boundary with its natural band.

    Args:
        value, beside: the measure on the boundary (n,) and its parallels (n, p), in CIELAB units.
        start: first sample of the stretch.
        normal_offset: how far outside the boundary the line is drawn.
    """
    stride = max(1, len(indices) // 60)
    some = indices[::stride]
    every = max(1, len(rim) // 400)
    mean = controls.strip(rim)[indices].mean(axis=0)
    band = natural_profile(controls, len(indices))
    first = int(start % len(rim))
    low, high = np.percentile(beside, (5, 95), axis=1)
    # Between two points of the line the largest value stands for all, so that no peak is missed.
    peaks = np.array(
        [
            part[np.argmax(value[part])]
            for part in np.split(indices, np.arange(stride, len(indices), stride))
        ]
    )
    outward = ndimage.gaussian_filter1d(
        rim.normals, max(3.0, 2.0 * stride), axis=0, mode="wrap" if rim.closed else "nearest"
    )[some]
    outward /= np.linalg.norm(outward, axis=1, keepdims=True) + 1e-9
    along = value[::every]
    return RimEvidence(
        line=controls.window.to_frame(rim.points[some] + normal_offset * rim.normals[some] + 0.5),
        strip=Strip(value[peaks], low[peaks], high[peaks], outward),
        profile=Profile(
            list(range(-REACH, REACH + 1)),
            mean[:, 0],
            mean[:, 1],
            mean[:, 2],
            None if band is None else mean[:, 0].mean() + band[0],
            None if band is None else mean[:, 0].mean() + band[1],
        ),
        along=Along(
            along,
            low[::every],
            high[::every],
            first // every,
            min(len(along), (first + len(indices)) // every),
            "CIELAB",
        ),
    )
