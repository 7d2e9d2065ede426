"""What one kind saw in one region of a shot."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..null import Natural, natural_range
from .seeing import Change


@dataclass(frozen=True)
class Seen:
    """A suspected flaw of one region over time.

    Attributes:
        kind: of `KINDS`. far: how far beyond what untouched ground does, in its spreads.
        name, value, unit, natural: what was measured, and what is natural in this shot.
        course: float (frames,), how bad each frame is: `far` at the worst; NaN where nothing is known.
        change: what an eye would see of it.
    """

    kind: str
    far: float
    name: str
    value: float
    unit: str
    natural: Natural
    course: np.ndarray
    change: Change

    def frames(self) -> tuple[int, int, int]:
        """First, worst and last frame: those in which it is half as bad, as the whole or the worst is."""
        course = np.nan_to_num(self.course, nan=-np.inf)
        worst = int(np.argmax(course))
        level = 0.5 * min(float(course[worst]), self.far)
        bad = np.flatnonzero(course >= level) if level > 0 else np.array([worst])
        return int(bad.min()), worst, int(bad.max())


def of_ground(values: np.ndarray) -> Natural:
    """What control placements of the same shot measure."""
    return natural_range(values, "the same outline over untouched ground of the shot")


def smoothed(series: np.ndarray, width: int) -> np.ndarray:
    """Running means over `width` frames of a series (frames,) or (frames, areas); frames of which
    nothing is known are left out, and stay NaN where nothing beside them is known.
    """
    width = max(1, width)
    kernel = np.ones(width)
    two = series.reshape(len(series), -1)
    found = np.full(two.shape, np.nan)
    for at in range(two.shape[1]):
        known = np.isfinite(two[:, at])
        total = np.convolve(np.where(known, two[:, at], 0), kernel, "same")
        count = np.convolve(known.astype(float), kernel, "same")
        found[count > 0, at] = total[count > 0] / count[count > 0]
    return found.reshape(series.shape)


def root_mean_square(values: np.ndarray) -> np.ndarray:
    """Over frames, without those of which nothing is known: (frames, areas) to (areas,)."""
    return np.asarray(np.sqrt(np.nanmean(values**2, axis=0)))
