"""On return: what became of what was sent, and what the attempt did to the rest."""

from __future__ import annotations

from django.utils import timezone

from attempts.models import Attempt
from checks.events import Proofs
from checks.models import Check
from history.models import record
from zweiblick_core.compare.locks import Proof
from zweiblick_core.rules import slips
from zweiblick_core.rules.states import advance

from .flaws import flaws_of, seen_of
from .models import Lock, Slip


def judge_return(check: Check) -> None:
    """Say of each region that was sent what became of it. Called in the transaction that stores the
    returned attempt's check.
    """
    slip = Slip.objects.select_for_update().filter(returned_id=check.attempt_id).first()
    if slip is None or slip.state not in ("returned", "rechecked"):
        return
    for part in slip.regions.select_related("region", "attempt__picture__job"):
        before_all = flaws_of(part.attempt, part.region, only_sent=False)
        sent = {flaw["finding"] for flaw in part.flaws}
        found = slips.outcome(
            [seen_of(flaw) for flaw in part.flaws],
            [seen_of(flaw) for flaw in flaws_of(check.attempt, part.region, only_sent=False)],
            [seen_of(flaw) for flaw in before_all if flaw["finding"] not in sent],
        )
        part.outcome = {"word": found.word, "kinds": [list(pair) for pair in found.kinds]}
        part.save()
    first = slip.state == "returned"
    slip.state, slip.rechecked_at = advance("slip", slip.state, "rechecked"), timezone.now()
    slip.save()
    if first:
        record(
            slip.picture,
            None,
            "slip rechecked",
            f"slip {slip.round}",
            after={
                f"region {part.region.number}": part.outcome["word"] if part.outcome else None
                for part in slip.regions.select_related("region")
            },
        )


def on_checked(*, check: Check, proofs: list[Proofs], **_: object) -> None:
    """Of an attempt that answers a slip: what became of what was sent, and what it did to the rest.
    In the transaction that stores the check.
    """
    for found in proofs:
        keep_proofs(check.attempt, found.by_region)
    judge_return(check)


def keep_proofs(attempt: Attempt, proofs: dict[int, Proof]) -> None:
    """Write down what a returned attempt did to the regions that were not sent. Called in the
    check's transaction.
    """
    slip = Slip.objects.filter(returned=attempt).first()
    if slip is None:
        return
    sent = set(slip.regions.values_list("region_id", flat=True))
    for region_id, proof in proofs.items():
        if region_id not in sent:
            Lock.objects.update_or_create(
                slip=slip,
                region_id=region_id,
                defaults={
                    "same": proof.same,
                    "differing": proof.differing,
                    "compared": proof.compared,
                    "saved_anew": proof.same and proof.saved_anew,
                },
            )
