"""The artefact that readings are weighed by, `model/v1.json`; where it came from is in
`model/CARD.md`.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from .trees import Trees

FOLDER = Path(__file__).parent.parent / "model"


@dataclass(frozen=True)
class Curve:
    """A probability from log odds (Platt 1999): 1 / (1 + exp(-(offset + slope odds)))."""

    offset: float
    slope: float

    def likely(self, odds: np.ndarray | float) -> np.ndarray:
        """0..1, of the shape of `odds`."""
        return 1 / (1 + np.exp(-(self.offset + self.slope * np.asarray(odds))))


@dataclass(frozen=True)
class Stack:
    """A probability from what the trees say and what the reading's own score says, both log odds
    (stacked generalisation: Wolpert 1992). Few regions have one strong reading and no other, so
    that trees alone believe it too little.
    """

    offset: float
    trees: float
    own: float

    def likely(self, trees: np.ndarray, own: np.ndarray) -> np.ndarray:
        """0..1, of the shape of both."""
        return 1 / (1 + np.exp(-(self.offset + self.trees * trees + self.own * own)))


@dataclass(frozen=True)
class Model:
    """What the artefact says.

    Attributes:
        name: its version.
        names: of the numbers that its trees ask for, as `asking.NAMES` has them.
        stands_out: from this score on a reading may be a finding; by kind for those that are no more
            than `hints`, which are findings by that alone.
        reported: what stands out is a finding if it is so likely right.
        trees, stack: log odds that something is wrong at a reading, and what they are with its own
            as a probability.
        alone: the probability of a score's log odds, where only some kinds were asked;
            most_log_odds: more of a score's are not believed.
        least, by_severity: what a finding that is certain takes of the whole where it is not
            visible, and how much more where it is. by_unreported: what readings that are not
            reported take together, at most.
    """

    name: str
    names: tuple[str, ...]
    stands_out: float
    hints: dict[str, float]
    reported: float
    trees: Trees
    stack: Stack
    alone: Curve
    most_log_odds: float
    least: float
    by_severity: float
    by_unreported: float

    @classmethod
    def read(cls, file: Path) -> Model:
        """An artefact from its file."""
        said: dict[str, Any] = json.loads(file.read_text())
        alone, overall = said["alone"], said["overall"]
        return cls(
            said["model"],
            tuple(said["names"]),
            said["stands_out"]["score"],
            said["stands_out"]["hints"],
            said["reported"],
            Trees.from_json(said),
            Stack(**said["stack"]),
            Curve(alone["offset"], alone["slope"]),
            alone["most_log_odds"],
            overall["least"],
            overall["by_severity"],
            overall["by_unreported"],
        )


#: The one in use.
MODEL = Model.read(FOLDER / "v1.json")
