"""Where readings lie against each other, and what they show."""

from __future__ import annotations

from ..evidence import (
    Detail,
    Evidence,
    Rim,
)
from ..report import Reading


def rim_of(reading: Reading) -> Rim:
    """What a seam or a halo shows; of what was recognised otherwise, nothing."""
    return reading.evidence if isinstance(reading.evidence, Rim) else Rim()


def detail_of(reading: Reading) -> Detail:
    """What missing or added detail shows; of what was recognised otherwise, nothing."""
    return reading.evidence if isinstance(reading.evidence, Detail) else Detail()


def overlap(first: Reading, second: Reading) -> float:
    """Share of the smaller box that both cover, 0..1."""
    ax, ay, aw, ah = first.bbox
    bx, by, bw, bh = second.bbox
    w, h = min(ax + aw, bx + bw) - max(ax, bx), min(ay + ah, by + bh) - max(ay, by)
    return max(0.0, w) * max(0.0, h) / max(1.0, min(aw * ah, bw * bh))


def covered_share(winner: Reading, loser: Reading) -> float:
    """Share of the loser's box that the winner's covers."""
    _, _, w, h = loser.bbox
    small = min(w * h, winner.bbox[2] * winner.bbox[3])
    return overlap(winner, loser) * max(1.0, small) / max(1.0, w * h)


def call(reading: Reading, kind: str, shown: Evidence) -> None:
    """Give a reading another kind; its own is its runner-up."""
    reading.kind, reading.runner_up, reading.evidence = kind, reading.kind, shown
