"""A slip that goes to the outside service: an order for each of its regions, made from the attempt
that was sent.
"""

from __future__ import annotations

from images.aligning import image_alignment, registered
from images.crops import NotYet
from jobs.models import Job
from outside.asking import Wanted, cancel, order_row, revive
from people.models import Person
from zweiblick_core.errors import Refused
from zweiblick_core.regions import Region as Area

from .area import area_asked
from .models import Slip, SlipRegion


def ordered_areas(slip: Slip) -> list[tuple[SlipRegion, Area]]:
    """The parts of a slip that the attempt shows, and where work is asked for, in its own frame.

    Raises:
        NotYet: the attempt is not registered yet; nothing is decoded here.
        Refused: it shows none of them.
    """
    image = slip.attempt.image
    if not registered(image):
        raise NotYet
    alignment, frame = image_alignment(image), (image.height, image.width)
    found = [
        (part, area)
        for part in slip.regions.select_related("region", "version__region", "order")
        if (area := area_asked(part, alignment, frame)) is not None
    ]
    if not found:
        raise Refused("none of its regions lies in what this attempt shows")
    return found


def place_orders(slip: Slip, person: Person, seen: dict[int, list[int]]) -> None:
    """Order what a slip asks for; what was ordered before and failed is gone on with. The slip's
    row is held.

    Args:
        seen: by region, the box that the person saw would leave.

    Raises:
        Refused: the job's rights or budget don't allow it, or what leaves was not seen.
    """
    # The job is held, so that two orders never spend the same credits.
    job = Job.objects.select_for_update().get(pk=slip.picture.job_id)
    for part, area in ordered_areas(slip):
        if part.order is not None:
            if part.order.state == "failed":
                revive(part.order, person)
            continue
        wanted = Wanted(
            slip.picture, part.version, area, slip.attempt, slip.tier, seen.get(part.region_id, ())
        )
        part.order = order_row(job, wanted, person)
        part.save(update_fields=["order"])


def give_up_orders(slip: Slip, person: Person) -> None:
    """Give up what a slip ordered and did not get yet; what left stays charged."""
    for part in slip.regions.select_related("order"):
        if part.order is not None and part.order.state in ("waiting", "running", "failed"):
            cancel(part.order, person)
