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

from ..features.copies.again import STANDS_OUT, TURNED_OUT, grain_again
from ..features.copies.agreed import FILLS, MORE, beyond_itself, pooled_agreement
from ..features.copies.far import Place, far_source
from ..features.copies.grain import (
    EMPTY,
    high_pass,
    high_passed,
    mid_band,
    steepness,
    variance,
)
from ..features.copies.matches import (
    Match,
    best_match,
    candidate,
    offset_of,
    part_of,
    proposed,
    refined,
)
from ..features.copies.pieces import pieces
from ..features.copies.quarters import by_quarters, quartered
from ..features.copies.readings import by_offset, reading_of, touches, turned_reading
from ..features.copies.searched import Searched
from ..features.copies.tiles import control_tiles, tile_side, tiles_of
from ..features.copies.turned import Searcher, Similar
from ..null import natural_range, score_of
from ..report import Abstention, Reading
from ..scene.carriers import Carriers
from ..scene.window import Window

NULL = "lag"
LEAST_CONTROLS = 6
#: Tiles of fills as wide and high as this, pixels, are sought at a quarter of the size instead of
#: half.
_BY_QUARTER = 420
#: What a far source's likeness of structure is given as: it is verified by its grain.
_FAR_ALIKE = 0.5


def measure(window: Window, carriers: Carriers) -> list[Reading] | Abstention:
    """Readings for each copied patch found inside the fill. See the module's docstring for the
    method.
    """
    side = tile_side(window)
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
    tiles = tiles_of(window, side)
    if not tiles:
        return Abstention("the region is too narrow to hold a patch that could be recognised")
    # A mirrored copy is seen in every other tile as well as in each.
    many = len(tiles) > 16
    again = grain_again(fine, window.filled, (0,), STANDS_OUT)
    flipped_for = lambda number: None if many and number % 2 else mirrored
    matches = [
        match
        for number, at in enumerate(tiles)
        if (
            match := proposed(
                fine,
                steep,
                at,
                side,
                again,
                best_match(fine, steep, searched, flipped_for(number), at, side, window.filled),
                window.filled,
            )
        )
    ]
    if not matches:
        return Abstention("the fill holds no grain or detail by which a copy could be recognised")
    found = [
        match
        for number, at in enumerate(control_tiles(window, side))
        if (match := best_match(fine, steep, searched, flipped_for(number), at, side))
    ]
    controls = np.array([match.agreement for match in found if not touches(window, match)])
    if len(controls) < LEAST_CONTROLS:
        return Abstention(
            "too little untouched picture around the region to know how alike things are here"
        )
    values = np.array([match.likeness for match in matches])
    # Strong compression leaves little grain, and makes equal blocks of what was alike: a copy and a
    # likeness are then hard to tell.
    quality = carriers.result_compression.quality if carriers.result_compression.lossy else None
    doubt = 0.0 if quality is None else float(np.clip((90 - quality) / 10, 0, 1))
    sought = _Sought(window, usual, fine, steep, tiles, side, controls, doubt)
    agreed, needed = pooled_agreement(window.filled, window.lossy, matches, controls, doubt)
    needed = beyond_itself(fine, steep, window.filled, matches, agreed, needed)
    scores = np.minimum(
        score_of((agreed - needed) / 0.03, 0.0, 1.0),
        score_of((values - 0.22 - 0.12 * doubt) / 0.05, 0.0, 1.0),
    )
    natural = natural_range(controls, NULL)
    groups = by_offset(matches, scores)
    readings = [
        reading_of(
            window, fine, [matches[i] for i in group], float(max(scores[i] for i in group)), natural
        )
        for group in groups
    ]
    if readings:
        most = max(range(len(groups)), key=lambda number: len(groups[number]))
        readings[most] = _as_far_as_it_goes(sought, matches[groups[most][0]], readings[most])
        return sorted(readings, key=lambda reading: -reading.score)[:6]
    small = _pieced(window, doubt, fine, steep)
    if small:
        return small
    from_afar = _from_afar(sought)
    if from_afar is not None:
        return [from_afar]
    other = _turned(window, doubt, fine, searched, tiles, side)
    if other is not None and (other.score >= 0.5 or other.score > float(scores.max())):
        return [other]
    strongest = int(np.argmax(scores))
    return [reading_of(window, fine, [matches[strongest]], float(scores[strongest]), natural)]


@dataclass(frozen=True)
class _Sought:
    """A fill whose copies are sought.

    Attributes:
        usual: as of `high_passed`. fine, steep: planes of the window. tiles: corners of those of
            the fill, `side` pixels wide. controls: agreements of untouched tiles, (n,). doubt: 0..1,
            how much of the grain compression took.
    """

    window: Window
    usual: float
    fine: np.ndarray
    steep: np.ndarray
    tiles: list[tuple[int, int]]
    side: int
    controls: np.ndarray
    doubt: float


def _as_far_as_it_goes(sought: _Sought, match: Match, found: Reading) -> Reading:
    """A copy of which a part was found in the window, as the whole that it is where more of its
    source lies beyond.
    """
    mirrored, dx, dy = offset_of(match)
    place = Place(dx + sought.side - 1 if mirrored else dx, dy, mirrored)
    x, y, w, h = cv2.boundingRect(sought.window.filled.view(np.uint8))
    if place.within((x, y, w, h), *sought.fine.shape):
        return found
    whole = _from_afar(sought, place)
    return found if whole is None or whole.signal.area <= found.signal.area else whole


def _from_afar(sought: _Sought, known: Place | None = None) -> Reading | None:
    """A copy whose source lies farther off than the window reaches; None where there is none.
    `known`: where it lies, if a part of it was found.
    """
    window, fine, side, tiles = sought.window, sought.fine, sought.side, sought.tiles
    below = far_source(
        window,
        tiles,
        side,
        fine,
        sought.steep,
        partial(high_pass, usual=sought.usual),
        steepness,
        known,
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
            or variance(tile) < EMPTY**2
        ):
            continue
        found = refined(below.fine, tile, near, below.place.mirrored)
        if found is not None:
            matches.append(
                candidate(
                    below.fine,
                    below.steep,
                    at,
                    found[1],
                    side,
                    below.place.mirrored,
                    (found[0], _FAR_ALIKE),
                    part_of(window.filled, at, side),
                )
            )
    if not matches:
        return None
    filled = np.zeros(below.fine.shape, bool)
    filled[:height] = window.filled[:, : fine.shape[1]]
    agreed, needed = pooled_agreement(filled, window.lossy, matches, sought.controls, sought.doubt)
    needed = beyond_itself(below.fine, below.steep, filled, matches, agreed, needed)
    values = np.array([match.likeness for match in matches])
    scores = np.minimum(
        score_of((agreed - needed) / 0.03, 0.0, 1.0),
        score_of((values - 0.22 - 0.12 * sought.doubt) / 0.05, 0.0, 1.0),
    )
    groups = by_offset(matches, scores)
    if not groups:
        return None
    group = max(groups, key=len)
    return reading_of(
        window,
        below.fine,
        [matches[i] for i in group],
        float(max(scores[i] for i in group)),
        natural_range(sought.controls, NULL),
        (dx, dy),
    )


#: What a turned copy's grain must agree by, lossless and behind compression, over any number of
#: pixels (training photographs: copies .58 to .99 and .29 to .83, clean places up
#: to .40 and .30), and how many of its own spreads more.
LEAST = {False: 0.3, True: 0.15}
CHANCE = 3.0
#: How many places of the same outline a turned copy's agreement is compared with.
_PLACES = 5


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
        for again in grain_again(fine, area, (1, 2, 3), TURNED_OUT):
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
            for matrix, seen in by_quarters(band, some, side)
        ]
        # What has no tile to speak for it must fill a good part of what it was pasted into: a post is
        # its own half turn.
        wide = [
            one
            for matrix, seen in by_grain
            if (one := searcher.verified(matrix, False, area, seen)) is not None
            and one.area.sum() > FILLS * area.sum()
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
        least = max(least, min(0.9, searcher.beside(found.area) + MORE))
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
    return turned_reading(window, found, score, natural_range(null, NULL))


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
        turned_reading(window, one, score, natural_range(null, NULL))
        for one, score in zip(found, scores, strict=True)
        if score >= 0.5
    ][:6]
