"""The dry run: what the recheck would say of a file, by the recheck's own code and version."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from checks.recalibrating import in_force
from checks.running import aligned, examined, versions_of
from images.decoding import decoded
from zweiblick_core import __version__ as core_version
from zweiblick_core.report import Finding
from zweiblick_core.rules import slips

from .answering import Answer
from .flaws import flaws_of, seen_of
from .models import Slip


def rehearsed(slip: Slip, answer: Answer, progress: Callable[[float, str], None]) -> dict[str, Any]:
    """What the recheck would say of each region that was sent, and of everything else:
    {core_version, regions: [{region, word, kinds, findings}], elsewhere}.
    """
    picture = slip.picture
    original = decoded(picture.original.blob)
    versions, size = versions_of(picture), picture.job.sizes.first()
    report = examined(
        original,
        answer.whole,
        versions,
        size.spec if size else None,
        progress,
        aligned(original, answer.whole, versions),
        house=in_force(),
    )
    found = {region.id: region.findings for region in report.regions}
    at = {version.region_id: str(version.pk) for version in versions}
    regions = []
    for part in slip.regions.select_related("region", "attempt__picture__job"):
        after = found.get(at.get(part.region_id, ""), [])
        sent = {flaw["finding"] for flaw in part.flaws}
        others = flaws_of(part.attempt, part.region, only_sent=False)
        became = slips.outcome(
            [seen_of(flaw) for flaw in part.flaws],
            [_seen(finding) for finding in after],
            [seen_of(flaw) for flaw in others if flaw["finding"] not in sent],
        )
        regions.append(
            {
                "region": part.region_id,
                "word": became.word,
                "kinds": [list(pair) for pair in became.kinds],
                "findings": [{"kind": one.kind, "word": one.word} for one in after],
            }
        )
    return {"core_version": core_version, "regions": regions, "elsewhere": answer.elsewhere}


def _seen(finding: Finding) -> slips.Seen:
    measure = finding.measure
    natural = measure.natural
    return slips.Seen(
        finding.kind, finding.bbox, measure.value, natural.low, natural.high, finding.severity
    )
