"""What people said of a finding stands for the same place again: in a later check of the attempt, and
in an attempt made from it whose pixels there are proven the same.
"""

from __future__ import annotations

from .events import Proofs
from .models import Check, CheckedRegion, Finding, FindingRuling, OutsideRuling

#: So much of two boxes must be shared, intersection over union, for them to be one place.
_SHARED = 0.5


def same_in(region: int, proofs: list[Proofs]) -> list[int]:
    """Attempts that a region's pixels are proven to be the same as."""
    return [
        found.source.pk
        for found in proofs
        if region in found.by_region and found.by_region[region].identical
    ]


def _overlap(first: list[float], second: list[float]) -> float:
    """Intersection over union of two boxes."""
    w = min(first[0] + first[2], second[0] + second[2]) - max(first[0], second[0])
    h = min(first[1] + first[3], second[1] + second[3]) - max(first[1], second[1])
    shared = max(0.0, w) * max(0.0, h)
    return shared / max(1e-6, first[2] * first[3] + second[2] * second[3] - shared)


def carry_answers(check: Check, checked: CheckedRegion, same: list[int]) -> None:
    """Answers of the same kind at the same place go over, the attempt's own before others'.

    Args:
        same: attempts whose pixels are proven the same here.
    """
    earlier = list(
        Finding.objects.filter(
            checked__check_run__attempt__in=[check.attempt_id, *same],
            checked__region_version__region=checked.region_version.region,
        )
        .exclude(checked__check_run=check)
        .select_related("checked__check_run")
        .prefetch_related("rulings")
        .order_by("-checked__check_run_id")
    )
    earlier.sort(key=lambda old: old.checked.check_run.attempt_id != check.attempt_id)
    for finding in checked.findings.all():
        for old in earlier:
            answers = list(old.rulings.all())
            if (
                old.kind == finding.kind
                and answers
                and (answers[-1].answer != FindingRuling.Answer.UNREAD or answers[-1].words)
                and _overlap(old.bbox, finding.bbox) > _SHARED
            ):
                FindingRuling.objects.create(
                    finding=finding,
                    answer=answers[-1].answer,
                    person=answers[-1].person,
                    words=answers[-1].words,
                    carried_from=answers[-1],
                )
                break


def standing_outside(check: Check) -> dict[int, OutsideRuling]:
    """By number, what stands of a check's changes outside; its rulings may be prefetched."""
    newest = {row.number: row for row in check.outside_rulings.all()}
    return {number: row for number, row in newest.items() if row.answer != "unread"}


def carry_outside(*, check: Check, proofs: list[Proofs], **_: object) -> None:
    """What was said of a change outside stands for the same change in a later check of the
    attempt, and in an attempt made from it that is the same there. Called in the check's
    transaction.
    """
    check.refresh_from_db(fields=["outside"])
    if not check.outside:
        return
    same = {found.source.pk: found.outside for found in proofs if found.outside}
    earlier = list(
        Check.objects.filter(attempt__in=[check.attempt_id, *same], state="done")
        .exclude(pk=check.pk)
        .defer("report")
        .prefetch_related("outside_rulings")
        .order_by("-id")
    )
    earlier.sort(key=lambda old: old.attempt_id != check.attempt_id)
    for number, change in enumerate(check.outside):
        for old in earlier:
            if old.attempt_id != check.attempt_id and number not in same[old.attempt_id]:
                continue
            said = next(
                (
                    row
                    for place, row in standing_outside(old).items()
                    if _overlap(old.outside[place]["bbox"], change["bbox"]) > _SHARED
                ),
                None,
            )
            if said is not None:
                OutsideRuling.objects.create(
                    check_run=check,
                    number=number,
                    answer=said.answer,
                    person=said.person,
                    carried_from=said,
                )
                break
