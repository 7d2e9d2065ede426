"""What to do differently: suggested changes from findings, each with the number it rests on. A
supervisor edits them; whoever works the slip acts on them.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any

from ..evidence import Copy, Detail, Evidence, Lines, Own, Rim, Shadow, Tone
from .slips import MOST_ROUNDS

#: Every change a slip can ask for, and what a person reads.
CHANGES: dict[str, str] = {
    "start from the original": "start again from the original",
    "rebuild by hand": "rebuild it by hand",
    "outline past the frame": "draw the outline past the frame's edge",
    "looser outline": "draw the outline looser",
    "tighter outline": "draw the outline tighter",
    "off the neighbour": "keep the outline off the neighbour",
    "take the shadow in": "take its shadow into the outline",
    "feather": "feather the edge inside the picture",
    "no feather at the frame": "no feather at the frame's edge",
    "one thing at a time": "remove one thing at a time",
    "full picture": "work on the full, uncropped picture",
    "small things first": "small distinctive things first, so that they are not repeated",
    "smaller parts": "work it in parts smaller than the method's size limit",
    "keep sources out": "take nothing from the marked places",
    "take from here": "take it from the marked places",
    "use another source": "take it from another place, farther off",
    "nearer source": "take it from nearer by, in the same light",
    "copy from beside": "copy it straight from beside",
    "follow the line": "follow the lines that run into it",
    "match tone": "give it its surroundings' tone",
    "match grain": "give it its surroundings' grain",
    "another method": "use another method",
    "original outside": "put the original back outside the region",
}


@dataclass(frozen=True)
class Flaw:
    """A finding as the rules see it: kind, bbox [x, y, w, h] and measure as in the report, and its
    evidence.
    """

    kind: str
    bbox: list[float]
    evidence: Evidence = field(default_factory=Own)
    measure: dict[str, Any] = field(default_factory=dict)

    def reading(self) -> str:
        """What was measured against what is natural here, in words; empty where a person said it."""
        natural = self.measure.get("natural") or {}
        if not self.measure.get("name") or "low" not in natural:
            return ""
        unit = f" {self.measure['unit']}" if self.measure.get("unit") else ""
        return (
            f"{self.measure['name']}: {float(self.measure['value']):.3g}{unit},"
            f" natural here {float(natural['low']):.3g} to {float(natural['high']):.3g}"
        )


@dataclass(frozen=True)
class Tried:
    """An earlier try at this region: by which method, and which kinds of flaw it left or made."""

    method: str
    kinds: tuple[str, ...]


@dataclass(frozen=True)
class Case:
    """All that advice rests on.

    Attributes:
        flaws: what is wrong there.
        ruling: "rework" or "rebuild"; a rebuild starts from the original, since each further pass
            wears texture out.
        at_frame: whether the region touches the picture's frame.
        neighbour: the name of another region that lies right beside this one; empty if none does.
        method: how this attempt was made.
        tried: what was tried before, the oldest first.
        rounds: how often the region was sent back already.
        worn: why its texture counts as worn by repeated passes; empty where it does not.
        cropped_first: whether the picture was cropped before it was worked on.
    """

    flaws: tuple[Flaw, ...]
    ruling: str = "rework"
    at_frame: bool = False
    neighbour: str = ""
    method: str = ""
    tried: tuple[Tried, ...] = ()
    rounds: int = 0
    worn: str = ""
    cropped_first: bool = False

    def of(self, *kinds: str) -> list[Flaw]:
        """Its flaws of some kinds."""
        return [flaw for flaw in self.flaws if flaw.kind in kinds]


@dataclass(frozen=True)
class Change:
    """One suggested change: `what` of `CHANGES`; `values`: its settings (pixels, degrees, boxes [x,
    y, w, h], lines [x, y, x, y], a method's name); `because`: the kinds it answers; `why`: in words, with the number
    it rests on.
    """

    what: str
    values: dict[str, Any] = field(default_factory=dict)
    because: tuple[str, ...] = ()
    why: str = ""


def _worst(flaws: list[Flaw]) -> str:
    """The first reading that there is: findings come worst first."""
    return next((words for flaw in flaws if (words := flaw.reading())), "")


def _worn(case: Case) -> list[Change]:
    if case.ruling == "rebuild":
        return [Change("start from the original", why="it was ruled to be rebuilt")]
    if case.rounds < MOST_ROUNDS and not case.worn:
        return []
    often = f"sent back {case.rounds} times already; each further pass wears texture out"
    why = case.worn or often
    return [Change("rebuild by hand", why=why), Change("start from the original", why=why)]


def _frame(case: Case) -> list[Change]:
    slivers = [
        flaw for flaw in case.of("residue") if flaw.evidence.what == "sliver at the frame's edge"
    ]
    if not slivers:
        return []
    width = min(float(min(flaw.bbox[2:] or [0])) for flaw in slivers)
    why = f"a sliver {width:.0f} px wide was left at the frame's edge"
    return [
        Change("outline past the frame", {}, ("residue",), why),
        Change("no feather at the frame", {}, ("residue",), why),
        Change("copy from beside", {}, ("residue",), why),
    ]


def _tight(case: Case) -> list[Change]:
    rims = case.of("halo")
    bits = [
        flaw for flaw in case.of("residue") if flaw.evidence.what != "sliver at the frame's edge"
    ]
    if bits and not rims:
        # What was missed lies at the outline: so far beyond it that the largest bit is taken in.
        sized = [min(float(one.bbox[2]), float(one.bbox[3])) for one in bits if len(one.bbox) == 4]
        largest = max(sized, default=6.0)
        pixels = int(min(24, max(6, round(largest + 4))))
        why = f"the largest bit that was left is {largest:.0f} px across"
        return [Change("looser outline", {"pixels": pixels}, ("residue",), why)]
    if not rims:
        return []
    shown = [flaw.evidence for flaw in rims if isinstance(flaw.evidence, Rim)]
    width = max((rim.ring.width_px for rim in shown if rim.ring is not None), default=3.0)
    kept = any(rim.likeness > 0.3 for rim in shown)
    pixels = round(max(6.0, 2 * width)) if kept else 4
    whose = "in the removed thing's colour " if kept else ""
    why = f"a rim {whose}{width:.0f} px wide was left"
    return [Change("looser outline", {"pixels": pixels}, ("halo",), why)]


def _shadow(case: Case) -> list[Change]:
    some = case.of("shadow")
    if not some:
        return []
    boxes = [[round(float(value)) for value in flaw.bbox] for flaw in some]
    darker = max(
        (flaw.evidence.darker for flaw in some if isinstance(flaw.evidence, Shadow)), default=0.0
    )
    why = f"{darker:.0%} of the light is still taken there" if darker else _worst(some)
    return [Change("take the shadow in", {"boxes": boxes}, ("shadow",), why)]


def _loose(case: Case) -> list[Change]:
    some = case.of("overreach")
    if not some:
        return []
    why = _worst(some)
    return [
        Change("original outside", {}, ("overreach",), why),
        Change("tighter outline", {"pixels": 4}, ("overreach",), why),
    ]


def _line(case: Case) -> list[Change]:
    some = case.of("line")
    shown = [flaw.evidence for flaw in some if isinstance(flaw.evidence, Lines)]
    angles = [float(line.angle) for lines in shown for line in lines.lines[:3]]
    if not angles:
        return []
    degrees = sorted({round(angle, 1) for angle in angles})
    return [Change("follow the line", {"degrees": degrees}, ("line",), _worst(some))]


#: The built-in method that copies what its surroundings continue to, blended into their tone.
FITTING = "copy that fits its rim"


#: What a method makes of a place whose surroundings were cut off.
_OF_A_CROP = ("invented", "repeat", "line", "smear")


def _cropped(case: Case) -> list[Change]:
    kinds = tuple(dict.fromkeys(flaw.kind for flaw in case.of(*_OF_A_CROP)))
    if not case.cropped_first or not kinds:
        return []
    why = "it was cropped before it was worked on: what the place belongs to was cut off"
    return [Change("full picture", {}, kinds, why)]


def _invented(case: Case) -> list[Change]:
    some = case.of("invented")
    if not some:
        return []
    why = _worst(some)
    changes = []
    if case.neighbour:
        beside = f"{case.neighbour} lies right beside it"
        changes = [
            Change("off the neighbour", {}, ("invented",), beside),
            Change("one thing at a time", {}, ("invented",), beside),
            Change("full picture", {}, ("invented",), "a crop hides what the place belongs to"),
        ]
    if not case.of("untouched", "smear"):
        changes.append(Change("another method", {"method": FITTING}, ("invented",), why))
    return changes


def _method(case: Case) -> list[Change]:
    kinds = Counter(
        kind for tried in case.tried if tried.method == case.method for kind in tried.kinds
    )
    again = [flaw for flaw in case.flaws if kinds[flaw.kind] >= 1]
    if again and case.method:
        kind = again[0].kind
        why = f"{kind} is there again: {case.method} left it in {kinds[kind] + 1} tries"
        return [Change("another method", {}, (kind,), why)]
    for kind in ("untouched", "smear"):
        if some := case.of(kind):
            return [Change("another method", {"method": FITTING}, (kind,), _worst(some))]
    return []


def _source(case: Case) -> list[Change]:
    copies = case.of("repeat")
    if not copies:
        return []
    shown = [flaw.evidence for flaw in copies if isinstance(flaw.evidence, Copy)]
    boxes = [
        [round(float(value)) for value in copy.source] for copy in shown if copy.source is not None
    ]
    offset = next((copy.offset_px for copy in shown if copy.offset_px is not None), None)
    why = (
        _worst(copies)
        if offset is None
        else f"the same is seen {offset[0]:.0f}, {offset[1]:.0f} px away"
    )
    changes = [Change("keep sources out", {"boxes": boxes}, ("repeat",), why)] if boxes else []
    return [
        *changes,
        Change("use another source", {}, ("repeat",), why),
        Change("small things first", {}, ("repeat",), why),
    ]


def _tone(case: Case) -> list[Change]:
    some = case.of("seam", "tone")
    if not some:
        return []
    because = tuple(sorted({flaw.kind for flaw in some}))
    changes = [Change("match tone", {}, because, _worst(some))]
    shown = [flaw.evidence for flaw in case.of("tone") if isinstance(flaw.evidence, Tone)]
    away = max((patch.delta_e for patch in shown), default=0.0)
    if away:
        why = f"it lies {away:.1f} CIELAB from what its surroundings let expect"
        changes.append(Change("nearer source", {}, ("tone",), why))
        if case.method != FITTING:
            # It blends what it copies into the tone at its rim.
            changes.append(Change("another method", {"method": FITTING}, ("tone",), why))
    return changes


def _feather(case: Case) -> list[Change]:
    some = case.of("seam")
    if not some:
        return []
    why = _worst(some)
    changes = [Change("feather", {"pixels": 4}, ("seam",), why)]
    if case.at_frame:
        edge = "the region touches the frame: a feather there leaves a sliver"
        changes.append(Change("no feather at the frame", {}, ("seam",), edge))
    return changes


def _soft(case: Case) -> list[Change]:
    some = [flaw for flaw in case.of("soft") if flaw.evidence.what != "sharp"]
    return [Change("smaller parts", {}, ("soft",), _worst(some))] if some else []


def _grain(case: Case) -> list[Change]:
    some = case.of("smear", "grain", "soft")
    if not some:
        return []
    because = tuple(sorted({flaw.kind for flaw in some}))
    shown = [flaw.evidence for flaw in case.of("grain") if isinstance(flaw.evidence, Detail)]
    ratio = next((detail.ratio for detail in shown if detail.ratio), None)
    sigma = next((detail.sigma_around for detail in shown if detail.sigma_around), None)
    why = f"it has {float(ratio):.2f} of its surroundings' grain" if ratio else _worst(some)
    if ratio and sigma:
        why += f", whose standard deviation is {sigma:.2g} levels of 255 in brightness"
    values = {"ratio": ratio, "sigma": sigma}
    given = {name: round(float(value), 3) for name, value in values.items() if value}
    return [Change("match grain", given, because, why)]


#: In the order in which they are suggested: one thing at a time, the outline first.
_RULES: tuple[Callable[[Case], list[Change]], ...] = (
    _worn,
    _frame,
    _tight,
    _shadow,
    _loose,
    _line,
    _cropped,
    _invented,
    _method,
    _source,
    _tone,
    _feather,
    _soft,
    _grain,
)


def advise(case: Case) -> list[Change]:
    """Suggested changes for one region; none twice."""
    if not case.flaws and case.ruling != "rebuild":
        return []
    found: dict[str, Change] = {}
    for rule in _RULES:
        for change in rule(case):
            found.setdefault(change.what, change)
    return list(found.values())


def refuse_unknown(changes: Iterable[dict[str, Any]]) -> str | None:
    """Why a list of changes from outside cannot stand; None if it can."""
    for change in changes:
        if not isinstance(change, dict) or change.get("what") not in CHANGES:
            return f"“{change.get('what') if isinstance(change, dict) else change}” is no change that a slip can ask for"
        values = change.get("values", {})
        if not isinstance(values, dict):
            return f"the settings of “{change['what']}” are not understood"
        pixels = values.get("pixels")
        if pixels is not None and not (isinstance(pixels, (int, float)) and 0 <= pixels <= 500):
            return f"“{change['what']}”: pixels lie between 0 and 500"
        if not _quads(values.get("boxes", [])):
            return (
                f"“{change['what']}”: a box is x, y, width, height; at most {_MOST_DRAWN} of them"
            )
        if not _quads(values.get("lines", [])):
            return f"“{change['what']}”: a line is x, y, x, y; at most {_MOST_DRAWN} of them"
        degrees = values.get("degrees", [])
        if not isinstance(degrees, list) or not all(_finite(angle) for angle in degrees):
            return f"“{change['what']}”: directions are numbers of degrees"
    return None


#: Boxes or lines that one change can carry.
_MOST_DRAWN = 40


def _finite(value: object) -> bool:
    return isinstance(value, (int, float)) and abs(value) <= 1e6


def _quads(some: object) -> bool:
    return (
        isinstance(some, list)
        and len(some) <= _MOST_DRAWN
        and all(
            isinstance(one, list) and len(one) == 4 and all(_finite(value) for value in one)
            for one in some
        )
    )
