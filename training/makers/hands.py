"""Every maker of every hand, under one form: the kinds a supervisor might call it by, whose it is,
and a strength.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))
import flaws  # noqa: E402
import unforeseen  # noqa: E402

from . import fourth, third  # noqa: E402

with_thing = flaws.with_thing
Flaw = Callable[[np.ndarray, np.ndarray, np.ndarray, np.random.Generator], third.Made]


@dataclass(frozen=True)
class Maker:
    """One way to make a flaw.

    Attributes:
        hand: who wrote it, `first` to `fourth`. kinds: what it may rightly be called, the likeliest
            first.
        make: from a strength, 0 (shows only enlarged) to 1 (shows at a glance), to what makes it.
    """

    name: str
    hand: str
    kinds: tuple[str, ...]
    make: Callable[[float], Flaw]


#: What a flaw of the kind may rightly be called too: one cause shows in several ways.
ALSO: dict[str, tuple[str, ...]] = {
    "seam": ("tone",),
    "halo": ("seam", "residue"),
    "smear": ("soft", "grain"),
    "residue": ("halo", "tone"),
    "tone": ("seam",),
    "soft": ("smear", "grain"),
    "grain": ("smear", "soft"),
    "line": ("seam",),
}


def _graded(named: dict[str, list[tuple[str, Flaw]]]) -> dict[str, Callable[[float], Flaw]]:
    """Flaws of one name at given strengths, as one maker that takes the nearest."""

    def chosen(some: list[tuple[str, Flaw]]) -> Callable[[float], Flaw]:
        order = {"faint": 0.15, "clear": 0.5, "glaring": 0.85}
        return lambda strength: min(some, key=lambda one: abs(order[one[0]] - strength))[1]

    return {name: chosen(some) for name, some in named.items()}


def _first() -> list[Maker]:
    """Those of `benchmarks/flaws.py`, one for each way."""
    ways: dict[tuple[str, str], list[tuple[str, Flaw]]] = {}
    for name, (kind, strength, flaw) in flaws.FLAWS.items():
        if kind and kind != "untouched":
            way = name.split(",")[0].rstrip("0123456789. x%")
            ways.setdefault((kind, way), []).append((strength, flaw))
    graded = _graded({f"{kind}: {way}": some for (kind, way), some in ways.items()})
    return [
        Maker(name, "first", (kind, *ALSO.get(kind, ())), make)
        for (kind, way), (name, make) in zip(ways, graded.items(), strict=True)
    ]


def _second() -> list[Maker]:
    """Those of `benchmarks/unforeseen.py`, of one strength each."""
    return [
        Maker(name, "second", kinds, lambda strength, flaw=flaw: flaw)
        for name, (kinds, flaw) in unforeseen.UNFORESEEN.items()
        if kinds
    ]


def _third() -> list[Maker]:
    return [
        Maker(make.__name__, "third", (kind, *ALSO.get(kind, ())), make)
        for kind, makers in third.MAKERS.items()
        for make in makers
    ]


def _fourth() -> list[Maker]:
    return [Maker(make.__name__, "fourth", kinds, make) for make, kinds in fourth.MAKERS.items()]


#: Of the first three, of which a place gets some; and of the fourth, of which it gets one.
HANDS: tuple[Maker, ...] = (*_first(), *_second(), *_third())
PLAIN: tuple[Maker, ...] = tuple(_fourth())
