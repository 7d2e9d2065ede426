"""Moving pictures: the same judgement for a shot."""

from .check import check_shot, proposed_in_shot
from .drawn import Drawn, read_drawn
from .frames import Shot, open_shot
from .report import OVER_TIME, ShotFinding, ShotRegion, ShotReport

__all__ = [
    "OVER_TIME",
    "Drawn",
    "Shot",
    "ShotFinding",
    "ShotRegion",
    "ShotReport",
    "check_shot",
    "open_shot",
    "proposed_in_shot",
    "read_drawn",
]
