"""A report with the probabilities that a house's own answers give."""

from __future__ import annotations

from dataclasses import replace

from .grouping import group, in_order
from .report import Finding, Report
from .scoring import of_all, overall
from .scoring.house import mapped
from .scoring.model import Curve


def recalibrated(report: Report, curve: Curve) -> Report:
    """The same findings, each as likely as the curve says; their order, groups and what they take of
    the whole follow. Nothing is reported or silenced for it.
    """
    if report.alignment["kind"] == "unmatched":
        # Nothing was judged: it holds nowhere, whatever people answered elsewhere.
        return report
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
    mapped_whole = replace(report, regions=regions, overreach=outside)
    return replace(mapped_whole, overall=of_all(mapped_whole))


def _mapped(finding: Finding, curve: Curve) -> Finding:
    return replace(finding, confidence=mapped(curve, finding.confidence))
