"""Asking for trials, and cancelling them."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from django.db import transaction

from attempts.models import Attempt
from history.models import record
from jobs.models import Picture
from people.models import Person
from regions.models import Region
from work.leases import ask
from zweiblick_core.errors import Refused
from zweiblick_core.methods import BY_NAME, refuse_settings
from zweiblick_core.rules.states import advance

from .models import Trial

#: Puts the original back wherever no region is.
PUT_BACK = "original put back outside"
#: Puts what was sent back wherever nothing was to be worked.
SENT_PUT_BACK = "sent attempt put back outside"
#: Settings that every method takes; all others are a method's own.
COMMON = (
    "grow",
    "feather",
    "grain",
    "tone",
    "opacity",
    "seed",
    "keep out",
    "take from",
    "also",
    "order",
)
#: Runs that may wait or run at a time for a picture.
MOST = 24


@dataclass(frozen=True)
class Wanted:
    """One method with its settings; `takes`: how many runs, each with a seed of its own."""

    method: str
    settings: dict[str, Any] = field(default_factory=dict[str, Any])
    grow: int = 0
    feather: float = 0.0
    grain: bool = False
    tone: bool = False
    opacity: float = 1.0
    seed: int = 1
    takes: int = 1


def _of_picture(picture: Picture, base: Attempt | None) -> None:
    if base is not None and base.picture_id != picture.pk:
        raise Refused("That attempt is another picture's.")


def _room(picture: Picture, more: int) -> None:
    open_ = picture.trials.filter(state__in=("waiting", "running")).count()
    if open_ + more > MOST:
        raise Refused(f"{open_} runs wait already; at most {MOST} may wait for a picture")


@transaction.atomic
def ask_trials(
    picture: Picture,
    region: Region,
    base: Attempt | None,
    wanted: list[Wanted],
    keep_out: list[list[int]],
    person: Person,
    take_from: list[list[int]] | None = None,
    also: list[Region] | None = None,
) -> list[Trial]:
    """Ask for runs; each becomes an attempt once it is done.

    Args:
        also: further regions that each run works in the same attempt; in which order, the core's
            plan says once the picture is read.
        base: what they are made from; None: the original.
        keep_out: boxes [x, y, width, height] that nothing is taken from.
        take_from: boxes that it is taken from; none: from anywhere.

    Raises:
        Refused: a method or setting that there is not, a region or attempt of another picture, or
            too many runs; nothing is asked for then.
    """
    row = Picture.every.select_for_update().select_related("job").get(pk=picture.pk)
    more = [one for one in also or [] if one.pk != region.pk]
    for one in (region, *more):
        if one.picture_id != row.pk or one.withdrawn_at is not None:
            raise Refused("This picture has no such region.")
    _of_picture(row, base)
    for run in wanted:
        reason = refuse_settings(run.method, run.settings)
        if reason:
            raise Refused(reason)
        if run.takes > 1 and not BY_NAME[run.method].takes:
            raise Refused(f"another take of “{run.method}” would be the same")
        if more and run.settings.get("offset"):
            raise Refused(f"“{run.method}” copies from one place; that fits one region only")
    _room(row, sum(run.takes for run in wanted))
    made = []
    for run in wanted:
        for take in range(run.takes):
            settings = {
                **run.settings,
                "grow": run.grow,
                "feather": run.feather,
                "grain": run.grain,
                "tone": run.tone,
                "seed": run.seed + take,
                "keep out": keep_out,
                "take from": take_from or [],
                **({} if run.opacity == 1 else {"opacity": run.opacity}),
                **({"also": [other.drawn.pk for other in more]} if more else {}),
            }
            made.append(
                Trial.objects.create(
                    picture=row,
                    region_version=region.drawn,
                    base=base,
                    method=run.method,
                    settings=settings,
                    person=person,
                )
            )
    record(
        row,
        person,
        "trial asked for",
        f"region {region.number}, {region.name}" + (f" and {len(more)} more" if more else ""),
        after={
            **({"regions": [one.name for one in (region, *more)]} if more else {}),
            "methods": [trial.method for trial in made],
            "made from": f"attempt {base.number}" if base else "the original",
        },
    )
    for trial in made:
        ask("trial", str(trial.pk), row)
    return made


@transaction.atomic
def ask_put_back(attempt: Attempt, margin: int, person: Person) -> Trial:
    """Ask for a new attempt: this one, with the original wherever no region is.

    Raises:
        Refused: too many runs wait.
    """
    row = Picture.objects.select_for_update().select_related("job").get(pk=attempt.picture_id)
    _room(row, 1)
    trial = Trial.objects.create(
        picture=row, base=attempt, method=PUT_BACK, settings={"margin": margin}, person=person
    )
    record(row, person, "original put back", f"attempt {attempt.number}", after={"margin": margin})
    ask("trial", str(trial.pk), row)
    return trial


@transaction.atomic
def ask_sent_put_back(
    returned: Attempt,
    sent: Attempt,
    areas: list[tuple[int, float, bool]],
    margin: int,
    person: Person,
) -> Trial:
    """Ask for a new attempt: what came back, with what was sent wherever nothing was to be worked.

    Args:
        areas: (region version, pixels it is grown by, whether pushed past the frame) of what was
            to be worked.
        margin: beyond them both fade into each other, pixels.

    Raises:
        Refused: too many runs wait.
    """
    row = Picture.objects.select_for_update().select_related("job").get(pk=returned.picture_id)
    _room(row, 1)
    trial = Trial.objects.create(
        picture=row,
        base=returned,
        method=SENT_PUT_BACK,
        settings={"margin": margin, "from": sent.pk, "areas": [list(area) for area in areas]},
        person=person,
    )
    record(
        row,
        person,
        "sent attempt put back",
        f"attempt {returned.number}",
        after={"from": f"attempt {sent.number}", "margin": margin},
    )
    ask("trial", str(trial.pk), row)
    return trial


@transaction.atomic
def cancel(trial: Trial, person: Person) -> Trial:
    """Cancel a run that is not done; one that is just running ends without a result.

    Raises:
        NotAllowed: it is done, failed or cancelled.
    """
    row = Trial.objects.select_for_update().select_related("picture__job").get(pk=trial.pk)
    row.state = advance("trial", row.state, "cancelled")
    row.save()
    record(row.picture, person, "trial cancelled", row.method)
    return row
