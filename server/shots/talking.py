"""What is said on a slip of a shot: questions, answers, declining, handing over."""

from __future__ import annotations

from django.db import transaction

from people.models import Person
from work.keys import new_key
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import advance

from .holding import refuse_as_worker
from .models import ShotSlip, ShotSlipWord
from .packages import ask_package
from .recording import recorded
from .slips import held_slip

What = ShotSlipWord.What
#: Who says what: whoever works on it, or a supervisor of the job.
BY_WORKER = (What.ASKED, What.DECLINED)
BY_SUPERVISOR = (What.ANSWERED,)


@transaction.atomic
def say(slip: ShotSlip, person: Person, what: str, words: str) -> ShotSlip:
    """Ask, answer or decline.

    Raises:
        Refused: it needs words, or no person works on the slip.
        NotAllowed: the slip's state does not take it.
    """
    row = held_slip(slip)
    if not words.strip():
        raise Refused("Say it in words.")
    if row.worker_id is None:
        raise Refused(f"This slip is with {row.recipient}; nobody here works it.")
    row.state = advance("slip", row.state, what)
    if what == What.DECLINED:
        row.reason = words.strip()
    row.save()
    _keep(row, person, what, words)
    return row


@transaction.atomic
def hand_over(slip: ShotSlip, person: Person, worker: Person, words: str) -> ShotSlip:
    """Give a slip that is out to somebody else, as it is; who had it sees it no more.

    Raises:
        Refused: the worker is no retoucher of the job, or has it already.
        NotAllowed: it is back.
    """
    row = held_slip(slip)
    if row.method is not None:
        raise Refused(f"This slip is with {row.recipient}: withdraw it, and send another.")
    refuse_as_worker(row.shot.job, worker)
    if row.worker_id == worker.pk:
        raise Refused(f"{worker.called} has this slip already.")
    row.state = advance("slip", row.state, What.HANDED_OVER)
    row.worker, row.reason, row.key = worker, "", new_key()
    row.save()
    _keep(row, person, What.HANDED_OVER, words, to=worker.called)
    ask_package(row)
    return row


def _keep(row: ShotSlip, person: Person, what: str, words: str, **more: str) -> None:
    ShotSlipWord.objects.create(slip=row, what=what, person=person, words=words.strip())
    recorded(row, person, what, {"state": row.state, "words": words.strip(), **more})
