"""A third hand's flaws: other mathematics than `benchmarks/flaws.py` and `benchmarks/unforeseen.py`
use, written before any statistic was looked at on them.

Each maker takes a strength, 0 (shows only enlarged) to 1 (shows at a glance), and gives a function
(truth, original, mask, rng) -> result, all uint8 (height, width, 3), mask bool (height, width); or
(original, result) where the flaw needs another original; or None where the place has no room for it.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

#: Noise that every fill gets of its own, levels.
OWN = 0.4
Made = np.ndarray | tuple[np.ndarray, np.ndarray] | None
Flaw = Callable[[np.ndarray, np.ndarray, np.ndarray, np.random.Generator], Made]


def between(low: float, high: float, strength: float) -> float:
    """From low at strength 0 to high at 1, by equal ratios."""
    return float(low * (high / low) ** strength)


def depth_of(mask: np.ndarray) -> np.ndarray:
    """How far inside each pixel lies, float32 pixels; 0 outside."""
    return np.asarray(cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5))


def pasted(
    truth: np.ndarray,
    fill: np.ndarray,
    mask: np.ndarray,
    rng: np.random.Generator,
    ramp: float = 0.0,
    noise: float = OWN,
) -> np.ndarray:
    """A fill in the mask: its edge is mixed over `ramp` pixels by a cosine, inside."""
    weight = mask.astype(np.float32)
    if ramp:
        weight = 0.5 - 0.5 * np.cos(np.pi * np.clip(depth_of(mask) / ramp, 0, 1))
    own = fill + rng.normal(0, noise, truth.shape) if noise else fill
    mixed = truth + (own - truth) * weight[..., None]
    return np.clip(mixed, 0, 255).round().astype(np.uint8)


def field(shape: tuple[int, int], scale: float, rng: np.random.Generator) -> np.ndarray:
    """A smooth random field of unit deviation whose features are about `scale` pixels wide; by
    sums of plane waves.
    """
    y, x = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    total = np.zeros(shape, np.float32)
    for _ in range(24):
        angle, phase = rng.uniform(0, 2 * np.pi), rng.uniform(0, 2 * np.pi)
        waves = 2 * np.pi / (scale * rng.uniform(1.5, 4.0))
        total += np.cos(waves * (x * np.cos(angle) + y * np.sin(angle)) + phase).astype(np.float32)
    return total / max(float(total.std()), 1e-6)


def elsewhere(
    mask: np.ndarray, rng: np.random.Generator, least: float = 1.1, most: float = 2.5
) -> tuple[int, int] | None:
    """(dx, dy) to a place of the same outline that lies whole in the picture and off the mask,
    within so many of its own widths; None where there is none.
    """
    ys, xs = np.nonzero(mask)
    size = max(np.ptp(xs), np.ptp(ys)) + 1
    height, width = mask.shape
    for _ in range(200):
        far, angle = rng.uniform(least, most) * size, rng.uniform(0, 2 * np.pi)
        dx, dy = round(far * np.cos(angle)), round(far * np.sin(angle))
        if xs.min() + dx < 0 or xs.max() + dx >= width or ys.min() + dy < 0:
            continue
        if ys.max() + dy < height and not mask[ys + dy, xs + dx].any():
            return int(dx), int(dy)
    return None


def moved_by(truth: np.ndarray, dx: int, dy: int) -> np.ndarray:
    """What lies (dx, dy) away, brought here."""
    return np.roll(truth, (-dy, -dx), (0, 1))


# Repeat ------------------------------------------------------------------------------------------


def gradient_copy(strength: float) -> Flaw:
    """A copy blended by its gradients (Perez, Gangnet and Blake 2003): no step, no tone. The weaker,
    the more of the fill is the truth after all.
    """

    def made(truth, original, mask, rng):
        there = elsewhere(mask, rng)
        if there is None:
            return None
        part = mask & (depth_of(mask) > (1 - strength) * 0.5 * depth_of(mask).max())
        ys, xs = np.nonzero(part)
        if len(ys) < 400 or min(xs.min(), ys.min()) < 2:
            return None
        if xs.max() > truth.shape[1] - 3 or ys.max() > truth.shape[0] - 3:
            return None
        source = np.ascontiguousarray(moved_by(truth, *there))
        centre = (int(xs.min() + xs.max() + 1) // 2, int(ys.min() + ys.max() + 1) // 2)
        cut = (slice(ys.min(), ys.max() + 1), slice(xs.min(), xs.max() + 1))
        shape = np.pad(part[cut].astype(np.uint8) * 255, 1)
        patch = np.pad(source[cut], ((1, 1), (1, 1), (0, 0)), mode="edge")
        mixed = cv2.seamlessClone(patch, truth.copy(), shape, centre, cv2.NORMAL_CLONE)
        return pasted(truth, mixed.astype(np.float32), part, rng, noise=0)

    return made


def quilted(strength: float) -> Flaw:
    """One square of the surroundings laid side by side, its edges mixed: texture of one patch. The
    weaker, the more of the fill is the truth after all.
    """

    def made(truth, original, mask, rng):
        ys, xs = np.nonzero(mask)
        side = int(max(20, 0.4 * max(np.ptp(xs), np.ptp(ys))))
        square = np.zeros_like(mask)
        square[ys.min() : ys.min() + side, xs.min() : xs.min() + side] = True
        there = elsewhere(square | mask, rng, 0.8)
        if there is None:
            return None
        y0, x0 = max(0, ys.min() + there[1]), max(0, xs.min() + there[0])
        tile = truth[y0 : y0 + side, x0 : x0 + side].astype(np.float32)
        if tile.shape[0] < 16 or tile.shape[1] < 16:
            return None
        lap = max(3, side // 8)
        fill = np.zeros(truth.shape, np.float32)
        weight = np.zeros(truth.shape[:2], np.float32)
        bell = np.minimum(np.arange(tile.shape[0]) + 1, lap)[:, None] / lap
        bell = bell * bell[::-1]
        across = np.minimum(np.arange(tile.shape[1]) + 1, lap)[None] / lap
        bell = (bell * across * across[:, ::-1]).astype(np.float32)
        for top in range(ys.min() - lap, ys.max() + 1, tile.shape[0] - lap):
            for left in range(xs.min() - lap, xs.max() + 1, tile.shape[1] - lap):
                t, f = max(top, 0), max(left, 0)
                b = min(top + tile.shape[0], truth.shape[0])
                r = min(left + tile.shape[1], truth.shape[1])
                if b <= t or r <= f:
                    continue
                own = (slice(t - top, b - top), slice(f - left, r - left))
                fill[t:b, f:r] += tile[own] * bell[own][..., None]
                weight[t:b, f:r] += bell[own]
        fill = np.where(weight[..., None] > 0, fill / np.maximum(weight, 1e-3)[..., None], truth)
        part = mask & (depth_of(mask) > (1 - strength) * 0.5 * depth_of(mask).max())
        return pasted(truth, fill, part, rng, 3, noise=0)

    return made


# Seam --------------------------------------------------------------------------------------------


def gamma(strength: float) -> Flaw:
    """The fill has another gamma: dark and light differ by other amounts, and it ends at once."""

    def made(truth, original, mask, rng):
        power = between(1.05, 1.4, strength) ** rng.choice([-1, 1])
        return pasted(truth, 255 * (truth / 255.0) ** power, mask, rng)

    return made


def unmatched(strength: float) -> Flaw:
    """Ground from elsewhere in the fill's outer parts, as bright on average, cut hard."""

    def made(truth, original, mask, rng):
        there = elsewhere(mask, rng)
        if there is None:
            return None
        source = moved_by(truth, *there).astype(np.float32)
        shift = (truth[mask].mean(axis=0) - source[mask].mean(axis=0)) * (1 - 0.2 * strength)
        deep = np.clip(1 - depth_of(mask) / (between(0.3, 1.2, strength) * 20), 0, 1)[..., None]
        return pasted(truth, truth + (source + shift - truth) * deep, mask, rng)

    return made


# Halo --------------------------------------------------------------------------------------------


def overshoot(strength: float) -> Flaw:
    """A ring from sharpening across the join: light outside, dark inside, as an unsharp mask makes
    of a step.
    """

    def made(truth, original, mask, rng):
        wide = rng.uniform(1.5, 4)
        share = cv2.GaussianBlur(mask.astype(np.float32), (0, 0), wide)
        ring = (mask - share) * 2 * between(5, 40, strength) * rng.choice([-1, 1])
        inside = cv2.dilate(mask.astype(np.uint8), np.ones((3, 3))) > 0
        return pasted(truth, truth + ring[..., None], inside, rng)

    return made


def feathered_thing(strength: float) -> Flaw:
    """The outline was feathered inward: the thing's own rim shows through along a part of it."""

    def made(truth, original, mask, rng):
        thing = np.abs(original.astype(int) - truth).max(2) > 12
        rim = cv2.dilate(thing.astype(np.uint8), np.ones((3, 3))).astype(np.float32)
        rim -= cv2.erode(thing.astype(np.uint8), np.ones((5, 5)))
        part = field(mask.shape, 60, rng) > (0.6 - 1.2 * strength)
        weight = cv2.GaussianBlur(rim * part, (0, 0), 1.0) * between(0.15, 0.7, strength)
        fill = truth + (original.astype(np.float32) - truth) * np.clip(weight, 0, 1)[..., None]
        return pasted(truth, fill, mask, rng)

    return made


# Smear -------------------------------------------------------------------------------------------


def edge_kept(strength: float) -> Flaw:
    """Smoothed with its edges kept (Tomasi and Manduchi 1998): texture goes, outlines stay."""

    def made(truth, original, mask, rng):
        times = 1 + round(3 * strength)
        fill = truth.copy()
        for _ in range(times):
            fill = cv2.bilateralFilter(fill, 0, between(18, 60, strength), 4 + 3 * strength)
        return pasted(truth, fill.astype(np.float32), mask, rng, 2)

    return made


def marched(strength: float) -> Flaw:
    """Filled inward from the rim (Telea 2004); the weaker, the smaller the part."""

    def made(truth, original, mask, rng):
        deep = depth_of(mask)
        part = mask & (deep > (1 - between(0.35, 1.0, strength)) * deep.max())
        x, y, w, h = cv2.boundingRect(mask.astype(np.uint8))
        near = (slice(max(0, y - 12), y + h + 12), slice(max(0, x - 12), x + w + 12))
        fill = truth.copy()
        holes = np.ascontiguousarray(part[near].astype(np.uint8))
        fill[near] = cv2.inpaint(np.ascontiguousarray(truth[near]), holes, 4, cv2.INPAINT_TELEA)
        return pasted(truth, fill.astype(np.float32), mask, rng)

    return made


# Line --------------------------------------------------------------------------------------------


def displaced(
    push: Callable[[float, np.ndarray, np.ndarray, np.ndarray], np.ndarray],
) -> Callable[[float], Flaw]:
    """The strongest edge that crosses the region, moved by `push(strength, along, across,
    depth)`: pixels across it, of each pixel's place along and across the edge, and how deep it lies
    inside; all float32 (height, width).
    """

    def maker(strength: float) -> Flaw:
        def made(truth, original, mask, rng):
            found = strongest_edge(truth, mask)
            if found is None:
                return None
            (x0, y0), way = found
            y, x = np.mgrid[: mask.shape[0], : mask.shape[1]].astype(np.float32)
            along = (x - x0) * way[0] + (y - y0) * way[1]
            across = -(x - x0) * way[1] + (y - y0) * way[0]
            reach = max(float(np.abs(along[mask]).max()), 8.0)
            shift = push(strength, along / reach, across, depth_of(mask)) * rng.choice([-1, 1])
            shift = shift.astype(np.float32)
            fill = cv2.remap(
                truth.astype(np.float32),
                (x + shift * way[1]).astype(np.float32),
                (y - shift * way[0]).astype(np.float32),
                cv2.INTER_CUBIC,
                borderMode=cv2.BORDER_REPLICATE,
            )
            return pasted(truth, fill, mask, rng)

        return made

    return maker


def _stepped(strength, along, across, depth):
    band = np.exp(-((across / 14) ** 2)) * np.clip((0.8 - np.abs(along)) * 10, 0, 1)
    return between(2.0, 9.0, strength) * band * np.clip(depth / 4, 0, 1)


def _bowed(strength, along, across, depth):
    bow = np.cos(np.clip(along, -1, 1) * np.pi / 2) * np.exp(-((across / 18) ** 2))
    return between(2.5, 11.0, strength) * bow * np.clip(depth / 5, 0, 1)


def shelf(strength: float) -> Flaw:
    """One edge steps off its line in a fill that is otherwise right, and back again."""
    return displaced(_stepped)(strength)


def bent(strength: float) -> Flaw:
    """The same edge bends to one side and back, as a bow."""
    return displaced(_bowed)(strength)


def strongest_edge(
    truth: np.ndarray, mask: np.ndarray
) -> tuple[tuple[float, float], np.ndarray] | None:
    """A point in the mask on the longest straight edge that crosses it and the edge's direction,
    (2,); None where none is as long as half the region.
    """
    grey = cv2.cvtColor(truth, cv2.COLOR_RGB2GRAY)
    segments = cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD).detect(grey)[0]
    if segments is None:
        return None
    size = float(np.sqrt(mask.sum()))
    best: tuple[float, tuple[float, float], np.ndarray] | None = None
    for xa, ya, xb, yb in segments.reshape(-1, 4):
        length = float(np.hypot(xb - xa, yb - ya))
        if length < 0.5 * size:
            continue
        part = np.linspace(0, 1, 40)
        xs = np.clip((xa + part * (xb - xa)).round().astype(int), 0, mask.shape[1] - 1)
        ys = np.clip((ya + part * (yb - ya)).round().astype(int), 0, mask.shape[0] - 1)
        inside = mask[ys, xs]
        crossed = float(inside.mean()) * length
        if crossed < 0.35 * size or (best is not None and crossed <= best[0]):
            continue
        middle = part[inside].mean()
        at = (float(xa + middle * (xb - xa)), float(ya + middle * (yb - ya)))
        best = (crossed, at, np.array([xb - xa, yb - ya]) / length)
    return None if best is None else best[1:]


# Residue -----------------------------------------------------------------------------------------


def corner_kept(strength: float) -> Flaw:
    """A piece of the thing at its rim was missed, as a brush misses it: a round bite."""

    def made(truth, original, mask, rng):
        thing = np.abs(original.astype(int) - truth).max(2) > 12
        edge = thing & ~cv2.erode(thing.astype(np.uint8), np.ones((5, 5))).astype(bool)
        if not edge.any():
            return None
        ys, xs = np.nonzero(edge)
        at = int(rng.integers(len(ys)))
        radius = between(0.06, 0.28, strength) * np.sqrt(thing.sum())
        y, x = np.mgrid[: mask.shape[0], : mask.shape[1]]
        bite = cv2.GaussianBlur(
            (np.hypot(x - xs[at], y - ys[at]) < radius).astype(np.float32), (0, 0), 1.2
        )[..., None]
        return pasted(truth, truth + (original.astype(np.float32) - truth) * bite, mask, rng)

    return made


def detail_kept(strength: float) -> Flaw:
    """The thing's fine detail and edges stay in the right colours, as from a fill of low
    frequencies only.
    """

    def made(truth, original, mask, rng):
        high = original.astype(np.float32) - cv2.GaussianBlur(
            original.astype(np.float32), (0, 0), 5.0
        )
        own = truth - cv2.GaussianBlur(truth.astype(np.float32), (0, 0), 5.0)
        return pasted(truth, truth + (high - own) * between(0.1, 0.6, strength), mask, rng, 4)

    return made


# Shadow ------------------------------------------------------------------------------------------


def _darkened(picture: np.ndarray, taken: np.ndarray, tint: np.ndarray) -> np.ndarray:
    """Less light, in linear light; the sky's blue is left in it."""
    linear = (picture / 255.0) ** 2.2 * (1 - taken[..., None] * tint)
    return np.clip(255 * linear ** (1 / 2.2), 0, 255)


def _left_standing(truth, original, mask, taken, tint):
    """(original, result): the shadow stands in both outside the outline, the fill is lit."""
    thing = np.abs(original.astype(int) - truth).max(2, keepdims=True) > 12
    dark = _darkened(truth, taken, tint)
    before = np.where(thing, original, dark).round().astype(np.uint8)
    lit = cv2.GaussianBlur(mask.astype(np.float32), (0, 0), 1.0)[..., None]
    return before, np.clip(truth * lit + dark * (1 - lit), 0, 255).round().astype(np.uint8)


def contact_shadow(strength: float) -> Flaw:
    """Light is taken below the thing, falling off with distance from its foot."""

    def made(truth, original, mask, rng):
        ys, xs = np.nonzero(mask)
        foot = np.zeros(mask.shape, np.uint8)
        low = ys > ys.max() - 0.25 * (np.ptp(ys) + 1)
        foot[ys[low], xs[low]] = 1
        away = cv2.distanceTransform(1 - foot, cv2.DIST_L2, 5)
        fall = 0.18 * np.sqrt(mask.sum())
        below = np.clip(
            (np.mgrid[: mask.shape[0], : mask.shape[1]][0] - ys.max() + fall) / fall, 0, 1
        )
        taken = between(0.2, 0.75, strength) * np.exp(-away / fall) * below
        outside = taken * ~mask
        if float((outside > 0.08).sum()) < 0.05 * mask.sum():
            return None
        return _left_standing(truth, original, mask, taken, np.array([1.0, 0.97, 0.92]))

    return made


def cast_shadow(strength: float) -> Flaw:
    """A slanted shape cast onto the ground, sharp near the thing and softer farther off."""

    def made(truth, original, mask, rng):
        ys, xs = np.nonzero(mask)
        size = max(np.ptp(xs), np.ptp(ys)) + 1
        lean = rng.uniform(0.5, 1.1) * rng.choice([-1, 1])
        foot = float(ys.max())
        # Heights above the foot lie aside and a little behind it.
        matrix = np.array([[1, -lean, lean * foot], [0, -0.35, 1.35 * foot]], np.float32)
        cast = cv2.warpAffine(mask.astype(np.float32), matrix, mask.shape[::-1])
        soft = cv2.GaussianBlur(cast, (0, 0), 0.06 * size)
        sharp = cv2.GaussianBlur(cast, (0, 0), 1.5)
        far = np.clip(np.abs(np.mgrid[: mask.shape[0], : mask.shape[1]][0] - foot) / size, 0, 1)
        shape = sharp * (1 - far) + soft * far
        if float(((shape > 0.5) & ~mask).sum()) < 0.08 * mask.sum():
            return None
        taken = between(0.15, 0.65, strength) * shape
        return _left_standing(truth, original, mask, taken, np.array([1.0, 0.96, 0.9]))

    return made


# Tone --------------------------------------------------------------------------------------------


def cloudy(strength: float) -> Flaw:
    """Light that wanders over the fill, and is right at its rim."""

    def made(truth, original, mask, rng):
        size = np.sqrt(mask.sum())
        gain = field(mask.shape, 0.8 * size, rng) * between(0.03, 0.22, strength)
        fade = np.clip(depth_of(mask) / (0.12 * size + 2), 0, 1)
        fill = 255 * ((truth / 255.0) ** 2.2 * np.exp(gain * fade)[..., None]) ** (1 / 2.2)
        return pasted(truth, fill, mask, rng)

    return made


def hue_off(strength: float) -> Flaw:
    """Colours turned a little about grey, in all of the fill or a part, softly."""

    def made(truth, original, mask, rng):
        lab = cv2.cvtColor(truth.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
        angle = rng.uniform(0, 2 * np.pi)
        by = between(2.5, 14, strength)
        part = np.clip(0.6 + 0.6 * field(mask.shape, np.sqrt(mask.sum()), rng), 0, 1)
        lab[..., 1] += by * np.cos(angle) * part
        lab[..., 2] += by * np.sin(angle) * part
        fill = 255 * cv2.cvtColor(lab, cv2.COLOR_LAB2RGB)
        return pasted(truth, fill, mask, rng, 0.1 * float(np.sqrt(mask.sum())))

    return made


# Grain -------------------------------------------------------------------------------------------


def thresholded(strength: float) -> Flaw:
    """Small wavelet coefficients are shrunk (Donoho 1995, by differences of Gaussians): grain goes,
    edges stay.
    """

    def made(truth, original, mask, rng):
        plane = truth.astype(np.float32)
        left, cut = np.zeros_like(plane), between(1.2, 6.0, strength)
        for sigma in (0.7, 1.4, 2.8):
            coarse = cv2.GaussianBlur(plane, (0, 0), sigma)
            fine = plane - coarse
            left += np.sign(fine) * np.maximum(np.abs(fine) - cut, 0)
            plane, cut = coarse, cut / 2
        return pasted(truth, plane + left, mask, rng, 2, noise=0.2)

    return made


def counted(strength: float) -> Flaw:
    """Grain as counted light makes it: more in the light, each colour its own."""

    def made(truth, original, mask, rng):
        sigma = between(2.5, 9.0, strength) * np.sqrt((truth + 12.0) / 140.0)
        grain = rng.normal(0, 1, truth.shape)
        grain = cv2.GaussianBlur(grain, (0, 0), 0.5)
        return pasted(truth, truth + grain / grain.std() * sigma, mask, rng, 2)

    return made


# Soft --------------------------------------------------------------------------------------------


def resampled(strength: float) -> Flaw:
    """Made at a smaller size and enlarged by Lanczos' kernel; its grain was given again."""

    def made(truth, original, mask, rng):
        part = between(1.35, 3.0, strength)
        size = (max(8, int(truth.shape[1] / part)), max(8, int(truth.shape[0] / part)))
        small = cv2.resize(truth.astype(np.float32), size, interpolation=cv2.INTER_AREA)
        fill = cv2.resize(small, truth.shape[1::-1], interpolation=cv2.INTER_LANCZOS4)
        fine = truth - cv2.GaussianBlur(truth.astype(np.float32), (0, 0), 0.8)
        grain = float(np.median(np.abs(fine))) * 1.48
        return pasted(truth, fill, mask, rng, 2, noise=0.8 * grain)

    return made


def shaken(strength: float) -> Flaw:
    """Moved while it was exposed: soft one way, sharp the other."""

    def made(truth, original, mask, rng):
        length = between(2.0, 7.0, strength)
        angle = rng.uniform(0, np.pi)
        size = int(2 * np.ceil(length) + 1)
        y, x = np.mgrid[:size, :size] - size // 2
        along, aside = (
            x * np.cos(angle) + y * np.sin(angle),
            -x * np.sin(angle) + y * np.cos(angle),
        )
        kernel = np.clip(length / 2 + 0.5 - np.abs(along), 0, 1) * np.clip(1 - np.abs(aside), 0, 1)
        fill = cv2.filter2D(truth.astype(np.float32), -1, kernel / kernel.sum())
        return pasted(truth, fill, mask, rng, 2)

    return made


# Invented ----------------------------------------------------------------------------------------


def common_thing(strength: float) -> Flaw:
    """Ground that is common in the picture where it does not belong, in an outline of its own,
    blended at its rim.
    """

    def made(truth, original, mask, rng):
        deep = depth_of(mask)
        radius = between(0.35, 0.8, strength) * float(deep.max())
        if radius < 8:
            return None
        y0, x0 = np.unravel_index(int(deep.argmax()), deep.shape)
        y, x = np.mgrid[: mask.shape[0], : mask.shape[1]]
        turn = np.arctan2(y - y0, x - x0)
        rim = radius * (1 + 0.25 * np.cos(3 * turn + rng.uniform(0, 6)))
        inner = np.hypot(x - x0, y - y0) < rim
        here = cv2.cvtColor(truth, cv2.COLOR_RGB2LAB).astype(np.float32)
        best = None
        for _ in range(12):
            there = elsewhere(mask, rng, 1.2, 6.0)
            if there is None:
                return None
            apart = np.linalg.norm(
                moved_by(here, *there)[inner].mean(axis=0) - here[inner].mean(axis=0)
            )
            if best is None or apart > best[0]:
                best = (apart, there)
        if best is None or best[0] < 12:
            return None
        weight = cv2.GaussianBlur(inner.astype(np.float32), (0, 0), 1.5)[..., None]
        fill = truth + (moved_by(truth, *best[1]).astype(np.float32) - truth) * weight
        return pasted(truth, fill, mask, rng)

    return made


def creature(strength: float) -> Flaw:
    """A shaded body with a pattern of its own, as a model dreams one up; lit from one side."""

    def made(truth, original, mask, rng):
        deep = depth_of(mask)
        radius = between(0.3, 0.75, strength) * float(deep.max())
        if radius < 8:
            return None
        y0, x0 = np.unravel_index(int(deep.argmax()), deep.shape)
        y, x = np.mgrid[: mask.shape[0], : mask.shape[1]].astype(np.float32)
        u, v = (x - x0) / radius, (y - y0) / (radius * rng.uniform(0.6, 1.0))
        height = np.sqrt(np.clip(1 - u * u - v * v, 0, 1))
        light = np.clip(0.35 + 0.65 * (0.5 * u - 0.4 * v + 0.77 * height), 0.15, 1)
        base = truth[mask].mean(axis=0) + rng.normal(0, 45, 3)
        pattern = 1 + 0.25 * field(mask.shape, radius / 2.5, rng)[..., None]
        body = np.clip(base, 25, 230) * light[..., None] * pattern
        weight = np.clip((height - 0.05) * radius / 3, 0, 1)[..., None]
        return pasted(truth, truth + (body - truth) * weight, mask, rng)

    return made


# Overreach ---------------------------------------------------------------------------------------


def resharpened(strength: float) -> Flaw:
    """A place far from the region came out sharper."""

    def made(truth, original, mask, rng):
        there = elsewhere(mask, rng, 1.3)
        if there is None:
            return None
        place = np.roll(mask, (there[1], there[0]), (0, 1)).astype(np.float32)
        weight = cv2.GaussianBlur(place, (0, 0), 4)[..., None]
        plane = truth.astype(np.float32)
        sharp = plane + between(0.4, 2.0, strength) * (plane - cv2.GaussianBlur(plane, (0, 0), 1.2))
        result = pasted(truth, truth.astype(np.float32), mask, rng)
        return np.clip(result + (sharp - truth) * weight, 0, 255).round().astype(np.uint8)

    return made


def dimmed(strength: float) -> Flaw:
    """Light was taken from a wide place beside the region, fading out."""

    def made(truth, original, mask, rng):
        ys, xs = np.nonzero(mask)
        size = max(np.ptp(xs), np.ptp(ys)) + 1
        angle = rng.uniform(0, 2 * np.pi)
        cy, cx = ys.mean() + 1.2 * size * np.sin(angle), xs.mean() + 1.2 * size * np.cos(angle)
        y, x = np.mgrid[: mask.shape[0], : mask.shape[1]]
        bell = np.exp(-((x - cx) ** 2 + (y - cy) ** 2) / (2 * (0.45 * size) ** 2))
        taken = (between(0.03, 0.25, strength) * bell * ~mask)[..., None]
        result = pasted(truth, truth.astype(np.float32), mask, rng)
        return np.clip(result * (1 - taken), 0, 255).round().astype(np.uint8)

    return made


#: Makers by the kind that a supervisor would call it by.
MAKERS: dict[str, tuple[Callable[[float], Flaw], ...]] = {
    "repeat": (gradient_copy, quilted),
    "seam": (gamma, unmatched),
    "halo": (overshoot, feathered_thing),
    "smear": (edge_kept, marched),
    "line": (shelf, bent),
    "residue": (corner_kept, detail_kept),
    "shadow": (contact_shadow, cast_shadow),
    "tone": (cloudy, hue_off),
    "grain": (thresholded, counted),
    "soft": (resampled, shaken),
    "invented": (common_thing, creature),
    "overreach": (resharpened, dimmed),
}
