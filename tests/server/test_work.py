"""Long work: leases, fencing, takeover, and a worker that is really killed in the middle of a
check.
"""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from datetime import timedelta

import pytest
from django.utils import timezone
from house import do_all_work


@pytest.mark.django_db
def test_work_is_asked_for_once(picture):
    from checks.models import Check
    from checks.running import ask_check
    from work.models import Work

    before = Work.objects.count()
    for attempt in picture.attempts.all():
        ask_check(attempt)
    assert Work.objects.count() == before and Check.objects.count() == 3


@pytest.mark.django_db
def test_doing_the_same_work_twice_changes_nothing(checked):
    from checks.models import Finding
    from work.models import Work
    from work.tasks import do_work

    findings = list(Finding.objects.values_list("pk", flat=True))
    for work in Work.objects.all():
        do_work(work.pk)
    assert list(Finding.objects.values_list("pk", flat=True)) == findings and findings


@pytest.mark.django_db
def test_a_fresh_lease_keeps_others_away_and_a_silent_one_is_taken_over(picture):
    from work.leases import overdue, take
    from work.models import Work

    pk = Work.objects.filter(kind="check").first().pk
    first = take(pk)
    assert first.token == 1 and take(pk) is None and pk not in overdue()
    Work.objects.filter(pk=pk).update(leased_until=timezone.now() - timedelta(seconds=1))
    assert pk in overdue()
    assert take(pk).token == 2


@pytest.mark.django_db
def test_work_that_met_a_deadlock_is_done_again_and_not_forever(picture, monkeypatch):
    from django.conf import settings
    from django.db import OperationalError

    from work.models import Work
    from work.registry import KINDS, Kind
    from work.tasks import do_work

    pk = Work.objects.filter(kind="check").first().pk
    kind = KINDS["check"]
    met = []

    def deadlock(lease):
        met.append(lease.work.tries)
        raise OperationalError(1213, "Deadlock found when trying to get lock")

    monkeypatch.setitem(KINDS, "check", Kind(deadlock, kind.queue, kind.failed))
    do_work(pk)
    assert Work.objects.get(pk=pk).state == "waiting"
    monkeypatch.setitem(KINDS, "check", kind)
    do_work(pk)
    assert Work.objects.get(pk=pk).state == "done"
    other = Work.objects.filter(kind="check", state="waiting").first().pk
    monkeypatch.setitem(KINDS, "check", Kind(deadlock, kind.queue, kind.failed))
    for _ in range(settings.WORK_TRIES + 1):
        do_work(other)
    assert Work.objects.get(pk=other).state == "failed"
    assert len(met) == 1 + settings.WORK_TRIES


@pytest.mark.django_db
def test_a_worker_that_was_taken_over_writes_nothing(picture):
    from checks.models import Check, Finding
    from checks.running import run_check
    from work.leases import Lease, LeaseLost, take
    from work.models import Work

    pk = Work.objects.filter(kind="check").first().pk
    slow = take(pk)
    Work.objects.filter(pk=pk).update(leased_until=timezone.now() - timedelta(seconds=1))
    quick = take(pk)
    run_check(Lease(quick))
    stored = Finding.objects.count()
    with pytest.raises(LeaseLost), Lease(slow).writing():
        Check.objects.filter(pk=quick.subject).update(overall=0.123)
    assert Finding.objects.count() == stored and not Check.objects.filter(overall=0.123).exists()


@pytest.mark.django_db
def test_work_that_never_answers_fails_after_some_tries(picture, settings):
    from checks.models import Check
    from work.models import Work
    from work.tasks import do_work

    work = Work.objects.filter(kind="check").first()
    Work.objects.filter(pk=work.pk).update(
        tries=settings.WORK_TRIES,
        state="running",
        leased_until=timezone.now() - timedelta(seconds=1),
    )
    do_work(work.pk)
    work.refresh_from_db()
    assert work.state == "failed" and Check.objects.get(pk=work.subject).state == "failed"


@pytest.mark.django_db
def test_answers_carry_over_to_a_new_check_by_kind_and_overlap(checked, people, monkeypatch):
    from checks.models import Finding
    from checks.running import ask_check
    from verdicts.ruling import answer

    finding = Finding.objects.filter(checked__check_run__attempt__number=1).first()
    answer(finding, people["vera"], "confirmed")
    monkeypatch.setattr("checks.running.core_version", "0.1.1-test")
    check = ask_check(finding.checked.check_run.attempt)
    do_all_work()
    again = Finding.objects.filter(checked__check_run=check, kind=finding.kind)
    assert [one.rulings.last().answer for one in again if one.rulings.exists()] == ["confirmed"]
    assert again.exclude(rulings=None).first().rulings.last().carried_from.finding_id == finding.pk


def _wait(condition, seconds):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if condition():
            return True
        time.sleep(0.05)
    return False


@pytest.mark.own_worker
@pytest.mark.django_db(transaction=True)
def test_a_worker_killed_in_the_middle_of_a_check_loses_and_doubles_nothing(
    job, people, settings, tmp_path
):
    """The real thing: a Celery worker is killed with its whole process group; another finishes what
    it left.
    """
    from django.db import connection

    from attempts.intake import Facts, add_attempt, add_picture
    from checks.models import Check, Finding
    from work.leases import dispatch, overdue
    from work.models import Work

    sys.path.insert(0, str(settings.REPO))
    from demo import scenario

    it = scenario.scene("boatshed")
    environment = {
        **os.environ,
        "ZWEIBLICK_DB_NAME": connection.settings_dict["NAME"],
        "ZWEIBLICK_WORK_LEASE": "2",
        "ZWEIBLICK_STORE": str(settings.STORE),
    }
    settings.WORK_LEASE = 2.0

    def worker(name):
        command = [
            sys.executable,
            "-m",
            "celery",
            "-A",
            "config",
            "worker",
            "--concurrency=1",
            "--loglevel=WARNING",
            "-n",
            f"{name}@test",
            "-Q",
            "checks",
        ]
        return subprocess.Popen(
            command,
            cwd=settings.REPO / "server",
            env=environment,
            start_new_session=True,
            stdout=(tmp_path / name).open("wb"),
            stderr=subprocess.STDOUT,
        )

    first = worker("first")
    second = None
    try:
        picture = add_picture(
            job,
            "Boat shed",
            "boatshed.jpg",
            (scenario.PICTURES / "boatshed.jpg").read_bytes(),
            [("sign", it.regions[0])],
            people["vera"],
        )
        data, ending = scenario.encode(scenario.boatshed_tight(it), 95)
        attempt = add_attempt(
            picture, f"tight.{ending}", data, Facts("service", "outside service"), people["vera"]
        )
        work = Work.objects.get(kind="check")
        assert _wait(
            lambda: (
                Work.objects.get(pk=work.pk).state == "running"
                and Check.objects.get().state == "running"
            ),
            60,
        ), (tmp_path / "first").read_text()
        os.killpg(first.pid, signal.SIGKILL)
        first.wait()
        assert Check.objects.get().state == "running" and Finding.objects.count() == 0
        second = worker("second")

        def done():
            for pk in overdue():
                dispatch(pk)
            return Check.objects.get().state == "done"

        assert _wait(done, 90), (tmp_path / "second").read_text()
        check = Check.objects.get()
        reported = sum(len(region["findings"]) for region in check.report["regions"])
        assert Finding.objects.count() == reported > 0
        assert Work.objects.get(pk=work.pk).token >= 2
        assert attempt.picture.history.filter(what="check finished").count() == 1
    finally:
        for process in (first, second):
            if process and process.poll() is None:
                os.killpg(process.pid, signal.SIGKILL)
                process.wait()


@pytest.mark.django_db
def test_work_of_a_kind_that_nobody_here_knows_waits_and_stops_nothing(picture, monkeypatch):
    """A newer version may have asked for it, on the same database."""
    from work import leases
    from work.models import Work

    strange = Work.objects.create(kind="of another version", subject="1")
    sent = []
    monkeypatch.undo()
    monkeypatch.setattr(leases, "waiting_in", lambda queue: 0)
    monkeypatch.setattr(
        leases.current_app, "send_task", lambda name, args, queue: sent.append(args[0])
    )
    for pk in leases.overdue():
        leases.dispatch(pk)
    assert strange.pk not in sent and len(sent) == Work.objects.count() - 1
    strange.refresh_from_db()
    assert strange.state == "waiting"
