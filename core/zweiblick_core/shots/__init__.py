"""Moving pictures: the same judgement for a shot."""

from .check import check_shot, proposed_in_shot
from .drawn import Drawn, read_drawn
from .frames import Shot, open_shot
from .mending import METHODS, Mending, mend
from .proving import RestProof, prove_rest
from .repairs import Repair
from .report import OVER_TIME, ShotFinding, ShotRegion, ShotReport

__all__ = [
    "METHODS",
    "OVER_TIME",
    "Drawn",
    "Mending",
    "Repair",
    "RestProof",
    "Shot",
    "ShotFinding",
    "ShotRegion",
    "ShotReport",
    "check_shot",
    "mend",
    "open_shot",
    "proposed_in_shot",
    "prove_rest",
    "read_drawn",
]
