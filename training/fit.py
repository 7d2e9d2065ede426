"""Fits what a reading is worth, and writes it as a candidate for the artefact.

.venv/bin/python -m training.fit OUT.jsonl CANDIDATE.json [--seed 1]

One model is asked about every reading of every kind: is something wrong there? Gradient boosting
(Friedman 2001) that never falls as the reading grows, over what all kinds saw and the context, so
that what explains what is learned, and what all kinds have in common is learned from all of them: a
model a kind needs many times the regions. Its log odds become probabilities by a logistic curve
(Platt 1999) over regions whose photograph and hand it did not see.
"""

from __future__ import annotations

import argparse
import hashlib
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from sklearn.ensemble import HistGradientBoostingClassifier
from sklearn.linear_model import LogisticRegression

from .asking import GROWING, LESSENING, NAMES
from .features import Table, read
from .splits import LOCKED, fold_of, splits

#: How the trees are grown: few leaves, many of them weak; a region is one sample of its place.
GROWN = {"max_iter": 120, "learning_rate": 0.06, "max_leaf_nodes": 8, "min_samples_leaf": 20}
#: A reading that stands out is a finding if it is so likely right. At .66 one clean region in twenty
#: has a finding, but lines that jump by three pixels have none; at this they have.
REPORTED = 0.45
#: Half of all regions are taken to be clean, whatever their share of the store.
CLEAN = 0.5
#: From which score a reading stands out by itself, and hints do; as v0 says.
STANDS_OUT = {"score": 0.64, "hints": {"shadow": 0.5}}


def weights(some: Table) -> np.ndarray:
    """Of each region, so that `CLEAN` of them are; mean 1."""
    clean = some.clean
    share = max(float(clean.mean()), 1e-6)
    return np.where(clean, CLEAN / share, (1 - CLEAN) / max(1 - share, 1e-6))


def fitted(some: Table, rows: np.ndarray, seed: int) -> HistGradientBoostingClassifier:
    """The model, on the readings of some regions. What lies outside them is none of theirs."""
    chosen = np.isin(some.of, rows) & (some.clean | some.inside)[some.of]
    model = HistGradientBoostingClassifier(
        **GROWN,
        l2_regularization=1.0,
        monotonic_cst=[int(at < GROWING) - int(name in LESSENING) for at, name in enumerate(NAMES)],
        early_stopping=False,
        random_state=seed,
    )
    return model.fit(some.asked[chosen], some.right[chosen], weights(some)[some.of[chosen]])


@dataclass(frozen=True)
class Judged:
    """Out of fold, by models that saw neither a region's photograph nor its hand.

    Attributes:
        hand: that was left out. odds: of each reading (m,), log odds; nan for those of other hands.
    """

    hand: str
    odds: np.ndarray


def out_of_fold(some: Table, seed: int, locked: bool = False) -> list[Judged]:
    """One for each hand that was left out; clean regions are judged by each."""
    found: dict[str, np.ndarray] = {}
    for split in splits(some, locked):
        odds = found.setdefault(split.hand, np.full(len(some.of), np.nan))
        there = np.isin(some.of, split.judge)
        if there.any():
            odds[there] = fitted(some, split.fit, seed).decision_function(some.asked[there])
    return [Judged(hand, odds) for hand, odds in found.items()]


@dataclass(frozen=True)
class Curve:
    """A probability from log odds: 1 / (1 + exp(-(offset + slope odds)))."""

    offset: float
    slope: float

    def likely(self, odds: np.ndarray) -> np.ndarray:
        """0..1, of the shape of `odds`."""
        return 1 / (1 + np.exp(-(self.offset + self.slope * odds)))


def weights_out_of_fold(some: Table, judged: list[Judged]) -> np.ndarray:
    """Of each reading, (m,): a clean region is judged once for each hand."""
    return (weights(some) * np.where(some.clean, 1 / len(judged), 1.0))[some.of]


def curve_of(some: Table, judged: list[Judged]) -> Curve:
    """By all readings out of fold."""
    weight = weights_out_of_fold(some, judged)
    odds, true, heavy = [], [], []
    for one in judged:
        rows = np.isfinite(one.odds)
        odds.append(one.odds[rows])
        true.append(some.right[rows])
        heavy.append(weight[rows])
    line = LogisticRegression(C=100.0).fit(
        np.concatenate(odds)[:, None], np.concatenate(true), np.concatenate(heavy)
    )
    return Curve(float(line.intercept_[0]), float(line.coef_[0, 0]))


def regions_of(some: Table, one: Judged) -> np.ndarray:
    """The regions that are judged in it, indices."""
    return np.unique(some.of[np.isfinite(one.odds)])


def trees_of(model: HistGradientBoostingClassifier) -> dict[str, Any]:
    """A model as `training.trees` reads it."""
    trees = []
    for (predictor,) in model._predictors:
        trees.append(
            [
                [round(float(node["value"]), 5)]
                if node["is_leaf"]
                else [
                    int(node["feature_idx"]),
                    round(float(node["num_threshold"]), 6),
                    int(node["left"]),
                    int(node["right"]),
                ]
                for node in predictor.nodes
            ]
        )
    return {"base": round(float(model._baseline_prediction.item()), 5), "trees": trees}


def candidate(some: Table, source: str, seed: int) -> dict[str, Any]:
    """What is written: trees and curve, what is reported, and what it was made from."""
    judged = out_of_fold(some, seed)
    curve = curve_of(some, judged)
    open_rows = np.flatnonzero([fold_of(name) != LOCKED for name in some.photographs])
    return {
        "data": source,
        "seed": seed,
        "regions": len(open_rows),
        "clean": int(some.clean[open_rows].sum()),
        "names": list(NAMES),
        "reported": REPORTED,
        "stands_out": STANDS_OUT,
        "offset": round(curve.offset, 4),
        "slope": round(curve.slope, 4),
        **trees_of(fitted(some, open_rows, seed)),
    }


def main() -> None:
    """Writes the candidate."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("store", type=Path)
    parser.add_argument("candidate", type=Path)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    made = candidate(
        read(given.store), hashlib.sha256(given.store.read_bytes()).hexdigest(), given.seed
    )
    given.candidate.write_text(json.dumps(made, separators=(",", ":")) + "\n")
    print(f"{given.candidate}: {made['regions']} regions, reported from {made['reported']}")


if __name__ == "__main__":
    main()
