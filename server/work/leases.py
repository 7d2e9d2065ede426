"""Leases on work: who may do it now, and who may write its results.

A worker takes a lease with a growing token and shows life by heartbeats. Results are written in one
transaction that holds the row and
compares the token: a worker that was thought dead and comes back finds its token old, and writes
    nothing.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from typing import Any

from celery import current_app
from django.conf import settings
from django.db import connection, transaction
from django.db.models import DateTimeField, ExpressionWrapper, F, Q
from django.db.models.functions import Now

from jobs.models import Picture
from zweiblick_core.rules.states import advance

from .broker import waiting_in
from .clock import now as database_now
from .models import Work
from .registry import KINDS

log = logging.getLogger(__name__)


class LeaseLost(Exception):
    """Another worker has this work now."""


class Later(Exception):
    """What is needed is not there yet: the work is given back and taken up again."""


def _lease_end() -> ExpressionWrapper[Any]:
    """When a lease that is taken or renewed now runs out, by the database's clock."""
    return ExpressionWrapper(
        Now() + timedelta(seconds=settings.WORK_LEASE), output_field=DateTimeField()
    )


def ask(kind: str, subject: str, picture: Picture | None = None) -> Work:
    """Ask for work; asking again for what is waiting or running changes nothing, for what has
    failed or is done it starts anew.
    """
    with transaction.atomic():
        work, made = Work.objects.select_for_update().get_or_create(
            kind=kind, subject=subject, defaults={"picture": picture}
        )
        if not made and work.state in ("failed", "done"):
            work.state = advance("work", work.state, "asked again")
            work.tries, work.progress, work.error, work.words = 0, 0.0, "", ""
            work.save()
        if work.state == "waiting":
            transaction.on_commit(lambda: dispatch(work.pk))
    return work


def dispatch(pk: int) -> None:
    """Tell the broker. If it does not answer, the sweeper will do so later: the row is the truth."""
    kind = Work.objects.filter(pk=pk).values_list("kind", flat=True).first()
    if kind not in KINDS:
        # Of another version: it waits for one that knows it.
        log.warning("work %s is of the kind %s, which nobody here does", pk, kind)
        return
    Work.objects.filter(pk=pk).update(dispatched_at=Now())
    try:
        current_app.send_task("work.tasks.do_work", (pk,), queue=KINDS[kind].queue)
    except Exception as error:  # the broker may be down in any of its own ways
        log.warning("work %s could not be dispatched: %s", pk, error)
        Work.objects.filter(pk=pk).update(dispatched_at=None)


def take(pk: int) -> Work | None:
    """Lease a piece of work; None if it is done, being done by another, or gone."""
    with transaction.atomic():
        work = Work.objects.select_for_update(skip_locked=True).filter(pk=pk).first()
        now = database_now()
        if work is None or work.state not in ("waiting", "running"):
            return None
        if work.state == "running" and work.leased_until and work.leased_until > now:
            return None
        if work.tries >= settings.WORK_TRIES:
            work.state = advance("work", advance("work", work.state, "leased"), "failed")
            work.error = work.error or "stopped without an answer too often"
            work.finished_at = now
            work.save()
            return None
        work.state = advance("work", work.state, "leased")
        work.token += 1
        work.tries += 1
        work.leased_until = now + timedelta(seconds=settings.WORK_LEASE)
        work.save()
    return work


class Lease:
    """What a piece of work reports to while it runs."""

    def __init__(self, work: Work) -> None:
        self.work = work
        self._last = time.monotonic()
        self._stop = threading.Event()
        self._lost = threading.Event()
        self._thread = threading.Thread(target=self._beat, daemon=True)

    def _beat(self) -> None:
        while not self._stop.wait(settings.WORK_LEASE / 4):
            try:
                held = Work.objects.filter(pk=self.work.pk, token=self.work.token)
                if not held.update(leased_until=_lease_end()):
                    self._lost.set()
                    return
            except (
                Exception
            ) as error:  # the database may come back; the lease runs out by itself if not
                log.warning("heartbeat of work %s failed: %s", self.work.pk, error)
            finally:
                connection.close()

    def progress(self, part: float, words: str) -> None:
        """Tell how far it is, 0..1; written at most twice a second.

        Raises:
            LeaseLost: another worker has taken over.
        """
        if self._lost.is_set():
            raise LeaseLost
        now = time.monotonic()
        if part < 1 and now - self._last < 0.5:
            return
        self._last = now
        if not Work.objects.filter(pk=self.work.pk, token=self.work.token).update(
            progress=part, words=words[:80]
        ):
            raise LeaseLost

    @contextmanager
    def writing(self) -> Iterator[Work]:
        """One transaction in which results are written and the work is finished, or nothing is.

        Raises:
            LeaseLost: the token is old.
        """
        with transaction.atomic():
            work = Work.objects.select_for_update().get(pk=self.work.pk)
            if work.token != self.work.token or work.state != "running":
                raise LeaseLost
            yield work
            work.state = advance("work", work.state, "finished")
            work.progress, work.words, work.leased_until, work.finished_at = (
                1.0,
                "",
                None,
                database_now(),
            )
            work.save()

    def __enter__(self) -> Lease:
        self._thread.start()
        return self

    def __exit__(self, *exc: object) -> None:
        self._stop.set()
        self._thread.join(timeout=5)


def give_back(work: Work, words: str, free: bool = True) -> None:
    """Wait for something outside: the work is free again. The sweeper takes it up.

    Args:
        free: whether it costs no try.
    """
    with transaction.atomic():
        row = Work.objects.select_for_update().get(pk=work.pk)
        if row.token != work.token or row.state != "running":
            return
        row.state = advance("work", row.state, "given back")
        # Not sent to the broker at once: what is not there yet will not be there in a millisecond
        # either.
        row.leased_until, row.words, row.dispatched_at = None, words[:80], None
        row.tries = 0 if free else row.tries
        row.save()


def fail(work: Work, reason: str) -> bool:
    """Mark work as failed for good, under its token; whether it was."""
    with transaction.atomic():
        row = Work.objects.select_for_update().get(pk=work.pk)
        if row.token != work.token or row.state != "running":
            return False
        row.state = advance("work", row.state, "failed")
        row.error, row.leased_until, row.finished_at = reason, None, database_now()
        row.save()
    return True


#: A message that the broker does not hold any more although its work waits was lost; but a row is
#: also sent again after so long whatever the broker says, seconds.
SENT_AGAIN = 600.0


def overdue() -> list[int]:
    """Work that should be running and is not: the broker forgot it, or its worker died.

    A row that merely waits behind others is not sent again: as long as a queue holds messages,
    its rows' own may be among them.
    """
    now = database_now()
    given = now - timedelta(seconds=max(10.0, settings.WORK_LEASE))
    silent = Q(state="running", leased_until__lt=now)
    waiting = Q(state="waiting") & (
        Q(dispatched_at=None) | Q(dispatched_at__lt=now - timedelta(seconds=SENT_AGAIN))
    )
    for queue in {kind.queue for kind in KINDS.values()}:
        if waiting_in(queue) == 0:
            names = [name for name, kind in KINDS.items() if kind.queue == queue]
            waiting |= Q(state="waiting", kind__in=names, dispatched_at__lt=given)
    # While a lease is fresh its dispatch is too; a worker that was just sent one gets no other.
    rows = Work.objects.filter(silent | waiting).exclude(
        dispatched_at__gt=now - timedelta(seconds=2)
    )
    return list(rows.order_by(F("id").asc()).values_list("id", flat=True)[:200])
