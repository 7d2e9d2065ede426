"""The demo's second job: ruled on over the last weeks, signed off, released, remarked on."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from datetime import timedelta
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from attempts.intake import Facts, add_attempt, add_picture
from attempts.models import Attempt
from checks.models import Check
from demo import leaflet
from demo.scenario import Made
from jobs.models import DeliverySize, Job, Membership, Picture
from people.models import Person
from signing.remarking import add_remark, answer_remark
from signing.signing import leaving, release, sign
from verdicts.models import Cell, Verdict
from verdicts.ruling import rule
from work.models import Work

from .ahead import do_ahead

#: Between two pictures, in what the history tells.
_DAYS = 2


def load_leaflet(people: dict[str, Person], say: Callable[[str], None]) -> None:
    """Make the job; pictures and rulings at once or not at all, then what left. One that was broken
    off goes on.

    Args:
        people: by username.
    """
    job = Job.objects.filter(name=leaflet.JOB).first()
    if job is None:
        say(f"  {leaflet.JOB}")
        keys = [
            (picture.slug, number)
            for picture in leaflet.PICTURES
            for number in range(1, len(picture.attempts) + 1)
        ]
        with ProcessPoolExecutor(2) as pool:
            files = list(pool.map(leaflet.make, *zip(*keys, strict=True)))
        with transaction.atomic():
            job = _stored(people, dict(zip(keys, files, strict=True)))
    left = [
        (slug, picture)
        for slug in leaflet.SIGNED
        if not (picture := job.pictures.get(name=_name(slug))).sign_offs.exists()
    ]
    do_ahead([_examining(picture, say) for _, picture in left])
    for slug, picture in left:
        _leave(picture, slug, people)


def facts_of(made: Made) -> Facts:
    """What is known of an attempt of the demo."""
    cost = Decimal(made.cost) if made.cost else None
    return Facts(made.method, made.kind, made.maker, made.seconds, cost, made.settings)


def _name(slug: str) -> str:
    return next(one.name for one in leaflet.PICTURES if one.slug == slug)


def _stored(people: dict[str, Person], files: dict[tuple[str, int], tuple[bytes, str]]) -> Job:
    job = Job.objects.create(
        name=leaflet.JOB, client=leaflet.CLIENT, deadline=timezone.now() + timedelta(days=9)
    )
    for position, (name, spec) in enumerate(leaflet.SIZES):
        DeliverySize.objects.create(job=job, name=name, spec=spec, position=position)
    for username, role in (("vera", "supervisor"), ("mona", "retoucher"), ("archive", "guest")):
        Membership.objects.create(job=job, person=people[username], role=role)
    vera = people["vera"]
    for place, picture in enumerate(leaflet.PICTURES):
        row = add_picture(
            job,
            picture.name,
            f"{picture.slug}.jpg",
            leaflet.file_of(picture.slug),
            list(zip(picture.regions, leaflet.scene(picture.slug).regions, strict=True)),
            vera,
        )
        for number, made in enumerate(picture.attempts, 1):
            data, ending = files[picture.slug, number]
            name = f"{picture.slug}-{number}.{ending}"
            add_attempt(row, name, data, facts_of(made), vera)
        _ruled(row, leaflet.RULED[picture.slug], vera, _DAYS * (len(leaflet.PICTURES) - place))
    return job


def _ruled(picture: Picture, rulings: tuple[str, ...], person: Person, days: int) -> None:
    """Rule on its attempts one after the other, so many days ago."""
    for number, ruling in enumerate(rulings, 1):
        cell = Cell.objects.get(attempt__picture=picture, attempt__number=number)
        made = rule(cell.pk, person, ruling, None, None)
        Verdict.objects.filter(pk=made.pk).update(
            made_at=timezone.now() - timedelta(days=days, hours=-number)
        )


def _examining(picture: Picture, say: Callable[[str], None]) -> int:
    """The piece of work that examines the attempt that is to leave."""
    attempt = _leaving(picture)
    check = Check.objects.filter(attempt=attempt).latest("pk")
    say(f"  looking at {picture.name}, attempt {attempt.number}")
    return Work.objects.get(kind="check", subject=str(check.pk)).pk


def _leaving(picture: Picture) -> Attempt:
    attempt = leaving(picture)
    if attempt is None:
        raise ValueError(f"{picture.name} holds in no attempt")
    return attempt


def _leave(picture: Picture, slug: str, people: dict[str, Person]) -> None:
    """Sign it off now that it is examined, show it to the client, keep what they say."""
    attempt = _leaving(picture)
    with transaction.atomic():
        sign(picture, attempt, people["vera"])
        (shown,) = release(picture, [people["archive"]], people["vera"])
        for said in leaflet.REMARKS:
            if said.picture != slug:
                continue
            place = None
            if said.place is not None:
                original = picture.original
                place = [said.place[0] * original.width, said.place[1] * original.height]
            remark = add_remark(shown, people["archive"], said.words, place)
            if said.answer:
                answer_remark(remark, people["vera"], said.answer, None)
