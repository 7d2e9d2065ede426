"""Findings of one place with one probable cause become a group, so that a person rules on causes
and not on symptoms.

Each cause is a rule: a condition on the findings at one place, and the words a person reads.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from .evidence import Copy, Rim
from .report import Finding, Group


@dataclass(frozen=True)
class Cause:
    """`holds`: whether a set of findings at one place fits; the first rule that fits is taken.
    `lead`: the kind that names it best.
    """

    name: str
    words: str
    holds: Callable[[list[Finding]], bool]
    lead: str = ""


def _kinds(findings: list[Finding]) -> set[str]:
    return {finding.kind for finding in findings}


def _any(kind: str, what: str | None = None) -> Callable[[list[Finding]], bool]:
    """Holds where there is a finding of this kind, and of this form of it."""
    return lambda found: any(f.kind == kind and what in (None, f.evidence.what) for f in found)


def _all_of(*kinds: str) -> Callable[[list[Finding]], bool]:
    return lambda found: set(kinds) <= _kinds(found)


def _offset(finding: Finding) -> list[float] | None:
    """How far off a copy's source is."""
    shown = finding.evidence
    known = shown.offset_px if isinstance(shown, Copy) else None
    return None if known is None else [float(value) for value in known]


def _fringe(found: list[Finding]) -> bool:
    return any(
        isinstance(f.evidence, Rim) and f.evidence.likeness > 0.5 for f in found if f.kind == "halo"
    )


#: The first that fits is taken; what is more particular stands first.
CAUSES: tuple[Cause, ...] = (
    Cause("not worked on", "not worked on: the thing still stands", _any("untouched"), "untouched"),
    Cause(
        "feather at the frame's edge",
        "a sliver stays at the frame's edge: no feather belongs there, and the outline must reach beyond it",
        _any("residue", what="sliver at the frame's edge"),
    ),
    Cause(
        "outline missed parts",
        "bits of the thing were left: the outline missed them",
        lambda found: _any("residue", what="sliver")(found) or _any("residue", what="dot")(found),
    ),
    Cause(
        "outline too tight",
        "outline too tight: the rim keeps some of what was removed",
        _fringe,
        "halo",
    ),
    Cause(
        "removed too weakly",
        "the thing shows through: it was not replaced, only weakened",
        _any("residue", what="ghost"),
        "residue",
    ),
    Cause("shadow left out", "the outline left out the thing's shadow", _any("shadow"), "shadow"),
    Cause(
        "diffusion or too many passes",
        "washed out by a diffusion-like fill, or by too many passes",
        _any("smear"),
        "smear",
    ),
    Cause(
        "too little context",
        "something grew here that belongs to nothing around: the outline touches a neighbour, or the method saw too little",
        _any("invented"),
        "invented",
    ),
    Cause(
        "copied off the line",
        "a patch copied without following the lines it lies on",
        _all_of("repeat", "line"),
        "repeat",
    ),
    Cause(
        "no perspective",
        "the fill does not follow the lines that run into it",
        _any("line"),
        "line",
    ),
    Cause(
        "copied and not blended",
        "a patch copied from nearby and not blended in",
        _all_of("repeat", "seam"),
        "repeat",
    ),
    Cause(
        "copied from another light",
        "a patch copied from another light",
        _all_of("repeat", "tone"),
        "repeat",
    ),
    Cause(
        "copied from too near",
        "copied from too near, or from one source too often",
        _any("repeat"),
        "repeat",
    ),
    Cause("limited size", "made at a smaller size and enlarged", _any("soft", what="soft"), "soft"),
    Cause(
        "sharp on blurred ground",
        "sharper than the ground it lies on",
        _any("soft", what="sharp"),
        "soft",
    ),
    Cause(
        "fill without grain",
        "the fill has less grain than the picture: it was made without, or denoised apart from it",
        _any("grain", what="less grain"),
        "grain",
    ),
    Cause("grain added", "the fill has more grain than the picture", _any("grain"), "grain"),
    Cause(
        "copied from another light",
        "copied from another light, or left at another exposure",
        _any("tone"),
        "tone",
    ),
    Cause(
        "blended into the wrong rim",
        "a rim that is lighter or darker than both its sides",
        _any("halo"),
        "halo",
    ),
    Cause(
        "no blending", "no blending: fill and surroundings meet at an edge", _any("seam"), "seam"
    ),
    Cause(
        "outline too loose",
        "changed outside every region: an outline too loose, or a step of export",
        _any("overreach"),
        "overreach",
    ),
    Cause("unknown", "no probable cause known", lambda found: True),
)


def _near(first: list[float], second: list[float], gap: float = 24.0) -> bool:
    return (
        first[0] - gap < second[0] + second[2]
        and second[0] - gap < first[0] + first[2]
        and first[1] - gap < second[1] + second[3]
        and second[1] - gap < first[1] + first[3]
    )


def _union(boxes: list[list[float]]) -> list[float]:
    x, y = min(b[0] for b in boxes), min(b[1] for b in boxes)
    return [x, y, max(b[0] + b[2] for b in boxes) - x, max(b[1] + b[3] for b in boxes) - y]


#: Kinds that bring others with them: a copy its broken lines, a thing that still stands all that it
#: is.
_BRING_OTHERS = ("untouched", "repeat", "invented", "residue")
#: Kinds that are reported as hints: they come after what is found, however dark a shadow may be, unless
#: that hardly counts.
HINTS = ("shadow",)
_HINT_COUNTS = 0.1


def inside(box: list[float], other: list[float]) -> float:
    """Share of a box (x, y, width, height) that another covers."""
    width = min(box[0] + box[2], other[0] + other[2]) - max(box[0], other[0])
    height = min(box[1] + box[3], other[1] + other[3]) - max(box[1], other[1])
    return max(0.0, width) * max(0.0, height) / max(1.0, box[2] * box[3])


def in_order(findings: list[Finding]) -> list[Finding]:
    """By what a person would mind most, severity times confidence; but what brings others with it
    comes just before the worst of those that lie in its place, and hints last.
    """
    weight = {
        id(f): f.severity * f.confidence * (_HINT_COUNTS if f.kind in HINTS else 1.0)
        for f in findings
    }

    # What is known of a turned copy may be less than what it brought.
    together = lambda one, other: (
        max(inside(one.bbox, other.bbox), inside(other.bbox, one.bbox)) > 0.5
    )

    def rank(finding: Finding) -> float:
        if finding.kind not in _BRING_OTHERS or finding.score < 0.8:
            return weight[id(finding)]
        return max(
            [
                weight[id(finding)],
                *(
                    weight[id(other)] + 1e-6
                    for other in findings
                    if other.kind not in _BRING_OTHERS and together(other, finding)
                ),
            ]
        )

    return sorted(findings, key=lambda f: -rank(f))


def place_words(box: list[float], region: tuple[int, int, int, int]) -> str:
    """Where in the region a box lies, in words: "left rim", "upper right", "all over", "middle"."""
    x, y, width, height = region
    if box[2] > 0.75 * width and box[3] > 0.75 * height:
        return "all over"
    across, down = (
        (box[0] + box[2] / 2 - x) / max(width, 1),
        (box[1] + box[3] / 2 - y) / max(height, 1),
    )
    column = "left" if across < 0.34 else "right" if across > 0.66 else ""
    row = "upper" if down < 0.34 else "lower" if down > 0.66 else ""
    return f"{row} {column}".strip() or "middle"


def group(findings: list[Finding], region: tuple[int, int, int, int]) -> list[Group]:
    """Put findings into groups and write each finding's `group`.

    Args:
        findings: of one region, any order; their `group` is set, and they are put in the order of
            groups, within each what names its cause first.
        region: its bbox.

    Returns:
        Groups in the order of their first findings (`in_order`). Findings are joined when they are
        of kinds that share a cause and lie within 24 px.
    """
    ordered = in_order(findings)
    gathered: list[list[Finding]] = []
    for finding in ordered:
        for members in gathered:
            same_kind = finding.kind in _kinds(members)
            if any(_near(finding.bbox, member.bbox) for member in members) or (
                same_kind and finding.kind == "repeat" and _offset(members[0]) == _offset(finding)
            ):
                members.append(finding)
                break
        else:
            gathered.append([finding])
    groups = []
    for number, members in enumerate(gathered, 1):
        # What is neither seen nor sure says nothing about the cause of what is.
        most = max(member.severity * member.confidence for member in members)
        counting = [
            member
            for member in members
            if member.confidence >= 0.5 or member.severity * member.confidence >= 0.1 * most
        ]
        cause = next(cause for cause in CAUSES if cause.holds(counting or members))
        box = _union([member.bbox for member in members])
        name = f"g{number}"
        # What names the cause stands first in its group unless it is only hinted at, then what is
        # seen most.
        members.sort(key=lambda f: f.kind != cause.lead or f.kind in HINTS)
        for member in members:
            member.group = name
        groups.append(Group(name, cause.name, f"{place_words(box, region)}: {cause.words}", box))
    findings[:] = [member for members in gathered for member in members]
    return groups
