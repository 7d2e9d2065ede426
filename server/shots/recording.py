"""What was done with slips of shots, in the job's history."""

from __future__ import annotations

from typing import Any

from history.models import record_job
from people.models import Person

from .models import ShotSlip


def recorded(slip: ShotSlip, person: Person | None, what: str, after: dict[str, Any]) -> None:
    """Record an act, in the transaction that does it. `what`: "sent", "returned", ..."""
    frames = {f"region {part['number']}": part["ranges"] for part in slip.parts}
    record_job(
        slip.shot.job,
        person,
        f"slip of a shot {what}",
        f"{slip.shot.name}, slip {slip.round}",
        after={**after, **frames},
    )
