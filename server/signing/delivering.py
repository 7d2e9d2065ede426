"""Asking for a delivery: a zip of signed pictures."""

from __future__ import annotations

from django.db import transaction

from history.models import record_job
from jobs.models import Job
from people.models import Person
from work.keys import new_key
from work.leases import ask
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import advance

from .formats import Options, refuse_options
from .keeping import is_kept
from .models import Delivery, SignOff


@transaction.atomic
def ask_delivery(job: Job, pictures: list[int], options: Options, person: Person) -> Delivery:
    """Have a zip built of these pictures, each as it was signed.

    Raises:
        Refused: one is not signed off, or there is nothing to deliver.
    """
    row = Job.objects.select_for_update().get(pk=job.pk)
    refuse_options(options, [size.name for size in row.sizes.all()])
    signed = list(SignOff.objects.filter(standing__job=row, standing__in=pictures))
    if not pictures or len(signed) < len(set(pictures)):
        raise Refused("Only pictures of the job that are signed off are delivered.")
    made = Delivery.objects.create(job=row, options=options.to_dict(), person=person, key=new_key())
    made.signed.set(signed)
    record_job(row, person, "delivery asked for", "", after={"pictures": len(signed)})
    ask("delivery", str(made.pk))
    return made


@transaction.atomic
def build_again(delivery: Delivery, person: Person) -> Delivery:
    """Build one again that failed or is kept no longer: of what was signed then.

    Raises:
        NotAllowed: it is ready or being built.
    """
    row = Delivery.objects.select_for_update().select_related("job").get(pk=delivery.pk)
    if row.state == "ready" and not is_kept(row):
        row.state = advance("delivery", row.state, "forgotten")
    row.state, row.reason = advance("delivery", row.state, "asked again"), ""
    row.save()
    record_job(row.job, person, "delivery asked for again", "")
    ask("delivery", str(row.pk))
    return row
