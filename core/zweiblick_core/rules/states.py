"""State machines as tables, and the one way to change a state."""

from __future__ import annotations

#: machine -> (state, event) -> next state
MACHINES: dict[str, dict[tuple[str, str], str]] = {
    "arrival": {
        ("reading", "read"): "ready",
        ("reading", "refused"): "refused",
    },
    "attempt": {
        ("arrived", "check asked"): "checking",
        ("checking", "check finished"): "checked",
        ("checking", "check failed"): "arrived",
        ("checked", "check asked"): "checking",
        # Outlines changed while it was examined for the former ones.
        ("checking", "check asked"): "checking",
    },
    "check": {
        ("waiting", "started"): "running",
        ("running", "started"): "running",  # another worker takes over from a silent one
        ("running", "finished"): "done",
        ("running", "failed"): "failed",
        ("waiting", "failed"): "failed",
        ("failed", "asked again"): "waiting",
        # Outlines changed before it was finished: a later check has them.
        ("waiting", "overtaken"): "overtaken",
        ("running", "overtaken"): "overtaken",
    },
    "slip": {
        ("written", "sent"): "sent",
        ("sent", "taken up"): "working",
        # A person returns it without having said that it was taken up.
        ("sent", "returned"): "returned",
        ("working", "taken up"): "working",
        ("working", "returned"): "returned",
        ("returned", "rechecked"): "rechecked",
        ("rechecked", "rechecked"): "rechecked",
        # Nobody who rules has looked at it yet: another file takes its place.
        ("returned", "replaced"): "returned",
        ("rechecked", "replaced"): "returned",
        # Its check failed: it can be looked at without, or given up.
        ("returned", "settled"): "settled",
        ("returned", "withdrawn"): "withdrawn",
        ("rechecked", "settled"): "settled",
        # Whoever works on it asks, and goes on once answered; or says why it cannot be done.
        ("sent", "asked"): "question",
        ("working", "asked"): "question",
        ("question", "answered"): "working",
        ("question", "withdrawn"): "withdrawn",
        ("sent", "declined"): "declined",
        ("working", "declined"): "declined",
        ("question", "declined"): "declined",
        ("declined", "withdrawn"): "withdrawn",
        # It goes to somebody else as it is, without being written anew.
        ("sent", "handed over"): "sent",
        ("working", "handed over"): "sent",
        ("question", "handed over"): "sent",
        ("declined", "handed over"): "sent",
        ("failed", "handed over"): "sent",
        ("written", "withdrawn"): "withdrawn",
        ("sent", "withdrawn"): "withdrawn",
        ("working", "withdrawn"): "withdrawn",
        ("sent", "failed"): "failed",
        ("working", "failed"): "failed",
        ("failed", "sent"): "sent",
        ("failed", "withdrawn"): "withdrawn",
    },
    "trial": {
        ("waiting", "started"): "running",
        ("running", "started"): "running",
        ("running", "finished"): "done",
        ("waiting", "failed"): "failed",
        ("running", "failed"): "failed",
        ("waiting", "cancelled"): "cancelled",
        ("running", "cancelled"): "cancelled",
    },
    "order": {
        ("waiting", "sent"): "running",
        ("running", "finished"): "done",
        ("waiting", "failed"): "failed",
        ("running", "failed"): "failed",
        ("failed", "asked again"): "waiting",
        # What left the house is charged, whatever becomes of it.
        ("waiting", "cancelled"): "cancelled",
        ("running", "cancelled"): "cancelled",
        ("failed", "cancelled"): "cancelled",
    },
    "delivery": {
        ("waiting", "started"): "building",
        ("building", "started"): "building",
        ("building", "finished"): "ready",
        ("waiting", "failed"): "failed",
        ("building", "failed"): "failed",
        ("failed", "asked again"): "waiting",
        ("forgotten", "asked again"): "waiting",
        ("ready", "forgotten"): "forgotten",
    },
    "work": {
        ("waiting", "leased"): "running",
        ("running", "leased"): "running",
        ("running", "finished"): "done",
        ("running", "failed"): "failed",
        ("running", "given back"): "waiting",
        ("failed", "asked again"): "waiting",
        ("done", "asked again"): "waiting",
    },
}


class NotAllowed(ValueError):
    """An event that a state does not take."""


def advance(machine: str, state: str, event: str) -> str:
    """The state after an event.

    Raises:
        NotAllowed: the table has no such step.
    """
    try:
        return MACHINES[machine][state, event]
    except KeyError as error:
        raise NotAllowed(f"a {machine} that is {state} cannot take “{event}”") from error
