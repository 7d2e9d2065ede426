"""How a region holds as a whole."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ..report import Finding, Report
from .model import MODEL


def holds(findings: Sequence[Finding]) -> float:
    """1 without findings. Each takes its confidence times its severity, and a part of it even where
    it is not visible.
    """
    left = 1.0
    for finding in findings:
        left *= 1 - finding.confidence * (MODEL.least + MODEL.by_severity * finding.severity)
    return left


def overall(findings: Sequence[Finding], scores: Mapping[str, float]) -> float:
    """1 = holds everywhere. Readings that are not reported only break ties."""
    near = float(
        np.mean([min(score, MODEL.stands_out) / MODEL.stands_out for score in scores.values()])
    )
    return holds(findings) * (1 - MODEL.by_unreported * near)


def of_all(report: Report) -> float:
    """1 = holds everywhere. A change outside takes its part of the whole as a finding does of its
    region.
    """
    regions = float(np.prod([region.overall for region in report.regions]))
    return regions * holds(report.overreach["findings"])
