"""Load Harbour Year: people, job, pictures, attempts, rulings, slips. Does nothing if it is there
already.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from datetime import timedelta
from decimal import Decimal
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction
from django.utils import timezone

from attempts.intake import Facts, add_attempt, add_picture
from checks.models import Check, Finding
from images.decoding import decoded
from jobs.models import DeliverySize, Job, Membership, Picture, Release
from people.models import Person
from slips.answering import fitting, take_back
from slips.models import Slip
from slips.sending import send_slip, take_up, withdraw_slip
from slips.talking import say
from slips.writing import Edit, Recipient, edit_slip, write_slip
from trials.asking import Wanted, ask_trials
from verdicts.models import Cell
from verdicts.ruling import answer, rule
from work.models import Work
from zweiblick_core.rules.states import advance

sys.path.insert(0, str(settings.REPO))
from demo import scenario  # noqa: E402
from demo.names import PICTURES  # noqa: E402
from upkeep.ahead import do_ahead  # noqa: E402
from upkeep.leaflet import facts_of, load_leaflet  # noqa: E402
from upkeep.quay_shot import load_shot  # noqa: E402


def make(slug: str, number: int) -> tuple[bytes, str]:
    """One attempt's file; run in a process of its own."""
    picture = next(one for one in scenario.PICTURES_OF_JOB if one.slug == slug)
    attempt = picture.attempts[number - 1]
    return scenario.encode(attempt.make(scenario.scene(slug)), attempt.quality)


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--password", required=True)
        parser.add_argument(
            "--picture", action="append", choices=PICTURES, help="only these of the demo's pictures"
        )

    def say(self, words: str) -> None:
        self.stdout.write(words)
        self.stdout.flush()

    def handle(self, *args: Any, **options: Any) -> None:
        if not Job.objects.filter(name=scenario.JOB).exists():
            self._make(options)
        # A start that was broken off in between goes on here.
        job = Job.objects.get(name=scenario.JOB)
        if options["picture"]:
            self.say("the demo is there")
            return
        if not Slip.objects.filter(picture__job=job).exists():
            by_name = {picture.name: picture.slug for picture in scenario.PICTURES_OF_JOB}
            self._sent_back({by_name[picture.name]: picture for picture in job.pictures.all()})
        people = {
            username: Person.objects.get(username=username) for username, _, _ in scenario.PEOPLE
        }
        load_leaflet(people, self.say)
        load_shot(job, people["vera"], self.say)
        self.say("the demo is loaded")

    def _make(self, options: dict[str, Any]) -> None:
        # The attempts take the better part of a minute to make; nothing is stored before all of
        # them are.
        wanted = [
            picture
            for picture in scenario.PICTURES_OF_JOB
            if not options["picture"] or picture.slug in options["picture"]
        ]
        keys = [
            (picture.slug, number)
            for picture in wanted
            for number in range(1, len(picture.attempts) + 1)
        ]
        made = {}
        with ProcessPoolExecutor(2) as pool:
            for key, file in zip(keys, pool.map(make, *zip(*keys, strict=True)), strict=True):
                picture = next(one for one in wanted if one.slug == key[0])
                self.say(f"  {picture.name}: {picture.attempts[key[1] - 1].method}")
                made[key] = file
        with transaction.atomic():
            self._store(options["password"], wanted, made)

    def _store(
        self, password: str, wanted: list[Any], made: dict[tuple[str, int], tuple[bytes, str]]
    ) -> None:
        people: dict[str, Person] = {}
        job = Job.objects.create(
            name=scenario.JOB,
            client=scenario.CLIENT,
            deadline=timezone.now() + timedelta(days=2, hours=5),
        )
        for position, (name, spec) in enumerate(scenario.SIZES):
            DeliverySize.objects.create(job=job, name=name, spec=spec, position=position)
        for username, name, role in scenario.PEOPLE:
            person = Person.objects.create_user(
                username, password=password, name=name, makes_jobs=role == "supervisor"
            )
            people.setdefault(role, person)
            Membership.objects.create(job=job, person=person, role=role)
        supervisor = people["supervisor"]
        for picture in wanted:
            it = scenario.scene(picture.slug)
            row = add_picture(
                job,
                picture.name,
                f"{picture.slug}.jpg",
                scenario.file_of(picture.slug),
                list(zip(picture.regions, it.regions, strict=True)),
                supervisor,
            )
            for number, attempt in enumerate(picture.attempts, 1):
                data, ending = made[picture.slug, number]
                name = f"{picture.slug}-{number}.{ending}"
                last = add_attempt(row, name, data, facts_of(attempt), supervisor)
            if picture is scenario.SIGN:
                Release.objects.create(
                    picture=row, attempt=last, person=people["guest"], released_by=supervisor
                )

    def _sent_back(self, pictures: dict[str, Picture]) -> None:
        """Rulings and slips; what a slip quotes is really examined first."""
        vera = Person.objects.get(username="vera")
        trips = [trip for trip in scenario.TRIPS if trip.picture in pictures]
        works = []
        for trip in trips:
            check = Check.objects.get(
                attempt__picture=pictures[trip.picture], attempt__number=trip.attempt
            )
            self.say(f"  looking at {pictures[trip.picture].name}, attempt {trip.attempt}")
            works.append(Work.objects.get(kind="check", subject=str(check.pk)).pk)
        do_ahead(works)
        with transaction.atomic():
            self._trips(trips, pictures, vera)

    def _trips(self, trips: list[Any], pictures: dict[str, Picture], vera: Person) -> None:
        cell = lambda slug, attempt, region: Cell.objects.get(
            attempt__picture=pictures[slug], attempt__number=attempt, region__number=region
        )
        for ruled in scenario.RULED:
            if ruled.picture not in pictures:
                continue
            here = cell(ruled.picture, ruled.attempt, ruled.region)
            if ruled.ruling != "passes":
                for finding in Finding.objects.filter(
                    checked__check_run__attempt=here.attempt,
                    checked__region_version__region=here.region,
                )[:2]:
                    answer(finding, vera, "confirmed")
            rule(here.pk, vera, ruled.ruling, None, None)
        for trip in trips:
            slip = write_slip(pictures[trip.picture].attempts.get(number=trip.attempt), vera)
            worker = Person.objects.get(username=trip.to) if trip.to else None
            slip = edit_slip(
                slip,
                vera,
                Edit(
                    note=trip.note,
                    to=Recipient(worker),
                    due=None
                    if trip.due is None
                    else timezone.localdate() + timedelta(days=trip.due),
                    due_given=True,
                ),
            )
            self._on_its_way(trip, slip, worker, vera)
        self._tried(pictures, vera)

    def _tried(self, pictures: dict[str, Picture], vera: Person) -> None:
        trial = scenario.TRIAL
        if trial.picture in pictures:
            picture = pictures[trial.picture]
            ask_trials(
                picture,
                picture.regions.get(number=trial.region),
                None,
                [Wanted(method) for method in trial.methods],
                [],
                vera,
            )

    def _on_its_way(self, trip: Any, slip: Slip, worker: Person | None, vera: Person) -> None:
        """As far as the demo says."""
        if trip.state == "written":
            return
        if trip.state == "withdrawn":
            withdraw_slip(slip, vera)
            return
        if trip.state == "failed":
            # As a desk that was closed would leave it; sent again, it goes to the one that is
            # open now.
            Slip.objects.filter(pk=slip.pk).update(
                state=advance("slip", advance("slip", "written", "sent"), "failed"),
                sent_at=timezone.now(),
                reason="the desk was closed for the day",
            )
            return
        slip = send_slip(slip, vera)
        if trip.state in ("working", "returned", "settled"):
            take_up(slip, worker)
        if trip.state in ("question", "declined"):
            said = "asked" if trip.state == "question" else "declined"
            say(slip, Person.objects.get(username=trip.to), said, trip.words)
        if trip.state in ("returned", "settled"):
            given = decoded(slip.attempt.image.blob).pixels
            data, ending = scenario.encode(
                scenario.answer_to_slip(scenario.scene(trip.picture), given), 0
            )
            take_back(
                slip,
                fitting(slip, data, f"{trip.picture}-back.{ending}"),
                Facts(
                    "retouched by hand",
                    "by hand",
                    worker.called if worker else "",
                    1260.0,
                    Decimal("21.00"),
                    {"slip": slip.round},
                ),
                worker,
            )
        if trip.state == "settled":
            say(slip, vera, "settled", "")
