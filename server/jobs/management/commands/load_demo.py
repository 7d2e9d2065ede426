"""Load Harbour Year: people, job, pictures, attempts. Does nothing if it is there already."""

from __future__ import annotations

import sys
from datetime import timedelta
from decimal import Decimal

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from attempts.intake import Facts, add_attempt, add_picture
from jobs.models import DeliverySize, Job, Membership, Release
from people.models import Person

sys.path.insert(0, str(settings.REPO))
from demo import scenario  # noqa: E402


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser) -> None:
        parser.add_argument("--password", required=True)
        parser.add_argument("--picture", action="append", help="only these, by their name in demo/pictures")

    def handle(self, *args, **options) -> None:
        if Job.objects.filter(name=scenario.JOB).exists():
            self.stdout.write("the demo is there already")
            return
        # The attempts take the better part of a minute to make; nothing is stored before all of them are.
        wanted = [picture for picture in scenario.PICTURES_OF_JOB if not options["picture"] or picture.slug in options["picture"]]
        made = []
        for picture in wanted:
            it = scenario.scene(picture.slug)
            for number, attempt in enumerate(picture.attempts, 1):
                self.stdout.write(f"  {picture.name}: {attempt.method}")
                self.stdout.flush()
                made.append((picture.slug, number, attempt, *scenario.encode(attempt.make(it), attempt.quality)))
        with transaction.atomic():
            self._store(options["password"], wanted, made)
        self.stdout.write("the demo is loaded")

    def _store(self, password: str, wanted: list, made: list) -> None:
        people = {}
        job = Job.objects.create(name=scenario.JOB, client=scenario.CLIENT, deadline=timezone.now() + timedelta(days=2, hours=5))
        for position, (name, spec) in enumerate(scenario.SIZES):
            DeliverySize.objects.create(job=job, name=name, spec=spec, position=position)
        for username, name, role in scenario.PEOPLE:
            person = Person.objects.create_user(username, password=password, name=name)
            people[role] = person
            Membership.objects.create(job=job, person=person, role=role)
        supervisor = people["supervisor"]
        for picture in wanted:
            it = scenario.scene(picture.slug)
            stored = add_picture(job, picture.name, f"{picture.slug}.jpg", (scenario.PICTURES / f"{picture.slug}.jpg").read_bytes(),
                                 list(zip(picture.regions, it.regions, strict=True)), supervisor)
            for slug, number, attempt, data, ending in made:
                if slug == picture.slug:
                    cost = Decimal(attempt.cost) if attempt.cost else None
                    facts = Facts(attempt.method, attempt.kind, attempt.maker, attempt.seconds, cost, attempt.settings)
                    last = add_attempt(stored, f"{slug}-{number}.{ending}", data, facts, supervisor)
            if picture is wanted[-1]:
                Release.objects.create(picture=stored, attempt=last, person=people["guest"], released_by=supervisor)
