"""The queue's tasks: do one piece of work, sweep, tidy."""

from __future__ import annotations

import logging

from celery import shared_task

from store.busy import is_busy
from store.durable import Damaged
from zweiblick_core.errors import Refused

from .leases import Later, Lease, LeaseLost, dispatch, fail, give_back, overdue, take
from .models import Work
from .registry import KINDS, TIDYING

log = logging.getLogger(__name__)
#: What people see of an error that nobody foresaw; the log has the rest, under the same number.
UNFORESEEN = "an error in the program; the log of the workers has it as work {pk}"


@shared_task(name="work.tasks.do_work", ignore_result=True)
def do_work(pk: int) -> None:
    """Do one piece of work if it is free. Can run twice without harm."""
    work = take(pk)
    if work is None:
        gone = Work.objects.filter(pk=pk, state="failed").first()
        if gone is not None:
            _tell(gone)
        return
    try:
        with Lease(work) as lease:
            KINDS[work.kind].run(lease)
    except LeaseLost:
        log.warning("work %s was taken over by another worker", pk)
    except Later as error:
        give_back(work, str(error))
    except Refused as error:
        _failed(work, str(error))
    except Damaged as error:
        log.error("work %s: %s", pk, error)
        _failed(work, "a stored file is missing or damaged; manage.py verify_store names it")
    except Exception as error:
        if is_busy(error):
            # Its transaction was undone whole, and the next may do.
            log.warning("work %s met another that was storing: %s", pk, error)
            give_back(work, "waits for another to store", free=False)
            return
        log.exception("work %s failed", pk)
        _failed(work, UNFORESEEN.format(pk=pk))


def _failed(work: Work, reason: str) -> None:
    if fail(work, reason):
        work.refresh_from_db()
        _tell(work)


def _tell(work: Work) -> None:
    kind = KINDS.get(work.kind)
    if kind is not None and kind.failed is not None:
        kind.failed(work)


@shared_task(name="work.tasks.sweep", ignore_result=True)
def sweep() -> None:
    """Dispatch again what the broker forgot or a dead worker left."""
    for pk in overdue():
        dispatch(pk)


@shared_task(name="work.tasks.tidy", ignore_result=True)
def tidy() -> None:
    """Let every app collect what nothing refers to any more."""
    for function in TIDYING:
        try:
            function()
        except Exception:
            log.exception("%s could not tidy up", function.__qualname__)
