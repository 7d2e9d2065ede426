"""Make a person who can sign in; does nothing if the name is taken."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from people.models import Person


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("username")
        parser.add_argument("--name", default="")
        parser.add_argument("--password", required=True)
        parser.add_argument(
            "--makes-jobs", action="store_true", help="may make jobs, and is supervisor of those"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        if Person.objects.filter(username=options["username"]).exists():
            self.stdout.write(f"{options['username']} is there already")
            return
        try:
            validate_password(
                options["password"], Person(username=options["username"], name=options["name"])
            )
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from error
        Person.objects.create_user(
            options["username"],
            password=options["password"],
            name=options["name"],
            makes_jobs=options["makes_jobs"],
        )
        self.stdout.write(f"{options['username']} can sign in")
