"""The client's bar: per kind of flaw, the severity from which it fails for this client. What lies
under it holds nothing up.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from ..errors import Refused
from ..visibility import STEPS
from .kinds import ALL_KINDS

#: Without a word from the client whatever can be seen at the size fails.
VISIBLE = STEPS[1]
#: A kind that never fails for this client.
NEVER = 1.01
#: What a person's word stands for: the middle of its range.
SAID = {
    "faint": (STEPS[1] + STEPS[2]) / 2,
    "clear": (STEPS[2] + STEPS[3]) / 2,
    "glaring": (STEPS[3] + 1) / 2,
}


def checked(bar: Mapping[str, object]) -> dict[str, float]:
    """A bar as it may be stored.

    Raises:
        Refused: an unknown kind, or a severity that is no number within 0..1 (or `NEVER`).
    """
    out = {}
    for kind, severity in bar.items():
        if kind not in ALL_KINDS:
            raise Refused(f"“{kind}” is no kind of flaw")
        if (
            isinstance(severity, bool)
            or not isinstance(severity, int | float)
            or not 0 <= severity <= NEVER
        ):
            raise Refused(f"the bar for {kind} must lie between 0 and 1")
        out[kind] = float(severity)
    return out


def fails(kind: str, severity: float, bar: Mapping[str, float]) -> bool:
    """Whether a flaw of this severity fails at the size it is meant for: it can be seen there, and
    reaches the client's bar.
    """
    return severity >= max(VISIBLE, bar.get(kind, VISIBLE))


def passes_at(
    severities: Iterable[tuple[str, Mapping[int, float]]],
    sizes: Mapping[int, float],
    bar: Mapping[str, float],
) -> list[int]:
    """The sizes at which no flaw fails, the one that shows most first.

    Args:
        severities: of each flaw that counts, its kind and its severity by size; a size that is
            missing says nothing.
        sizes: each size's demand, larger shows more.
    """
    flaws = list(severities)
    return [
        size
        for size in sorted(sizes, key=lambda one: -sizes[one])
        if not any(size in by_size and fails(kind, by_size[size], bar) for kind, by_size in flaws)
    ]
