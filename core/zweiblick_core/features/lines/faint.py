"""Edges that stand out over their length, though the ground's own detail may hide them from one
short stretch to the next: a kerb in gravel, a worn track in grass, a bar
across things of all kinds.

Lightness is averaged along many directions, over a stretch before an area, what lies inside it, and
a stretch behind (a Radon transform in three parts; Deans 1983). An edge
that both stretches outside show in one and the same line must be there inside too; so must a narrow
bar, whose two edges together stand out of ground that hides each, and a thin
line: a joint, a wire, a seam of cloth. Thin lines stand out best, and hardly ever end by nature
    where others of their course go on.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

#: Samples an area is wide when it is looked at, about; all lengths below are in such samples, of
#: two pixels at least.
_ACROSS = 60.0
#: Directions that are looked along, and how much of a line is averaged on either side, how far from
#: the area; at the frame's edge as much as there is, but so much.
TURNS = np.radians(np.arange(0, 180, 1.5))
STRETCH, APART, _SHORT = 45, 2, 16
#: How far across an edge's two sides are compared (standard deviation of a derivative of a
#: Gaussian).
_SIGMA = 1.25
#: From how many natural spreads on an edge is one, on the weaker of both sides; how much weaker
#: that may be.
CLEAR, _ALIKE = 3.0, 0.55
#: Pieces of a stretch, and what each must show of the whole; one may be hidden by what crosses
#: there, but not show the opposite, and none the most of it.
_PIECES, _PIECE, _OPPOSED, _UNEVEN = 6, 0.35, -1.0, 2.5
#: Shortest way through an area, and the longest across which half a step of direction does not yet
#: miss the other end.
_WAY, _LONG = 12.0, 100.0
#: Widths of bars that are sought as wholes, samples (wider ones are found in ground of many things
#: by chance), and of the ground that is compared on either side.
_BARS, _FLANK = (4, 6), 2
#: Width of a thin line, samples.
_THIN = 1
#: By how much of its contrast a bar may differ more from one side than on the average of both.
_BOTH = 0.5
#: Pieces of a line count for no less and no more than this where it is asked how evenly it shows.
_LOW, _HIGH = -1.0, 2.5
#: From which part missing on a thin line is followed on its way inside, how far beside its line,
#: over how many samples it is averaged; what moving by one from a sample to the next
#: costs of its contrast, and what an offset costs, times the square of how far: others run beside
#: it. It is that line if so much of it is there, and by so much more than
#: straight on.
_FOLLOWED, _BESIDE, _ALONG, _COST, _FAR_COST, _WHOLE, _MORE = 0.3, 4, 5, 0.1, 0.012, 0.65, 0.25
#: How many lines are reported at most; how near each other two are one, degrees and samples.
_MOST, _SAME = 6, (9.0, 6)
#: How far beside its line an edge is still there, and how far it is sought.
_THERE, _SOUGHT = 2, 5
#: By how much a stretch may run another way (samples over its length), and how much better it may
#: stand out so before it is not this line's.
_ASKEW, _BETTER = (1.5, 3.0, 4.5, 6.0), 1.25
#: Smallest spread of differences, levels.
_FLOOR = 0.3


@dataclass(frozen=True)
class FaintLine:
    """An edge known from both sides. `ends`: (2, 2) where its line enters and leaves the area, (x,
    y) pixels; `contrast`: levels; `clear`: in natural spreads; `missing`: part of
    it that is not there inside (may be below zero or above one by noise); `sure`: by how many
    spreads less is there than should be; `offset`: pixels beside its line at which
    it is there instead, or 0; `width`: of a bar that was seen as a whole, pixels, 0 for an edge;
    `uneven`: how much pieces of the line vary outside, of its contrast: what was
    placed or built runs at about 0.3, things that lie in a row by chance above 0.5; `thin`: whether
    it is a thin line, light or dark; `trace`: (n, 2) the way on which a thin line
    goes on inside where it is not straight, (x, y) pixels; `swing`: half the way between its
    extremes beside the straight line, pixels.
    """

    ends: np.ndarray
    contrast: float
    clear: float
    missing: float
    sure: float
    offset: float
    width: float = 0.0
    uneven: float = 0.0
    thin: bool = False
    trace: np.ndarray | None = None
    swing: float = 0.0

    @property
    def length(self) -> float:
        """Pixels from end to end."""
        return float(np.hypot(*(self.ends[1] - self.ends[0])))

    @property
    def angle(self) -> float:
        """Degrees within half a turn, from x towards y."""
        way = self.ends[1] - self.ends[0]
        return float(np.degrees(np.arctan2(way[1], way[0])) % 180)

    def turned(self, other: FaintLine) -> float:
        """Degrees between both, 0..90."""
        turn = abs(self.angle - other.angle) % 180
        return min(turn, 180 - turn)

    def beside(self, other: FaintLine, turned: float) -> float:
        """How far its middle lies beside another line that runs within so many degrees of it;
        infinite for one that does not.
        """
        across = np.array([-np.sin(np.radians(other.angle)), np.cos(np.radians(other.angle))])
        return (
            abs(float((self.ends.mean(axis=0) - other.ends[0]) @ across))
            if self.turned(other) <= turned
            else np.inf
        )


def faint_lines(
    luma: np.ndarray, area: np.ndarray, places: list[tuple[int, int]]
) -> list[list[FaintLine]]:
    """Faint straight edges, and narrow bars, that cross an area, for the area moved to each of some
    places.

    Args:
        luma: float32 (height, width), 0..255. area: bool, likewise. places: (dx, dy), pixels.

    Returns:
        A list for each place: edges, bars, thin lines, the clearest of each first.
    """
    x, y, w, h = cv2.boundingRect(area.view(np.uint8))
    every = max(2, round(float(np.sqrt(float(area.sum()))) / _ACROSS))
    far = (STRETCH + APART + 4) * every
    moves = np.array(places, int).reshape(-1, 2)
    first, last = np.array([x, y]), np.array([x + w, y + h])
    (left, top), (right, bottom) = (
        np.maximum(0, first + moves.min(axis=0) - far),
        last + moves.max(axis=0) + far,
    )
    part = luma[top:bottom, left:right]
    if min(part.shape) < STRETCH * every:
        return [[] for _ in places]
    small = (
        cv2.resize(
            part, (part.shape[1] // every, part.shape[0] // every), interpolation=cv2.INTER_AREA
        )
        - 128.0
    )
    # Four points of it to a sample are enough.
    outline = np.concatenate(
        cv2.findContours(area.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0]
    )[:: max(1, every // 4), 0]
    scan = _Scan(small, (outline - (left, top) + 0.5) / every - 0.5, moves / every)
    back = lambda points: (points + 0.5) * every - 0.5 + (left, top)
    return [
        [
            replace(
                line,
                ends=back(line.ends),
                offset=line.offset * every,
                width=line.width * every,
                trace=None if line.trace is None else back(line.trace),
                swing=line.swing * every,
            )
            for line in scan.lines(number)
        ]
        for number in range(len(places))
    ]


def _edge() -> np.ndarray:
    """What is darker on one side, by how many levels."""
    reach = int(np.ceil(4 * _SIGMA))
    along = np.arange(-reach, reach + 1) / _SIGMA
    kernel = along * np.exp(-along * along / 2)
    return np.asarray(kernel / kernel[kernel > 0].sum())


def _bar(width: int) -> tuple[np.ndarray, np.ndarray]:
    """What is lighter than on both sides over a width, by how many levels, and by how many more
    than on one side than on the other. The samples where one turns to the other
    count for neither."""
    beside, gap, none = np.full(_FLANK, 0.5 / _FLANK), np.zeros(1), np.zeros(width)
    odd = np.zeros(1 - width % 2)
    return np.concatenate([-beside, gap, none + 1 / width, gap, -beside, odd]), np.concatenate(
        [-beside, gap, none, gap, beside, odd]
    )


#: What is sought, how wide each is, samples (0 for an edge), and of a bar what tells that it has
#: but one side.
_SHAPES = (
    (_edge(), 0, None),
    *((whole, width, side) for width in (*_BARS, _THIN) for whole, side in (_bar(width),)),
)


class _Scan:
    """Edge responses by direction and offset, of the stretches before, inside and behind an
    outline, at all places at once.

    Attributes: responses: for each of `_SHAPES` (places, 3, turns, offsets), levels; NaN where
        unknown. sides: likewise for bars, by how much more each differs from one side
    than from the other. ways: (turns, offsets) pixels through the area. starts: (turns, offsets)
    where it begins, along; rows: (places, turns) by how many samples offsets are
    moved at a place; moved: (places, turns) likewise along. lengths: (places, 2, turns, offsets)
    samples of the stretches before and behind.
    """

    def __init__(self, small: np.ndarray, outline: np.ndarray, places: np.ndarray) -> None:
        height, width = small.shape
        self.small = small
        self.middle = np.array([(width - 1) / 2, (height - 1) / 2])
        self.radius = radius = int(np.hypot(height, width) / 2) + 2
        reach = max(len(kernel) for kernel, _, _ in _SHAPES) // 2
        beside = outline - self.middle
        span = int(2 * np.hypot(*(outline - outline.mean(axis=0)).T).max()) + 4
        shape = (len(TURNS), span)
        self.ways, self.starts, self.firsts = (
            np.zeros(shape),
            np.zeros(shape),
            np.zeros(len(TURNS), int),
        )
        self.rows, self.moved = (
            np.zeros((len(places), len(TURNS)), int),
            np.zeros((len(places), len(TURNS))),
        )
        means = np.full((len(places), 3, len(TURNS), span + 2 * reach), np.nan, np.float32)
        self.lengths = np.zeros((len(places), 2, len(TURNS), span), np.uint8)
        for number, turn in enumerate(TURNS):
            way = np.array([np.cos(turn), np.sin(turn)])
            across = np.array([-way[1], way[0]])
            origin = self.middle - radius * way - radius * across
            offset, at = beside @ across + radius, beside @ way + radius
            first = int(np.floor(offset.min()))
            row = np.round(offset).astype(int) - first
            begin, end = np.full(span, np.inf), np.full(span, -np.inf)
            np.minimum.at(begin, row, at)
            np.maximum.at(end, row, at)
            crossed = end > begin
            begin, end = np.where(crossed, begin, 0.0), np.where(crossed, end, 0.0)
            self.ways[number], self.starts[number], self.firsts[number] = end - begin, begin, first
            self.rows[:, number], self.moved[:, number] = (
                np.round(places @ across).astype(int),
                places @ way,
            )
            rows = np.arange(span) + first + self.rows[:, number, None]
            begins, ends = begin + self.moved[:, number, None], end + self.moved[:, number, None]
            # Only the rows that some place needs.
            low, high = max(0, int(rows.min())), min(2 * radius, int(rows.max()) + 1)
            if high <= low:
                continue
            start = origin + low * across
            turned = cv2.warpAffine(
                small,
                np.array([[way[0], across[0], start[0]], [way[1], across[1], start[1]]]),
                (2 * radius, high - low),
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_REPLICATE,
            )
            total = np.zeros((high - low, 2 * radius + 1), np.float32)
            np.cumsum(turned, axis=1, out=total[:, 1:])
            far = APART + STRETCH
            stretches = np.array(
                [
                    [begins - far, begins - APART],
                    [begins + APART, ends - APART],
                    [ends + APART, ends + far],
                ]
            )
            held = np.clip(rows, low, high - 1)
            # Of each row, what lies in the picture is one piece.
            ends_of = np.array(
                [
                    [
                        (edge - origin[k] - np.arange(low, high) * across[k])
                        / (way[k] if abs(way[k]) > 1e-9 else 1e-9)
                        for edge in (0.0, size - 1e-3)
                    ]
                    for k, size in ((0, width), (1, height))
                ]
            )
            enters, leaves = (
                ends_of.min(axis=1).max(axis=0)[held - low],
                ends_of.max(axis=1).min(axis=0)[held - low],
            )
            left, right = (
                np.clip(np.round(edge), 0, 2 * radius).astype(int)
                for edge in (
                    np.maximum(stretches[:, 0], enters),
                    np.minimum(stretches[:, 1], leaves),
                )
            )
            ok = (
                crossed
                & (right - left >= np.array([_SHORT, 3, _SHORT])[:, None, None])
                & (held == rows)
            )
            self.lengths[:, :, number] = np.where(ok, right - left, 0)[::2].transpose(1, 0, 2)
            sums = total[held - low, right] - total[held - low, left]
            means[:, :, number, reach : reach + span] = np.where(
                ok, sums / np.maximum(right - left, 1), np.nan
            ).transpose(1, 0, 2)
        filtered = lambda kernel: sum(
            part * means[..., k + reach - len(kernel) // 2 :][..., :span]
            for k, part in enumerate(kernel.astype(np.float32))
            if part
        )
        self.responses = [filtered(kernel) for kernel, _, _ in _SHAPES]
        self.sides = [None if side is None else filtered(side) for _, _, side in _SHAPES]

    def lines(self, place: int) -> list[FaintLine]:
        edges, *bars, thin = (self._lines(place, shape) for shape in range(len(_SHAPES)))
        kept: list[FaintLine] = []
        for bar in sorted((bar for some in bars for bar in some), key=lambda bar: -bar.clear):
            # One bar is seen at several widths.
            if not any(bar.beside(other, _SAME[0]) < _SAME[1] for other in kept):
                kept.append(bar)
        return edges + kept + thin

    def _lines(self, place: int, shape: int) -> list[FaintLine]:
        before, inside, behind = self.responses[shape][place]
        known = np.concatenate([some[np.isfinite(some)] for some in (before, behind)])
        if len(known) < 200:
            return []
        spread = 1.4826 * float(np.median(np.abs(known))) + _FLOOR
        weaker, stronger = (
            np.minimum(np.abs(before), np.abs(behind)),
            np.maximum(np.abs(before), np.abs(behind)),
        )
        usable = (
            (before * behind > 0)
            & np.isfinite(inside)
            & (self.ways >= _WAY)
            & (self.ways <= _LONG)
            & (weaker > _ALIKE * stronger)
        )
        sides = self.sides[shape]
        if sides is not None:
            # What differs from one side only is an edge.
            usable &= (
                np.abs(sides[place][::2]) < _BOTH * np.abs(self.responses[shape][place][::2])
            ).all(axis=0)
        # Means over shorter stretches vary more.
        clear = (
            np.where(usable, weaker * np.sqrt(self.lengths[place].min(axis=0) / STRETCH), 0.0)
            / spread
        )
        found: list[FaintLine] = []
        apart, wide = round(_SAME[0] / float(np.degrees(TURNS[1]))), _SAME[1]
        while len(found) < _MOST:
            turn, at = (int(v) for v in np.unravel_index(int(clear.argmax()), clear.shape))
            if clear[turn, at] < CLEAR:
                break
            pieces = self._pieces(
                shape, place, turn, at, float(before[turn, at] + behind[turn, at]) / 2
            )
            if pieces is not None:
                uneven = float(np.sqrt(np.mean((np.clip(pieces, _LOW, _HIGH) - 1) ** 2)))
                found.append(
                    replace(
                        self._line(shape, place, turn, at, spread, float(clear[turn, at])),
                        uneven=uneven,
                    )
                )
            for other in range(turn - apart, turn + apart + 1):
                clear[other % len(TURNS), max(0, at - wide) : at + wide + 1] = 0.0
        return found

    def _pieces(self, shape: int, place: int, turn: int, at: int, mean: float) -> np.ndarray | None:
        """What pieces of both stretches show of an edge or a bar, (2, _PIECES); None where it does
        not run through: what only some strong things in a row make up is none, nor
        are two edges that end in one line and each stand out better another way."""
        way = np.array([np.cos(TURNS[turn]), np.sin(TURNS[turn])])
        across = np.array([-way[1], way[0]])
        start = self._point(place, turn, at, 0.0)
        kernel = _SHAPES[shape][0]
        reach = len(kernel) // 2
        wide = reach + int(max(_ASKEW)) + 1
        before, behind = (int(length) for length in self.lengths[place, :, turn, at])
        both = []
        for first, count in (
            (-float(APART + before), before),
            (float(self.ways[turn, at]) + APART, behind),
        ):
            rows = np.arange(count)
            along, beside = np.meshgrid(first + rows, np.arange(-wide, wide + 1), indexing="ij")
            points = start + along[..., None] * way + beside[..., None] * across
            strip = cv2.remap(
                self.small,
                points[..., 0].astype(np.float32),
                points[..., 1].astype(np.float32),
                cv2.INTER_LINEAR,
                borderMode=cv2.BORDER_REPLICATE,
            )
            shown = (
                np.lib.stride_tricks.sliding_window_view(strip, 2 * reach + 1, axis=1)
                @ kernel
                * np.sign(mean)
            )
            middle = shown.shape[1] // 2
            pieces = np.array(
                [piece.mean() for piece in np.array_split(shown[:, middle], _PIECES)]
            ) / abs(mean)
            ordered = np.sort(pieces)
            if ordered[1] < _PIECE or ordered[0] < _OPPOSED or ordered[-1] > _UNEVEN:
                return None
            lean = (rows + 0.5) / count - 0.5
            askew = [
                shown[rows, middle + np.round(some * lean * count / STRETCH).astype(int)].mean()
                for much in _ASKEW
                for some in (-2 * much, 2 * much)
            ]
            if max(askew) > _BETTER * shown[:, middle].mean():
                return None
            both.append(pieces)
        return np.array(both)

    def _point(self, place: int, turn: int, at: int, along: float) -> np.ndarray:
        """A point so many samples inside along a line, (x, y) samples."""
        way = np.array([np.cos(TURNS[turn]), np.sin(TURNS[turn])])
        offset = at + self.firsts[turn] + self.rows[place, turn] - self.radius
        return np.asarray(
            self.middle
            + offset * np.array([-way[1], way[0]])
            + (self.starts[turn, at] + self.moved[place, turn] + along - self.radius) * way
        )

    def _line(
        self, shape: int, place: int, turn: int, at: int, spread: float, clear: float
    ) -> FaintLine:
        before, inside, behind = self.responses[shape][place]
        mean = float(before[turn, at] + behind[turn, at]) / 2
        long = float(self.ways[turn, at])
        turns = [other for other in (turn - 1, turn, turn + 1) if 0 <= other < len(TURNS)]
        # Neighbouring directions count their offsets from outlines of their own.
        rows = [
            inside[
                other,
                np.clip(
                    np.arange(-_SOUGHT, _SOUGHT + 1)
                    + at
                    + self.firsts[turn]
                    + self.rows[place, turn]
                    - self.firsts[other]
                    - self.rows[place, other],
                    0,
                    inside.shape[1] - 1,
                ),
            ]
            for other in turns
        ]
        there = np.nanmax(
            np.where(np.isfinite(rows), np.array(rows) * np.sign(mean), -abs(mean)), axis=0
        )
        here = float(there[_SOUGHT - _THERE : _SOUGHT + _THERE + 1].max())
        beside = int(there.argmax()) - _SOUGHT
        offset = (
            float(beside)
            if abs(beside) > _THERE and there.max() > 0.75 * abs(mean) and here < 0.5 * abs(mean)
            else 0.0
        )
        missing, width = 1 - here / abs(mean), _SHAPES[shape][1]
        trace, swing = (
            self._way_of(place, turn, at, mean, missing)
            if width == _THIN and missing > _FOLLOWED and not offset
            else (None, 0.0)
        )
        return FaintLine(
            np.array([self._point(place, turn, at, 0.0), self._point(place, turn, at, long)]),
            abs(mean),
            clear,
            missing,
            (abs(mean) - here) / (spread * float(np.sqrt(STRETCH / long))),
            offset,
            float(width),
            thin=width == _THIN,
            trace=trace,
            swing=swing,
        )

    def _way_of(
        self, place: int, turn: int, at: int, mean: float, missing: float
    ) -> tuple[np.ndarray | None, float]:
        """The likeliest way of a thin line from one end to the other (Viterbi 1967), (n, 2)
        samples, and its swing, samples; None where it is not there either.
        """
        way = np.array([np.cos(TURNS[turn]), np.sin(TURNS[turn])])
        across = np.array([-way[1], way[0]])
        kernel = _SHAPES[-1][0] * np.sign(mean)
        reach, count = len(kernel) // 2, int(self.ways[turn, at])
        lags = np.arange(-_BESIDE, _BESIDE + 1)
        along, beside = np.meshgrid(
            np.arange(count) + 0.5, np.arange(-_BESIDE - reach, _BESIDE + reach + 1), indexing="ij"
        )
        points = (
            self._point(place, turn, at, 0.0) + along[..., None] * way + beside[..., None] * across
        )
        strip = cv2.remap(
            self.small,
            points[..., 0].astype(np.float32),
            points[..., 1].astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
        shown = (
            np.lib.stride_tricks.sliding_window_view(strip, 2 * reach + 1, axis=1)
            @ kernel
            / abs(mean)
        )
        found = np.clip(cv2.blur(shown, (1, _ALONG), borderType=cv2.BORDER_REPLICATE), -0.5, 1.5)
        worth = found - _FAR_COST * lags.astype(float) ** 2
        moves = lags[None, :] - lags[:, None]
        cost = np.where(np.abs(moves) <= 1, _COST * np.abs(moves), np.inf)
        # Both its ends are known.
        total, came = np.where(np.abs(lags) <= 1, worth[0], -np.inf), np.zeros(worth.shape, int)
        for row in range(1, count):
            options = total[:, None] - cost
            came[row] = options.argmax(axis=0)
            total = options.max(axis=0) + worth[row]
        best = np.zeros(count, int)
        best[-1] = _BESIDE - 1 + int(total[_BESIDE - 1 : _BESIDE + 2].argmax())
        for row in range(count - 1, 0, -1):
            best[row - 1] = came[row, best[row]]
        there = float(found[np.arange(count), best].mean())
        if there < max(_WHOLE, 1 - missing + _MORE):
            return None, 0.0
        beside = lags[best]
        return points[np.arange(count), beside + _BESIDE + reach], float(np.ptp(beside)) / 2
