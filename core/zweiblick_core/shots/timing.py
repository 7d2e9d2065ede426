"""Which frame of the original each frame of a result shows: offset, dropped and doubled frames.

Frames are compared by small pictures of them and by grain at fixed places, without what was removed;
the cheapest order of frames is found by dynamic programming (Sakoe and Chiba 1978).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

#: Small pictures have so many pixels a side at most.
_SMALL = 96
#: So many places of grain are looked at, each of so many pixels a side.
_PLACES, _PLACE = 40, 9
#: How far from the offset a frame may be sought, frames.
_FAR = 8
#: What an order of frames costs that is none of one after another, in what a frame differs from its
#: neighbour.
_IRREGULAR = 0.3


@dataclass(frozen=True)
class Timing:
    """How a result's frames lie to the original's.

    Attributes:
        shows: int (frames of the result,), the number of the original's frame that each shows.
        offset: the original's frame that the result's first frame shows, where the rest goes on
            evenly.
        dropped: frames of the original that are missing between two of the result.
        doubled: frames of the result that show what the one before shows.
    """

    shows: np.ndarray
    offset: int
    dropped: tuple[int, ...]
    doubled: tuple[int, ...]

    @property
    def as_it_was(self) -> bool:
        """Whether each frame shows the original's frame of its own number."""
        return self.offset == 0 and not self.dropped and not self.doubled

    def words(self) -> list[str]:
        """What is said of it, a clause each."""
        said = []
        if self.offset:
            said.append(
                f"begins {abs(self.offset)} frames {'later' if self.offset > 0 else 'earlier'} than the original"
            )
        if self.dropped:
            said.append(f"lacks {_listed(self.dropped)} of the original")
        if self.doubled:
            said.append(f"repeats the frame before in {_listed(self.doubled)}")
        return said


def _listed(numbers: tuple[int, ...]) -> str:
    shown = ", ".join(str(number) for number in numbers[:6])
    more = f" and {len(numbers) - 6} more" if len(numbers) > 6 else ""
    return f"{'frame' if len(numbers) == 1 else 'frames'} {shown}{more}"


class Sampler:
    """What frames are compared by: float32 vectors of one length, whatever a frame's size."""

    def __init__(self, shape: tuple[int, int]) -> None:
        """Args: shape: (height, width) of the original's frames."""
        self.shape = shape
        height, width = shape
        part = max(1, round(max(height, width) / _SMALL))
        self.small = (max(8, width // part), max(8, height // part))
        rng = np.random.default_rng(7)
        self.places = [
            (int(y), int(x))
            for y, x in zip(
                rng.integers(0, max(1, height - _PLACE), _PLACES),
                rng.integers(0, max(1, width - _PLACE), _PLACES),
                strict=True,
            )
        ]

    def of(self, grey: np.ndarray, removed: np.ndarray | None) -> tuple[np.ndarray, np.ndarray]:
        """(values, weights) of a frame, float32 (n,); a weight is 0 where something was removed.

        Args:
            grey: uint8 (height, width). removed: bool, or None.
        """
        exact = grey.shape == self.shape
        small = cv2.resize(grey, self.small, interpolation=cv2.INTER_AREA).astype(np.float32)
        seen = (
            np.ones(small.shape, np.float32)
            if removed is None
            else (
                cv2.resize(removed.astype(np.uint8) * 255, self.small, interpolation=cv2.INTER_AREA)
                < 2
            ).astype(np.float32)
        )
        values, weights = [small.ravel()], [seen.ravel()]
        for y, x in self.places:
            box = np.s_[y : y + _PLACE, x : x + _PLACE]
            if exact:
                values.append(grey[box].astype(np.float32).ravel())
                free = removed is None or not removed[box].any()
            else:
                values.append(np.zeros(_PLACE * _PLACE, np.float32))
                free = False
            weights.append(np.full(_PLACE * _PLACE, 0.3 * free, np.float32))
        return np.concatenate(values), np.concatenate(weights)


def timed(
    original: list[tuple[np.ndarray, np.ndarray]], result: list[tuple[np.ndarray, np.ndarray]]
) -> Timing:
    """How a result's frames lie to the original's, from `Sampler.of` of each frame."""
    costs = _costs(original, result)
    first, count = len(original), len(result)
    offset = _offset(costs)
    shows = _path(costs, offset)
    steps = np.diff(shows)
    dropped = tuple(
        number
        for at in np.flatnonzero(steps > 1)
        for number in range(int(shows[at]) + 1, int(shows[at + 1]))
    )
    doubled = tuple(int(at) + 1 for at in np.flatnonzero(steps == 0))
    assert len(shows) == count and shows.max() < first
    return Timing(shows, int(shows[0]) if count else 0, dropped, doubled)


def _costs(
    original: list[tuple[np.ndarray, np.ndarray]], result: list[tuple[np.ndarray, np.ndarray]]
) -> np.ndarray:
    """float (result, original): how far apart two frames are, in what neighbours differ by; each
    frame is brought to the other's brightness first.
    """
    values = np.stack([one for one, _ in original])
    free = np.stack([one for _, one in original])
    apart = np.empty((len(result), len(original)))
    for row, (shown, own) in enumerate(result):
        weight = free * own[None]
        total = weight.sum(axis=1) + 1e-6
        difference = shown[None] - values
        level = (weight * difference).sum(axis=1) / total
        apart[row] = np.sqrt((weight * (difference - level[:, None]) ** 2).sum(axis=1) / total)
    least = apart.min(axis=1, keepdims=True)
    between = [
        abs(apart[row, column + 1] - apart[row, column])
        for row, column in enumerate(apart.argmin(axis=1))
        if column + 1 < len(original)
    ]
    # Where hardly anything moves, neighbours differ by what grain does.
    unit = max(float(np.median(between)) if between else 0.0, 0.1 * float(np.median(least)), 0.05)
    return np.asarray((apart - least) / unit)


def _offset(costs: np.ndarray) -> int:
    """The original's frame at the result's first, by which most frames agree; of equals the
    nearest to 0.
    """
    count, first = costs.shape
    most = max(_FAR, first // 2)
    best, least = 0, np.inf
    for offset in sorted(range(-most, most + 1), key=abs):
        rows = np.arange(max(0, -offset), min(count, first - offset))
        if len(rows) < min(count, max(4, count // 2)):
            continue
        mean = float(np.minimum(costs[rows, rows + offset], 6.0).mean())
        if mean < least - 0.05:
            best, least = offset, mean
    return best


def _path(costs: np.ndarray, offset: int) -> np.ndarray:
    """The cheapest order: int (result,), never falling."""
    count, first = costs.shape
    span = 2 * _FAR + 1
    # Columns are how far from the offset's own frame.
    banded = np.full((count, span), np.inf)
    for row in range(count):
        for k in range(span):
            column = row + offset + k - _FAR
            if 0 <= column < first:
                banded[row, k] = min(costs[row, column], 6.0)
    total = banded[0] + 0.01 * np.abs(np.arange(span) - _FAR)
    came = np.zeros((count, span), int)
    for row in range(1, count):
        after = np.full(span, np.inf)
        for k in range(span):
            # From the same column of the band: one frame on. From one above: the frame again.
            for before, price in ((k, 0.0), *((k + j, _IRREGULAR) for j in (1, -1, -2, -3))):
                if 0 <= before < span and total[before] + price < after[k]:
                    after[k], came[row, k] = total[before] + price, before
        total = after + banded[row]
    k = int(np.argmin(total))
    if not np.isfinite(total[k]):
        # More frames than the original has room for: the last ones show its last.
        return np.clip(np.arange(count) + offset, 0, first - 1)
    shows = np.empty(count, int)
    for row in range(count - 1, -1, -1):
        shows[row] = row + offset + k - _FAR
        k = int(came[row, k])
    return shows
