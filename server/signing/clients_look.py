"""A guest is asked about a region: the attempt is released to them for that, and what they say is a
remark.
"""

from __future__ import annotations

from django.db import transaction

from history.models import record
from jobs.models import Membership, Release
from people.models import Person
from verdicts.models import Cell, SecondLook
from verdicts.seconds import answer_second, ask_second
from zweiblick_core.errors import Refused

from .models import Remark
from .remarking import add_remark


@transaction.atomic
def ask(cell: Cell, asked: Person, words: str, person: Person) -> SecondLook:
    """Ask for a second look; a guest sees the attempt from then on.

    Raises:
        Refused: a guest is asked without words; the rest as `ask_second`.
        NotAllowed: somebody is asked about this region already.
    """
    picture = cell.attempt.picture
    guest = picture.job.role_of(asked) == Membership.Role.GUEST
    if guest and not words.strip():
        raise Refused("Ask a guest in words: they see nothing of findings or rulings.")
    look = ask_second(cell, asked, words, person)
    if guest:
        _, made = Release.objects.get_or_create(
            picture=picture, attempt=cell.attempt, person=asked, defaults={"released_by": person}
        )
        if made:
            about = f"attempt {cell.attempt.number}"
            record(picture, person, "released", about, after={"to": [asked.called], "asked": True})
    return look


@transaction.atomic
def answer(look: SecondLook, words: str, person: Person) -> Remark:
    """What a guest says to the question: an answer, and a remark at the region's middle.

    Raises:
        Refused: somebody else was asked, or it says nothing.
        NotAllowed: it is not waited for any more.
    """
    if look.asked_id != person.pk:
        raise Refused("Somebody else was asked.")
    release = Release.objects.filter(attempt=look.cell.attempt_id, person=person).first()
    if release is None:
        raise Refused("This picture is not released to you.")
    answer_second(look, "", None, words)
    x, y, width, height = look.cell.region.drawn.bbox
    return add_remark(release, person, words, [x + width / 2, y + height / 2])
