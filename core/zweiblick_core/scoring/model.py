"""The artefact that scores are judged by, `model/v0.json`; where it came from is in `model/CARD.md`."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Model:
    """What the artefact says.

    Attributes:
        name: its version.
        reported: from this score on a reading is a finding; hinted: the same of kinds that are no
            more than hints, which say so by their low confidence.
        offset, slope: of confidence over a score's log odds; most_log_odds: more are not believed.
        hints: what a hint's log odds are less, by kind.
        least, by_severity: what a finding that is certain takes of the whole where it is not
            visible, and how much more where it is. by_unreported: what readings that are not
            reported take together, at most.
    """

    name: str
    reported: float
    hinted: float
    offset: float
    slope: float
    most_log_odds: float
    hints: dict[str, float]
    least: float
    by_severity: float
    by_unreported: float

    @classmethod
    def read(cls, file: Path) -> Model:
        """An artefact from its file."""
        said = json.loads(file.read_text())
        reported, confidence, overall = said["reported"], said["confidence"], said["overall"]
        return cls(
            said["model"],
            reported["least_score"],
            reported["least_score_of_hints"],
            confidence["offset"],
            confidence["slope"],
            confidence["most_log_odds"],
            confidence["hints"],
            overall["least"],
            overall["by_severity"],
            overall["by_unreported"],
        )


#: The one in use.
MODEL = Model.read(Path(__file__).parent.parent / "model" / "v0.json")
