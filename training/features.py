"""Lines of the store as tables: regions, and every reading of them as a model is asked about it."""

from __future__ import annotations

import gzip
import json
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from zweiblick_core.scoring.asking import KINDS, Strength, rows_of

#: A reading is right where at least this part of it lies where something is wrong.
HIT = 0.05


@dataclass(frozen=True)
class Table:
    """Regions of the store, and their readings.

    Attributes:
        kinds: of each region, what it may rightly be called, the likeliest first; none if clean.
        outlines, photographs, hands, makers: strings (n,); strengths: (n,) 0..1.
        found: of each region, what was reported when the line was written: (kind, confidence).
        asked: of each reading what a model is asked, float (m, len(NAMES)).
        of: its region, int (m,). kind: its kind, index of `KINDS`, int (m,).
        scores: 0..1 (m,). right: whether it lies where something is wrong, bool (m,).
    """

    kinds: list[list[str]]
    outlines: np.ndarray
    photographs: np.ndarray
    hands: np.ndarray
    makers: np.ndarray
    strengths: np.ndarray
    found: list[list[tuple[str, float]]]
    asked: np.ndarray
    of: np.ndarray
    kind: np.ndarray
    scores: np.ndarray
    right: np.ndarray

    @property
    def clean(self) -> np.ndarray:
        """Which regions have no flaw, bool (n,)."""
        return np.array([not kinds for kinds in self.kinds])

    @property
    def inside(self) -> np.ndarray:
        """Which have one within their outline, bool (n,)."""
        return np.array([bool(kinds) and "overreach" not in kinds[:1] for kinds in self.kinds])

    def highest(self, values: np.ndarray) -> np.ndarray:
        """Of each region and kind the highest of its readings' values, (n, kinds); -inf for none."""
        out = np.full((len(self.kinds), len(KINDS)), -np.inf)
        np.maximum.at(out, (self.of, self.kind), values)
        return out


def readings_of(line: dict[str, Any]) -> list[tuple[str, Strength, bool]]:
    """The readings of a region that it can be called by: kind, strength, whether it is right."""
    return [
        (
            reading["kind"],
            Strength(reading["score"], reading["value"], *reading["natural"][:2]),
            bool(line["kinds"]) and reading["hit"] >= HIT,
        )
        for reading in line["readings"]
        if reading["kind"] in KINDS
    ]


def asked_of(line: dict[str, Any]) -> np.ndarray:
    """What a model is asked about each of a region's readings, in the order of `NAMES`."""
    return _asked(line, readings_of(line))


def _asked(line: dict[str, Any], readings: list[tuple[str, Strength, bool]]) -> np.ndarray:
    strengths = [(kind, strength) for kind, strength, _ in readings]
    return rows_of(strengths, line["abstained"], line["context"])


def table(lines: Iterable[dict[str, Any]]) -> Table:
    """Lines of the store as a table."""
    kept = list(lines)
    readings = [readings_of(line) for line in kept]
    column = lambda name: np.array([line[name] for line in kept])
    return Table(
        [list(line["kinds"]) for line in kept],
        column("outline"),
        column("photograph"),
        column("hand"),
        column("maker"),
        column("strength"),
        [[(kind, sure) for kind, sure, *_ in line["found"]] for line in kept],
        np.concatenate(
            [_asked(line, some) for line, some in zip(kept, readings, strict=True) if some]
        ),
        np.repeat(np.arange(len(kept)), [len(some) for some in readings]),
        np.array([KINDS.index(kind) for some in readings for kind, _, _ in some]),
        np.array([strength.score for some in readings for _, strength, _ in some]),
        np.array([right for some in readings for _, _, right in some]),
    )


def lines_of(file: Path) -> list[bytes]:
    """The lines of the store of `synthesise`, as it is or compressed (gzip)."""
    data = file.read_bytes()
    return (gzip.decompress(data) if file.suffix == ".gz" else data).splitlines()


def read(lines: Iterable[bytes]) -> Table:
    """Lines of the store as they are written."""
    return table(json.loads(line) for line in lines)
