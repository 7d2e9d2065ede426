"""A report with the probabilities that a house's own answers give."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from .grouping import group, in_order
from .report import Finding, Report
from .scoring import holds, overall
from .scoring.house import mapped
from .scoring.model import Curve


def recalibrated(report: Report, curve: Curve) -> Report:
    """The same findings, each as likely as the curve says; their order, groups and what they take of
    the whole follow. Nothing is reported or silenced for it.
    """
    frame = report.inputs["original"]
    regions = []
    for region in report.regions:
        findings = in_order([_mapped(finding, curve) for finding in region.findings])
        regions.append(
            replace(
                region,
                findings=findings,
                groups=group(findings, region.bbox),
                overall=overall(findings, region.scores),
            )
        )
    beyond = [_mapped(finding, curve) for finding in report.overreach["findings"]]
    beyond.sort(key=lambda finding: -finding.severity * finding.confidence)
    outside = {
        **report.overreach,
        "findings": beyond,
        "groups": group(beyond, (0, 0, frame["height"], frame["width"])),
    }
    whole = float(np.prod([region.overall for region in regions])) * holds(beyond)
    return replace(report, regions=regions, overreach=outside, overall=whole)


def _mapped(finding: Finding, curve: Curve) -> Finding:
    return replace(finding, confidence=mapped(curve, finding.confidence))
