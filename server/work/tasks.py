"""The queue's two tasks."""

from __future__ import annotations

import logging
from collections.abc import Callable

from arrivals.receiving import forget_old
from celery import shared_task
from slips.sending import Later, run_slip, slip_failed

from attempts.assembling import assembly_failed, run_assembly
from checks.running import check_failed, run_check
from images.aiding import run_aid
from images.pyramids import run_pyramid
from zweiblick_core.errors import Refused

from .leases import Lease, LeaseLost, dispatch, fail, give_back, overdue, take
from .models import Work

log = logging.getLogger(__name__)
RUNNERS: dict[str, Callable[[Lease], None]] = {
    "check": run_check,
    "pyramid": run_pyramid,
    "aid": run_aid,
    "assembly": run_assembly,
    "slip": run_slip,
}
#: Told when work has failed for good.
FAILURES: dict[str, Callable[[Work], None]] = {
    "check": check_failed,
    "assembly": assembly_failed,
    "slip": slip_failed,
}


@shared_task(name="work.tasks.do_work", ignore_result=True)
def do_work(pk: int) -> None:
    """Do one piece of work if it is free. Can run twice without harm."""
    work = take(pk)
    if work is None:
        gone = Work.objects.filter(pk=pk, state="failed").first()
        if gone and gone.kind in FAILURES:
            FAILURES[gone.kind](gone)
        return
    try:
        with Lease(work) as lease:
            RUNNERS[work.kind](lease)
    except LeaseLost:
        log.warning("work %s was taken over by another worker", pk)
    except Later as error:
        give_back(work, str(error))
    except Refused as error:
        _failed(work, str(error))
    except Exception as error:
        log.exception("work %s failed", pk)
        _failed(work, f"an error in the program: {error}")


def _failed(work: Work, reason: str) -> None:
    if fail(work, reason) and work.kind in FAILURES:
        work.refresh_from_db()
        FAILURES[work.kind](work)


@shared_task(name="work.tasks.sweep", ignore_result=True)
def sweep() -> None:
    """Dispatch again what the broker forgot or a dead worker left."""
    for pk in overdue():
        dispatch(pk)
    forget_old()
