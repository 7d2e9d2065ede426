"""Signing a picture off, reopening it, releasing it to guests."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils import timezone

from attempts.intake import locked_picture
from attempts.models import Attempt
from checks.carrying import standing_outside
from checks.models import Check, OutsideRuling
from history.models import record
from jobs.models import Membership, Picture, Release
from ledger.book import ledger
from people.models import Person
from slips.models import OPEN
from zweiblick_core.errors import Refused
from zweiblick_core.rules.rights import refuse_terms
from zweiblick_core.rules.signing import Standing, refuse_signing
from zweiblick_core.rules.states import NotAllowed
from zweiblick_core.rules.verdicts import holds

from .models import SignOff


def leaving(picture: Picture) -> Attempt | None:
    """The attempt that would leave: the one in which every region holds at the size judged for."""
    done = ledger(picture).done
    return Attempt.objects.filter(pk=done).first() if done else None


def standing_of(picture: Picture, attempt: Attempt) -> Standing:
    """How a picture stands for one attempt that is to leave."""
    failing, outside = [], 0
    for size in picture.job.sizes.all():
        book = ledger(picture, size)
        wanted = {region.pk for region in book.regions}
        passed = {
            fact.region
            for fact in book.facts.values()
            if fact.attempt == attempt.pk
            and holds(fact.verdict, book.demand)
            # Not while a second look is waited for, or says otherwise.
            and book.region_state(fact.region) == "holds"
        }
        if not wanted or wanted - passed:
            failing.append(size.name)
        outside = max(outside, len(book.holding_up(attempt.pk)))
    check = _newest_check(attempt)
    return Standing(
        attempt.number,
        check is not None and check.state == "done",
        failing,
        list(
            picture.slips.filter(state__in=OPEN)
            .exclude(state="written")
            .order_by("round")
            .values_list("round", flat=True)
        ),
        sorted({words for words in map(_terms, _ancestry(attempt)) if words}),
        outside,
        SignOff.objects.filter(standing=picture).exists(),
        picture.remarks.filter(answered_at=None).count(),
    )


def _newest_check(attempt: Attempt) -> Check | None:
    return Check.objects.filter(attempt=attempt).order_by("-id").first()


def _ancestry(attempt: Attempt) -> list[Attempt]:
    """An attempt and all that it was made from."""
    found: dict[int, Attempt] = {}
    waiting = [attempt]
    while waiting:
        one = waiting.pop()
        if one.pk not in found:
            found[one.pk] = one
            waiting += [row.source for row in one.sources.select_related("source__run__method")]
    return list(found.values())


def _terms(attempt: Attempt) -> str | None:
    """Why the terms under which an attempt was had don't allow the job's use."""
    terms = str(attempt.run.settings.get("terms") or "")
    try:
        words = refuse_terms(terms, attempt.picture.job.use)
    except KeyError:
        words = f"its terms, “{terms}”, are not known here"
    return f"attempt {attempt.number}: {words}" if words else None


def accepted_in(attempt: Attempt) -> list[dict[str, Any]]:
    """What was found in an attempt and let stand, and by whom; `region` None: outside them all."""
    check = _newest_check(attempt)
    if check is None:
        return []
    rows = []
    for checked in check.regions.select_related("region_version__region").prefetch_related(
        "findings__rulings__person"
    ):
        for finding in checked.findings.all():
            answers = list(finding.rulings.all())
            if answers and answers[-1].answer == "acceptable":
                rows.append(
                    {
                        "region": checked.region_version.region.number,
                        "kind": finding.kind,
                        "person": answers[-1].person.called,
                    }
                )
    return rows + [
        {"region": None, "kind": check.outside[number]["kind"], "person": said.person.called}
        for number, said in sorted(standing_outside(check).items())
        if said.answer in (OutsideRuling.Answer.ACCEPTABLE, OutsideRuling.Answer.AGREED_BASE)
    ]


@transaction.atomic
def sign(picture: Picture, attempt: Attempt, person: Person) -> SignOff:
    """Sign an attempt off: from now on the picture is as it was signed.

    Raises:
        Refused: it cannot be signed, with every reason.
    """
    row = locked_picture(picture.pk)
    if attempt.picture_id != row.pk:
        raise Refused("That attempt is another picture's.")
    standing = standing_of(row, attempt)
    reasons = refuse_signing(standing)
    if reasons:
        raise Refused(" ".join(reasons))
    sizes = [{"name": size.name, "spec": size.spec} for size in row.job.sizes.all()]
    accepted = accepted_in(attempt)
    outside = sum(one["region"] is None for one in accepted)
    signed = SignOff.objects.create(
        picture=row,
        standing=row,
        attempt=attempt,
        sizes=sizes,
        accepted=accepted,
        outside=outside,
        outlines=[region.drawn.pk for region in row.regions.select_related("current")],
        person=person,
    )
    record(
        row,
        person,
        "signed off",
        f"attempt {attempt.number}",
        after={
            "sizes": [size["name"] for size in sizes],
            "accepted": len(accepted) - outside,
            "changes outside accepted": outside,
        },
    )
    return signed


@transaction.atomic
def reopen(picture: Picture, reason: str, person: Person) -> SignOff:
    """Take a sign-off back, with the reason; what was built of it stays on record.

    Raises:
        Refused: no reason is given. NotAllowed: it is not signed off.
    """
    if not reason.strip():
        raise Refused("Say why it is reopened.")
    locked_picture(picture.pk)
    row = SignOff.objects.select_for_update().filter(standing=picture).first()
    if row is None:
        raise NotAllowed("this picture is not signed off")
    row.standing, row.reopened_at, row.reopened_by = None, timezone.now(), person
    row.reason = reason.strip()
    row.save()
    record(
        picture,
        person,
        "reopened",
        f"attempt {row.attempt.number}",
        before="signed off",
        after={"reason": row.reason},
    )
    return row


@transaction.atomic
def release(picture: Picture, people: list[Person], person: Person) -> list[Release]:
    """Show what was signed to guests of the job.

    Raises:
        Refused: it is not signed off, or somebody is no guest of the job.
    """
    row = locked_picture(picture.pk)
    signed = SignOff.objects.filter(standing=row).select_related("attempt").first()
    if signed is None:
        raise Refused("Only what is signed off is released.")
    made = []
    for guest in people:
        if row.job.role_of(guest) != Membership.Role.GUEST:
            raise Refused(f"{guest.called} is no guest of this job")
        made.append(
            Release.objects.get_or_create(
                picture=row,
                attempt=signed.attempt,
                person=guest,
                defaults={"released_by": person},
            )[0]
        )
    record(
        row,
        person,
        "released",
        f"attempt {signed.attempt.number}",
        after={"to": [guest.called for guest in people]},
    )
    return made
