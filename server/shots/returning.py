"""What answers a slip of a shot: the rest proven the same, what became of each region, passes carried over."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from django.utils import timezone

from work.leases import Lease
from zweiblick_core.rules.shots import Flaw, carried_over, outcome
from zweiblick_core.rules.states import advance
from zweiblick_core.shots import RestProof, ShotReport, prove_rest

from .models import ShotAttempt, ShotSlip, ShotVerdict
from .opening import opened
from .ruling import ruled
from .slips import flaws_of, held_slip


def proven(attempt: ShotAttempt, report: ShotReport, lease: Lease) -> RestProof | None:
    """Compare an attempt with what was sent; None if it answers no slip, or was compared before."""
    slip = (
        ShotSlip.objects.filter(returned=attempt).select_related("attempt__footage__blob").first()
    )
    if slip is None or slip.proof is not None:
        return None
    lease.progress(0.99, "comparing the rest")
    before = slip.attempt.footage if slip.attempt else attempt.shot.original
    sent = {
        str(part["number"]): [(first, last) for first, last in part["ranges"]]
        for part in slip.parts
    }
    outlines = {region.id: region.carried.outlines for region in report.regions}
    return prove_rest(opened(before), opened(attempt.footage), outlines, sent)


def keep_return(attempt: ShotAttempt, report: dict[str, Any], proof: RestProof | None) -> None:
    """Say what became of what was sent. In the transaction that stores the answer's check."""
    slip = ShotSlip.objects.filter(returned=attempt).first()
    if slip is None:
        return
    row = held_slip(slip)
    if row.state not in ("returned", "rechecked"):
        return
    row.outcomes = {}
    for part in row.parts:
        ranges = [(first, last) for first, last in part["ranges"]]
        before = [Flaw(**one) for one in part["flaws"]]
        after = [Flaw(**one) for one in flaws_of(report, part["number"], ranges)]
        word, kinds = outcome(before, after, ranges)
        row.outcomes[str(part["number"])] = {"word": word, "kinds": [list(one) for one in kinds]}
    if proof is not None:
        row.proof = asdict(proof)
        _carry(row, attempt, proof)
    row.state, row.rechecked_at = advance("slip", row.state, "rechecked"), timezone.now()
    row.save()


def _carry(slip: ShotSlip, attempt: ShotAttempt, proof: RestProof) -> None:
    """What passed and is proven the same to the bit passes in the answer too."""
    if slip.attempt is None:
        return
    for region in slip.shot.regions.all():
        rows = list(ShotVerdict.objects.filter(attempt=slip.attempt, region=region).order_by("id"))
        stands = ruled(rows, region, slip.shot.original.frames)
        revision = ShotVerdict.objects.filter(attempt=attempt, region=region).count()
        for first, last in carried_over(stands, proof.kept.get(str(region.number), [])):
            revision += 1
            given = [
                one
                for one in rows
                if one.ruling == "passes" and one.first <= last and first <= one.last
            ]
            ShotVerdict.objects.create(
                attempt=attempt,
                region=region,
                version=region.version,
                revision=revision,
                first=first,
                last=last,
                ruling="passes",
                words=f"the same to the bit as in attempt {slip.attempt.number}",
                person=given[-1].person,
            )
