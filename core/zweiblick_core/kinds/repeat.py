"""Repeat: the same clump, stone or cloud twice; also mirrored; also twice inside the region.

Offsets are *proposed* on mid-band structure at half resolution, in wide fills a quarter (normalised
cross-correlation by FFT; plain and mirrored), and
where that is no guide, as in a sky or on evenly small pebbles, on the grain of a large part of the
fill at once; then *verified*
at full resolution by the grain: two copies share their noise, two similar bricks do not. With A and
    B the high-passed
patches, the agreement 1 - var(A - B) / (var A + var B) is near 0 for natural repetition and near 1
for a copy (a form of the
correlation test of Fridrich, Soukal and Lukas 2003 on the noise residual of Lukas, Fridrich and
Goljan 2006). What is regular
agrees along its edges, too: a flag's stripe, a cup's two sides, courses of bricks. So the agreement
    is taken where neither of
both has structure, over the flattest pixels, and pooled over the tiles that share an offset. The
null is the picture's own
best matches of untouched patches ("lag"). Where nothing was copied so, the source of a wide fill is
sought in the whole frame (`far`), and turned, scaled and mirrored
copies are (`turned`).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np

from ..evidence import Copy
from ..features.copies.far import Place, far_source
from ..features.copies.pieces import pieces
from ..features.copies.searched import Searched
from ..features.copies.turned import MOVED, Searcher, Similar
from ..null import natural_range, score_of
from ..report import Abstention, Measure, Natural, Reading, Signal
from ..scene.carriers import Carriers
from ..scene.window import REACH, Window

NULL = "lag"
LEAST_CONTROLS = 6
_CONTROLS = 14
_TILES = 36
#: Tiles of fills as wide and high as this, pixels, are sought at a quarter of the size instead of
#: half.
_BY_QUARTER = 420
#: Patches whose high-passed deviation is below this hold nothing that could tell a copy, levels of
#: 255.
_EMPTY = 0.45
#: What a far source's likeness of structure is given as: it is verified by its grain.
_FAR_ALIKE = 0.5


@dataclass(frozen=True)
class Match:
    """A tile and its best counterpart. Positions are full resolution window pixels (x, y) of top
    left corners.

    `mirrored`: the source must be flipped left-right to give the copy. `likeness`: of all detail,
    -1..1; `agreement`: of the grain, taken where neither has structure, -1..1;
    `grain`: its deviation there, levels of 255; `coarse`: likeness of structure, 0 where it was
    found by its grain alone.
    """

    at: tuple[int, int]
    source: tuple[int, int]
    side: int
    mirrored: bool
    likeness: float
    agreement: float
    grain: float
    coarse: float


def high_pass(luma: np.ndarray, usual: float | None = None) -> np.ndarray:
    """What is finer than about 3 px, evened out; float32.

    A rail or a board's edge is the same all along itself: left as strong as it is, it would make
    any two patches of it agree. So the
    plane is divided by its own local strength, above what the quieter half of the picture has.

    Args:
        usual: that strength, levels, where `luma` is a small part of the picture.
    """
    return high_passed(luma, usual)[0]


def high_passed(luma: np.ndarray, usual: float | None = None) -> tuple[np.ndarray, float]:
    """`high_pass`, and how strong what is finer than about 3 px is in the quieter half of the
    picture, levels.
    """
    fine = cv2.subtract(luma, cv2.GaussianBlur(luma, (0, 0), 1.3))
    strength = cv2.sqrt(cv2.GaussianBlur(cv2.multiply(fine, fine), (0, 0), 3.0))
    usual = max(float(np.median(strength[::4, ::4])), 0.3) if usual is None else usual
    # In place: these planes are large.
    even = cv2.divide(usual, np.maximum(strength, usual, out=strength), dst=strength)
    return cv2.multiply(fine, even, dst=fine), usual


def mid_band(luma: np.ndarray, step: int = 2) -> np.ndarray:
    """Structure between about 3 and 16 px at half resolution, or between about 6 and 16 px at a
    quarter of it; float32.
    """
    less = cv2.resize(
        luma,
        (max(1, luma.shape[1] // step), max(1, luma.shape[0] // step)),
        interpolation=cv2.INTER_AREA,
    )
    return cv2.GaussianBlur(less, (0, 0), 0.8 if step == 2 else 0.5) - cv2.GaussianBlur(
        less, (0, 0), 12.0 / step
    )


def agreement(first: np.ndarray, second: np.ndarray) -> float:
    """1 - var(A - B) / (var A + var B); 0 if either is empty."""
    power = _variance(first) + _variance(second)
    return 1.0 - _variance(cv2.subtract(first, second)) / power if power > 2 * _EMPTY**2 else 0.0


def _variance(plane: np.ndarray) -> float:
    """What `np.var` gives for float32 (height, width) or (n,), in one pass."""
    return float(cv2.meanStdDev(plane)[1][0, 0]) ** 2


def steepness(luma: np.ndarray) -> np.ndarray:
    """How much structure a pixel lies in: the gradient after a Gaussian that takes the grain away,
    the largest of its neighbours'; float32.
    """
    calm = cv2.GaussianBlur(luma, (0, 0), 1.2)
    steep: np.ndarray = cv2.dilate(
        cv2.magnitude(cv2.Sobel(calm, cv2.CV_32F, 1, 0), cv2.Sobel(calm, cv2.CV_32F, 0, 1)),
        np.ones((3, 3), np.uint8),
    )
    return steep


def plain_agreement(
    first: np.ndarray, second: np.ndarray, steep: np.ndarray, inside: np.ndarray | None = None
) -> tuple[float, float]:
    """The agreement of two patches over the two fifths of their pixels with the least structure,
    and the lesser deviation there.

    Args:
        inside: bool, the pixels that are compared, where not all are.
    """
    if inside is not None:
        first, second, steep = first[inside], second[inside], steep[inside]
    rank = int(0.4 * (steep.size - 1))
    flat = steep <= np.partition(steep.ravel(), rank)[rank]
    a, b = first[flat], second[flat]
    own, other = _variance(a), _variance(b)
    return (1.0 - _variance(a - b) / (own + other) if own + other > 1e-6 else 0.0), float(
        np.sqrt(min(own, other))
    )


#: By how much two places must agree more than a place with what lies beside it (training
#: photographs: copies agree with that by .4 at most, what was taken for one along
#: lines by .5 to .9); and of how many tiles that is asked.
_MORE, _ASKED = 0.15, 12


def alike_itself(
    fine: np.ndarray,
    steep: np.ndarray,
    at: tuple[int, int],
    side: int,
    inside: np.ndarray | None = None,
) -> float:
    """How far a tile agrees with the same plane a few pixels beside it, -1..1: the most of some
    directions, each there and back. Grain does not; what runs straight on
    agrees with itself wherever it is moved along its own direction, as it does with any other place
    of the same line.
    """
    height, width = fine.shape
    square = lambda x, y: (slice(y, y + side), slice(x, x + side))
    own, best = square(*at), -1.0
    for dx, dy in MOVED:
        beside = [
            square(x, y)
            for x, y in ((at[0] + dx, at[1] + dy), (at[0] - dx, at[1] - dy))
            if min(x, y) >= 0 and x + side <= width and y + side <= height
        ]
        found = [
            plain_agreement(fine[own], fine[one], np.maximum(steep[own], steep[one]), inside)[0]
            for one in beside
        ]
        best = max(best, float(np.mean(found))) if found else best
    return best


def _best(
    fine: np.ndarray,
    steep: np.ndarray,
    band: Searched,
    mirrored_band: Searched | None,
    at: tuple[int, int],
    side: int,
    filled: np.ndarray | None = None,
) -> Match | None:
    """The best verified counterpart of the tile at `at`; None if the tile is too near empty.
    `filled`: of a tile of the fill only what lies in it is compared.
    """
    x, y = at
    tile = fine[y : y + side, x : x + side]
    if tile.shape != (side, side) or _variance(tile) < _EMPTY**2:
        return None
    step = band.step
    half = side // step
    hx, hy = x // step, y // step
    template = band.plane[hy : hy + half, hx : hx + half]
    if template.shape != (half, half) or _variance(template) < 1e-6:
        return None
    template = template - template.mean()
    best: Match | None = None
    inside = _part_of(filled, at, side)
    reach = REACH // step
    for mirrored, plane in ((False, band), (True, mirrored_band)):
        if plane is None:
            continue
        # In the mirrored plane the tile's own place is at width - x - side.
        rows, columns = plane.plane.shape
        left, top = 0 if mirrored else max(0, hx - reach), max(0, hy - reach)
        bottom, right = (
            min(rows, hy + half + reach),
            columns if mirrored else min(columns, hx + half + reach),
        )
        if mirrored and columns > 2 * reach + half:
            # As near as anything else is sought: the tile's own place lies at columns - hx - half
            # there.
            own_x = columns - hx - half
            left, right = max(0, own_x - reach), min(columns, own_x + half + reach)
        if bottom - top <= half or right - left <= half:
            continue
        match = plane.correlated(template, top, left, bottom, right)
        # What lies over the tile itself is no source of it: every post is its own mirror image.
        cy, cx = hy - top, (columns - hx - half if mirrored else hx) - left
        match[
            max(0, cy - half // 2) : max(0, cy + half // 2 + 1),
            max(0, cx - half // 2) : max(0, cx + half // 2 + 1),
        ] = -1
        for _ in range(3):
            _, coarse, _, (px, py) = cv2.minMaxLoc(match)
            if coarse < 0.25:
                break
            near = 8 // step
            match[max(0, py - near) : py + near + 1, max(0, px - near) : px + near + 1] = -1
            sx, sy = (left + px) * step, (top + py) * step
            if mirrored:
                sx = fine.shape[1] - sx - side
            found = _refine(fine, tile, (sx, sy), mirrored, step + 1)
            if found and (inside is not None or best is None or found[0] > best.likeness):
                best = _likelier(
                    best,
                    _candidate(
                        fine, steep, at, found[1], side, mirrored, found[0], float(coarse), inside
                    ),
                )
    return best


#: The largest part of the fill whose grain is sought at once, pixels; by how many spreads a place
#: must stand out, and how many are looked at.
_AT_ONCE, _STANDS_OUT, _FEW = 96, 5.5, 3
#: By how many one where it is turned: what is proposed so must be brought into register, and chance
#: stands out by 7.
_TURNED_OUT = 8.0


@dataclass(frozen=True)
class Again:
    """A square of the fill, and where its grain lies again: `at`, `there`: top left corners (x, y),
    of `there` in the picture as it is; `side`: pixels; `mirrored`: flipped left
    to right; `quarters`: turned by so many, as `np.rot90` turns; `sure`: natural spreads."""

    at: tuple[int, int]
    there: tuple[int, int]
    side: int
    mirrored: bool
    quarters: int
    sure: float


def grain_again(
    fine: np.ndarray, filled: np.ndarray, quarters: tuple[int, ...], least: float
) -> list[Again]:
    """Where a large part of the fill's grain lies again, the surest first. One tile has too little
    of it to be sought blindly.

    Args:
        quarters: turns that are tried; unturned it is sought mirrored too.
        least: by how many spreads a place must stand out.
    """
    inside = filled[:, : fine.shape[1]].astype(np.float32)
    x, y, w, h = cv2.boundingRect(inside.astype(np.uint8))
    side = min(w, h, _AT_ONCE)
    if side < 12:
        return []
    if max(w, h) > side:
        # The square that has most of the fill in it, and most of what is not the fill around it.
        coarse = cv2.resize(inside, None, fx=0.125, fy=0.125, interpolation=cv2.INTER_AREA)
        own, far = (2 * (some // 16) + 1 for some in (side, 2 * REACH))
        worth = cv2.boxFilter(
            coarse, -1, (own, own), borderType=cv2.BORDER_CONSTANT
        ) * cv2.boxFilter(1 - coarse, -1, (far, far), borderType=cv2.BORDER_CONSTANT)
        _, _, _, (cx, cy) = cv2.minMaxLoc(worth)
        x, y = (
            int(np.clip(8 * at + 4 - side // 2, low, low + long - side))
            for at, low, long in ((cx, x, w), (cy, y, h))
        )
    top, left = max(0, y - REACH), max(0, x - REACH)
    around = (slice(top, y + side + REACH), slice(left, x + side + REACH))
    template, elsewhere = (
        fine[y : y + side, x : x + side] * inside[y : y + side, x : x + side],
        fine[around] * (1 - inside[around]),
    )
    found = []
    for turns, mirrored in [
        *((some, False) for some in quarters),
        *([(0, True)] if 0 in quarters else []),
    ]:
        wanted = np.ascontiguousarray(np.rot90(template[:, ::-1] if mirrored else template, turns))
        match = cv2.matchTemplate(elsewhere, wanted, cv2.TM_CCORR)
        spread = float(match.std()) + 1e-6
        for _ in range(_FEW):
            _, peak, _, (px, py) = cv2.minMaxLoc(match)
            if peak < least * spread:
                break
            match[max(0, py - 2) : py + 3, max(0, px - 2) : px + 3] = 0
            found.append(
                Again((x, y), (left + px, top + py), side, mirrored, turns, float(peak / spread))
            )
    return sorted(found, key=lambda one: -one.sure)[:_FEW]


def _proposed(
    fine: np.ndarray,
    steep: np.ndarray,
    at: tuple[int, int],
    side: int,
    again: list[Again],
    best: Match | None,
    filled: np.ndarray,
) -> Match | None:
    """The likest of a tile's best counterpart so far and of those that lie with it where grain lies
    again.
    """
    tile, inside = fine[at[1] : at[1] + side, at[0] : at[0] + side], _part_of(filled, at, side)
    if tile.shape != (side, side) or _variance(tile) < _EMPTY**2:
        return best
    for one in again:
        right = one.at[0] + one.side - at[0] - side if one.mirrored else at[0] - one.at[0]
        near = (one.there[0] + right, one.there[1] + at[1] - one.at[1])
        found = _refine(fine, tile, near, one.mirrored) if min(near) >= 0 else None
        if found and (inside is not None or best is None or found[0] > best.likeness):
            here = _candidate(fine, steep, at, found[1], side, one.mirrored, found[0], 0.0, inside)
            # Of a narrow fill there is too little to be alike by: what was proposed by its grain is
            # taken by that.
            best = (
                here if best is None or inside is None or here.agreement > best.agreement else best
            )
    return best


#: Of a tile that lies in the fill by less than this only what does is compared.
_MOSTLY = 0.9


def _part_of(filled: np.ndarray | None, at: tuple[int, int], side: int) -> np.ndarray | None:
    """Which of a tile's pixels lie in the fill (bool), where not nearly all do; None to compare all
    of them.
    """
    part = None if filled is None else filled[at[1] : at[1] + side, at[0] : at[0] + side]
    return part if part is not None and 0 < part.mean() < _MOSTLY else None


def _likelier(best: Match | None, one: Match) -> Match:
    return one if best is None or one.likeness > best.likeness else best


def _candidate(
    fine: np.ndarray,
    steep: np.ndarray,
    at: tuple[int, int],
    source: tuple[int, int],
    side: int,
    mirrored: bool,
    likeness: float,
    coarse: float,
    inside: np.ndarray | None,
) -> Match:
    here, there = ((slice(y, y + side), slice(x, x + side)) for x, y in (at, source))
    other, slope = (plane[there][:, ::-1] if mirrored else plane[there] for plane in (fine, steep))
    agreed, grain = plain_agreement(fine[here], other, np.maximum(steep[here], slope), inside)
    # What lies beside the fill is as it was, and no copy's.
    return Match(
        at,
        source,
        side,
        mirrored,
        likeness if inside is None else agreement(fine[here][inside], other[inside]),
        agreed,
        grain,
        coarse,
    )


def _refine(
    fine: np.ndarray, tile: np.ndarray, near: tuple[int, int], mirrored: bool, within: int = 3
) -> tuple[float, tuple[int, int]] | None:
    """Best full resolution position within some px: (agreement, (x, y))."""
    side = tile.shape[0]
    x0, y0 = max(0, near[0] - within), max(0, near[1] - within)
    patch = fine[y0 : near[1] + within + side, x0 : near[0] + within + side]
    if patch.shape[0] < side or patch.shape[1] < side:
        return None
    wanted = np.ascontiguousarray(tile[:, ::-1]) if mirrored else tile
    match = cv2.matchTemplate(patch, wanted, cv2.TM_CCOEFF_NORMED)
    _, _, _, (px, py) = cv2.minMaxLoc(match)
    return agreement(wanted, patch[py : py + side, px : px + side]), (x0 + px, y0 + py)


def _tile_side(window: Window) -> int:
    """Tiles fit the fill: 64 px, or less where the fill is narrow."""
    x, y, w, h = cv2.boundingRect(window.filled.view(np.uint8))
    # To the pixel only where that matters.
    every = 4 if min(w, h) > 400 else 1
    around = np.ascontiguousarray(
        window.filled[
            max(0, y - every) : y + h + every : every, max(0, x - every) : x + w + every : every
        ]
    ).view(np.uint8)
    thickest = every * float(cv2.distanceTransform(around, cv2.DIST_L2, 3).max())
    return int(np.clip(int(thickest * 1.3) // 8 * 8, 24, 64))


def _tiles(window: Window, side: int) -> list[tuple[int, int]]:
    """Corners of tiles that lie mostly in the fill, evenly thinned to `_TILES`."""
    height, width = window.filled.shape
    share = cv2.boxFilter(
        window.filled.astype(np.float32),
        -1,
        (side, side),
        anchor=(0, 0),
        borderType=cv2.BORDER_CONSTANT,
    )
    stride = max(8, side // 2)
    ys, xs = np.mgrid[0 : height - side + 1 : stride, 0 : width - side + 1 : stride]
    inside = share[ys, xs] > 0.7
    if not inside.any():
        # A wire's place is narrower than any tile.
        inside = share[ys, xs] > 0.35
    places = list(zip(xs[inside].tolist(), ys[inside].tolist(), strict=True))
    if not places and share[: height - side + 1, : width - side + 1].size:
        y, x = np.unravel_index(
            int(np.argmax(share[: height - side + 1, : width - side + 1])),
            share[: height - side + 1, : width - side + 1].shape,
        )
        places = [(int(x), int(y))] if share[y, x] > 0.35 else []
    return places[:: max(1, int(np.ceil(len(places) / _TILES)))]


def _control_tiles(window: Window, side: int) -> list[tuple[int, int]]:
    height, width = window.mask.shape
    taken = cv2.boxFilter(
        (window.elsewhere | window.changed).astype(np.float32),
        -1,
        (side, side),
        anchor=(0, 0),
        borderType=cv2.BORDER_CONSTANT,
    )
    rng = np.random.default_rng(20261)
    places: list[tuple[int, int]] = []
    for _ in range(_CONTROLS * 20):
        if len(places) == _CONTROLS or height <= side or width <= side:
            break
        x, y = int(rng.integers(0, width - side)), int(rng.integers(0, height - side))
        if taken[y, x] == 0 and all(
            abs(x - px) > side // 2 or abs(y - py) > side // 2 for px, py in places
        ):
            places.append((x, y))
    return places


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings for each copied patch found inside the fill. See the module's docstring for the
    method.
    """
    side = _tile_side(window)
    if min(window.mask.shape) < side + 2:
        return Abstention("the picture is too small to hold a patch that could be recognised")
    # A wide fill has structure enough at a quarter of its size.
    step = 2 if min(cv2.boundingRect(window.filled.view(np.uint8))[2:]) < _BY_QUARTER else 4
    # A width of whole steps, so that the mirrored plane falls on whole pixels.
    luma = np.ascontiguousarray(window.luma_result[:, : window.mask.shape[1] // step * step])
    (fine, usual), band = high_passed(luma), mid_band(luma, step)
    searched, mirrored = (
        Searched.of(plane, side // step, step)
        for plane in (band, np.ascontiguousarray(band[:, ::-1]))
    )
    steep = steepness(luma)
    tiles = _tiles(window, side)
    if not tiles:
        return Abstention("the region is too narrow to hold a patch that could be recognised")
    # A mirrored copy is seen in every other tile as well as in each.
    many = len(tiles) > 16
    again = grain_again(fine, window.filled, (0,), _STANDS_OUT)
    flipped_for = lambda number: None if many and number % 2 else mirrored
    matches = [
        match
        for number, at in enumerate(tiles)
        if (
            match := _proposed(
                fine,
                steep,
                at,
                side,
                again,
                _best(fine, steep, searched, flipped_for(number), at, side, window.filled),
                window.filled,
            )
        )
    ]
    if not matches:
        return Abstention("the fill holds no grain or detail by which a copy could be recognised")
    found = [
        match
        for number, at in enumerate(_control_tiles(window, side))
        if (match := _best(fine, steep, searched, flipped_for(number), at, side))
    ]
    controls = np.array([match.agreement for match in found if not _touches(window, match)])
    if len(controls) < LEAST_CONTROLS:
        return Abstention(
            "too little untouched picture around the region to know how alike things are here"
        )
    values = np.array([match.likeness for match in matches])
    # Strong compression leaves little grain, and makes equal blocks of what was alike: a copy and a
    # likeness are then hard to tell.
    quality = carriers.result_compression.quality if carriers.result_compression.lossy else None
    doubt = 0.0 if quality is None else float(np.clip((90 - quality) / 10, 0, 1))
    agreed, needed = pooled_agreement(window.filled, window.lossy, matches, controls, doubt)
    needed = beyond_itself(fine, steep, window.filled, matches, agreed, needed)
    scores = np.minimum(
        score_of((agreed - needed) / 0.03, 0.0, 1.0),
        score_of((values - 0.22 - 0.12 * doubt) / 0.05, 0.0, 1.0),
    )
    natural = natural_range(controls, NULL)
    groups = _by_offset(matches, scores)
    readings = [
        _reading(
            window, fine, [matches[i] for i in group], float(max(scores[i] for i in group)), natural
        )
        for group in groups
    ]
    if readings:
        most = max(range(len(groups)), key=lambda number: len(groups[number]))
        readings[most] = _as_far_as_it_goes(
            window,
            usual,
            fine,
            steep,
            tiles,
            side,
            controls,
            doubt,
            matches[groups[most][0]],
            readings[most],
        )
        return sorted(readings, key=lambda reading: -reading.score)[:6]
    small = _pieced(window, doubt, fine, steep)
    if small:
        return small
    from_afar = _from_afar(window, usual, fine, steep, tiles, side, controls, doubt)
    if from_afar is not None:
        return [from_afar]
    other = _turned(window, doubt, fine, searched, tiles, side)
    if other is not None and (other.score >= 0.5 or other.score > float(scores.max())):
        return [other]
    strongest = int(np.argmax(scores))
    return [_reading(window, fine, [matches[strongest]], float(scores[strongest]), natural)]


def _as_far_as_it_goes(
    window: Window,
    usual: float,
    fine: np.ndarray,
    steep: np.ndarray,
    tiles: list[tuple[int, int]],
    side: int,
    controls: np.ndarray,
    doubt: float,
    match: Match,
    found: Reading,
) -> Reading:
    """A copy of which a part was found in the window, as the whole that it is where more of its
    source lies beyond.
    """
    mirrored, dx, dy = _offset(match)
    place = Place(dx + side - 1 if mirrored else dx, dy, mirrored)
    x, y, w, h = cv2.boundingRect(window.filled.view(np.uint8))
    if place.within((x, y, w, h), *fine.shape):
        return found
    whole = _from_afar(window, usual, fine, steep, tiles, side, controls, doubt, place)
    return found if whole is None or whole.signal.area <= found.signal.area else whole


def _from_afar(
    window: Window,
    usual: float,
    fine: np.ndarray,
    steep: np.ndarray,
    tiles: list[tuple[int, int]],
    side: int,
    controls: np.ndarray,
    doubt: float,
    known: Place | None = None,
) -> Reading | None:
    """A copy whose source lies farther off than the window reaches; None where there is none.
    `known`: where it lies, if a part of it was found.
    """
    below = far_source(
        window, tiles, side, fine, steep, partial(high_pass, usual=usual), steepness, known
    )
    if below is None:
        return None
    height = fine.shape[0]
    dx, dy = below.beyond(height)
    matches = []
    for at in tiles:
        sx, sy = below.place.source_of(*at, side)
        near, tile = (sx - dx, sy - dy), fine[at[1] : at[1] + side, at[0] : at[0] + side]
        if (
            min(near[0], near[1] - height) < 0
            or tile.shape != (side, side)
            or _variance(tile) < _EMPTY**2
        ):
            continue
        found = _refine(below.fine, tile, near, below.place.mirrored)
        if found is not None:
            matches.append(
                _candidate(
                    below.fine,
                    below.steep,
                    at,
                    found[1],
                    side,
                    below.place.mirrored,
                    found[0],
                    _FAR_ALIKE,
                    _part_of(window.filled, at, side),
                )
            )
    if not matches:
        return None
    filled = np.zeros(below.fine.shape, bool)
    filled[:height] = window.filled[:, : fine.shape[1]]
    agreed, needed = pooled_agreement(filled, window.lossy, matches, controls, doubt)
    needed = beyond_itself(below.fine, below.steep, filled, matches, agreed, needed)
    values = np.array([match.likeness for match in matches])
    scores = np.minimum(
        score_of((agreed - needed) / 0.03, 0.0, 1.0),
        score_of((values - 0.22 - 0.12 * doubt) / 0.05, 0.0, 1.0),
    )
    groups = _by_offset(matches, scores)
    if not groups:
        return None
    group = max(groups, key=len)
    return _reading(
        window,
        below.fine,
        [matches[i] for i in group],
        float(max(scores[i] for i in group)),
        natural_range(controls, NULL),
        (dx, dy),
    )


#: The agreement of the grain that makes a copy, for one tile and for two and three or more that
#: share an offset; lossless, and behind compression, which takes some of
#: it from copies too. Without a copy it is zero give or take .1, more where a line runs through
#: all of a tile (clean training photographs: up to .63 for one tile).
NEEDED = {False: (0.70, 0.50, 0.38), True: (0.58, 0.42, 0.30)}


def pooled_agreement(
    filled: np.ndarray, lossy: bool, matches: list[Match], controls: np.ndarray, doubt: float
) -> tuple[np.ndarray, np.ndarray]:
    """For each match the agreement, its own or pooled over the tiles that share its offset,
    whichever is more above what is needed, and what is needed.
    """
    highest = min(0.35 if lossy else 0.6, float(np.quantile(controls, 0.9)))
    # A print, a grating: where several places of the picture have their like, a place that has one
    # too is no copy by that.
    highest = max(highest, min(0.77, float(np.sort(controls)[-_SEVERAL])))
    itself = lambda one: (
        one.mirrored
        and filled[
            one.source[1] : one.source[1] + one.side, one.source[0] : one.source[0] + one.side
        ].mean()
        > 0.5
    )
    share = lambda one: float(
        filled[one.at[1] : one.at[1] + one.side, one.at[0] : one.at[0] + one.side].mean()
    )
    agreed, needed = [], []
    # What is patched together from many places agrees with them at many offsets.
    few = sum(one.agreement > _SAYS for one in matches) < _FILLS * len(matches)
    for match in matches:
        key = _offset(match)
        same = [
            other
            for other in matches
            if (there := _offset(other))[0] == key[0]
            and abs(there[1] - key[1]) <= 2
            and abs(there[2] - key[2]) <= 2
        ]
        options = []
        # By a part of a tile alone, or by two, nothing is known.
        for some in ([match], same) if share(match) > _WHOLE else (same,) if len(same) > 2 else ():
            grain = float(np.median([one.grain for one in some]))
            # Little grain tells little; and where only a few tiles of many say anything, they may
            # be what is likest by chance.
            least = (
                max(NEEDED[lossy][min(len(some), 3) - 1], highest + 0.15)
                + 0.5 * max(0.0, 0.6 - grain)
                + 0.06 * doubt
            )
            least += _FEW_SAY * few + _PARTLY * (1.0 - float(np.mean([share(one) for one in some])))
            if match.coarse == 0.0:
                # Where fine detail is regular, a search by it finds what is likest of all.
                least = max(least, min(float(controls.max()) + 0.05, 0.92))
            # A thing that is alike on both sides of its middle lies in the fill with both: only the
            # very pixels make a copy of that.
            # A thing whose middle lies beside the fill is alike on both sides of an upright axis:
            # level with itself, and near.
            beside = (
                match.mirrored
                and abs(match.source[1] - match.at[1]) <= 2
                and abs(match.source[0] - match.at[0]) < 4 * match.side
            )
            options.append(
                (
                    float(np.mean([one.agreement for one in some])),
                    max(least, 0.9) if itself(match) else least + 0.25 * beside,
                )
            )
        best = max(
            options, key=lambda option: option[0] - option[1], default=(match.agreement, 2.0)
        )
        agreed.append(best[0])
        needed.append(best[1])
    return np.array(agreed), np.array(needed)


def beyond_itself(
    fine: np.ndarray,
    steep: np.ndarray,
    filled: np.ndarray,
    matches: list[Match],
    agreed: np.ndarray,
    needed: np.ndarray,
) -> np.ndarray:
    """What is needed of each match, (n,): what agrees no more with a far place than with what lies
    beside it runs straight on, and is no copy.
    """
    near = np.flatnonzero(agreed > needed - 0.05)
    asked = near[np.argsort(needed[near] - agreed[near], kind="stable")][:_ASKED]
    if not len(asked):
        return needed
    itself = [
        alike_itself(fine, steep, one.at, one.side, _part_of(filled, one.at, one.side))
        for one in (matches[number] for number in asked)
    ]
    least = np.minimum(0.92, np.array(itself) + _MORE)
    needed = needed.copy()
    # Asked are the surest; what the others need goes with them.
    needed[near] = np.maximum(
        needed[near], float(np.median(least)) if len(near) > len(asked) else 0.0
    )
    needed[asked] = np.maximum(needed[asked], least)
    return needed


#: What a turned copy's grain must agree by, lossless and behind compression, over any number of
#: pixels (training photographs: copies .58 to .99 and .29 to .83, clean places up
#: to .40 and .30), and how many of its own spreads more.
LEAST = {False: 0.3, True: 0.15}
CHANCE = 3.0
#: What part of the fill a copy must cover that was found by its grain alone, or agree by so much
#: more.
_FILLS, _FEW_SAY = 0.35, 0.12
#: What part of a tile must lie in the fill for it to speak by itself; and how much more it must
#: agree by, for all of it that does not.
_WHOLE, _PARTLY = 0.6, 0.25
#: How many places of the untouched picture that have their like make it a picture where things
#: have.
_SEVERAL = 3
#: The agreement from which on a tile speaks for a copy at all.
_SAYS = 0.45
#: How many places of the same outline a turned copy's agreement is compared with.
_PLACES = 5


#: Tiles that are sought turned by quarters; the least likeness of structure that proposes a place;
#: how far apart proposals of one copy may lie, pixels.
_QUARTERED, _ALIKE, _APART = 6, 0.35, 6.0


def quartered(quarters: int, at: tuple[int, int], there: tuple[int, int], last: int) -> np.ndarray:
    """(2, 3) matrix from an area to where a square of it, `last` + 1 px wide, lies turned by
    quarters; corners (x, y) at `at` and `there`.
    """
    (x, y), (sx, sy) = at, there
    turn, shift = {
        1: (((0, 1), (-1, 0)), (sx - y, sy + last + x)),
        2: (((-1, 0), (0, -1)), (sx + last + x, sy + last + y)),
        3: (((0, -1), (1, 0)), (sx + last + y, sy - x)),
    }[quarters]
    return np.column_stack([np.array(turn, float), np.array(shift, float)])


def _quarters(
    band: Searched, tiles: list[tuple[int, int]], side: int
) -> list[tuple[np.ndarray, np.ndarray]]:
    """Copies turned by one, two or three quarters, as proposals: ((2, 3) matrix from area to
    source, (n, 2) points that said so), those of most tiles first.

    A quarter turn moves whole pixels to whole pixels, so a turned tile is found as a plain one is;
    fine texture has too few corners for `turned`.
    """
    step = band.step
    half, last, reach = side // step, side - 1, REACH // step
    proposed: list[tuple[int, np.ndarray, tuple[int, int], float]] = []
    some = tiles[:: -(-len(tiles) // _QUARTERED)]
    for x, y in some:
        hx, hy = x // step, y // step
        if min(hx, hy) < 0:
            continue
        template = band.plane[hy : hy + half, hx : hx + half]
        if template.shape != (half, half) or _variance(template) < 1e-6:
            continue
        template = template - template.mean()
        top, left = max(0, hy - reach), max(0, hx - reach)
        bottom, right = (
            min(band.plane.shape[0], hy + half + reach),
            min(band.plane.shape[1], hx + half + reach),
        )
        if bottom - top <= half or right - left <= half:
            continue
        for quarters in (1, 2, 3):
            match = band.correlated(
                np.ascontiguousarray(np.rot90(template, quarters)), top, left, bottom, right
            )
            match[
                max(0, hy - top - half // 2) : hy - top + half // 2 + 1,
                max(0, hx - left - half // 2) : hx - left + half // 2 + 1,
            ] = -1
            for _ in range(2):
                _, alike, _, (px, py) = cv2.minMaxLoc(match)
                if alike < _ALIKE:
                    break
                near = 8 // step
                match[max(0, py - near) : py + near + 1, max(0, px - near) : px + near + 1] = -1
                sx, sy = (left + px) * step, (top + py) * step
                proposed.append(
                    (
                        quarters,
                        quartered(quarters, (x, y), (sx, sy), last)[:, 2],
                        (x, y),
                        float(alike),
                    )
                )
    clusters: list[tuple[float, np.ndarray, np.ndarray]] = []
    for quarters, moved, _, _ in proposed:
        same = [
            one for one in proposed if one[0] == quarters and np.hypot(*(one[1] - moved)) <= _APART
        ]
        # A turned copy fills what it was pasted into: a third of its tiles must say the same.
        if len({at for _, _, at, _ in same}) < max(min(2, len(some)), -(-len(some) // 3)):
            continue
        turn = quartered(quarters, (0, 0), (0, 0), last)[:, :2]
        seen = np.array(
            [(x + dx, y + dy) for _, _, (x, y), _ in same for dx in (0, last) for dy in (0, last)],
            float,
        )
        clusters.append(
            (
                sum(alike for *_, alike in same),
                np.column_stack([turn, np.median([one[1] for one in same], axis=0)]),
                seen,
            )
        )
    best: list[tuple[np.ndarray, np.ndarray]] = []
    for _, matrix, seen in sorted(clusters, key=lambda cluster: -cluster[0]):
        if all(np.abs(matrix - other).max() > _APART for other, _ in best):
            best.append((matrix, seen))
    return best[:2]


def _turned(
    window: Window,
    doubt: float,
    fine: np.ndarray,
    band: Searched,
    tiles: list[tuple[int, int]],
    side: int,
) -> Reading | None:
    """A copy that was turned, scaled or mirrored before it was pasted in."""
    searcher = Searcher(window, high_pass, steepness)
    best = lambda options: max(
        (one for one in options if one is not None), key=lambda one: one.agreement, default=None
    )

    def turned(area: np.ndarray, some: list[tuple[int, int]]) -> Similar | None:
        by_grain = []
        for again in grain_again(fine, area, (1, 2, 3), _TURNED_OUT):
            corners = np.array(
                [
                    (again.at[0] + dx, again.at[1] + dy)
                    for dx in (0, again.side - 1)
                    for dy in (0, again.side - 1)
                ],
                float,
            )
            by_grain.append(
                (quartered(again.quarters, again.at, again.there, again.side - 1), corners)
            )
        by_tiles = [
            searcher.verified(matrix, False, area, seen)
            for matrix, seen in _quarters(band, some, side)
        ]
        # What has no tile to speak for it must fill a good part of what it was pasted into: a post is
        # its own half turn.
        wide = [
            one
            for matrix, seen in by_grain
            if (one := searcher.verified(matrix, False, area, seen)) is not None
            and one.area.sum() > _FILLS * area.sum()
        ]
        found: Similar | None = best([*by_tiles, *wide])
        return found

    by_corners, by_tiles = searcher.best(window.filled), turned(window.filled, tiles)
    found = best([by_corners, by_tiles])
    if found is None or found.agreement < 0.12:
        return None
    # Without a copy the grain agrees by zero; the less of it there is, the more by chance, since
    # the likest of many places is taken. About six pixels of it are one that was
    # evened out.
    least = LEAST[window.lossy] + CHANCE * float(np.sqrt(6.0 / max(found.judged, 1))) + 0.06 * doubt
    if found.agreement > least - 0.05:
        least = max(least, min(0.9, searcher.beside(found.area) + _MORE))
    natural = []
    # What is below the least can't be recognised, whatever is natural here.
    for dx, dy in (
        window.room.places(window.filled, _PLACES, 20269) if found.agreement > least - 0.05 else ()
    ):
        moved = cv2.warpAffine(
            window.filled.astype(np.uint8),
            np.array([[1, 0, dx], [0, 1, dy]], np.float32),
            window.filled.shape[::-1],
        ).astype(bool)
        # The same search that found it, so that what it finds by nature is known.
        other = (
            turned(moved, [(x + dx, y + dy) for x, y in tiles])
            if found is by_tiles
            else searcher.best(moved, (found.mirrored,))
        )
        # Where a control's counterpart lies in the fill, it is the copy's source and no control.
        if (
            other is None
            or not window.filled[other.source_of(moved, window.filled.shape)].mean() > 0.05
        ):
            natural.append(0.0 if other is None else other.agreement)
    null = np.array(natural if len(natural) >= 4 else [*natural, 0.0, 0.05, 0.1])
    needed = max(
        least, float(np.median(null)) + 0.2 + 0.06 * doubt, float(null.max()) + 0.1 + 0.06 * doubt
    )
    score = float(score_of(np.array((found.agreement - needed) / 0.025), 0.0, 1.0))
    return _turned_reading(window, found, score, natural_range(null, NULL))


#: What the grain of a piece must agree by, lossless and behind compression, where it has the least
#: structure (photographs of training and others: copies .78 to .99 and .6 to
#: .87, likenesses up to .74 and .66).
PIECE = {False: 0.77, True: 0.72}


def _pieced(window: Window, doubt: float, fine: np.ndarray, steep: np.ndarray) -> list[Reading]:
    """Copies of pieces smaller than a tile, of parts of the fill, or upside down; only those that
    stand.
    """
    least = PIECE[window.lossy] + 0.06 * doubt
    found = [one for one in pieces(fine, steep, window.filled) if one.agreement > least]
    if not found:
        return []
    natural = []
    # A print, a cloth: where pieces have their like all over, one that has it is no copy by that.
    for dx, dy in window.room.places(window.filled, _PLACES, 20270):
        moved = cv2.warpAffine(
            window.filled.astype(np.uint8),
            np.array([[1, 0, dx], [0, 1, dy]], np.float32),
            window.filled.shape[::-1],
        ).astype(bool)
        natural.append(
            max(
                (
                    one.agreement
                    for one in pieces(fine, steep, moved)
                    if not window.filled[one.source_of(one.area, window.filled.shape)].mean() > 0.05
                ),
                default=0.0,
            )
        )
    null = np.array([*natural, 0.0, 0.05, 0.1]) if len(natural) < 4 else np.array(natural)
    needed = max(least, float(null.max()) + 0.1)
    scores = [float(score_of(np.array((one.agreement - needed) / 0.02), 0.0, 1.0)) for one in found]
    return [
        _turned_reading(window, one, score, natural_range(null, NULL))
        for one, score in zip(found, scores, strict=True)
        if score >= 0.5
    ][:6]


def _turned_reading(window: Window, found: Similar, score: float, natural: Natural) -> Reading:
    area = found.area if found.area.any() else window.filled
    ys, xs = np.nonzero(area)
    x, y, w, h = int(xs.min()), int(ys.min()), int(np.ptp(xs)) + 1, int(np.ptp(ys)) + 1
    corners = (
        np.array([[x, y, 1], [x + w, y, 1], [x + w, y + h, 1], [x, y + h, 1]], float)
        @ found.matrix.T
    )
    (sx, sy), (sx1, sy1) = corners.min(axis=0), corners.max(axis=0)
    hull = cv2.convexHull(np.stack([xs, ys], -1).astype(np.int32))[:, 0]
    ring = cv2.approxPolyDP(hull[:, None], 1.5, True)[:, 0] + 0.5
    if len(ring) < 3:
        ring = np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]], float)
    inside = window.filled[max(0, int(sy)) : max(1, int(sy1)), max(0, int(sx)) : max(1, int(sx1))]
    turned = bool(found.degrees or found.scale != 1)
    return Reading(
        "repeat",
        score,
        window.box_to_frame(x, y, w, h),
        window.to_frame(ring),
        Signal(_contrast(window, x, y, w, h), float(max(w, h)), float(area.sum())),
        Measure("agreement of the grain", found.agreement, "1 = the same pixels", natural),
        Copy(
            mirrored=found.mirrored,
            offset_px=[float((sx + sx1) / 2 - x - w / 2), float((sy + sy1) / 2 - y - h / 2)],
            copy=window.box_to_frame(x, y, w, h),
            source=window.box_to_frame(sx, sy, sx1 - sx, sy1 - sy),
            source_polygon=window.to_frame(corners),
            source_inside_region=bool(inside.size and inside.mean() > 0.5),
            patches=found.matches,
            agreement=found.agreement,
            judged_px=found.judged,
            turned_degrees=found.degrees if turned else None,
            scale=found.scale if turned else None,
        ),
    )


def _contrast(
    window: Window, x: int, y: int, w: int, h: int
) -> tuple[tuple[float, float, float], ...]:
    """What catches the eye is the repeated structure itself: half its contrast per octave, which is
    what a second look compares.
    """
    bands, finer = [], window.lab_result[..., 0][y : y + h, x : x + w]
    for octave in range(1, 6):
        coarser = cv2.GaussianBlur(finer, (0, 0), 0.5 * 2.0**octave)
        bands.append((2.0**-octave, 0.5 * float((finer - coarser).std()), 0.0))
        finer = coarser
    return tuple(bands)


def _touches(window: Window, match: Match) -> bool:
    """Whether a control's counterpart lies in a fill: then it is the copy's source and no control."""
    x, y = match.source
    return bool(window.filled[y : y + match.side, x : x + match.side].mean() > 0.1)


def _by_offset(matches: list[Match], scores: np.ndarray) -> list[list[int]]:
    """Tiles over the threshold that share an offset within 2 px (or a mirror axis) are one copy."""
    groups: list[tuple[tuple[bool, int, int], list[int]]] = []
    for i in np.argsort(-scores):
        if scores[i] < 0.5:
            break
        match = matches[i]
        key = _offset(match)
        for other, members in groups:
            if other[0] == key[0] and abs(other[1] - key[1]) <= 2 and abs(other[2] - key[2]) <= 2:
                members.append(int(i))
                break
        else:
            groups.append((key, [int(i)]))
    return [members for _, members in groups]


def _offset(match: Match) -> tuple[bool, int, int]:
    dx = match.source[0] + match.at[0] if match.mirrored else match.source[0] - match.at[0]
    return match.mirrored, dx, match.source[1] - match.at[1]


def _copied(window: Window, fine: np.ndarray, matches: list[Match]) -> np.ndarray:
    """Pixels of the copy: where the grain agrees locally around the matched tiles; bool like the
    window.
    """
    first = matches[0]
    side = first.side
    x0, y0 = min(m.at[0] for m in matches) - side // 2, min(m.at[1] for m in matches) - side // 2
    x1, y1 = (
        max(m.at[0] for m in matches) + side * 3 // 2,
        max(m.at[1] for m in matches) + side * 3 // 2,
    )
    height, width = fine.shape
    mirrored, dx, dy = _offset(first)
    # Below the window a far source may lie.
    x0, y0, x1, y1 = (
        max(0, x0),
        max(0, y0, -dy),
        min(width, x1),
        min(window.mask.shape[0], y1, height - dy),
    )
    if mirrored:  # the column x of the copy comes from dx + side - 1 - x
        x0, x1 = max(x0, dx + side - width), min(x1, dx + side)
    else:
        x0, x1 = max(x0, -dx), min(x1, width - dx)
    copied = np.zeros(window.mask.shape, bool)
    if x1 - x0 < 8 or y1 - y0 < 8:
        for match in matches:
            copied[match.at[1] : match.at[1] + side, match.at[0] : match.at[0] + side] = True
        return copied
    here = fine[y0:y1, x0:x1]
    there = (
        fine[y0 + dy : y1 + dy, dx + side - x1 : dx + side - x0][:, ::-1]
        if mirrored
        else fine[y0 + dy : y1 + dy, x0 + dx : x1 + dx]
    )
    box = (15, 15)
    power = cv2.blur(here * here + there * there, box) + 1e-3
    local = cv2.blur(2 * here * there, box) / power
    agree = (local > max(0.3, 0.55 * first.likeness)) & window.filled[y0:y1, x0:x1]
    agree = cv2.morphologyEx(
        agree.astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8)
    ).astype(bool)
    copied[y0:y1, x0:x1] = agree
    if copied.sum() < side * side / 4:
        for match in matches:
            copied[match.at[1] : match.at[1] + side, match.at[0] : match.at[0] + side] = True
        copied &= window.filled
    return copied


def _reading(
    window: Window,
    fine: np.ndarray,
    matches: list[Match],
    score: float,
    natural: Natural,
    beyond: tuple[int, int] = (0, 0),
) -> Reading:
    """Of tiles that share an offset. `beyond`: what to add to a source's place for the window's
    pixels.
    """
    matches = sorted(matches, key=lambda match: -match.agreement)
    first = matches[0]
    if score < 0.5:
        # Not reported: where it lies is enough.
        (x, y), side = first.at, first.side
        return Reading(
            "repeat",
            score,
            window.box_to_frame(x, y, side, side),
            window.to_frame(np.array([[x, y], [x + side, y], [x + side, y + side], [x, y + side]])),
            Signal((), float(side), float(side * side)),
            Measure("agreement of the grain", first.agreement, "1 = the same pixels", natural),
            Copy(),
        )
    copied = _copied(window, fine, matches)
    ys, xs = np.nonzero(copied)
    x, y, w, h = int(xs.min()), int(ys.min()), int(np.ptp(xs)) + 1, int(np.ptp(ys)) + 1
    mirrored, dx, dy = _offset(first)
    source_x, dy = (dx + first.side - x - w if mirrored else x + dx) + beyond[0], dy + beyond[1]
    hull = cv2.convexHull(np.stack([xs, ys], -1).astype(np.int32))[:, 0]
    polygon = window.to_frame(cv2.approxPolyDP(hull[:, None], 1.5, True)[:, 0] + 0.5)
    if len(polygon) < 3:
        polygon = window.to_frame(np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h]]))
    there = window.filled[
        max(0, y + dy) : max(0, y + dy + h), max(0, source_x) : max(0, source_x + w)
    ]
    inside = bool(there.size and there.mean() > 0.5)
    return Reading(
        "repeat",
        score,
        window.box_to_frame(x, y, w, h),
        polygon,
        Signal(_contrast(window, x, y, w, h), float(max(w, h)), float(copied.sum())),
        Measure("agreement of the grain", first.agreement, "1 = the same pixels", natural),
        Copy(
            mirrored=mirrored,
            offset_px=[float(source_x - x), float(dy)],
            copy=window.box_to_frame(x, y, w, h),
            source=window.box_to_frame(source_x, y + dy, w, h),
            source_inside_region=inside,
            patches=len(matches),
            agreement=first.agreement,
            likeness=first.likeness,
            structure_agreement=first.coarse,
        ),
    )
