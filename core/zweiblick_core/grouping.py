"""Findings of one place with one probable cause become a group, so that a person rules on causes and not on symptoms.

Each cause is a rule: a condition on the findings at one place, and the words a person reads.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from .report import Finding, Group


@dataclass(frozen=True)
class Cause:
    """`holds`: whether a set of findings at one place fits; the first rule that fits is taken."""

    name: str
    words: str
    holds: Callable[[list[Finding]], bool]


def _kinds(findings: list[Finding]) -> set[str]:
    return {finding.kind for finding in findings}


CAUSES: tuple[Cause, ...] = (
    Cause("outline too tight", "outline too tight: the rim keeps some of what was removed",
          lambda found: any(f.kind == "halo" and f.evidence.get("likeness_to_removed", 0) > 0.5 for f in found)),
    Cause("not worked on", "not worked on: the thing still stands", lambda found: "untouched" in _kinds(found)),
    Cause("diffusion or too many passes", "washed out by a diffusion-like fill, or by too many passes", lambda found: "smear" in _kinds(found)),
    Cause("no perspective", "the fill does not follow the lines that run into it", lambda found: "line" in _kinds(found) and "repeat" not in _kinds(found)),
    Cause("copied off the line", "a patch copied without following the lines it lies on", lambda found: {"repeat", "line"} <= _kinds(found)),
    Cause("copied and not blended", "a patch copied from nearby and not blended in",
          lambda found: {"repeat", "seam"} <= _kinds(found)),
    Cause("copied from too near", "copied from too near, or from one source too often", lambda found: "repeat" in _kinds(found)),
    Cause("blended into the wrong rim", "a rim that is lighter or darker than both its sides", lambda found: "halo" in _kinds(found)),
    Cause("no blending", "no blending: fill and surroundings meet at an edge", lambda found: "seam" in _kinds(found)),
    Cause("unknown", "no probable cause known", lambda found: True),
)


def _near(first: list[float], second: list[float], gap: float = 24.0) -> bool:
    return (first[0] - gap < second[0] + second[2] and second[0] - gap < first[0] + first[2]
            and first[1] - gap < second[1] + second[3] and second[1] - gap < first[1] + first[3])


def _union(boxes: list[list[float]]) -> list[float]:
    x, y = min(b[0] for b in boxes), min(b[1] for b in boxes)
    return [x, y, max(b[0] + b[2] for b in boxes) - x, max(b[1] + b[3] for b in boxes) - y]


def place_words(box: list[float], region: tuple[int, int, int, int]) -> str:
    """Where in the region a box lies, in words: "left rim", "upper right", "all over", "middle"."""
    x, y, width, height = region
    if box[2] > 0.75 * width and box[3] > 0.75 * height:
        return "all over"
    across, down = (box[0] + box[2] / 2 - x) / max(width, 1), (box[1] + box[3] / 2 - y) / max(height, 1)
    column = "left" if across < 0.34 else "right" if across > 0.66 else ""
    row = "upper" if down < 0.34 else "lower" if down > 0.66 else ""
    return f"{row} {column}".strip() or "middle"


def group(findings: list[Finding], region: tuple[int, int, int, int]) -> list[Group]:
    """Put findings into groups and write each finding's `group`.

    Args:
        findings: of one region, any order; their `group` is set.
        region: its bbox.

    Returns:
        Groups, the most severe first. Findings are joined when they are of kinds that share a cause and lie within 24 px.
    """
    ordered = sorted(findings, key=lambda f: -f.severity * f.confidence)
    gathered: list[list[Finding]] = []
    for finding in ordered:
        for members in gathered:
            same_kind = finding.kind in _kinds(members)
            if any(_near(finding.bbox, member.bbox) for member in members) or (same_kind and finding.kind == "repeat"
                                                                              and members[0].evidence.get("offset_px") == finding.evidence.get("offset_px")):
                members.append(finding)
                break
        else:
            gathered.append([finding])
    groups = []
    for number, members in enumerate(gathered, 1):
        cause = next(cause for cause in CAUSES if cause.holds(members))
        box = _union([member.bbox for member in members])
        name = f"g{number}"
        for member in members:
            member.group = name
        groups.append(Group(name, cause.name, f"{place_words(box, region)}: {cause.words}", box))
    return groups
