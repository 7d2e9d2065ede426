"""What to do differently: suggested changes from findings. A supervisor edits them; whoever works
the slip acts on them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Any

#: Every change a slip can ask for, and what a person reads.
CHANGES: dict[str, str] = {
    "looser outline": "draw the outline looser",
    "tighter outline": "draw the outline tighter",
    "take the shadow in": "take its shadow into the outline",
    "feather": "feather the edge inside the picture",
    "no feather at the frame": "no feather at the frame's edge",
    "keep sources out": "take nothing from the marked places",
    "use another source": "take it from another place, farther off",
    "follow the line": "follow the lines that run into it",
    "match tone": "give it its surroundings' tone",
    "match grain": "give it its surroundings' grain",
    "another method": "use another method",
    "start from the original": "start again from the original",
}


@dataclass(frozen=True)
class Flaw:
    """A finding as the rules see it: kind, bbox [x, y, w, h] and evidence as in the report."""

    kind: str
    bbox: list[float]
    evidence: dict[str, Any]


@dataclass(frozen=True)
class Change:
    """One suggested change: `what` of `CHANGES`; `values`: its settings (pixels, degrees, boxes [x,
    y, w, h], a method's name); `because`: the kinds it answers.
    """

    what: str
    values: dict[str, Any] = field(default_factory=dict)
    because: tuple[str, ...] = ()


def _tight(flaws: list[Flaw]) -> Change | None:
    rims = [flaw for flaw in flaws if flaw.kind == "halo"]
    bits = [flaw for flaw in flaws if flaw.kind == "residue"]
    if bits and not rims:
        # What was missed lies at the outline: so far beyond it that the largest bit is taken in.
        largest = (
            max(
                min(float(flaw.bbox[2]), float(flaw.bbox[3]))
                for flaw in bits
                if len(flaw.bbox) == 4
            )
            if any(len(flaw.bbox) == 4 for flaw in bits)
            else 6.0
        )
        return Change(
            "looser outline", {"pixels": int(min(24, max(6, round(largest + 4))))}, ("residue",)
        )
    if not rims:
        return None
    width = max(float(flaw.evidence.get("ring", {}).get("width_px", 3)) for flaw in rims)
    kept = any(flaw.evidence.get("likeness_to_removed", 0) > 0.3 for flaw in rims)
    return Change(
        "looser outline", {"pixels": round(max(6.0, 2 * width)) if kept else 4}, ("halo",)
    )


def _source(flaws: list[Flaw]) -> Change | None:
    copies = [flaw for flaw in flaws if flaw.kind == "repeat"]
    boxes = [
        [round(float(value)) for value in flaw.evidence["source"]]
        for flaw in copies
        if flaw.evidence.get("source")
    ]
    return Change("keep sources out", {"boxes": boxes}, ("repeat",)) if boxes else None


def _farther(flaws: list[Flaw]) -> Change | None:
    return (
        Change("use another source", {}, ("repeat",))
        if any(flaw.kind == "repeat" for flaw in flaws)
        else None
    )


def _line(flaws: list[Flaw]) -> Change | None:
    angles = [
        float(line["angle"])
        for flaw in flaws
        if flaw.kind == "line"
        for line in flaw.evidence.get("lines", [])[:3]
    ]
    return (
        Change(
            "follow the line", {"degrees": sorted({round(angle, 1) for angle in angles})}, ("line",)
        )
        if angles
        else None
    )


def _tone(flaws: list[Flaw]) -> Change | None:
    because = tuple(sorted({flaw.kind for flaw in flaws if flaw.kind in ("seam", "tone")}))
    return Change("match tone", {}, because) if because else None


def _feather(flaws: list[Flaw]) -> Change | None:
    return (
        Change("feather", {"pixels": 4}, ("seam",))
        if any(flaw.kind == "seam" for flaw in flaws)
        else None
    )


def _method(flaws: list[Flaw]) -> Change | None:
    kinds = {flaw.kind for flaw in flaws}
    if "invented" in kinds and not kinds & {"untouched", "smear"}:
        return Change("another method", {"method": "copy that fits its rim"}, ("invented",))
    if "untouched" in kinds:
        return Change("another method", {"method": "copy that fits its rim"}, ("untouched",))
    return (
        Change("another method", {"method": "copy that fits its rim"}, ("smear",))
        if "smear" in kinds
        else None
    )


def _shadow(flaws: list[Flaw]) -> Change | None:
    boxes = [
        [round(float(value)) for value in flaw.bbox] for flaw in flaws if flaw.kind == "shadow"
    ]
    return Change("take the shadow in", {"boxes": boxes}, ("shadow",)) if boxes else None


def _loose(flaws: list[Flaw]) -> Change | None:
    return (
        Change("tighter outline", {"pixels": 4}, ("overreach",))
        if any(flaw.kind == "overreach" for flaw in flaws)
        else None
    )


def _grain(flaws: list[Flaw]) -> Change | None:
    because = tuple(
        sorted({flaw.kind for flaw in flaws if flaw.kind in ("smear", "grain", "soft")})
    )
    return Change("match grain", {}, because) if because else None


#: In the order in which they are suggested: one thing at a time, the outline first.
_RULES: tuple[Callable[[list[Flaw]], Change | None], ...] = (
    _tight,
    _shadow,
    _loose,
    _line,
    _method,
    _source,
    _farther,
    _tone,
    _feather,
    _grain,
)


def advise(flaws: Iterable[Flaw], ruling: str = "rework", at_frame: bool = False) -> list[Change]:
    """Suggested changes for one region.

    Args:
        flaws: what is wrong there.
        ruling: "rework" or "rebuild"; a rebuild starts from the original, since each further pass
            wears texture out.
        at_frame: whether the region touches the picture's frame.
    """
    some = list(flaws)
    changes = [Change("start from the original")] if ruling == "rebuild" else []
    changes += [change for rule in _RULES if (change := rule(some)) is not None]
    if at_frame and any(change.what == "feather" for change in changes):
        changes.append(Change("no feather at the frame", {}, ("seam",)))
    elif any(
        flaw.kind == "residue" and flaw.evidence.get("what") == "sliver at the frame's edge"
        for flaw in some
    ):
        changes.append(Change("no feather at the frame", {}, ("residue",)))
    return changes


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
        boxes = values.get("boxes", [])
        if not isinstance(boxes, list) or any(
            not isinstance(box, list)
            or len(box) != 4
            or not all(isinstance(v, (int, float)) for v in box)
            for box in boxes
        ):
            return f"“{change['what']}”: a box is x, y, width, height"
    return None
