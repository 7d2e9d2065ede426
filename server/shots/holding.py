"""Who may work slips of shots, and what they hold: who works one stays in the job, and may bring footage."""

from __future__ import annotations

from jobs.models import Job, Membership
from people.models import Person
from zweiblick_core.errors import Refused

from .models import OUT, ShotSlip


def refuse_as_worker(job: Job, person: Person) -> None:
    """Raises: Refused: the person is no retoucher of the job."""
    if job.role_of(person) != Membership.Role.RETOUCHER:
        raise Refused(f"{person.called} is no retoucher of this job.")


def works_on(job: Job, person: Person) -> bool:
    """Whether a slip of a shot of the job is out with the person."""
    return ShotSlip.objects.filter(shot__job=job, worker=person, state__in=OUT).exists()


def refuse_while_working(*, job: Job, person: Person, **_: object) -> None:
    """Raises: Refused: the person has slips of the job's shots to work."""
    count = ShotSlip.objects.filter(shot__job=job, worker=person, state__in=OUT).count()
    if count:
        slips = "a slip of a shot" if count == 1 else f"{count} slips of shots"
        raise Refused(f"{person.called} has {slips} to work; hand that over or withdraw it first")
