"""Smear: texture washed out, or drawn into streaks.

At every place the *smaller* eigenvalue of the structure tensor (Bigun and Granlund 1987) says how much detail there is across the
least busy direction: a blur lowers both eigenvalues, a streak only that one. It is taken at a fine and two middle scales, as a
logarithm, and compared with what the surroundings let one expect at that place, in three ways: their own values, cleared of
brightness (noise follows it) and carried inward by normalised convolution (Knutsson and Westin 1993); the same cleared of coarse
structure too, since where there are clumps there is detail on them; and the least that any place of this picture has, which is its
grain. The shortfall is averaged over small and large patches; the null is the same outline laid over untouched parts of the same result.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..calibrate import excess, natural_range, outline_places, score_of
from ..carriers import Carriers
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..windows import Window

NULL = "outline"
#: Grid on which detail is sampled, and the box it is averaged over, pixels.
STRIDE, BOX = 8, 17
#: Blur before the gradient at each scale, pixels, and what each scale's shortfall weighs: middle bands missing is what tells a smear.
SCALES = (0.6, 1.4, 2.8)
WEIGHTS = (0.2, 0.5, 0.3)
#: Patches whose mean shortfall is judged: side in grid steps; 0 is the whole fill.
PATCHES = (3, 7, 0)
#: How far from an area what is known may be carried in, grid steps.
NEAR = 30
#: The three ways to know what is expected, and what each counts: less is known by coarse structure alone.
WAYS = ("around", "around and coarse", "least")
CONTROLS, LEAST_CONTROLS = 18, 5
_SEED = 20262
_HALF, _WIDTH = 4.2, 0.9
#: A shortfall (natural logarithm of energy) below this is never called natural spread.
FLOOR = (0.16, 0.14, 0.10)


@dataclass(frozen=True)
class Detail:
    """Products of gradients at each scale, float32 (height, width, 3) each: xx, yy, xy; luma for brightness; energy of coarse gradients."""

    products: tuple[np.ndarray, ...]
    luma: np.ndarray
    coarse: np.ndarray


def detail_of(luma: np.ndarray) -> Detail:
    products = []
    for sigma in SCALES:
        smooth = cv2.GaussianBlur(luma, (0, 0), sigma)
        gx, gy = cv2.Sobel(smooth, cv2.CV_32F, 1, 0, scale=0.125), cv2.Sobel(smooth, cv2.CV_32F, 0, 1, scale=0.125)
        products.append(np.dstack([gx * gx, gy * gy, gx * gy]))
    smooth = cv2.GaussianBlur(luma, (0, 0), 6)
    gx, gy = cv2.Sobel(smooth, cv2.CV_32F, 1, 0, scale=0.125), cv2.Sobel(smooth, cv2.CV_32F, 0, 1, scale=0.125)
    return Detail(tuple(products), luma, gx * gx + gy * gy)


def sampled(detail: Detail, area: np.ndarray, top: int = 0, left: int = 0) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Log of the smaller eigenvalue on the grid, using only pixels of `area` (bool), which lies at (left, top) in the picture.

    Returns:
        (rows, columns, scales) logarithms; (rows, columns, 4) what goes with them: 1, brightness, its square, log of coarse energy;
        (rows, columns) share of each box that counts.
    """
    height, width = area.shape
    weight = area.astype(np.float32)
    mean = lambda plane: cv2.boxFilter(plane, -1, (BOX, BOX), borderType=cv2.BORDER_CONSTANT)[STRIDE // 2::STRIDE, STRIDE // 2::STRIDE]
    share = mean(weight)
    safe = np.maximum(share, 1e-6)
    crop = (slice(top, top + height), slice(left, left + width))
    logs = []
    for products in detail.products:
        xx, yy, xy = (np.ascontiguousarray(mean(products[crop][..., k] * weight) / safe) for k in range(3))
        half, split = (xx + yy) / 2, np.sqrt(np.maximum((xx - yy) ** 2 / 4 + xy * xy, 0))
        logs.append(np.log(np.maximum(half - split, 0) + 0.004))
    level = mean(detail.luma[crop] * weight) / safe / 255.0
    coarse = np.log(mean(detail.coarse[crop] * weight) / safe + 0.004)
    return np.stack(logs, -1), np.stack([np.ones_like(level), level, level * level, coarse], -1), share


@dataclass(frozen=True)
class Ground:
    """What lies around, on the grid of the whole window: `logs` cleared of what goes with them, `known` bool, `slope` (4, scales) of logs by
    those."""

    logs: np.ndarray
    known: np.ndarray
    slope: np.ndarray

    def expected(self, without: np.ndarray) -> np.ndarray:
        """Carried in from what is known outside `without` (bool on the grid): finest neighbourhood with enough to go on.

        Three times: from all around, from left and right, from above and below; the least of them is expected. A plinth between bricks
        and setts is as smooth as it is to its left and right, and no more is asked of it.
        """
        rows, columns = np.flatnonzero(without.any(1)), np.flatnonzero(without.any(0))
        if not len(rows):
            return self.logs
        # Only what lies near can be carried in; the rest of the grid stays as it is.
        here = (slice(max(0, int(rows[0]) - NEAR), int(rows[-1]) + 1 + NEAR), slice(max(0, int(columns[0]) - NEAR), int(columns[-1]) + 1 + NEAR))
        out = self.logs.copy()
        out[here] = self._carried(self.logs[here], (self.known[here] & ~without[here]).astype(np.float32))
        return out

    def _carried(self, logs: np.ndarray, weight: np.ndarray) -> np.ndarray:
        overall = logs[weight > 0].mean(axis=0) if (weight > 0).any() else self.logs[self.known].mean(axis=0)
        weighted = logs * weight[..., None]
        carried: list[np.ndarray] = []
        for across, down in ((1.0, 1.0), (1.0, 0.0), (0.0, 1.0)):
            value, settled = np.zeros_like(logs), np.zeros(weight.shape, np.float32)
            for sigma in (1.5, 4.0, 12.0):
                sx, sy = max(0.6, sigma * across), max(0.6, sigma * down)
                near = cv2.GaussianBlur(weight, (0, 0), sigmaX=sx, sigmaY=sy)
                here = np.clip(near * 5, 0, 1) * (1 - settled)
                value += here[..., None] * cv2.GaussianBlur(weighted, (0, 0), sigmaX=sx, sigmaY=sy) / np.maximum(near, 1e-5)[..., None]
                settled += here
            # Where nothing lies in that direction, it has no say.
            carried.append(value + (1 - settled)[..., None] * (overall if across and down else np.maximum(carried[0], overall)))
        return np.min(carried, axis=0)


@dataclass(frozen=True)
class Surroundings:
    """The grounds of the first two of `WAYS`, and the least logs (scales,) of any place."""

    grounds: tuple[Ground, Ground]
    least: np.ndarray


def surroundings_of(detail: Detail, outside: np.ndarray) -> Surroundings:
    logs, along, share = sampled(detail, outside)
    known = share > 0.5
    rows = along[known]
    grounds = []
    for columns in (3, 4):
        part = rows[:, :columns]
        ridge = 0.02 * len(rows) * np.diag([0.0, 1.0, 1.0, 0.2][:columns])
        slope = np.zeros((4, len(SCALES)))
        if len(rows) >= 12:
            slope[:columns] = np.linalg.solve(part.T @ part + ridge + 1e-6 * np.eye(columns), part.T @ logs[known])
        slope[0] = 0
        grounds.append(Ground((logs - along @ slope).astype(np.float32), known, slope))
    least = np.percentile(logs[known], 4, axis=0) if known.any() else np.full(len(SCALES), -9.0)
    return Surroundings((grounds[0], grounds[1]), least)


def shortfall(detail: Detail, around: Surroundings, area: np.ndarray, origin: tuple[int, int]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """How much detail is missing in `area` (bool crop whose corner lies at `origin` = (left, top), multiples of STRIDE).

    Returns:
        (ways, rows, columns) weighted shortfall; (rows, columns, scales) shortfall of each scale by the first way; (rows, columns) bool
        where it is known.
    """
    left, top = origin
    logs, along, share = sampled(detail, area, top, left)
    known = share > 0.35
    rows, columns = known.shape
    where = (slice(top // STRIDE, top // STRIDE + rows), slice(left // STRIDE, left // STRIDE + columns))
    without = np.zeros(around.grounds[0].known.shape, bool)
    # A box that reaches into the area saw some of it: two steps around are left out.
    part = without[where]
    part[:] = cv2.dilate((share > 0.02).astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)[: part.shape[0], : part.shape[1]]
    rows, columns = part.shape
    logs, along, known = logs[:rows, :columns], along[:rows, :columns], known[:rows, :columns]
    weights, ways, first = np.array(WEIGHTS), [], np.zeros_like(logs)
    for number, ground in enumerate(around.grounds):
        missing = np.clip(ground.expected(without)[where] - (logs - along @ ground.slope), -2.5, 6.0)
        first = missing if number == 0 else first
        ways.append((missing * weights).sum(-1))
    # Below the picture's own grain nothing natural lies; the coarsest scale has no grain and says nothing here.
    ways.append(np.clip(around.least - logs, -0.6, 3.0)[..., :2].mean(-1))
    return np.stack(ways), first, known


def pooled(ways: np.ndarray, known: np.ndarray) -> list[np.ndarray]:
    """Mean shortfall by each of `WAYS` over each of `PATCHES`, (rows, columns) each; -9 where too little of a patch is known."""
    return [pool for missing in ways for pool in _patches(missing, known)]


def _patches(missing: np.ndarray, known: np.ndarray) -> list[np.ndarray]:
    weight = known.astype(np.float32)
    found = []
    for side in PATCHES:
        if side == 0:
            found.append(np.where(known, float(missing[known].mean()) if known.any() else -9.0, -9.0))
            continue
        near = cv2.boxFilter(weight, -1, (side, side), normalize=False, borderType=cv2.BORDER_CONSTANT)
        total = cv2.boxFilter((missing * weight).astype(np.float32), -1, (side, side), normalize=False, borderType=cv2.BORDER_CONSTANT)
        found.append(np.where(known & (near >= min(0.45 * side * side, max(2, known.sum() * 0.6))), total / np.maximum(near, 1), -9.0))
    return found


def _cropped(area: np.ndarray) -> tuple[np.ndarray, tuple[int, int]]:
    ys, xs = np.flatnonzero(area.any(1)), np.flatnonzero(area.any(0))
    top, left = int(ys[0]) // STRIDE * STRIDE, int(xs[0]) // STRIDE * STRIDE
    return area[top:int(ys[-1]) + 1, left:int(xs[-1]) + 1], (left, top)


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings for each washed-out place. See the module's docstring for the method."""
    inner = cv2.erode(window.filled.astype(np.uint8), np.ones((5, 5), np.uint8), borderValue=1).astype(bool)
    if inner.sum() < 3 * STRIDE * STRIDE:
        return Abstention("the fill is too narrow to hold any texture")
    outside = ~cv2.dilate((window.elsewhere | window.filled).astype(np.uint8), np.ones((9, 9), np.uint8)).astype(bool)
    if outside.sum() < 60 * STRIDE * STRIDE:
        return Abstention("too little untouched picture around the region to know how much detail belongs here")
    detail = detail_of(window.luma_result)
    around = surroundings_of(detail, outside)
    area, origin = _cropped(inner)
    missing, by_scale, known = shortfall(detail, around, area, origin)
    if known.sum() < 3:
        return Abstention("the fill is too narrow to hold any texture")
    controls, null = _controls(window, detail, around, inner, area, origin, outside, int(known.sum()))
    if len(controls) < LEAST_CONTROLS:
        return Abstention("too little untouched picture around the region to know how much detail belongs here")
    values = np.array(controls)
    pools = pooled(missing, known)
    far = np.stack([np.where(pool > -9, excess(pool, values[:, k], FLOOR[k % len(PATCHES)]), -1e3) for k, pool in enumerate(pools)])
    # Less than a sixth of the detail gone is nothing a person sees, however even the surroundings are.
    least = np.array([0.5, 0.5, 0.25]).repeat(len(PATCHES))[:, None, None]
    scores = np.minimum(score_of(far, _HALF, _WIDTH), score_of((np.stack(pools) - least) / 0.12, 0.0, 1.0))
    level, best = scores.argmax(axis=0), scores.max(axis=0)
    natural = [natural_range(values[:, k], null) for k in range(len(pools))]
    hot = (best >= 0.5).astype(np.uint8)
    count, labels = cv2.connectedComponents(cv2.morphologyEx(hot, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8)) & known.astype(np.uint8), connectivity=8)
    readings = [_reading(window, detail, labels == label, area, origin, best, level, pools, by_scale, natural, outside) for label in range(1, count)
            if ((labels == label) & (hot > 0)).any()]
    if readings:
        return sorted(readings, key=lambda reading: -reading.score)[:4]
    peak = np.zeros_like(known)
    peak[np.unravel_index(int(np.argmax(np.where(known, best, -1))), known.shape)] = True
    return [_reading(window, detail, peak, area, origin, best, level, pools, by_scale, natural, outside)]


def _controls(window: Window, detail: Detail, around: Surroundings, inner: np.ndarray, area: np.ndarray, origin: tuple[int, int], outside: np.ndarray,
              tiles: int) -> tuple[list[list[float]], str]:
    """The largest shortfalls that chance brings: of the same outline laid elsewhere, or of squares, as many at once as would make it up."""
    def laid(shape: np.ndarray, corner: tuple[int, int], whole: np.ndarray, count: int) -> list[list[float]]:
        found = []
        for dx, dy in outline_places(whole, ~outside, window.luma_result, count, _SEED):
            left, top = (corner[0] + dx) // STRIDE * STRIDE, (corner[1] + dy) // STRIDE * STRIDE
            if left < 0 or top < 0 or top + shape.shape[0] > inner.shape[0] or left + shape.shape[1] > inner.shape[1]:
                continue
            off, _, there = shortfall(detail, around, shape, (left, top))
            if there.sum() >= 3:
                found.append([float(level.max()) for level in pooled(off, there)])
        return found

    whole = laid(area, origin, inner, CONTROLS)
    if len(whole) >= LEAST_CONTROLS + 3:
        return whole, NULL
    rng = np.random.default_rng(_SEED)
    for side in (192, 128, 80, 48):
        square = np.zeros_like(inner)
        if min(square.shape) <= side:
            continue
        square[:side, :side] = True
        pieces = laid(square[:side, :side], (0, 0), square, 40)
        if len(pieces) >= 2 * LEAST_CONTROLS:
            together = max(1, round(tiles * STRIDE * STRIDE / side ** 2))
            values = np.array(pieces)
            return [*whole, *(values[rng.choice(len(values), min(together, len(values)), replace=False)].max(axis=0).tolist() for _ in range(24))], "surround"
    return whole, NULL


def _octaves(plane: np.ndarray, areas: list[np.ndarray]) -> list[list[float]]:
    """Deviation of each octave band of a plane over each area."""
    found: list[list[float]] = [[] for _ in areas]
    finer = plane
    for octave in range(1, 6):
        coarser = cv2.GaussianBlur(plane, (0, 0), 0.5 * 2.0 ** octave)
        band = finer - coarser
        for values, area in zip(found, areas, strict=True):
            values.append(float(np.sqrt((band[area] ** 2).mean())) if area.any() else 0.0)
        finer = coarser
    return found


def _reading(window: Window, detail: Detail, tiles: np.ndarray, area: np.ndarray, origin: tuple[int, int], best: np.ndarray, level: np.ndarray,
             pools: list[np.ndarray], by_scale: np.ndarray, natural: list[Natural], outside: np.ndarray) -> Reading:
    ys, xs = np.nonzero(tiles)
    peak = int(np.argmax(best[ys, xs]))
    k = int(level[ys[peak], xs[peak]])
    pixels = np.zeros(window.mask.shape, np.uint8)
    for y, x in zip(ys.tolist(), xs.tolist(), strict=True):
        top, left = origin[1] + y * STRIDE - 2, origin[0] + x * STRIDE - 2
        pixels[max(0, top):top + STRIDE + 4, max(0, left):left + STRIDE + 4] = 1
    pixels &= window.filled.astype(np.uint8)
    rings, _ = cv2.findContours(pixels, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if rings:
        ring = cv2.approxPolyDP(max(rings, key=len), 1.5, True)[:, 0] + 0.5
    x, y, w, h = cv2.boundingRect(pixels) if pixels.any() else (int(origin[0]), int(origin[1]), area.shape[1], area.shape[0])
    if not rings or len(ring) < 3:
        ring = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float)
    near = (cv2.distanceTransform(1 - pixels, cv2.DIST_L2, 3) <= 60) & outside
    if near.sum() < 400:
        near = outside
    part = (slice(max(0, y - 80), y + h + 80), slice(max(0, x - 80), x + w + 80))
    inside, around = _octaves(window.lab_result[part][..., 0], [pixels[part].astype(bool), near[part] if near[part].any() else ~pixels[part].astype(bool)])
    bands = tuple((2.0 ** -(octave + 1), max(0.0, around[octave] - inside[octave]), 0.0) for octave in range(len(inside)))
    xx, yy, xy = (float(detail.products[1][..., c][pixels.astype(bool)].mean()) if pixels.any() else 0.0 for c in range(3))
    trace = xx + yy
    coherence = float(np.hypot(xx - yy, 2 * xy) / trace) if trace > 1e-9 else 0.0
    along = float(np.degrees(0.5 * np.arctan2(2 * xy, xx - yy)) + 90) % 180
    value = float(pools[k][ys[peak], xs[peak]])
    return Reading("smear", float(best[ys, xs].max()), window.box_to_frame(x, y, w, h), window.to_frame(ring), Signal(bands, float(max(w, h)), float(pixels.sum())),
                   Measure("detail missing", value, "natural logarithm of energy", natural[k]),
                   {"type": "detail", "inside": inside, "around": around, "wavelengths_px": [2.0 ** (octave + 1) for octave in range(len(inside))],
                    "missing_by_scale": by_scale[ys, xs].mean(axis=0), "streaks": {"coherence": coherence, "angle": along},
                    "patch_px": PATCHES[k % len(PATCHES)] * STRIDE, "expected_from": WAYS[k // len(PATCHES)]})
