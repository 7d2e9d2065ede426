"""People's own marks go over to an attempt whose pixels are proven the same."""

from __future__ import annotations

from checks.carrying import same_in
from checks.events import Proofs
from checks.models import Check

from .models import OwnFinding


def carry_marks(*, check: Check, proofs: list[Proofs], **_: object) -> None:
    """Marks that stand in the attempts that this one was made from stand here too, where it is the
    same; once, also where they were taken back here. Called in the check's transaction.
    """
    for region in {region for found in proofs for region in found.by_region}:
        sources = same_in(region, proofs)
        if not sources:
            continue
        known = OwnFinding.objects.filter(attempt=check.attempt).values_list("carried_from_id")
        marks = (
            OwnFinding.objects.standing()
            .filter(attempt__in=sources, region_version__region=region)
            .exclude(pk__in=[one for (one,) in known if one is not None])
        )
        for mark in marks:
            OwnFinding.objects.create(
                attempt=check.attempt,
                region_version=mark.region_version,
                kind=mark.kind,
                severity=mark.severity,
                size=mark.size,
                words=mark.words,
                polygon=mark.polygon,
                person=mark.person,
                carried_from=mark,
            )
