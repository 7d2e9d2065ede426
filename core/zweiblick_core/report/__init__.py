"""What a check says: the report and its JSON; findings as pictures."""

from ..null import Natural
from .contents import (
    KINDS,
    SCHEMA,
    Abstention,
    Finding,
    Group,
    Measure,
    Reading,
    RegionReport,
    Report,
    Signal,
    plain,
)

__all__ = [
    "KINDS",
    "SCHEMA",
    "Abstention",
    "Finding",
    "Group",
    "Measure",
    "Natural",
    "Reading",
    "RegionReport",
    "Report",
    "Signal",
    "plain",
]
