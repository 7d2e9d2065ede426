"""Inviting people into a job by a link that expires; no mail is sent: the link is copied."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta

from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError as Unfit
from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.utils import timezone

from history.models import record_job
from jobs.models import Job, Membership
from people.models import Person
from work.clock import now
from zweiblick_core.errors import Refused

from .models import Invitation

#: Open invitations of a job at most.
MOST = 100
_USABLE = "This invitation is used, taken back or over. Ask for another."


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


@transaction.atomic
def invite(job: Job, role: str, name: str, person: Person) -> tuple[Invitation, str]:
    """Make an invitation and the secret that its link holds, which is shown once.

    Raises:
        Refused: too many are open.
    """
    row = Job.objects.select_for_update().get(pk=job.pk)
    if open_of(row).count() >= MOST:
        raise Refused(f"{MOST} invitations are open; take some back first")
    token = secrets.token_urlsafe(32)
    made = Invitation.objects.create(
        job=row,
        role=role,
        name=name.strip(),
        token_hash=_hash(token),
        made_by=person,
        expires_at=now() + timedelta(days=settings.INVITATION_DAYS),
    )
    record_job(row, person, "invited", made.name, after={"role": role})
    return made, token


def open_of(job: Job) -> QuerySet[Invitation]:
    """Invitations that can still be used."""
    return job.invitations.filter(used_at=None, withdrawn_at=None, expires_at__gt=now())


def found(token: str) -> Invitation:
    """The invitation of a link.

    Raises:
        Refused: there is none, or it can be used no more.
    """
    row = (
        Invitation.objects.filter(
            token_hash=_hash(token), used_at=None, withdrawn_at=None, expires_at__gt=now()
        )
        .select_related("job", "made_by")
        .first()
    )
    if row is None:
        raise Refused(_USABLE)
    return row


@transaction.atomic
def withdraw(invitation: Invitation, person: Person) -> None:
    """Take an invitation back; one that was used stays used."""
    row = Invitation.objects.select_for_update().select_related("job").get(pk=invitation.pk)
    if row.used_at is None and row.withdrawn_at is None:
        row.withdrawn_at = timezone.now()
        row.save()
        record_job(row.job, person, "invitation taken back", row.name, before={"role": row.role})


@transaction.atomic
def accept_as(token: str, person: Person) -> Job:
    """Join with the account one has.

    Raises:
        Refused: the invitation can be used no more, or the person takes part already.
    """
    row = _held(token)
    if row.job.role_of(person) is not None:
        raise Refused(f"You take part in {row.job.name} already.")
    return _joined(row, person)


def accept_anew(token: str, username: str, name: str, password: str) -> Person:
    """Join with a new account.

    Raises:
        Refused: the invitation can be used no more, the sign-in name is taken or no name, or the
            password is too easy to guess. Nothing is made then.
    """
    made = Person(username=username.strip(), name=name.strip())
    try:
        Person._meta.get_field("username").run_validators(made.username)
        validate_password(password, made)
    except Unfit as error:
        raise Refused(" ".join(error.messages)) from error
    made.set_password(password)
    try:
        with transaction.atomic():
            row = _held(token)
            made.save(force_insert=True)
            _joined(row, made)
    except IntegrityError as error:
        raise Refused(f"The sign-in name “{made.username}” is taken.") from error
    return made


def _held(token: str) -> Invitation:
    """The invitation, held, so that it is used once."""
    row = found(token)
    held = Invitation.objects.select_for_update().select_related("job").get(pk=row.pk)
    if held.used_at is not None or held.withdrawn_at is not None:
        raise Refused(_USABLE)
    return held


def _joined(row: Invitation, person: Person) -> Job:
    Membership.objects.create(job=row.job, person=person, role=row.role)
    row.used_by, row.used_at = person, timezone.now()
    row.save()
    record_job(row.job, person, "joined", person.called, after={"role": row.role})
    return row.job


def forget_ended() -> None:
    """Invitations that nobody used are forgotten a while after they were over."""
    over = now() - timedelta(days=30)
    Invitation.objects.filter(used_at=None, expires_at__lt=over).delete()
