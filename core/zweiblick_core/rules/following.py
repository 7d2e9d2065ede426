"""What a slip's changes ask of whoever works it, as settings; and whether following them helped."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

#: Changes of the outline alone: whoever works it is given that outline.
FOLLOWED_BY_OUTLINE = frozenset({"looser outline", "tighter outline", "outline past the frame"})
#: Changes that `asked_of` turns into settings, which a built-in method then follows.
FOLLOWED_BY_METHODS = FOLLOWED_BY_OUTLINE | frozenset(
    {
        "feather",
        "keep sources out",
        "take from here",
        "match grain",
        "match tone",
    }
)


@dataclass(frozen=True)
class Asked:
    """The changes of one region as settings of a method.

    Attributes:
        grow: pixels by which the outline is grown; below zero, shrunk.
        past_frame: whether the outline is pushed past the frame's edge where it lies near it.
        feather: pixels over which the fill fades in.
        keep_out: boxes (x, y, width, height) of the original that nothing is taken from.
        take_from: boxes that it is to be taken from; empty: from anywhere.
        along: directions of lines to be continued, degrees (0 = level, growing clockwise).
        grain, tone: give it its surroundings' grain, tone.
        method: the method that is asked for; empty where none is.
    """

    grow: float = 0.0
    past_frame: bool = False
    feather: float = 0.0
    keep_out: tuple[tuple[float, ...], ...] = ()
    take_from: tuple[tuple[float, ...], ...] = ()
    along: tuple[float, ...] = ()
    grain: bool = False
    tone: bool = False
    method: str = ""


def asked_of(changes: Iterable[Mapping[str, Any]]) -> Asked:
    """Settings from changes {what, values} as of `advice`; what a method cannot be given (start
    over, one thing at a time) is left to people.
    """
    asked = {str(change["what"]): change.get("values") or {} for change in changes}
    pixels = lambda what: float(asked.get(what, {}).get("pixels") or 0.0)
    boxes = lambda what: tuple(
        tuple(float(edge) for edge in box) for box in asked.get(what, {}).get("boxes") or ()
    )
    return Asked(
        grow=pixels("looser outline") - pixels("tighter outline"),
        past_frame="outline past the frame" in asked,
        feather=pixels("feather"),
        keep_out=boxes("keep sources out"),
        take_from=boxes("take from here"),
        along=tuple(float(angle) for angle in asked.get("follow the line", {}).get("degrees", ())),
        grain="match grain" in asked,
        tone="match tone" in asked,
        method=str(asked.get("another method", {}).get("method") or ""),
    )


@dataclass(frozen=True)
class Followed:
    """One change of one region that came back. `helped`: whether all kinds of flaw that it answers
    are fixed; None where it answers none that was sent or where nobody could tell.
    """

    what: str
    followed: bool
    helped: bool | None


def followed(
    changes: Iterable[Mapping[str, Any]],
    said: Sequence[str],
    became: Iterable[tuple[str, str]],
) -> list[Followed]:
    """What became of each suggested change.

    Args:
        changes: as the slip was sent, {what, because}.
        said: what whoever worked on it says was followed.
        became: what became of each finding, (kind, word) of `slips.WORDS`.
    """
    words: dict[str, list[str]] = {}
    for kind, word in became:
        if word != "new flaw":
            words.setdefault(kind, []).append(word)
    return [
        Followed(
            change["what"], change["what"] in said, _helped(change.get("because") or (), words)
        )
        for change in changes
    ]


def _helped(because: Iterable[str], words: Mapping[str, list[str]]) -> bool | None:
    answered = [word for kind in because for word in words.get(kind, ())]
    if not answered or "to be looked at" in answered:
        return None
    return all(word == "fixed" for word in answered)
