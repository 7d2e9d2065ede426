"""Lines of the store as a matrix: what every kind saw, and the context."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from zweiblick_core import report

#: Kinds that a region can be called; overreach lies outside and untouched is its own fact.
KINDS = tuple(kind for kind in report.KINDS if kind not in ("overreach", "untouched"))
CONTEXT = (
    "area",
    "thin",
    "busy",
    "edgy",
    "along",
    "leaving",
    "lossy",
    "quality",
    "worse",
    "grain",
    "backing",
)
#: What an abstention counts as, log odds: less than any reading.
ABSTAINED = -7.0


@dataclass(frozen=True)
class Table:
    """Regions of the store.

    Attributes:
        values: float (n, features); names: of the columns.
        kinds: of each region, what it may rightly be called, the likeliest first; none if clean.
        photographs, hands, makers: strings (n,); strengths: (n,) 0..1.
        today: of each region, what was reported of it when the line was written:
            (kind, confidence).
    """

    values: np.ndarray
    names: tuple[str, ...]
    kinds: list[list[str]]
    photographs: np.ndarray
    hands: np.ndarray
    makers: np.ndarray
    strengths: np.ndarray
    today: list[list[tuple[str, float]]]

    @property
    def clean(self) -> np.ndarray:
        """Which regions have no flaw, bool (n,)."""
        return np.array([not kinds for kinds in self.kinds])


def log_odds(score: float) -> float:
    """Of a score 0..1, within 6 of zero."""
    some = min(max(score, 1e-4), 1 - 1e-4)
    return min(max(math.log(some / (1 - some)), -6.0), 6.0)


def row_of(line: dict[str, Any]) -> list[float]:
    """One region's features, in the order of `NAMES`."""
    best: dict[str, dict[str, Any]] = {}
    for reading in line["readings"]:
        kind = reading["kind"]
        if kind not in best or reading["score"] > best[kind]["score"]:
            best[kind] = reading
    values = []
    for kind in KINDS:
        if kind in best:
            low, high, _ = best[kind]["natural"]
            beyond = max(best[kind]["value"] - high, low - best[kind]["value"], 0.0)
            spread = max(high - low, 1e-6)
            values += [log_odds(best[kind]["score"]), math.log1p(beyond / spread)]
        elif kind in line["abstained"]:
            values += [ABSTAINED + line["abstained"][kind], 0.0]
        else:
            values += [ABSTAINED, 0.0]
    context = line["context"]
    values += [math.log(context["area"]) if name == "area" else context[name] for name in CONTEXT]
    return values


NAMES = (*(f"{kind} {what}" for kind in KINDS for what in ("odds", "beyond")), *CONTEXT)


def table(lines: Iterable[dict[str, Any]]) -> Table:
    """Lines of the store as a table."""
    kept = list(lines)
    return Table(
        np.array([row_of(line) for line in kept]),
        NAMES,
        [line["kinds"] for line in kept],
        np.array([line["photograph"] for line in kept]),
        np.array([line["hand"] for line in kept]),
        np.array([line["maker"] for line in kept]),
        np.array([line["strength"] for line in kept]),
        [[(kind, sure) for kind, sure, *_ in line["found"]] for line in kept],
    )


def read(file: Path) -> Table:
    """The store of `synthesise`."""
    return table(json.loads(line) for line in file.read_text().splitlines())
