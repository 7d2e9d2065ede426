"""What came back changed elsewhere: what was sent is put back there, as a new attempt."""

from __future__ import annotations

from people.models import Person
from trials.asking import ask_sent_put_back
from trials.models import Trial
from zweiblick_core.compare import MARGIN
from zweiblick_core.errors import Refused
from zweiblick_core.rules.following import asked_of

from .models import Slip


def put_sent_back(slip: Slip, person: Person) -> Trial:
    """Ask for what came back, with what was sent wherever nothing was to be worked.

    Raises:
        Refused: nothing came back, nothing changed elsewhere, or too many runs wait.
    """
    if slip.returned is None:
        raise Refused("nothing came back yet")
    if slip.elsewhere and slip.elsewhere["same"]:
        raise Refused("nothing changed outside what was sent")
    areas = []
    for part in slip.regions.all():
        asked = asked_of(part.changes)
        areas.append((part.version_id, asked.grow, asked.past_frame))
    return ask_sent_put_back(slip.returned, slip.attempt, areas, MARGIN, person)
