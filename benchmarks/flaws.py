"""Clean results and flaws put into them, for measuring. Each takes (truth, original, mask, rng) and
returns a result, all uint8.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import skimage

#: Noise that every fill gets of its own, levels: enough that no pixel is the same, too little to be
#: another grain.
OWN = 0.4
Flaw = Callable[[np.ndarray, np.ndarray, np.ndarray, np.random.Generator], np.ndarray]


def blob(rng: np.random.Generator, frame: tuple[int, int], size: float) -> np.ndarray:
    """A smooth random outline of about `size` px across; bool."""
    height, width = frame
    angle = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    radius = (
        size
        / 2
        * (
            1
            + sum(
                rng.normal(0, 0.16 / k) * np.cos(k * angle + rng.uniform(0, 6.3))
                for k in range(1, 5)
            )
        )
    )
    margin = size * 0.75 + 20
    if rng.random() < 0.12:  # at the frame's edge
        cx, cy = rng.uniform(0, size / 3), rng.uniform(margin, height - margin)
    else:
        cx, cy = rng.uniform(margin, width - margin), rng.uniform(margin, height - margin)
    points = np.stack(
        [cx + radius * np.cos(angle), cy + radius * np.sin(angle) * rng.uniform(0.7, 1.3)], -1
    )
    filled = np.zeros(frame, np.uint8)
    cv2.fillPoly(filled, [points.round().astype(np.int32)], 1)
    return filled.astype(bool)


def with_thing(truth: np.ndarray, mask: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """The original: the truth with a shaded, textured and lettered thing that fills most of the
    mask.
    """
    thing = cv2.erode(mask.astype(np.uint8), np.ones((7, 7), np.uint8)).astype(np.float32)
    soft = cv2.GaussianBlur(thing, (0, 0), 0.9)[..., None]
    colour = rng.uniform(20, 235, 3)
    y, x = np.mgrid[: truth.shape[0], : truth.shape[1]]
    shade = (
        1
        + 0.3 * np.sin(x / rng.uniform(20, 60) + rng.uniform(0, 6))
        + 0.1 * np.sin(y / rng.uniform(5, 30))
    )
    texture = colour * shade[..., None] + rng.normal(0, 3, truth.shape)
    # Things have detail of their own: wear at two scales, and lettering on every other one.
    for sigma, levels in ((1.5, 5.0), (4.0, 7.0)):
        wear = cv2.GaussianBlur(rng.normal(0, 1, truth.shape[:2]).astype(np.float32), (0, 0), sigma)
        texture += (levels * wear / wear.std())[..., None]
    if rng.random() < 0.5:
        ys, xs = np.nonzero(mask)
        ink = np.zeros(truth.shape[:2], np.uint8)
        tall = max(10, int(np.ptp(ys) / 4))
        for row in range(3):
            cv2.putText(
                ink,
                "MOLE 7",
                (int(xs.min()) + 6, int(ys.min()) + int((row + 1.1) * tall)),
                cv2.FONT_HERSHEY_DUPLEX,
                tall / 30,
                255,
                max(1, tall // 10),
                cv2.LINE_AA,
            )
        texture += (ink / 255.0)[..., None] * rng.choice([-1, 1]) * rng.uniform(40, 90)
    return np.clip(truth * (1 - soft) + texture * soft, 0, 255).round().astype(np.uint8)


def _paste(truth: np.ndarray, fill: np.ndarray, mask: np.ndarray, feather: float) -> np.ndarray:
    alpha = mask.astype(np.float32)
    if feather:
        alpha = cv2.GaussianBlur(cv2.erode(alpha, np.ones((3, 3))), (0, 0), feather)
    return (
        np.clip(truth * (1 - alpha[..., None]) + fill * alpha[..., None], 0, 255)
        .round()
        .astype(np.uint8)
    )


def clean(truth, original, mask, rng):
    """A result that holds: the truth with noise of its own."""
    return _paste(truth, truth + rng.normal(0, OWN, truth.shape), mask, 0)


def _offset(truth, mask, rng):
    ys, xs = np.nonzero(mask)
    for _ in range(400):
        length, angle = rng.uniform(1.15, 2.0) * max(np.ptp(xs), np.ptp(ys)), rng.uniform(0, 6.3)
        dx, dy = int(length * np.cos(angle)), int(length * np.sin(angle))
        if (
            xs.min() + dx >= 2
            and ys.min() + dy >= 2
            and xs.max() + dx < truth.shape[1] - 2
            and ys.max() + dy < truth.shape[0] - 2
        ):
            return dx, dy
    return None


def _copied(truth, mask, rng, flip=False):
    found = _offset(truth, mask, rng)
    if found is None:
        return None
    dx, dy = found
    ys, xs = np.nonzero(mask)
    fill = truth.astype(np.float32).copy()
    source = xs.max() + xs.min() - xs if flip else xs
    fill[ys, xs] = truth[ys + dy, source + dx]
    return fill, (dx, dy)


def copy_plain(truth, original, mask, rng):
    made = _copied(truth, mask, rng)
    return None if made is None else _paste(truth, made[0], mask, 3)


def copy_mirrored(truth, original, mask, rng):
    made = _copied(truth, mask, rng, flip=True)
    return None if made is None else _paste(truth, made[0], mask, 3)


def copy_turned(degrees: float, scale: float) -> Flaw:
    """A copy that was turned and made larger or smaller before it was laid in."""

    def made(truth, original, mask, rng):
        found = _offset(truth, mask, rng)
        if found is None:
            return None
        ys, xs = np.nonzero(mask)
        cx, cy = float(xs.mean()), float(ys.mean())
        matrix = cv2.getRotationMatrix2D(
            (cx + found[0], cy + found[1]), degrees * rng.choice([-1, 1]), scale
        )
        matrix[:, 2] -= found
        return _paste(
            truth,
            cv2.warpAffine(
                truth,
                matrix,
                truth.shape[1::-1],
                flags=cv2.INTER_CUBIC,
                borderMode=cv2.BORDER_REFLECT,
            ).astype(np.float32),
            mask,
            3,
        )

    return made


def copy_blended(truth, original, mask, rng):
    made = _copied(truth, mask, rng)
    if made is None:
        return None
    fill = np.clip(made[0], 0, 255).astype(np.uint8)
    inner = mask.copy()
    inner[:2], inner[-2:], inner[:, :2], inner[:, -2:] = False, False, False, False
    ys, xs = np.nonzero(inner)
    centre = (int((xs.min() + xs.max() + 1) // 2), int((ys.min() + ys.max() + 1) // 2))
    blended = cv2.seamlessClone(
        np.ascontiguousarray(fill),
        np.ascontiguousarray(truth),
        (inner * 255).astype(np.uint8),
        centre,
        cv2.NORMAL_CLONE,
    )
    return _paste(truth, blended.astype(np.float32), inner, 0)


def step(levels: float) -> Flaw:
    def made(truth, original, mask, rng):
        tint = (
            rng.choice([-1, 1])
            * levels
            * np.array([1.0, rng.uniform(0.8, 1.1), rng.uniform(0.8, 1.1)])
        )
        return _paste(truth, truth + tint + rng.normal(0, OWN, truth.shape), mask, 0)

    return made


def cut(truth, original, mask, rng):
    """The photograph's content from elsewhere, turned by 180 degrees and brought to the same mean,
    cut in hard.
    """
    turned = np.ascontiguousarray(
        np.rot90(truth, 2 if truth.shape[0] != truth.shape[1] else 1)
    ).astype(np.float32)
    shifted = np.roll(turned, (int(rng.integers(40, 200)), int(rng.integers(40, 200))), (0, 1))
    shifted += truth[mask].mean(0) - shifted[mask].mean(0)
    return _paste(truth, shifted, mask, 0)


def _ring(mask, width):
    outside = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 5)
    inside = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
    return np.exp(-(((outside - inside + 3.0) / width) ** 2))[..., None]


def fringe(alpha: float) -> Flaw:
    """The thing's own rim is kept, at `alpha`."""

    def made(truth, original, mask, rng):
        thing = (
            np.median(
                original[cv2.erode(mask.astype(np.uint8), np.ones((15, 15))).astype(bool)], axis=0
            )
            if mask.sum() > 600
            else original[mask].mean(0)
        )
        amount = alpha * _ring(mask, 2.5)
        return _paste(truth, truth * (1 - amount) + thing * amount, mask, 0)

    return made


def glow(levels: float) -> Flaw:
    def made(truth, original, mask, rng):
        return _paste(truth, truth + rng.choice([-1, 1]) * levels * _ring(mask, 4.0), mask, 0)

    return made


def lined(truth, mask, rng):
    """The truth with one to three straight edges laid across the mask, each a step of tone as a
    board's or a rail's edge is.
    """
    y, x = np.mgrid[: truth.shape[0], : truth.shape[1]]
    ys, xs = np.nonzero(mask)
    angle = rng.uniform(0, np.pi)
    out = truth.astype(np.float32)
    for _ in range(int(rng.integers(1, 4))):
        at = rng.integers(len(ys))
        across = (x - xs[at]) * np.sin(angle) + (y - ys[at]) * np.cos(angle)
        width, levels = rng.uniform(4, 14), rng.choice([-1, 1]) * rng.uniform(18, 45)
        out += (levels * 0.5 * (np.tanh((across + width) / 0.9) - np.tanh((across - width) / 0.9)))[
            ..., None
        ]
    return np.clip(out, 0, 255).round().astype(np.uint8)


def moved(pixels: float) -> Flaw:
    """The fill lies `pixels` beside its place, in both directions: every line in it jumps."""

    def made(truth, original, mask, rng):
        shifted = cv2.warpAffine(
            truth,
            np.array(
                [
                    [1, 0, pixels * rng.choice([-1, 1]) * 0.7],
                    [0, 1, pixels * rng.choice([-1, 1]) * 0.7],
                ],
                np.float32,
            ),
            truth.shape[1::-1],
            flags=cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_REFLECT,
        )
        return _paste(truth, shifted + rng.normal(0, OWN, truth.shape), mask, 0)

    return made


def turned(degrees: float) -> Flaw:
    def made(truth, original, mask, rng):
        ys, xs = np.nonzero(mask)
        matrix = cv2.getRotationMatrix2D(
            (float(xs.mean()), float(ys.mean())), degrees * rng.choice([-1, 1]), 1.0
        )
        return _paste(
            truth,
            cv2.warpAffine(
                truth,
                matrix,
                truth.shape[1::-1],
                flags=cv2.INTER_CUBIC,
                borderMode=cv2.BORDER_REFLECT,
            )
            + rng.normal(0, OWN, truth.shape),
            mask,
            0,
        )

    return made


def waving(pixels: float) -> Flaw:
    """Boards that undulate: the fill is displaced to and fro, its rim stays where it was."""

    def made(truth, original, mask, rng):
        y, x = np.mgrid[: truth.shape[0], : truth.shape[1]].astype(np.float32)
        inside = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
        amount = np.clip(inside / 14, 0, 1) * pixels
        wave, turn = rng.uniform(35, 60), rng.uniform(0, 6.3)
        warped = cv2.remap(
            truth,
            x + amount * np.sin(2 * np.pi * y / wave + turn).astype(np.float32),
            y + amount * np.sin(2 * np.pi * x / wave + turn).astype(np.float32),
            cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_REFLECT,
        )
        return _paste(truth, warped + rng.normal(0, OWN, truth.shape), mask, 0)

    return made


def coursed(truth, mask, rng):
    """The truth with boards that run to one vanishing point: joints as dark lines, a step of tone
    from board to board.
    """
    ys, xs = np.nonzero(mask)
    angle = rng.uniform(0, 2 * np.pi)
    far = rng.uniform(1.2, 4.0) * max(truth.shape[:2])
    cx, cy = xs.mean() + far * np.cos(angle), ys.mean() + far * np.sin(angle)
    y, x = np.mgrid[: truth.shape[0], : truth.shape[1]]
    bearing = np.arctan2(y - cy, x - cx)
    turn = np.angle(np.exp(1j * (bearing - np.arctan2(ys.mean() - cy, xs.mean() - cx)))) * far
    # A board a fifth of the region wide.
    board = max(16.0, (np.ptp(xs) + np.ptp(ys)) / 2 / 5)
    number = np.floor(turn / board).astype(int)
    tone = rng.normal(0, 10, 4096)[number % 4096]
    joint = np.exp(-((((turn / board - number) * board - 1.0) / 1.1) ** 2)) * 40
    return (
        np.clip(truth.astype(np.float32) * 0.7 + 40 + (tone - joint)[..., None], 0, 255)
        .round()
        .astype(np.uint8)
    )


#: A line that is there to end: levels it differs by, how far it shows on either side, and its way
#: through the region, pixels.
_SHOWS, _BESIDE, _THROUGH = 10, 40, 40


def passes(with_lines: np.ndarray, bare: np.ndarray, mask: np.ndarray) -> bool:
    """Whether a line that was laid across shows on both sides of the region and all the way
    between: one that only clips it, comes in from the frame's edge, or is as
    bright or dark as what it was laid on ends nowhere."""
    shows = np.abs(with_lines.astype(np.float32) - bare).mean(axis=2) >= _SHOWS
    away = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 5)
    near = shows & (away < _BESIDE + 6)
    count, which = cv2.connectedComponents(near.astype(np.uint8))
    for one in range(1, count):
        ys, xs = np.nonzero((which == one) & mask)
        if not len(ys) or np.hypot(np.ptp(ys), np.ptp(xs)) < _THROUGH:
            continue
        parts, part = cv2.connectedComponents(((which == one) & (away > 3)).astype(np.uint8))
        if (
            sum(
                away[part == k].min() < 8 and away[part == k].max() > _BESIDE
                for k in range(1, parts)
            )
            >= 2
        ):
            return True
    return False


def ended(truth, original, mask, rng):
    """`truth` here is a pair (with lines, without): the fill has the ground but not its lines. None
    where none of them `passes`.
    """
    with_lines, bare = truth
    if not passes(with_lines, bare, mask):
        return None
    return _paste(with_lines, bare + rng.normal(0, OWN, bare.shape), mask, 2)


def blurred(sigma: float, part: float = 1.0) -> Flaw:
    """Washed out, over the whole of the fill or a part of its area, with a soft edge."""

    def made(truth, original, mask, rng):
        area = mask
        if part < 1:
            ys, xs = np.nonzero(mask)
            at = rng.integers(len(ys))
            near = np.hypot(xs - xs[at], ys - ys[at])
            area = np.zeros_like(mask)
            chosen = near <= np.quantile(near, part)
            area[ys[chosen], xs[chosen]] = True
        amount = cv2.GaussianBlur(area.astype(np.float32), (0, 0), 2)[..., None]
        soft = cv2.GaussianBlur(truth, (0, 0), sigma).astype(np.float32)
        return _paste(
            truth, (truth + rng.normal(0, OWN, truth.shape)) * (1 - amount) + soft * amount, mask, 0
        )

    return made


def streaked(truth, original, mask, rng):
    """Drawn along one direction, as too many passes over one place leave it."""
    length, angle = 21, rng.uniform(0, np.pi)
    kernel = np.zeros((length, length), np.float32)
    middle = length // 2
    cv2.line(
        kernel,
        (int(middle - middle * np.cos(angle)), int(middle - middle * np.sin(angle))),
        (int(middle + middle * np.cos(angle)), int(middle + middle * np.sin(angle))),
        1.0,
        1,
    )
    return _paste(truth, cv2.filter2D(truth.astype(np.float32), -1, kernel / kernel.sum()), mask, 0)


def diffused(truth, original, mask, rng):
    """A real diffusion fill (Telea 2004, as in OpenCV)."""
    return cv2.inpaint(original, mask.astype(np.uint8), 5, cv2.INPAINT_TELEA)


def tinted(levels: float, chroma: bool = False, part: float = 1.0) -> Flaw:
    """A soft-edged patch of another brightness or colour, as a straight copy from another light
    leaves it.
    """

    def made(truth, original, mask, rng):
        area = _part_of(mask, part, rng)
        inside = cv2.distanceTransform(area.astype(np.uint8), cv2.DIST_L2, 5)
        amount = np.clip(inside / max(6.0, 0.5 * float(inside.max())), 0, 1)[..., None]
        tint = np.array([1.0, 1.0, 1.0])
        if chroma:
            tint = np.roll(np.array([1.0, -0.5, -0.35]), int(rng.integers(0, 3)))
        return _paste(
            truth,
            truth + rng.choice([-1, 1]) * levels * tint * amount + rng.normal(0, OWN, truth.shape),
            mask,
            0,
        )

    return made


def _part_of(mask, part, rng):
    if part >= 1:
        return mask
    ys, xs = np.nonzero(mask)
    at = rng.integers(len(ys))
    near = np.hypot(xs - xs[at], ys - ys[at])
    area = np.zeros_like(mask)
    chosen = near <= np.quantile(near, part)
    area[ys[chosen], xs[chosen]] = True
    return area


def grained(factor: float) -> Flaw:
    """The fill's grain times `factor`: below one by denoising (non-local means, Buades and others
    2005, as in OpenCV), above one by more of it.
    """

    def made(truth, original, mask, rng):
        if factor < 1:
            ys, xs = np.nonzero(mask)
            crop = (
                slice(max(0, ys.min() - 12), ys.max() + 13),
                slice(max(0, xs.min() - 12), xs.max() + 13),
            )
            quiet = truth.astype(np.float32)
            quiet[crop] = cv2.fastNlMeansDenoisingColored(
                np.ascontiguousarray(truth[crop]), None, 3.0, 3.0, 5, 11
            )
            return _paste(truth, truth * factor + quiet * (1 - factor), mask, 1)
        more = cv2.GaussianBlur(rng.normal(0, 1, truth.shape).astype(np.float32), (0, 0), 0.55)
        return _paste(truth, truth + more / more.std() * 1.3 * np.sqrt(factor**2 - 1), mask, 1)

    return made


def softened(sigma: float) -> Flaw:
    """Less sharp than around, with grain laid over it again."""

    def made(truth, original, mask, rng):
        soft = cv2.GaussianBlur(truth, (0, 0), sigma).astype(np.float32)
        lost = float((truth - soft).std())
        noise = cv2.GaussianBlur(rng.normal(0, 1, truth.shape).astype(np.float32), (0, 0), 0.55)
        return _paste(truth, soft + noise / noise.std() * min(1.2, lost), mask, 1)

    return made


def enlarged(factor: float) -> Flaw:
    """As if made at a smaller size and enlarged."""

    def made(truth, original, mask, rng):
        small = cv2.resize(truth, None, fx=1 / factor, fy=1 / factor, interpolation=cv2.INTER_AREA)
        return _paste(
            truth,
            cv2.resize(small, truth.shape[1::-1], interpolation=cv2.INTER_CUBIC)
            + rng.normal(0, 1.2, truth.shape),
            mask,
            1,
        )

    return made


def sharpened(truth, original, mask, rng):
    """Sharper than what surrounds it."""
    return _paste(
        truth,
        truth + 1.2 * (truth.astype(np.float32) - cv2.GaussianBlur(truth, (0, 0), 1.2)),
        mask,
        1,
    )


def ghost(alpha: float) -> Flaw:
    """A trace of the whole thing shows through."""

    def made(truth, original, mask, rng):
        return _paste(
            truth, truth * (1 - alpha) + original * alpha + rng.normal(0, OWN, truth.shape), mask, 0
        )

    return made


def sliver(share: float, edge: bool = False) -> Flaw:
    """A strip of the thing was missed by the outline."""

    def made(truth, original, mask, rng):
        thing = np.abs(original.astype(int) - truth).max(2) > 12
        ys, xs = np.nonzero(thing)
        if len(ys) < 200:
            return None
        angle = rng.uniform(0, 6.3)
        if edge:
            gaps = [
                xs.min(),
                ys.min(),
                truth.shape[1] - 1 - xs.max(),
                truth.shape[0] - 1 - ys.max(),
            ]
            angle = (np.pi, -np.pi / 2, 0.0, np.pi / 2)[int(np.argmin(gaps))]
        along = xs * np.cos(angle) + ys * np.sin(angle)
        kept = along >= np.quantile(along, 1 - share)
        result = clean(truth, original, mask, rng)
        result[ys[kept], xs[kept]] = original[ys[kept], xs[kept]]
        return result

    return made


def dots(radius: float, count: int = 4) -> Flaw:
    """Specks of the thing that an automatic outline left out."""

    def made(truth, original, mask, rng):
        inner = cv2.erode(mask.astype(np.uint8), np.ones((13, 13))).astype(bool)
        ys, xs = np.nonzero(inner)
        if len(ys) < 50:
            return None
        result = clean(truth, original, mask, rng)
        y, x = np.mgrid[: truth.shape[0], : truth.shape[1]]
        for at in rng.integers(0, len(ys), count):
            spot = np.hypot(x - xs[at], y - ys[at]) <= radius
            result[spot] = original[spot]
        return result

    return made


def shadowed(strength: float) -> Flaw:
    """The thing's shadow on the ground beside it stays. Gives the original too: there the shadow
    belongs to the thing.
    """

    def made(truth, original, mask, rng):
        ys, xs = np.nonzero(mask)
        size = max(np.ptp(xs), np.ptp(ys))
        angle, length = rng.uniform(0, 6.3), rng.uniform(0.5, 0.9) * size
        cast = np.zeros(mask.shape, np.uint8)
        for t in np.linspace(0, 1, 24):
            move = np.array(
                [[1, 0, t * length * np.cos(angle)], [0, 1, t * length * np.sin(angle)]], np.float32
            )
            cast |= cv2.warpAffine(mask.astype(np.uint8), move, mask.shape[::-1])
        soft = cv2.GaussianBlur(cast.astype(np.float32), (0, 0), rng.uniform(1.5, 5))[..., None]
        # Light is taken away in linear light, alike in all colours.
        darker = lambda picture: np.clip(
            255 * (((picture / 255.0) ** 2.2) * (1 - strength * soft)) ** (1 / 2.2), 0, 255
        )
        thing = np.abs(original.astype(int) - truth).max(2, keepdims=True) > 12
        before = np.where(thing, original, darker(truth)).round().astype(np.uint8)
        result = darker(truth)
        # Inside the region the fill is lit: only what lies outside the outline was left standing.
        lit = cv2.GaussianBlur(mask.astype(np.float32), (0, 0), 1.5)[..., None]
        return before, np.clip(truth * lit + result * (1 - lit), 0, 255).round().astype(np.uint8)

    return made


def inserted(size: float) -> Flaw:
    """Something from another photograph grew inside the fill."""

    def made(truth, original, mask, rng):
        inner = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
        radius = size * float(inner.max())
        if radius < 9:
            return None
        y0, x0 = np.unravel_index(int(np.argmax(inner)), inner.shape)
        other = OTHERS[int(rng.integers(len(OTHERS)))]()
        y, x = np.mgrid[: truth.shape[0], : truth.shape[1]]
        amount = cv2.GaussianBlur(
            (np.hypot(x - x0, y - y0) <= radius).astype(np.float32), (0, 0), 1.5
        )[..., None]
        top, left = (
            int(rng.integers(0, max(1, other.shape[k] - 2 * int(radius) - 2))) for k in (0, 1)
        )
        patch = cv2.resize(
            other[top : top + 2 * int(radius), left : left + 2 * int(radius)],
            (2 * int(radius) + 1,) * 2,
        ).astype(np.float32)
        fill = truth.astype(np.float32).copy()
        r = int(radius)
        ya, yb, xa, xb = (
            max(0, y0 - r),
            min(truth.shape[0], y0 + r + 1),
            max(0, x0 - r),
            min(truth.shape[1], x0 + r + 1),
        )
        fill[ya:yb, xa:xb] = patch[ya - y0 + r : yb - y0 + r, xa - x0 + r : xb - x0 + r]
        return _paste(
            truth, truth * (1 - amount) + fill * amount + rng.normal(0, OWN, truth.shape), mask, 0
        )

    return made


def _shipped(name: str):
    def load():
        picture = cv2.imread(str(Path(skimage.__file__).parent / "data" / name), cv2.IMREAD_COLOR)
        assert picture is not None
        return picture[..., ::-1]

    return load


#: Where inserted things come from; none of them is a picture that is judged.
OTHERS = (_shipped("ihc.png"), _shipped("hubble_deep_field.jpg"), _shipped("color.png"))


def _away(mask, rng, size):
    """A soft disc outside the region."""
    far = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 5)
    far[:size], far[-size:], far[:, :size], far[:, -size:] = 0, 0, 0, 0
    ys, xs = np.nonzero(far > size + 24)
    if not len(ys):
        return None
    at = rng.integers(len(ys))
    y, x = np.mgrid[: mask.shape[0], : mask.shape[1]]
    return np.clip((size - np.hypot(x - xs[at], y - ys[at])) / (0.3 * size), 0, 1)[..., None]


def spread_out(levels: float) -> Flaw:
    """A patch outside every region became lighter or darker."""

    def made(truth, original, mask, rng):
        amount = _away(mask, rng, 40)
        return (
            None
            if amount is None
            else np.clip(
                clean(truth, original, mask, rng) + rng.choice([-1, 1]) * levels * amount, 0, 255
            )
            .round()
            .astype(np.uint8)
        )

    return made


def washed_outside(truth, original, mask, rng):
    """A neighbour's detail was lost."""
    amount = _away(mask, rng, 30)
    if amount is None:
        return None
    result = clean(truth, original, mask, rng)
    return (
        np.clip(result * (1 - amount) + cv2.GaussianBlur(truth, (0, 0), 2.5) * amount, 0, 255)
        .round()
        .astype(np.uint8)
    )


def graded(truth, original, mask, rng):
    """Not a flaw: the whole picture in another grading."""
    levels = np.arange(256) / 255.0
    curves = [
        255
        * np.clip(
            levels ** rng.uniform(0.85, 1.18) * rng.uniform(0.94, 1.0) + rng.uniform(0, 0.03), 0, 1
        )
        for _ in range(3)
    ]
    result = clean(truth, original, mask, rng)
    return (
        np.stack([curve[result[..., c]] for c, curve in enumerate(curves)], -1)
        .round()
        .astype(np.uint8)
    )


def untouched(truth, original, mask, rng):
    return original


def shallow(truth, mask, rng):
    """Shallow focus: sharp along one line, softer and softer away from it, with the sensor's grain
    over all.
    """
    y, x = np.mgrid[: truth.shape[0], : truth.shape[1]]
    ys, xs = np.nonzero(mask)
    angle = rng.uniform(0, np.pi)
    size = float(max(np.ptp(xs), np.ptp(ys)))
    away = (
        np.abs(
            (x - xs.mean()) * np.cos(angle)
            + (y - ys.mean()) * np.sin(angle)
            - rng.uniform(0.4, 1.0) * size
        )
        / size
    )
    out, last = truth.astype(np.float32), 0.0
    for sigma in (0.7, 1.4, 2.8, 5.0):
        part = np.clip((away * 3.0 - last) / max(sigma - last, 0.1), 0, 1)[..., None]
        out, last = out * (1 - part) + cv2.GaussianBlur(truth, (0, 0), sigma) * part, sigma
    grain = cv2.GaussianBlur(rng.normal(0, 1, truth.shape).astype(np.float32), (0, 0), 0.55)
    return np.clip(out + 1.3 * grain / grain.std(), 0, 255).round().astype(np.uint8)


def ending(truth, mask, rng):
    """Bars that come from one side and end just at the region, as a plank's end or a curb does: the
    truth has them so.
    """
    y, x = np.mgrid[: truth.shape[0], : truth.shape[1]]
    ys, xs = np.nonzero(mask)
    angle = rng.uniform(0, 2 * np.pi)
    out = truth.astype(np.float32)
    near = cv2.GaussianBlur(
        cv2.dilate(mask.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(np.float32), (0, 0), 0.7
    )
    for _ in range(int(rng.integers(1, 4))):
        at = rng.integers(len(ys))
        across = (x - xs[at]) * np.sin(angle) - (y - ys[at]) * np.cos(angle)
        along = (x - xs[at]) * np.cos(angle) + (y - ys[at]) * np.sin(angle)
        width, levels = rng.uniform(4, 14), rng.choice([-1, 1]) * rng.uniform(18, 45)
        bar = (
            0.5
            * (np.tanh((across + width) / 0.9) - np.tanh((across - width) / 0.9))
            * (along < 0)
            * (1 - near)
        )
        out += (levels * bar)[..., None]
    return np.clip(out, 0, 255).round().astype(np.uint8)


#: Grounds on which a true fill is easily taken for a flawed one.
HARD: dict[str, Callable[[np.ndarray, np.ndarray, np.random.Generator], np.ndarray]] = {
    "shallow": shallow,
    "ending": ending,
}


def area_of(
    kind: str, original: np.ndarray, result: np.ndarray, truth: np.ndarray, mask: np.ndarray
) -> np.ndarray:
    """Where a flaw is, bool, from what the result departs from the truth by: how well findings are
    placed is measured against it.
    """
    apart = np.abs(result.astype(np.float32) - truth).max(axis=2)
    if kind in ("seam", "halo"):
        rim = cv2.morphologyEx(
            mask.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((9, 9), np.uint8)
        ).astype(bool)
        return rim
    if kind == "residue":
        kept = (
            (np.abs(result.astype(int) - original).max(axis=2) == 0)
            & (np.abs(truth.astype(int) - original).max(axis=2) > 8)
            & mask
        )
        return kept if kept.any() else mask
    broad = cv2.GaussianBlur(apart, (0, 0), 3.0)
    return (
        broad > max(1.2, 0.25 * float(np.percentile(broad[mask], 95)))
        if kind != "overreach"
        else (broad > 0.6) & ~mask
    )


#: name: (kind, strength, maker). Strengths: faint shows only at 200 %, clear at 100 %, glaring when
#: the picture is fitted.
FLAWS: dict[str, tuple[str, str, Flaw]] = {
    "copy": ("repeat", "clear", copy_plain),
    "mirrored copy": ("repeat", "clear", copy_mirrored),
    "blended copy": ("repeat", "clear", copy_blended),
    "copy turned 4": ("repeat", "clear", copy_turned(4, 1.0)),
    "copy turned 90": ("repeat", "clear", copy_turned(90, 1.0)),
    "copy x 1.06": ("repeat", "clear", copy_turned(0, 1.06)),
    "copy x .8, 10": ("repeat", "clear", copy_turned(10, 0.8)),
    "step 4": ("seam", "faint", step(4)),
    "step 8": ("seam", "clear", step(8)),
    "step 20": ("seam", "glaring", step(20)),
    "cut content": ("seam", "glaring", cut),
    "fringe .08": ("halo", "faint", fringe(0.08)),
    "fringe .15": ("halo", "clear", fringe(0.15)),
    "fringe .4": ("halo", "glaring", fringe(0.4)),
    "glow 8": ("halo", "clear", glow(8)),
    "blur 1.0": ("smear", "faint", blurred(1.0)),
    "blur 2.5": ("smear", "clear", blurred(2.5)),
    "blur 2.5, 1/4": ("smear", "clear", blurred(2.5, 0.25)),
    "blur 2.5, 1/8": ("smear", "clear", blurred(2.5, 0.125)),
    "streaks": ("smear", "glaring", streaked),
    "diffusion": ("smear", "glaring", diffused),
    "untouched": ("untouched", "glaring", untouched),
    "tone 6": ("tone", "faint", tinted(6)),
    "tone 12": ("tone", "clear", tinted(12)),
    "tone 25": ("tone", "glaring", tinted(25)),
    "cast 5": ("tone", "clear", tinted(5, True)),
    "cast 10": ("tone", "glaring", tinted(10, True)),
    "grain x 0": ("grain", "clear", grained(0.0)),
    "grain x .5": ("grain", "faint", grained(0.5)),
    "grain x 1.5": ("grain", "faint", grained(1.5)),
    "grain x 2.5": ("grain", "clear", grained(2.5)),
    "soft .5": ("soft", "faint", softened(0.5)),
    "soft .8": ("soft", "clear", softened(0.8)),
    "enlarged 2": ("soft", "glaring", enlarged(2)),
    "too sharp": ("soft", "clear", sharpened),
    "ghost .06": ("residue", "faint", ghost(0.06)),
    "ghost .12": ("residue", "clear", ghost(0.12)),
    "sliver 3 %": ("residue", "clear", sliver(0.03)),
    "sliver, edge": ("residue", "clear", sliver(0.06, True)),
    "dots r 2": ("residue", "faint", dots(2)),
    "dots r 3": ("residue", "clear", dots(3)),
    "shadow .4": ("shadow", "clear", shadowed(0.4)),
    "shadow .6": ("shadow", "glaring", shadowed(0.6)),
    "insert, half": ("invented", "clear", inserted(0.5)),
    "insert, whole": ("invented", "glaring", inserted(0.9)),
    "outside 2": ("overreach", "faint", spread_out(2)),
    "outside 4": ("overreach", "clear", spread_out(4)),
    "outside, washed": ("overreach", "clear", washed_outside),
    "grading": ("", "", graded),
}
#: Kinds that are as right as the flaw's own: what was cut in does lie elsewhere in the picture, and
#: a copy is the cause of the cut.
ALSO: dict[str, tuple[str, ...]] = {"cut content": ("repeat",)}
#: The same on a ground through which straight edges run; measured against clean results of that
#: ground.
LINED: dict[str, tuple[str, str, Flaw]] = {
    "offset 2": ("line", "faint", moved(2)),
    "offset 3": ("line", "clear", moved(3)),
    "offset 6": ("line", "glaring", moved(6)),
    "kink 4": ("line", "clear", turned(4)),
    "kink 8": ("line", "glaring", turned(8)),
    "line ends": ("line", "glaring", ended),
    "tilt 2": ("line", "faint", turned(2)),
    "wave 2": ("line", "faint", waving(2)),
    "wave 4": ("line", "clear", waving(4)),
}
#: The same on boards that run to a vanishing point.
COURSED: dict[str, tuple[str, str, Flaw]] = {
    "courses off 3": ("line", "clear", turned(3)),
    "courses off 6": ("line", "glaring", turned(6)),
    "courses wave 4": ("line", "clear", waving(4)),
}
