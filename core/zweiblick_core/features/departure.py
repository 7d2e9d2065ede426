"""How far a fill departs from what it adjoins, measured against the same outline placed over
untouched ground.

What belongs at a place goes on across its outline: detail, its direction, colour and how colourful
it is change there no more than they do across such an outline anywhere near. Two things are asked.
*Across*: just inside against just outside, all along the outline, by the mean size of the
differences (something ends here) and by the size of their mean (all of it differs in one way).
*Novel*: how far the cells inside are from the nearest of those around (nearest-neighbour novelty,
Boiman and Irani 2007), no farther off than the region is wide: what the picture has elsewhere may
still not belong here. Each is an excess over its null, novelty over how novel the sectors
of its own surroundings are to one another too; the amount is their mean, so that no single one
decides.

All is averaged over some pixels, so that it is worked out where a region is about `RADIUS` pixels
wide either way, whatever its size.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from ..null import excess
from ..scene.outline_edges import outline_edges
from ..scene.window import Window

#: What is compared, by name; and the least spread of each: differences below it look the same.
CHANNELS = (
    "finest detail",
    "fine detail",
    "middle detail",
    "coarse detail",
    "brightness",
    "green to red",
    "blue to yellow",
    "detail in colour",
    "direction",
    "direction, slanted",
)
_LEAST = np.array([0.25, 0.25, 0.25, 0.25, 4.0, 2.0, 2.0, 0.25, 0.15, 0.15], np.float32)
#: Which channels are detail, and which colour.
DETAIL, COLOUR = [0, 1, 2, 3, 7], [4, 5, 6]
#: Wavelengths of the channels of detail, original pixels.
WAVELENGTHS = (4.0, 8.0, 16.0, 32.0)
#: Radius of a region where it is measured; of what lies around it that is looked at, in radii; how
#: deep the strips along the outline are, in radii.
RADIUS, REACH, STRIP = 22.0, 1.0, 0.3
#: Detail below this is noise of the file, levels.
_FAINT = 0.35
#: Control placements wanted, and needed; the seed of their places.
_PLACES, _FEWEST, _SEED = 20, 6, 20277
#: No single measure counts for more, spreads; and novelty counts so many times what differs across
#: the outline: along an edge of the scene much does by nature (training photographs, worked out from
#: stored parts: of fills seen at a glance .79 beyond 98 % of clean ones; .69 if all count alike).
_MOST, _NOVEL = 8.0, 2.0
#: The amount is no more than this, and so many times what differs across the outline.
_UNLESS = 1.0, 2.0
#: Of fewer placements than this the amount counts for less.
_ENOUGH = 14
_POINTS, _CELLS, _SECTORS = 80, 500, 8


@dataclass(frozen=True)
class Departure:
    """Of one region.

    Attributes:
        amount: mean excess, spreads of the null; near zero where all goes on.
        across, together, novel: excesses of the mean difference, of the difference's mean, and of
            the distance to what lies around, spreads.
        by_channel: excess of each of `CHANNELS` across the outline, (10,), spreads.
        difference: inside less outside: natural logarithms of contrast for detail, levels of L*,
            a*, b*, shares of direction, (10,).
        inside, around: contrast of detail at `WAVELENGTHS`, levels of 255.
        natural: amounts of the control placements, each against all others, (n,).
    """

    amount: float
    across: float
    together: float
    novel: float
    by_channel: np.ndarray
    difference: np.ndarray
    inside: np.ndarray
    around: np.ndarray
    natural: np.ndarray


def departure(window: Window) -> Departure | None:
    """Of a window's region; None where too little untouched ground lies around it. Made once."""
    key = "departure"
    if key not in window.shared:
        window.shared[key] = _departure(window)
    made: Departure | None = window.shared[key]
    return made


@dataclass(frozen=True)
class _At:
    """What is measured of a shape at one place.

    Attributes:
        across: differences at points along its outline, (n, 10).
        inside, around: cells, (m, 10) and (k, 10). angles: of those around about the shape's
            middle, radians (k,).
    """

    across: np.ndarray
    inside: np.ndarray
    around: np.ndarray
    angles: np.ndarray


class _Ground:
    """The window's planes, made smaller."""

    def __init__(self, window: Window) -> None:
        shape = window.judged
        radius = float(np.sqrt(max(1, cv2.countNonZero(shape.view(np.uint8))) / np.pi))
        part = max(1.0, radius / RADIUS)
        height, width = shape.shape
        self.size = (max(1, round(width / part)), max(1, round(height / part)))
        self.part = np.array([width / self.size[0], height / self.size[1]])
        self.planes = [self._small(plane) for plane in _planes(window)]
        radius /= part
        self.strip = max(3, round(STRIP * radius))
        self.reach = max(12, round(REACH * radius))
        area = self._small(shape.view(np.uint8) * np.uint8(255)) > 127
        self.box = cv2.boundingRect(area.view(np.uint8))
        x, y, w, h = self.box
        self.shape = np.ascontiguousarray(area[y : y + h, x : x + w])
        blocked = self._small((window.elsewhere | shape).view(np.uint8) * np.uint8(255)) > 25
        self.blocked = blocked
        #: Where an edge of the scene's own runs: what meets there is not the fill's doing.
        self.edges = self._small(outline_edges(window).own.view(np.uint8) * np.uint8(255)) > 127
        cells = np.stack([cv2.blur(plane, (7, 7)) for plane in self.planes], -1)
        self.cells = _described(cells)

    def _small(self, plane: np.ndarray) -> np.ndarray:
        return cv2.resize(plane, self.size, interpolation=cv2.INTER_AREA)

    def at(self, dx: int, dy: int) -> _At | None:
        """The shape moved by so much; None where too little is known."""
        x, y, w, h = self.box
        margin = self.reach + 2
        width, height = self.size
        x0, y0 = max(0, x + dx - margin), max(0, y + dy - margin)
        x1, y1 = min(width, x + dx + w + margin), min(height, y + dy + h + margin)
        here = (slice(y0, y1), slice(x0, x1))
        shape = np.zeros((y1 - y0, x1 - x0), bool)
        there = shape[max(0, y + dy - y0) :, max(0, x + dx - x0) :][:h, :w]
        there[:] = self.shape[: there.shape[0], : there.shape[1]]
        known = ~self.blocked[here] & ~shape
        across = self._across(here, shape, known, (dx, dy) == (0, 0))
        if across is None:
            return None
        near = _grown(shape, self.reach) & ~_grown(~known, 3) & _grid(shape.shape, 3)
        within = ~_grown(~shape, 2) & _grid(shape.shape, 2)
        if within.sum() < 4:
            within = shape & _grid(shape.shape, 2)
        cells = self.cells[here]
        inside, around = _some(cells[within]), _some(cells[near])
        if len(inside) < 4 or len(around) < 20:
            return None
        ys, xs = (_some(axis) for axis in np.nonzero(near))
        middle = (y + dy - y0 + h / 2, x + dx - x0 + w / 2)
        return _At(across, inside, around, np.arctan2(ys - middle[0], xs - middle[1]))

    def _across(
        self, here: tuple[slice, slice], shape: np.ndarray, known: np.ndarray, own: bool
    ) -> np.ndarray | None:
        """Inside less outside at points along the outline, (n, 10); of the region's `own`, not where
        an edge of the scene runs along it.
        """
        size = (2 * self.strip + 1,) * 2
        inner = shape & _grown(~shape, self.strip)
        # What lies on the outline itself is of both.
        inner = inner & ~_grown(~shape, 1) if (inner & ~_grown(~shape, 1)).sum() > 20 else inner
        outer = known & _grown(shape, self.strip) & ~_grown(shape, 1)
        rings, _ = cv2.findContours(shape.view(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        if not rings:
            return None
        points = np.concatenate([ring[:, 0] for ring in rings])
        x, y = points[:: max(1, len(points) // _POINTS)].T
        sides, enough = [], np.ones(len(x), bool)
        for side in (inner, outer):
            weight = side.astype(np.float32)
            share = cv2.blur(weight, size, borderType=cv2.BORDER_CONSTANT)[y, x]
            enough &= share > 0.08
            sides.append(
                np.stack(
                    [
                        cv2.blur(plane[here] * weight, size, borderType=cv2.BORDER_CONSTANT)[y, x]
                        for plane in self.planes
                    ],
                    -1,
                )
                / np.maximum(share, 1e-6)[:, None]
            )
        if own and (enough & ~self.edges[here][y, x]).sum() >= 8:
            enough &= ~self.edges[here][y, x]
        if enough.sum() < 8:
            return None
        inside, outside = (_described(side[enough]) for side in sides)
        return inside - outside


def _planes(window: Window) -> list[np.ndarray]:
    """Detail of luma at four scales, L*, a*, b*, detail of colour, and the structure tensor's
    difference, slant and sum; float32 (height, width) each."""
    known = window.seen.shared
    if "departure, planes" not in known:
        luma, lab = window.luma_result, window.lab_result
        blurred = lambda plane, sigma: cv2.GaussianBlur(plane, (0, 0), sigma)
        detail = [
            np.abs(blurred(luma, 0.7 * scale) - blurred(luma, 1.4 * scale))
            for scale in (1, 2, 4, 8)
        ]
        colours = [np.ascontiguousarray(lab[..., channel]) for channel in range(3)]
        colourful = sum(np.abs(blurred(plane, 1.4) - blurred(plane, 4.0)) for plane in colours[1:])
        smooth = blurred(luma, 1.0)
        gx, gy = (cv2.Sobel(smooth, cv2.CV_32F, *way) / 8 for way in ((1, 0), (0, 1)))
        known["departure, planes"] = [
            *detail,
            *colours,
            np.asarray(colourful, np.float32),
            gx * gx - gy * gy,
            2 * gx * gy,
            gx * gx + gy * gy,
        ]
    planes: list[np.ndarray] = known["departure, planes"]
    return planes


def _described(means: np.ndarray) -> np.ndarray:
    """Means of `_planes`, (..., 11), as `CHANNELS`, (..., 10)."""
    logs = np.log(means[..., [0, 1, 2, 3, 7]] + _FAINT)
    return np.concatenate(
        [
            logs[..., :4],
            means[..., 4:7],
            logs[..., 4:],
            means[..., 8:10] / (means[..., 10:11] + 2.0),
        ],
        axis=-1,
    ).astype(np.float32)


def _grown(area: np.ndarray, by: int) -> np.ndarray:
    return cv2.dilate(area.view(np.uint8), np.ones((2 * by + 1, 2 * by + 1), np.uint8)).astype(bool)


def _grid(shape: tuple[int, ...], every: int) -> np.ndarray:
    chosen = np.zeros(shape, bool)
    chosen[::every, ::every] = True
    return chosen


def _some(cells: np.ndarray) -> np.ndarray:
    """At most `_CELLS` of them, evenly."""
    return cells[:: max(1, -(-len(cells) // _CELLS))]


def _departure(window: Window) -> Departure | None:
    ground = _Ground(window)
    own = ground.at(0, 0)
    if own is None:
        return None
    places = window.room.places(window.judged, _PLACES, _SEED)
    moved = {(round(dx / ground.part[0]), round(dy / ground.part[1])) for dx, dy in places}
    controls = [one for at in sorted(moved) if (one := ground.at(*at)) is not None]
    if len(controls) < _FEWEST:
        return None
    every = [own, *controls]
    sizes = np.array([np.abs(one.across).mean(axis=0) for one in every])
    means = np.abs([one.across.mean(axis=0) for one in every])
    usual = lambda values, part: np.maximum(np.median(values[1:], axis=0), part * _LEAST)
    rms = lambda values: np.sqrt((values**2).mean(axis=1))
    across, together = sizes / usual(sizes, 0.4), means / usual(means, 0.3)
    around = np.concatenate([one.around for one in every])
    low, high = np.percentile(around, [10, 90], axis=0)
    scale = np.maximum((high - low) / 2.56, _LEAST)
    novel = np.array([_nearest(one.inside, one.around, scale) for one in every])
    sectors = _of_sectors(own, scale)
    #: (places, measures), the region's own first.
    measures = np.column_stack(
        [
            rms(across),
            rms(across[:, DETAIL]),
            rms(together),
            rms(together[:, DETAIL]),
            novel,
        ]
    )
    excesses = np.array(
        [
            _excesses(row, np.delete(measures, [0, at], axis=0), sectors if at == 0 else None)
            for at, row in enumerate(measures)
        ]
    )
    some = np.clip(excesses, -1.0, _MOST)
    amounts = (some[:, :4].mean(axis=1) + _NOVEL * some[:, 4:].mean(axis=1)) / (1 + _NOVEL)
    # A null of few placements knows little of its own tail.
    amounts *= np.sqrt(min(1.0, len(controls) / _ENOUGH))
    by_channel = np.array(
        [
            float(excess(sizes[0, channel], sizes[1:, channel], 0.3 * _LEAST[channel]))
            for channel in range(len(CHANNELS))
        ]
    )
    contrast = lambda cells: np.exp(np.median(cells[:, :4], axis=0)) - _FAINT
    # What goes on at the outline adjoins it; what lies within is for others to say.
    most = _UNLESS[0] + _UNLESS[1] * max(float(excesses[0, 0]), float(excesses[0, 2]), 0.0)
    return Departure(
        min(float(amounts[0]), most),
        float(excesses[0, 0]),
        float(excesses[0, 2]),
        float(excesses[0, 4]),
        by_channel,
        own.across.mean(axis=0),
        contrast(own.inside),
        contrast(own.around),
        amounts[1:],
    )


#: The least spread of each measure: across, of detail, together, of detail, novel, at most.
_SPREADS = (0.15, 0.15, 0.2, 0.2, 0.25, 0.25)


def _excesses(row: np.ndarray, controls: np.ndarray, sectors: np.ndarray | None) -> list[float]:
    """Of a place's measures (6,) over those of others (n, 6), and of how novel sectors of its own
    surroundings are (m, 2).
    """
    found = []
    for column, spread in enumerate(_SPREADS):
        null = controls[:, column]
        if sectors is not None and column >= 4:
            null = np.concatenate([null, sectors[:, column - 4]])
        found.append(float(excess(row[column], null, spread)))
    return found


def _of_sectors(own: _At, scale: np.ndarray) -> np.ndarray:
    """How novel each sector of a region's surroundings is to the others, (n, 2): where many things
    meet, each is.
    """
    found = []
    for middle in 2 * np.pi * np.arange(_SECTORS) / _SECTORS:
        off = np.abs(np.angle(np.exp(1j * (own.angles - middle))))
        within, away = off < np.pi / _SECTORS, off > 1.4 * np.pi / _SECTORS
        if within.sum() >= 4 and away.sum() >= 20:
            found.append(_nearest(own.around[within], own.around[away], scale))
    return np.array(found).reshape(-1, 2)


def _nearest(inside: np.ndarray, around: np.ndarray, scale: np.ndarray) -> tuple[float, float]:
    """Distance of cells to the second nearest of those around, spreads: mean, and 95th percentile.
    One cell that happens to fit is no proof that a place belongs."""
    here, there = inside / scale, around / scale
    squares = (here**2).sum(1)[:, None] + (there**2).sum(1) - 2 * here @ there.T
    apart = np.sqrt(np.maximum(np.partition(squares, 1, axis=1)[:, 1], 0.0))
    return float(apart.mean()), float(np.percentile(apart, 95))
