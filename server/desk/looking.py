"""Which pictures somebody looks for. Read from stored states."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db.models import Case, F, IntegerField, Q, QuerySet, Value, When
from django.utils import timezone

from attempts.models import Attempt
from jobs.models import STAFF, Membership
from ledger.models import PictureState
from people.models import Person
from verdicts.models import SecondLook
from zweiblick_core.visibility import WORDS

DONE = Q(state="done")


def states_of(person: Person) -> QuerySet[PictureState]:
    """Where the pictures that somebody works on stand, the nearest deadline first, done ones last."""
    # By the job's number: joining memberships would double rows and sort them in a scratch table.
    jobs = Membership.objects.filter(person=person, role__in=STAFF).values("job")
    return (
        PictureState.objects.filter(picture__job__in=jobs, picture__withdrawn_at=None)
        .select_related("picture__job", "picture__charge__person")
        .order_by(
            Case(When(DONE, then=Value(1)), default=Value(0), output_field=IntegerField()),
            F("picture__job__deadline").asc(nulls_last=True),
            "picture__job",
            "picture__number",
        )
    )


def asked_of(person: Person) -> QuerySet[SecondLook, Any]:
    """Pictures at which somebody's second look is waited for."""
    return SecondLook.objects.waiting().filter(asked=person).values("cell__attempt__picture")


def _needing(states: QuerySet[PictureState], need: str, person: Person) -> QuerySet[PictureState]:
    if need == "signed off":
        return states.filter(picture__standing_sign_off__isnull=False)
    if need == "asked of you":
        return states.filter(picture__in=asked_of(person))
    if need == "failed checks":
        return states.filter(failed__gt=0)
    if need:
        return states.filter(state=need, picture__standing_sign_off=None)
    return states


def _due(due: str) -> Q:
    """By the job's deadline; a day ends at midnight of this house's clock."""
    now = timezone.localtime()
    tonight = (now + timedelta(days=1)).replace(hour=0, minute=0, second=0, microsecond=0)
    deadline = "picture__job__deadline"
    return {
        "overdue": Q(**{f"{deadline}__lt": now}),
        "today": Q(**{f"{deadline}__lt": tonight}),
        "week": Q(**{f"{deadline}__lt": tonight + timedelta(days=6)}),
        "none": Q(**{f"{deadline}__isnull": True}),
    }.get(due, Q())


def _in_charge(charge: str, person: Person) -> Q:
    if charge == "mine":
        return Q(picture__charge__person=person)
    if charge == "nobody":
        return Q(picture__charge=None)
    return Q(picture__charge__person=int(charge)) if charge else Q()


def looked_for(
    states: QuerySet[PictureState], asked: dict[str, Any], person: Person
) -> QuerySet[PictureState]:
    """Those that match.

    Args:
        asked: "q" (words and numbers, all of which must match), "job", "need", "kind" and
            "severity" of the worst flaw, "method", "due", "charge"; what is missing or empty is
            not asked for.
    """
    for word in str(asked.get("q") or "").split():
        named = Q(picture__name__icontains=word) | Q(picture__job__name__icontains=word)
        if word.isdecimal():
            named |= Q(picture__number=int(word))
        states = states.filter(named)
    if asked.get("job") is not None:
        states = states.filter(picture__job=asked["job"])
    if asked.get("kind"):
        states = states.filter(worst_kind=asked["kind"])
    if asked.get("severity"):
        states = states.filter(worst_word__in=WORDS[WORDS.index(asked["severity"]) :])
    if asked.get("method"):
        by = Attempt.objects.filter(run__method__name=asked["method"]).values("picture")
        states = states.filter(picture__in=by)
    states = states.filter(
        _due(asked.get("due") or ""), _in_charge(asked.get("charge") or "", person)
    )
    return _needing(states, asked.get("need") or "", person)


def in_order(states: QuerySet[PictureState], sort: str) -> QuerySet[PictureState]:
    """By deadline as they come, or otherwise."""
    if sort == "worst":
        return states.order_by(F("worst_severity").desc(nulls_last=True), "picture")
    return states.order_by("picture__name", "picture") if sort == "name" else states
