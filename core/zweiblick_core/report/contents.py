"""The report's dataclasses and its JSON (schema `zweiblick.check/1`, described in docs/formats.md)."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np

from ..evidence import Evidence
from ..null import Natural

SCHEMA = "zweiblick.check/1"

E = TypeVar("E", bound=Evidence)

#: Every kind the product knows; a report scores each of them, 0 while no module examines it.
KINDS = (
    "repeat",
    "seam",
    "halo",
    "smear",
    "line",
    "residue",
    "shadow",
    "tone",
    "grain",
    "soft",
    "invented",
    "overreach",
    "untouched",
)


@dataclass(frozen=True)
class Signal:
    """A flaw's strength whatever the size it is used at.

    Attributes:
        bands: octave bands as (cycles per original pixel, L* amplitude, C* amplitude).
        extent: length of the visible thing along its longer side, original pixels.
        area: its area, original pixels squared.
        offset: displacement in original pixels, for geometric kinds; 0 for others.
    """

    bands: tuple[tuple[float, float, float], ...]
    extent: float
    area: float
    offset: float = 0.0

    @classmethod
    def from_dict(cls, plain: dict[str, Any]) -> Signal:
        """A signal from its JSON."""
        return cls(
            tuple(
                (band["frequency"], band["lightness"], band["chroma"]) for band in plain["bands"]
            ),
            plain["extent"],
            plain["area"],
            plain["offset"],
        )


@dataclass(frozen=True)
class Measure:
    """What was measured of a flaw: `value` in `unit`, and what is natural in the same picture."""

    name: str
    value: float
    unit: str
    natural: Natural


@dataclass
class Reading:
    """One suspected flaw as its kind's module sees it. Coordinates are the original's pixels.

    Attributes:
        score: 0..1, how far outside what the picture does by itself.
        polygon: ring of [x, y].
        stretch: (start, end) along the boundary in samples, for kinds that live on it.
        likely: the probability that something is wrong there, 0..1; None until it was weighed.
    """

    kind: str
    score: float
    bbox: list[float]
    polygon: list[list[float]]
    signal: Signal
    measure: Measure
    evidence: Evidence
    stretch: tuple[int, int] | None = None
    runner_up: str | None = None
    likely: float | None = None

    def stands_for(self, other: Reading) -> None:
        """It is as strong, and as likely, as another reading of the same flaw at least."""
        self.score = max(self.score, other.score)
        if other.likely is not None:
            self.likely = max(self.likely or 0.0, other.likely)

    def shown(self, how: type[E]) -> E:
        """The evidence, where it is known how the flaw was recognised."""
        assert isinstance(self.evidence, how)
        return self.evidence


@dataclass(frozen=True)
class Abstention:
    """`reason`: why this kind cannot tell here, one plain clause; `leaning`: what it saw all the
    same, 0..0.5: nothing that is reported, but attempts are ranked by it.
    """

    reason: str
    leaning: float = 0.0


@dataclass
class Finding:
    """One reported flaw. Coordinates are the original's pixels.

    Attributes:
        kind: one of `KINDS`; runner_up: the kind it might have been instead.
        score: 0..1, as of a `Reading`. confidence: 0..1, the probability that something is
            wrong there.
        severity: 0..1, how visible it is at the size the picture is used at; word: the same in a
            word.
        bbox: x, y, width, height. polygon: ring of [x, y].
        signal, measure: how strong it is, whatever the size, and what was measured.
        evidence: what is shown of it, by how it was recognised.
        group: id of the `Group` it belongs to.
    """

    kind: str
    runner_up: str | None
    score: float
    confidence: float
    severity: float
    word: str
    bbox: list[float]
    polygon: list[list[float]]
    signal: Signal
    measure: Measure
    evidence: Evidence
    group: str = ""


@dataclass
class Group:
    """Findings of one place and probable cause. `id`: unique in the report; `cause`: one of the
    causes known; `words`: it in a sentence; `bbox`: x, y, width, height of all of
    them."""

    id: str
    cause: str
    words: str
    bbox: list[float]


@dataclass
class RegionReport:
    """What was found in one region.

    Attributes:
        id: the region's. bbox: x, y, width, height, the original's pixels.
        backdrop: what lies behind it, in words.
        overall: 0..1, 1 = holds everywhere.
        scores: of each kind, 0..1. abstained: why a kind cannot tell here.
        findings: the most pressing first. groups: in the same order.
    """

    id: str
    bbox: tuple[int, int, int, int]
    backdrop: str
    overall: float
    scores: dict[str, float]
    abstained: dict[str, str]
    findings: list[Finding]
    groups: list[Group]


@dataclass
class Report:
    """All that a check says of one attempt; schema `SCHEMA`.

    Attributes:
        core: version of the code. inputs: size, format, profile and depth of both files.
        carriers: compression and grain of both. examined: the kinds that were looked for.
        size: the delivery size that severities are stated for. alignment: how the result lies in
            the original's frame.
        overall: 0..1 over all regions and what lies outside. base: a grading of the whole picture
            that everything was judged against; None without one.
        facts: what can be said before any flaw. regions: one each. overreach: score, findings and
            groups outside every region.
    """

    core: str
    inputs: dict[str, Any]
    carriers: dict[str, Any]
    examined: list[str]
    size: dict[str, Any]
    alignment: dict[str, Any]
    overall: float
    base: dict[str, Any] | None = None
    facts: list[dict[str, Any]] = field(default_factory=list)
    regions: list[RegionReport] = field(default_factory=list)
    overreach: dict[str, Any] = field(
        default_factory=lambda: {"score": 0.0, "findings": [], "groups": []}
    )

    def to_dict(self) -> dict[str, Any]:
        """As plain JSON values; ValueError for a number that is infinite or undefined."""
        whole = plain(self)
        for part in (*whole["regions"], whole["overreach"]):
            for finding in part["findings"]:
                finding["signal"]["bands"] = [
                    {"frequency": f, "lightness": light, "chroma": chroma}
                    for f, light, chroma in finding["signal"]["bands"]
                ]
        return {"schema": SCHEMA, **whole}

    def to_json(self) -> str:
        """The same as text."""
        return json.dumps(self.to_dict(), indent=1, allow_nan=False, ensure_ascii=False)


def plain(value: Any) -> Any:
    """Dataclasses and numpy to plain JSON values; numbers to 6 significant digits, a number that is
    none refused.
    """
    if isinstance(value, Evidence):
        return plain(value.to_json())
    if hasattr(value, "__dataclass_fields__"):
        return {name: plain(getattr(value, name)) for name in value.__dataclass_fields__}
    if isinstance(value, dict):
        return {str(key): plain(item) for key, item in value.items()}
    if isinstance(value, (list, tuple)):
        return [plain(item) for item in value]
    if isinstance(value, np.ndarray):
        return plain(value.tolist())
    if isinstance(value, (bool, np.bool_)):
        return bool(value)
    if isinstance(value, np.integer):
        return int(value)
    if isinstance(value, (float, np.floating)):
        number = float(value)
        if not math.isfinite(number):
            raise ValueError("a report may hold no infinite or undefined number")
        return float(f"{number:.6g}")
    return value
