"""Who is left out: a fold of photographs, and a hand."""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from .features import Table

FOLDS = 5
#: Photographs that nothing is chosen on: they are looked at once.
LOCKED = 5


@dataclass(frozen=True)
class Split:
    """Rows to fit on and to judge by, indices; `hand`: whose flaws were left out."""

    fit: np.ndarray
    judge: np.ndarray
    hand: str


def fold_of(photograph: str) -> int:
    """The same for every run: 0 to `FOLDS` - 1, or `LOCKED` for one photograph in six."""
    return zlib.crc32(photograph.encode()) % (FOLDS + 1)


def splits(some: Table, locked: bool = False) -> Iterator[Split]:
    """Every fold with every hand: fitted on other photographs and other hands.

    Args:
        locked: judge by the photographs that nothing was chosen on, once and at the end; fitted on
            all others.
    """
    folds = np.array([fold_of(name) for name in some.photographs])
    for hand in sorted(set(some.hands) - {""}):
        others = some.hands != hand
        own = (some.hands == hand) | some.clean
        for fold in [LOCKED] if locked else range(FOLDS):
            fit = others & (folds != fold) & (folds != LOCKED)
            yield Split(np.flatnonzero(fit), np.flatnonzero(own & (folds == fold)), hand)
