"""Passes that go over to an attempt whose pixels are proven the same."""

from __future__ import annotations

from attempts.models import Attempt
from checks.events import Proofs
from checks.models import Check
from history.models import record
from zweiblick_core.compare.locks import Proof
from zweiblick_core.rules import slips

from .models import Cell, Verdict


def carry_to_checked(*, check: Check, proofs: list[Proofs], **_: object) -> None:
    """What passed in the attempts that this one was made from passes here too, where it is the
    same.
    """
    for found in proofs:
        carry_passes(check.attempt, found.source, found.by_region)


def carry_passes(attempt: Attempt, source: Attempt, proofs: dict[int, Proof]) -> int:
    """Passes of the source attempt go over where the pixels are proven the same. Returns how many.
    Called in the check's transaction.
    """
    carried = 0
    for cell in (
        Cell.objects.select_for_update()
        .filter(attempt=attempt, current=None)
        .select_related("region__current")
    ):
        old = (
            Cell.objects.filter(attempt=source, region=cell.region)
            .select_related("current")
            .first()
        )
        standing = old.current if old else None
        proof = proofs.get(cell.region_id)
        if (
            standing is None
            or proof is None
            or standing.region_version_id != cell.region.current_id
            or not slips.carries(standing.ruling, proof.identical)
        ):
            continue
        cell.current = Verdict.objects.create(
            cell=cell,
            ruling=standing.ruling,
            examination=standing.examination,
            region_version=standing.region_version,
            size=standing.size,
            person=standing.person,
            words=standing.words,
            carried_from=standing,
        )
        cell.revision += 1
        cell.save()
        carried += 1
        record(
            attempt.picture,
            None,
            "pass carried over",
            f"region {cell.region.number} in attempt {attempt.number}",
            after={"from attempt": source.number, "pixels compared": proof.compared},
        )
    return carried
