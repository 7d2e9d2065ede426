"""Residue: bits of the removed thing: slivers, above all at the frame's edge, dots, ghosts of
translucent lettering.

*Bits*. Where the result kept the original's pixels beside pixels that it replaced, one of two
things lies there: untouched ground, or a piece of the thing.
Along the border between kept and replaced, ground goes on smoothly in the result and stood off from
the thing in the original; a piece of the thing is the
other way round. The two steps are compared along the border, and what is kept must look like the
thing rather than like the surroundings.

*Ghost*. Where pixels were replaced, the fill knows nothing of the thing. Its fine detail, evened
out so that no single edge rules (whitening), is
correlated with the thing's own at its very place and at many others; the place itself must not
stand out. So in brightness, and in brightness and colour together, down to the
grain where compression left it: grounds have less detail in colour, and a trace of the thing is a
    trace of its grain too.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.spatial import cKDTree

from ..evidence import Ghost, Kept
from ..features.detail import broadly, outlined
from ..features.rim.nulls import euclidean
from ..null import score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "lag"
#: Ghost: lags that make the null, pixels, and the least area of replaced pixels.
LAGS, LEAST_AREA = (5, 26), 250
#: Side of the tiles whose correlations are averaged, pixels.
_TILE = 24
_GHOST_HALF, _GHOST_WIDTH = 4.6, 0.5
#: What several ways together must stand out by more than brightness alone: broad colours go
#: together by chance more often.
_MANY_WAYS = 1.0
#: Bits: how far a kept pixel may lie outside the region and still be the thing's, and the least
#: size, pixels.
BESIDE, LEAST_BIT = 10, 5
#: Regions wider and taller than this are examined at half the size, pixels.
LARGE = 420
_BIT_HALF, _BIT_WIDTH = 2.6, 0.6
#: Of a window of more pixels some are enough to know what is usual.
_MANY = 600_000


def nearby(window: Window) -> Window:
    """The window cut down to the region and what bits are looked for in."""
    x, y, w, h = cv2.boundingRect(window.mask.astype(np.uint8))
    margin = max(2 * BESIDE + 20, 124)
    top, left = max(0, y - margin), max(0, x - margin)
    crop = (slice(top, y + h + margin), slice(left, x + w + margin))
    near = Window(
        window.region,
        (window.origin[0] + left, window.origin[1] + top),
        window.original[crop],
        window.result[crop],
        window.mask[crop],
        window.elsewhere[crop],
        window.frame,
        window.lossy,
        window.pair,
    )
    # What the whole window knows already is not made again.
    for name in (
        "changed",
        "filled",
        "apart_levels",
        "luma_original",
        "luma_result",
        "lab_original",
        "lab_result",
    ):
        near.__dict__[name] = getattr(window, name)[crop]
    return near


def replaced(window: Window) -> np.ndarray:
    """Pixels that the removal replaced, sharply: not smoothed, so that single specks stay apart;
    bool.
    """
    error = window.apart_levels
    if not window.lossy:
        return error > 3.5
    # Compression stores colour at half the size: a speck of the thing keeps its brightness, and its
    # colour runs into the fill. So brightness
    # decides, pixel by pixel, wherever thing and fill differ in it; elsewhere colour does, as
    # coarsely as it is stored.
    light = cv2.GaussianBlur(np.abs(window.luma_result - window.luma_original), (0, 0), 0.6)
    apart = cv2.GaussianBlur(light, (0, 0), 4.0)
    outside = np.flatnonzero(~window.elsewhere)
    usual = (
        float(np.percentile(light.ravel()[outside[:: max(5, len(outside) // 200_000)]], 99))
        if len(outside) > 400
        else 5.0
    )
    by_light = light > np.maximum(max(3.5, 0.8 * usual), 0.3 * apart)
    by_colour = cv2.GaussianBlur(error, (0, 0), 2.0) > max(7.0, 1.2 * usual)
    return np.where(apart > 7.0, by_light, by_light | by_colour)


def _band(x: np.ndarray, weight: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    near = cv2.blur(weight, (5, 5), borderType=cv2.BORDER_REPLICATE)
    of_all = lambda plane: cv2.merge([plane] * 3)
    return cv2.divide(
        cv2.blur(cv2.multiply(x, of_all(weight)), (5, 5), borderType=cv2.BORDER_REPLICATE),
        of_all(np.maximum(near, 1e-4)),
    ), near


@dataclass(frozen=True)
class Bits:
    """`value`: (height, width) how far each border pixel is on the thing's side; `border` bool;
    crop's corner (x, y).
    """

    value: np.ndarray
    border: np.ndarray
    kept: np.ndarray
    step: np.ndarray
    corner: tuple[int, int]


def bits_of(
    window: Window, changed: np.ndarray, halves: tuple[np.ndarray, np.ndarray] | None = None
) -> Bits | None:
    """Examine the border between kept and replaced pixels in and just around the region.

    Args:
        changed: bool, what was replaced. halves: of a large region CIELAB of original and result by
            half: what would be missed so is too small to matter there.
    """
    near = cv2.dilate(
        window.mask.astype(np.uint8), np.ones((2 * BESIDE + 1,) * 2, np.uint8)
    ).astype(bool)
    other = window.elsewhere & ~window.mask
    x, y, w, h = cv2.boundingRect(near.astype(np.uint8))
    # Even, so that a half of it is a part of the window's half.
    crop = (slice(max(0, y - 4) // 2 * 2, y + h + 4), slice(max(0, x - 4) // 2 * 2, x + w + 4))
    near, other = near[crop], other[crop]
    c = changed[crop] & near
    # Noise takes single pixels out of the replaced area; only what holds together was kept.
    kept = cv2.morphologyEx(
        (~c & near & ~other).astype(np.uint8),
        cv2.MORPH_OPEN,
        np.array([[0, 1, 0], [1, 1, 1], [0, 1, 0]], np.uint8),
    ).astype(bool)
    gone = cv2.morphologyEx(c.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)).astype(
        bool
    )
    if kept.sum() < LEAST_BIT or gone.sum() < 40:
        return None
    o, r = window.lab_original[crop], window.lab_result[crop]
    full = kept
    if halves is not None:
        rows, columns = kept.shape[0] // 2, kept.shape[1] // 2
        # Two of four pixels are a half.
        kept, gone = (
            cv2.resize(
                plane[: 2 * rows, : 2 * columns].view(np.uint8) * np.uint8(254),
                (columns, rows),
                interpolation=cv2.INTER_AREA,
            )
            >= 127
            for plane in (kept, gone)
        )
        corner = (crop[0].start // 2, crop[1].start // 2)
        o, r = (
            plane[corner[0] : corner[0] + rows, corner[1] : corner[1] + columns] for plane in halves
        )
        if not kept.any() or not gone.any():
            return None
    o_kept, near_kept = _band(o, kept.astype(np.float32))
    o_gone, near_gone = _band(o, gone.astype(np.float32))
    r_kept, _ = _band(r, kept.astype(np.float32))
    r_gone, _ = _band(r, gone.astype(np.float32))
    border = kept & (near_gone > 0.15) & (near_kept > 0.07)
    if not border.any():
        return None
    before, after = euclidean(o_kept - o_gone), euclidean(r_kept - r_gone)
    # Where no step is left there is nothing that could be the thing's.
    left = np.where(border, np.maximum(0, after - 1.6 * before), 0)
    value: np.ndarray = (
        left / _usual_step(window) * _likeness(window, crop, left > 0, r_kept, gone, o)
    ).astype(np.float32)
    if kept.shape != full.shape:
        size = full.shape[::-1]
        value, after = (
            cv2.resize(plane.astype(np.float32), size, interpolation=cv2.INTER_NEAREST)
            for plane in (value, after)
        )
        border = (
            cv2.resize(border.view(np.uint8), size, interpolation=cv2.INTER_NEAREST).astype(bool)
            & full
        )
        value = np.where(border, value, 0)
    return Bits(value, border, full, after, (crop[1].start, crop[0].start))


def _usual_step(window: Window) -> float:
    """Typical CIELAB step between neighbouring small patches of the surroundings; worked out once."""
    if "usual step" not in window.shared:
        # Of a large window some strips of rows are enough.
        height = window.mask.shape[0]
        strips = (
            [slice(top, top + 48) for top in range(0, height, 144)]
            if window.mask.size > _MANY
            else [slice(0, height)]
        )
        found = []
        for rows in strips:
            lab, away = (
                cv2.GaussianBlur(window.lab_original[rows], (0, 0), 1.6)[::3, ::3],
                (~window.elsewhere[rows])[::3, ::3],
            )
            found.append(euclidean(lab[:, 1:] - lab[:, :-1])[away[:, 1:] & away[:, :-1]])
        apart = np.concatenate(found)
        window.shared["usual step"] = (
            max(1.5, float(np.percentile(apart, 70))) if apart.size > 50 else 3.0
        )
    return float(window.shared["usual step"])


def _likeness(
    window: Window,
    crop: tuple[slice, slice],
    some: np.ndarray,
    colour: np.ndarray,
    gone: np.ndarray,
    original: np.ndarray,
) -> np.ndarray:
    """1 where one of some (bool) kept pixels looks like the thing, 0 where it looks like what lies
    around, by the nearest colour of each (CIELAB).
    """
    out = np.zeros(some.shape, np.float32)
    ys, xs = np.nonzero(some)
    if not len(ys):
        return out
    rng = np.random.default_rng(20264)
    thing = original[cv2.erode(gone.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool)]
    if len(thing) < 20:
        thing = original[gone]
    # Raw, not evened out: a dark joint between boards is a colour of the surroundings too. Of a
    # large window every other pixel is more than enough.
    every = 2 if window.mask.size > _MANY else 1
    away = every * cv2.distanceTransform(
        (~window.mask[::every, ::every]).astype(np.uint8), cv2.DIST_L2, 3
    )
    around = window.lab_original[::every, ::every][
        (away > BESIDE + 2) & (away < 120) & ~window.elsewhere[::every, ::every]
    ]
    if len(around) < 50 or len(thing) < 5:
        return out
    pick = lambda rows, most: rows[rng.choice(len(rows), min(len(rows), most), replace=False)]
    # Colour is uncertain at edges that were compressed; brightness is not.
    trust = np.array([1.0, 0.5, 0.5] if window.lossy else [1.0, 1.0, 1.0], np.float32)
    points, thing, around = colour[ys, xs] * trust, thing * trust, around * trust
    # The third nearest: one odd pixel of the surroundings is no proof.
    to_thing = cKDTree(pick(thing, 3000)).query(points, k=3)[0][:, -1]
    to_around = cKDTree(pick(around, 12000)).query(points, k=3)[0][:, -1]
    out[ys, xs] = 1 / (1 + np.exp(-np.clip((to_around - 1.2 * to_thing - 2.0) / 1.0, -30, 30)))
    return out


def _bits(window: Window, changed: np.ndarray, sight: _Sight) -> list[Reading]:
    bits = bits_of(window, changed, sight.lab if sight.part == 2 else None)
    if bits is None:
        return []
    hot = (bits.value > 0.8).astype(np.uint8)
    count, labels = cv2.connectedComponents(
        cv2.dilate(hot, np.ones((3, 3), np.uint8)), connectivity=8
    )
    found = []
    for label in range(1, min(count, 60)):
        here = (labels == label) & (hot > 0)
        if here.sum() < LEAST_BIT:
            continue
        # A long border of it is surer than a short one of the same contrast.
        amount = float(bits.value[here].mean()) * (float(here.sum()) / 12) ** 0.25
        found.append((amount, here))
    found.sort(key=lambda one: -one[0])
    readings = []
    for amount, here in found[:5]:
        pixels = np.zeros(window.mask.shape, np.uint8)
        x0, y0 = bits.corner
        grown = cv2.dilate(here.astype(np.uint8), np.ones((5, 5), np.uint8)) & bits.kept.astype(
            np.uint8
        )
        pixels[y0 : y0 + here.shape[0], x0 : x0 + here.shape[1]] = grown
        (x, y, w, h), ring = outlined(window, pixels)
        step, size = float(bits.step[here].mean()), float(max(w, h, 2))
        edge = (
            x <= 1
            or y <= 1
            or x + w >= window.frame[1] - window.origin[0] - 1
            or y + h >= window.frame[0] - window.origin[1] - 1
        )
        bands = tuple(
            (min(0.5, factor / (2 * size)), step * part, 0.0)
            for factor, part in ((0.5, 0.5), (1.0, 1.0), (2.0, 0.5))
        )
        score = float(
            score_of(np.array(amount), _BIT_HALF * (1.25 if window.lossy else 1.0), _BIT_WIDTH)
        )
        measure_of = Measure(
            "step beside pixels that were kept",
            step,
            "CIELAB",
            Natural(0.0, _usual_step(window), int(bits.border.sum()), "surround"),
        )
        readings.append(
            Reading(
                "residue",
                score,
                window.box_to_frame(x, y, w, h),
                window.to_frame(ring),
                Signal(bands, size, float(pixels.sum())),
                measure_of,
                Kept(
                    what="sliver at the frame's edge"
                    if edge
                    else "dot"
                    if size <= 12
                    else "sliver",
                    pixels=int(grown.sum()),
                    times_natural=amount,
                ),
            )
        )
    return readings


def _whitened(plane: np.ndarray, sigma: float, floor: float) -> np.ndarray:
    fine = plane - cv2.GaussianBlur(plane, (0, 0), sigma)
    strength = cv2.GaussianBlur(fine * fine, (0, 0), 10.0)
    return fine / np.sqrt(strength + floor)


#: How far about the fill ground in other light is looked for, pixels: what blurs and means of it
#: reach.
_GROUND_REACH = 40


@dataclass(frozen=True)
class _Sight:
    """What a ghost is sought in: the window, or in a large region its half.

    Attributes: part: how many pixels of the window one of its own is wide; the planes as `Window`
        has them, (height, width) or (height, width, 3), levels of 255 and CIELAB;
    filled, changed: bool, likewise.
    """

    part: int
    apart_levels: np.ndarray
    luma: tuple[np.ndarray, np.ndarray]
    lab: tuple[np.ndarray, np.ndarray]
    filled: np.ndarray
    changed: np.ndarray
    lossy: bool

    @classmethod
    def of(cls, window: Window, changed: np.ndarray) -> _Sight:
        w, h = cv2.boundingRect(window.filled.view(np.uint8))[2:]
        part = 2 if min(w, h) > LARGE else 1
        size = (window.mask.shape[1] // part, window.mask.shape[0] // part)
        less = lambda plane: (
            plane
            if part == 1
            else cv2.resize(
                plane[: size[1] * part, : size[0] * part], size, interpolation=cv2.INTER_AREA
            )
        )
        most = lambda area: area if part == 1 else less(area.view(np.uint8) * np.uint8(255)) > 127
        return cls(
            part,
            less(window.apart_levels),
            (less(window.luma_original), less(window.luma_result)),
            (less(window.lab_original), less(window.lab_result)),
            most(window.filled),
            most(changed),
            window.lossy,
        )

    def across(self, pixels: float) -> float:
        return pixels / self.part

    def box(self, pixels: int) -> np.ndarray:
        """A square of about so many pixels a side, odd, for erosion and the like."""
        return np.ones((max(3, pixels // self.part | 1),) * 2, np.uint8)


def _differs(sight: _Sight) -> np.ndarray:
    """Where brightness really differs between original and result, bool: between spokes or letters
    ground is seen in both.
    """
    before, after = sight.luma
    return np.asarray(cv2.GaussianBlur(np.abs(after - before), (0, 0), sight.across(0.8)) > 5.0)


def _ground_in_other_light(sight: _Sight, differs_at: np.ndarray) -> np.ndarray:
    """Where the result shows the very detail of the original at about its strength or more: ground
    that the thing only shaded, bool. `differs_at`: where they differ at all.

    A ghost is the other way round: its detail is the thing's at a fraction of its strength.
    """
    ground = np.zeros(sight.filled.shape, bool)
    # As far about the fill as any of it reaches.
    x, y, w, h = cv2.boundingRect(sight.filled.view(np.uint8))
    reach = _GROUND_REACH // sight.part
    crop = (slice(max(0, y - reach), y + h + reach), slice(max(0, x - reach), x + w + reach))
    part = ground[crop]
    # Only what differs is asked: beside it lies ground that nobody touched, and of a small or thin
    # fill all is beside it.
    differs = cv2.erode(differs_at[crop].view(np.uint8), sight.box(5)).astype(np.float32)
    # In detail, and in grain close beside the thing, where the thing's own edge rules all detail;
    # half a large region has its grain no more.
    for sigma, side, least, alike in (
        (4.0, 21, 0.05, 0.2),
        *([] if sight.lossy or sight.part > 1 else [(1.0, 9, 0.02, 0.5)]),
    ):
        before, after = (
            (luma[crop] - cv2.GaussianBlur(luma[crop], (0, 0), sight.across(sigma))) * differs
            for luma in sight.luma
        )
        around = sight.box(side).shape
        held = np.maximum(cv2.blur(differs, around), 1e-3)
        common, power, other = (
            cv2.blur(product, around) / held
            for product in (before * after, before * before, after * after)
        )
        part |= (
            (common > alike * np.sqrt(np.maximum(power * other, 0)) + least)
            & (common > 0.5 * power)
            & (differs > 0)
        )
    part[:] = cv2.dilate(part.view(np.uint8), sight.box(9)).view(bool)
    return ground


def _lags(
    things: list[np.ndarray], fills: list[np.ndarray], weight: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Correlations of the fill's detail with the thing's at its own place and within a pixel of it,
    (9, planes), and at many others, (n, planes).

    Each is the mean over small tiles without the highest twentieth: a ghost is everywhere, a
        stretch of ground that both show is somewhere.
    """
    margin = LAGS[1] + 1
    if min(weight.shape) < 24:
        return np.zeros((9, len(things))), np.empty((0, len(things)))
    rows, columns = (-(-side // _TILE) for side in weight.shape)
    spare = (rows * _TILE - weight.shape[0], columns * _TILE - weight.shape[1])
    # Beyond the picture there is nothing to agree with.
    whole = lambda plane, edge=0: np.pad(
        plane.astype(np.float32), ((edge, edge + spare[0]), (edge, edge + spare[1]))
    )
    by_tile = lambda plane: (
        plane.reshape(rows, _TILE, -1).sum(axis=1).reshape(rows, columns, _TILE).sum(axis=2)
    )
    weight, things, fills = (
        whole(weight),
        [whole(thing) for thing in things],
        [whole(fill, margin) for fill in fills],
    )
    share = by_tile(weight) / _TILE**2
    usable = share > min(0.3, 0.5 * float(share.max()))
    held = np.maximum(share[usable], 1e-3) * _TILE**2
    kept = len(held) - int(0.05 * len(held))

    def at(dx: int, dy: int) -> list[float]:
        there = (
            slice(margin + dy, margin + dy + weight.shape[0]),
            slice(margin + dx, margin + dx + weight.shape[1]),
        )
        tiles = [
            by_tile(thing * fill[there])[usable] / held
            for thing, fill in zip(things, fills, strict=True)
        ]
        return [float(np.sort(some)[:kept].mean()) for some in tiles]

    rng = np.random.default_rng(20266)
    places: set[tuple[int, int]] = set()
    while len(places) < 64:
        dx, dy = (int(v) for v in rng.integers(-LAGS[1], LAGS[1] + 1, 2))
        if LAGS[0] <= np.hypot(dx, dy) <= LAGS[1]:
            places.add((dx, dy))
    # A block grid repeats every eight pixels in both pictures.
    places |= {(dx, dy) for dx in (-8, 0, 8) for dy in (-8, 0, 8) if (dx, dy) != (0, 0)}
    return np.array([at(dx, dy) for dx in (-1, 0, 1) for dy in (-1, 0, 1)]), np.array(
        [at(dx, dy) for dx, dy in sorted(places)]
    )


def _stands_out(here: np.ndarray, elsewhere: np.ndarray) -> float:
    """By how many of its spreads the largest of some correlations (9,) lies beyond those at other
    places (n,).
    """
    peak = float(here.max())
    sure = (peak - float(elsewhere.mean())) / (float(elsewhere.std()) + 1e-4)
    # The largest of all the others is the least that the place itself must exceed.
    return min(sure, 5.4 + 8 * (peak / max(float(elsewhere.max()), 1e-4) - 1.25))


def _ghost(window: Window, sight: _Sight) -> Reading | None:
    """The fill's detail against the thing's own, at its place and beside it."""
    apart = cv2.GaussianBlur(sight.apart_levels, (0, 0), sight.across(2.0))
    area = (
        (apart > (9.0 if not window.lossy else 12.0))
        & sight.filled
        & cv2.morphologyEx(sight.changed.astype(np.uint8), cv2.MORPH_CLOSE, sight.box(5)).astype(
            bool
        )
    )
    # Only what really differs is the thing's.
    differs = _differs(sight)
    area &= differs
    # Within a feathered rim the thing shows through by design; that is a halo's matter.
    feather = int(sight.across(np.clip(float(np.sqrt(float(window.filled.sum()))) / 8, 7, 15))) | 1
    area &= cv2.erode(
        sight.filled.astype(np.uint8),
        cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (feather, feather)),
        borderValue=1,
    ).astype(bool)
    ground = _ground_in_other_light(sight, differs) & sight.filled
    shown = area & ~ground
    # Fine detail is what is left of some pixels around: beside ground, some of it is the ground's,
    # grain above all.
    area &= ~(
        ground if window.lossy else cv2.dilate(ground.view(np.uint8), sight.box(9)).astype(bool)
    )
    # Where some of the region is ground in other light, more of it may be that was not distinguished from
    # it.
    half = (
        _GHOST_HALF
        + (0.6 if ground.sum() > 0.02 * sight.filled.sum() else 0.0)
        + (0.8 if window.lossy else 0.0)
    )
    pixels = int(area.sum()) * sight.part**2
    if pixels < LEAST_AREA:
        return None
    x, y, w, h = cv2.boundingRect(area.astype(np.uint8))
    margin = 12 // sight.part
    crop = (slice(max(0, y - margin), y + h + margin), slice(max(0, x - margin), x + w + margin))
    weight = area[crop].astype(np.float32)
    before, after = (
        [luma[crop], *(np.ascontiguousarray(lab[crop][..., c]) for c in (1, 2))]
        for luma, lab in zip(sight.luma, sight.lab, strict=True)
    )
    wide = sight.part * min(w, h)
    if wide > LARGE:
        # A large thing by half or less: there is enough of it, and lettering that can be read is no
        # finer.
        part = int(np.ceil(wide / LARGE))
        less = (weight.shape[1] * sight.part // part, weight.shape[0] * sight.part // part)
        weight = cv2.resize(weight, less, interpolation=cv2.INTER_AREA)
        before, after = (
            [cv2.resize(plane, less, interpolation=cv2.INTER_AREA) for plane in planes]
            for planes in (before, after)
        )
    # Brightness; and colour, in which grounds have less detail of their own. Grain is detail too,
    # where compression left it.
    ways = [
        (0, 4.0, 0.6),
        (1, 4.0, 0.3),
        (2, 4.0, 0.3),
        *([] if window.lossy else [(1, 1.0, 0.1), (2, 1.0, 0.1)]),
    ]
    here, elsewhere = _lags(
        [_whitened(before[k], sigma, floor) * weight for k, sigma, floor in ways],
        [_whitened(after[k], sigma, floor) for k, sigma, floor in ways],
        weight,
    )
    if not len(elsewhere):
        return None
    spread = elsewhere.std(axis=0) + 1e-4
    joined = [(one / spread).mean(axis=1) * float(spread.mean()) for one in (here, elsewhere)]
    by_light, by_all = _stands_out(here[:, 0], elsewhere[:, 0]), _stands_out(*joined) - _MANY_WAYS
    sure = max(by_light, by_all)
    null = elsewhere[:, 0] if by_light >= by_all else joined[1]
    peak = float((here[:, 0] if by_light >= by_all else joined[0]).max())
    (bx, by, bw, bh), ring = outlined(
        window,
        shown.astype(np.uint8)
        if sight.part == 1
        else cv2.resize(
            shown.view(np.uint8), window.mask.shape[::-1], interpolation=cv2.INTER_NEAREST
        ),
    )
    alpha = float(np.clip(peak, 0, 1))
    light, broad = np.ascontiguousarray(sight.lab[0][crop][..., 0]), sight.across(8.0)
    contrast = float(np.std((light - broadly(light, broad, broad))[area[crop]]))
    bands = tuple((2.0**-k, alpha * contrast, 0.0) for k in (2, 3, 4))
    return Reading(
        "residue",
        float(score_of(np.array(sure), half, _GHOST_WIDTH)),
        window.box_to_frame(bx, by, bw, bh),
        window.to_frame(ring),
        Signal(bands, float(max(bw, bh)), float(pixels)),
        Measure(
            "likeness of the fill's detail to the thing's",
            peak,
            "correlation",
            Natural(
                float(np.percentile(null, 5)), float(np.percentile(null, 95)), int(null.size), NULL
            ),
        ),
        Ghost(
            what="ghost",
            correlation=peak,
            spreads=sure,
            elsewhere=np.round(null, 4),
            seen_in="brightness" if by_light >= by_all else "brightness and colour",
        ),
    )


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings for bits that were kept and for a ghost of the whole. See the module's docstring for
    the methods.
    """
    window = nearby(window)
    changed = replaced(window)
    sight = _Sight.of(window, changed)
    ghost = _ghost(window, sight)
    readings = _bits(window, changed, sight) + ([ghost] if ghost else [])
    if not readings and ghost is None and (changed & window.mask).sum() < 40:
        return Abstention("too little was replaced here to tell what was left")
    return readings
