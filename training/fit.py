"""Fits what a reading is worth, and writes the artefact.

.venv/bin/python -m training.fit training/store.jsonl.gz core/zweiblick_core/model/v1.json [--seed 1]

One model is asked about every reading of every kind: is something wrong there? Gradient boosting
(Friedman 2001) that never falls as the reading grows, over what all kinds saw and the context, so
that what explains what is learned, and what all kinds have in common is learned from all of them: a
model a kind needs many times the regions. Its log odds and the reading's own become a probability by
a logistic curve (stacked generalisation: Wolpert 1992) over readings whose photograph and hand it did
not see.
"""

from __future__ import annotations

import argparse
import hashlib
import json
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np
from sklearn.ensemble import HistGradientBoostingClassifier
from sklearn.linear_model import LogisticRegression

from zweiblick_core.scoring.asking import GROWING, LESSENING, NAMES, RAISING
from zweiblick_core.scoring.model import FOLDER, Stack

from .features import Table, lines_of, read
from .splits import LOCKED, fold_of, splits

#: How the trees are grown: few leaves, many of them weak; a region is one sample of its place.
GROWN = {"max_iter": 120, "learning_rate": 0.06, "max_leaf_nodes": 8, "min_samples_leaf": 20}
#: A reading that stands out is a finding if it is so likely right. At .5 a few clean regions less have
#: a finding, and so have steps of seven levels in texture that JPEG blurred, which can be seen.
REPORTED = 0.4
#: Scores from which readings are stacked: probabilities are to be right where there may be a finding.
STACKED = 0.3
#: Half of all regions are taken to be clean, whatever their share of the store.
CLEAN = 0.5
#: What was set by hand before there was a fit, and is kept: from which score a reading stands out,
#: what a score alone is worth, what a finding takes of the whole.
BY_HAND: dict[str, Any] = json.loads((FOLDER / "v0.json").read_text())
STANDS_OUT = {
    "score": BY_HAND["reported"]["least_score"],
    "hints": dict.fromkeys(
        BY_HAND["confidence"]["hints"], BY_HAND["reported"]["least_score_of_hints"]
    ),
}


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
        monotonic_cst=[
            int(at < GROWING or name in RAISING) - int(name in LESSENING)
            for at, name in enumerate(NAMES)
        ],
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


def weights_out_of_fold(some: Table, judged: list[Judged]) -> np.ndarray:
    """Of each reading, (m,): a clean region is judged once for each hand."""
    return (weights(some) * np.where(some.clean, 1 / len(judged), 1.0))[some.of]


def own_odds(some: Table) -> np.ndarray:
    """Of each reading's score, (m,), as far as they are believed."""
    return np.minimum(
        some.asked[:, NAMES.index("own odds")], BY_HAND["confidence"]["most_log_odds"]
    )


def stack_of(some: Table, judged: list[Judged]) -> Stack:
    """By all readings out of fold whose score is at least `STACKED`."""
    weight, own = weights_out_of_fold(some, judged), own_odds(some)
    asked, true, heavy = [], [], []
    for one in judged:
        rows = np.isfinite(one.odds) & (some.scores >= STACKED)
        asked.append(np.column_stack([one.odds[rows], own[rows]]))
        true.append(some.right[rows])
        heavy.append(weight[rows])
    line = LogisticRegression(C=100.0).fit(
        np.concatenate(asked), np.concatenate(true), np.concatenate(heavy)
    )
    # Neither may speak against a reading for being stronger.
    trees, own_part = (max(float(part), 0.0) for part in line.coef_[0])
    return Stack(float(line.intercept_[0]), trees, own_part)


def likely_of(some: Table, one: Judged, stack: Stack) -> np.ndarray:
    """Of each reading (m,), 0..1; nan for those of other hands."""
    return stack.likely(one.odds, own_odds(some))


def regions_of(some: Table, one: Judged) -> np.ndarray:
    """The regions that are judged in it, indices."""
    return np.unique(some.of[np.isfinite(one.odds)])


def trees_of(model: HistGradientBoostingClassifier) -> dict[str, Any]:
    """A model as `scoring.trees` reads it."""
    trees = []
    for (predictor,) in model._predictors:
        trees.append(
            [
                [round(float(node["value"]), 5)]
                if node["is_leaf"]
                else [
                    int(node["feature_idx"]),
                    # To the last digit: many thresholds are values that rows have.
                    float(node["num_threshold"]),
                    int(node["left"]),
                    int(node["right"]),
                ]
                for node in predictor.nodes
            ]
        )
    return {"base": round(float(model._baseline_prediction.item()), 5), "trees": trees}


def artefact(some: Table, source: str, seed: int, name: str) -> dict[str, Any]:
    """What is written: what is reported, trees and curve, and what it was made from."""
    judged = out_of_fold(some, seed)
    stack = stack_of(some, judged)
    open_rows = np.flatnonzero([fold_of(photograph) != LOCKED for photograph in some.photographs])
    alone = BY_HAND["confidence"]
    return {
        "model": name,
        "from": "training/fit.py",
        "data": source,
        "seed": seed,
        "regions": len(open_rows),
        "clean": int(some.clean[open_rows].sum()),
        "stands_out": STANDS_OUT,
        "reported": REPORTED,
        "alone": {part: alone[part] for part in ("offset", "slope", "most_log_odds")},
        "overall": BY_HAND["overall"],
        "names": list(NAMES),
        "stack": {part: round(value, 4) for part, value in asdict(stack).items()},
        **trees_of(fitted(some, open_rows, seed)),
    }


def main() -> None:
    """Writes the artefact."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("store", type=Path)
    parser.add_argument("artefact", type=Path)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--first", type=int, help="of only so many lines")
    given = parser.parse_args()
    lines = lines_of(given.store)[: given.first]
    data = hashlib.sha256(b"\n".join(lines)).hexdigest()
    made = artefact(read(lines), data, given.seed, given.artefact.stem)
    given.artefact.write_text(json.dumps(made, separators=(",", ":")) + "\n")
    print(f"{given.artefact}: {made['regions']} regions, reported from {made['reported']}")


if __name__ == "__main__":
    main()
