"""What a check says of a shot: the report of a picture's check, with `frames` and `shot`."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from ..report import SCHEMA, Finding, Measure, plain
from .repairs import Repair

#: Kinds that only a shot has, and the one that is looked for over time as well as in single frames.
OVER_TIME = (
    "drift",
    "flicker",
    "pop",
    "boiling",
    "softening",
    "light",
    "occlusion",
    "shadow",
)


@dataclass(frozen=True)
class InFrames:
    """Numbers of frames of the original, from 0: where a flaw begins, is worst and ends."""

    first: int
    worst: int
    last: int


@dataclass
class ShotFinding:
    """One reported flaw of a shot.

    Attributes:
        kind: of `OVER_TIME`, or of a picture's where it was found in a key frame.
        score: 0..1, .5 where it is reported from. severity: 0..1, at the size and frame rate;
            word: the same in a word.
        frames: where it is. bbox: x, y, width, height of the region in the worst frame.
        measure: what was measured. course: how bad each frame is, 1 at the worst, None where nothing
            is known.
        still: what a key frame's check found, for kinds of a picture.
    """

    kind: str
    score: float
    severity: float
    word: str
    frames: InFrames
    bbox: list[float]
    measure: Measure
    course: list[float | None] = field(default_factory=list)
    still: Finding | None = None


@dataclass(frozen=True)
class Carried:
    """A region as it was carried through a shot, for whoever shows it.

    Attributes:
        reference: the frame whose pixels the ground is described in.
        motion: for each frame a homography from its pixels to the reference frame's, nine numbers in
            rows.
        outlines: for each frame the region's outer rings of [x, y]; none where it is out of sight.
    """

    reference: int
    motion: list[list[float]]
    outlines: list[list[list[list[float]]]]


@dataclass
class ShotRegion:
    """What was found in one region of a shot.

    Attributes:
        id: the region's. bbox: x, y, width, height in the reference frame. carried: where it is in
            every frame.
        moves: whether what was removed moves over the ground. covered: frames in which something
            passes in front.
        overall: 0..1, 1 = holds. scores: of each kind. abstained: why a kind cannot tell.
        findings: the most visible first. repairs: which frames to repair first, the one that mends most first.
    """

    id: str
    bbox: list[float]
    moves: bool
    covered: list[int]
    overall: float
    scores: dict[str, float]
    abstained: dict[str, str]
    findings: list[ShotFinding]
    carried: Carried
    repairs: list[Repair] = field(default_factory=list)


@dataclass
class ShotReport:
    """All that a check says of one attempt at a shot.

    Attributes:
        shot: frames, rate, how the result's frames lie to the original's, key frames and why each
            was chosen, how fast the ground moves.
        The rest as of `Report`.
    """

    core: str
    inputs: dict[str, Any]
    examined: list[str]
    size: dict[str, Any]
    alignment: dict[str, Any]
    shot: dict[str, Any]
    overall: float
    facts: list[dict[str, Any]] = field(default_factory=list)
    regions: list[ShotRegion] = field(default_factory=list)

    def to_dict(self) -> dict[str, Any]:
        """As plain JSON values."""
        whole: dict[str, Any] = plain(self)
        for region in whole["regions"]:
            for finding in region["findings"]:
                if finding["still"] is None:
                    del finding["still"]
                else:
                    finding["still"]["signal"]["bands"] = [
                        {"frequency": f, "lightness": light, "chroma": chroma}
                        for f, light, chroma in finding["still"]["signal"]["bands"]
                    ]
        return {"schema": SCHEMA, **whole}

    def to_json(self) -> str:
        """The same as text."""
        return json.dumps(self.to_dict(), indent=1, allow_nan=False, ensure_ascii=False)


def words_of(report: ShotReport) -> str:
    """What a person reads on the terminal."""
    if report.alignment["kind"] == "unmatched":
        return f"unmatched: {report.alignment['reason']}"
    lines = [f"overall {report.overall:.2f}, judged for {report.size['text']}"]
    lines += [str(fact["words"]) for fact in report.facts]
    for region in report.regions:
        lines.append(
            f"region {region.id}{', which moves' if region.moves else ''}: {region.overall:.2f}"
            + ("" if region.findings else ", nothing found")
        )
        for finding in region.findings:
            at = finding.frames
            natural = finding.measure.natural
            where = (
                f"frame {at.worst}"
                if at.first == at.last
                else f"frames {at.first} to {at.last}, worst in {at.worst}"
            )
            lines.append(
                f"  {finding.kind}, {finding.word}; {where}; {finding.measure.name} here reads {natural.low:.2g} to {natural.high:.2g}, this one {finding.measure.value:.2g} {finding.measure.unit}"
            )
        lines += [f"  {kind}: cannot tell, {reason}" for kind, reason in region.abstained.items()]
        if region.findings and region.repairs:
            named = ", ".join(f"{one.frame} ({one.mends} mended)" for one in region.repairs)
            lines.append(f"  repair first: frame {named}")
    return "\n".join(lines)
