"""What is said on a slip: questions, answers, declining, handing over, settling."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from history.models import record
from jobs.models import Membership
from people.models import Person
from work.keys import new_key
from work.leases import ask
from zweiblick_core.errors import Refused
from zweiblick_core.rules.states import advance

from .models import Slip, SlipWord
from .ordering import give_up_orders
from .packages import ask_package
from .sending import held

#: Who says what: whoever works on it, or a supervisor of the job.
BY_WORKER = (SlipWord.What.ASKED, SlipWord.What.DECLINED)
BY_SUPERVISOR = (SlipWord.What.ANSWERED, SlipWord.What.SETTLED)
#: What needs words.
_IN_WORDS = (SlipWord.What.ASKED, SlipWord.What.ANSWERED, SlipWord.What.DECLINED)


def _said(slip: Slip, what: str, words: str, person: Person | None, before: str) -> None:
    SlipWord.objects.create(slip=slip, what=what, person=person, words=words)
    record(
        slip.picture,
        person,
        f"slip {what}",
        f"slip {slip.round}",
        before=before,
        after={"state": slip.state, "words": words},
    )


@transaction.atomic
def say(slip: Slip, person: Person, what: str, words: str) -> Slip:
    """Ask, answer, decline or settle.

    Raises:
        Refused: it needs words, or nobody in the house works the slip, so that nobody in the house
            asks or declines.
        NotAllowed: the slip's state does not take it.
    """
    row = held(slip)
    if what in _IN_WORDS and not words.strip():
        raise Refused("Say it in words.")
    if row.worker_id is None and what in BY_WORKER:
        raise Refused(f"This slip is with {row.recipient}; nobody here works it.")
    before = row.state
    row.state = advance("slip", row.state, what)
    if what == SlipWord.What.SETTLED and row.looked_at is None:
        row.looked_at = timezone.now()
    if what == SlipWord.What.DECLINED:
        row.reason = words.strip()
    row.save()
    _said(row, what, words.strip(), person, before)
    if what == SlipWord.What.ANSWERED and row.worker_id is None:
        ask("slip", str(row.pk), row.picture)  # the desk goes on once it has the answer
    return row


def asked_at_desk(slip: Slip, words: str) -> None:
    """The desk has a question; done inside a transaction.

    Raises:
        NotAllowed: the slip's state does not take it.
    """
    row = held(slip)
    before = row.state
    row.state = advance("slip", row.state, SlipWord.What.ASKED)
    row.save()
    _said(row, SlipWord.What.ASKED, words[:4000], None, before)


def answer_for_desk(slip: Slip) -> str | None:
    """What was answered to the desk's question since the slip was sent; None while nobody did."""
    rows = slip.words.filter(what__in=(SlipWord.What.ASKED, SlipWord.What.ANSWERED))
    if slip.sent_at is not None:
        rows = rows.filter(made_at__gte=slip.sent_at)
    last = rows.last()
    return last.words if last is not None and last.what == SlipWord.What.ANSWERED else None


@transaction.atomic
def hand_over(slip: Slip, person: Person, worker: Person | None, words: str) -> Slip:
    """Give a slip that is out to somebody else, as it is; None: to the retoucher's desk. It counts
    as sent anew, and who had it sees it no more.

    Raises:
        Refused: the worker is no retoucher of the job, or has it already.
        NotAllowed: it was not sent yet, or is back.
    """
    row = held(slip)
    if worker is not None and row.picture.job.role_of(worker) != Membership.Role.RETOUCHER:
        raise Refused(f"{worker.called} is no retoucher of this job")
    if worker is not None and row.worker_id == worker.pk:
        raise Refused(f"{worker.called} has this slip already")
    before = {"state": row.state, "with": row.recipient}
    row.state = advance("slip", row.state, SlipWord.What.HANDED_OVER)
    give_up_orders(row, person)
    row.worker, row.method, row.tier, row.reason = worker, None, "", ""
    row.sent_at = timezone.now()
    # Another key: what the former worker's desk still does is no answer to this.
    row.key = new_key()
    row.save()
    SlipWord.objects.create(
        slip=row, what=SlipWord.What.HANDED_OVER, person=person, words=words.strip()
    )
    record(
        row.picture,
        person,
        "slip handed over",
        f"slip {row.round}",
        before=before,
        after={"to": worker.called if worker else "retoucher's desk", "words": words.strip()},
    )
    if worker is None:
        ask("slip", str(row.pk), row.picture)
    else:
        ask_package(row)
    return row
