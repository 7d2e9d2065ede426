"""Fits what a reading is worth, and says how it does on photographs and hands that were left out.

.venv/bin/python -m training.fit OUT.jsonl [--locked] [--seed 1]

One model a kind: is this region rightly called so? Gradient boosting (Friedman 2001) that never
falls as the kind's own reading grows, over what all kinds saw and the context. So what explains
what is learned: a halo that a copy explains is less likely one where a copy is seen.
"""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from sklearn.ensemble import HistGradientBoostingClassifier
from sklearn.metrics import roc_auc_score

from .features import KINDS, Table, read
from .splits import splits

#: How the trees are grown: few leaves, many of them weak; a region is one sample of its place.
GROWN = {"max_iter": 120, "learning_rate": 0.06, "max_leaf_nodes": 7, "min_samples_leaf": 12}
#: At this share of clean regions anything may be reported.
ALARMS = 0.05


def target(some: Table, kind: str) -> np.ndarray:
    """1 where the region is rightly called so first, 0 where it may not be, -1 where it may."""
    return np.array(
        [1 if kinds[:1] == [kind] else -1 if kind in kinds else 0 for kinds in some.kinds]
    )


def monotone(some: Table, kind: str) -> list[int]:
    """More of a kind's own reading never makes it less likely."""
    return [1 if name in (f"{kind} odds", f"{kind} beyond") else 0 for name in some.names]


def fitted(some: Table, rows: np.ndarray, kind: str, seed: int) -> HistGradientBoostingClassifier:
    """One kind's model, on some rows."""
    wanted = target(some, kind)[rows]
    known = wanted >= 0
    model = HistGradientBoostingClassifier(
        **GROWN, l2_regularization=1.0, monotonic_cst=monotone(some, kind), random_state=seed
    )
    return model.fit(some.values[rows][known], wanted[known])


@dataclass(frozen=True)
class Judged:
    """Out of fold: of each row and kind the likelihood, nan where it was in no fold; (n, kinds)."""

    likely: np.ndarray
    hand: np.ndarray


def out_of_fold(some: Table, seed: int, locked: bool = False) -> list[Judged]:
    """Likelihoods of rows by models that saw neither their photograph nor their hand; one for each
    hand that was left out (clean rows are judged by each).
    """
    found: dict[str, np.ndarray] = {}
    for split in splits(some, locked):
        if not len(split.judge):
            continue
        likely = found.setdefault(split.hand, np.full((len(some.values), len(KINDS)), np.nan))
        for column, kind in enumerate(KINDS):
            if (target(some, kind)[split.fit] == 1).sum() < 8:
                likely[split.judge, column] = 0.0
                continue
            model = fitted(some, split.fit, kind, seed)
            likely[split.judge, column] = model.predict_proba(some.values[split.judge])[:, 1]
    return [Judged(likely, np.array([hand] * len(likely))) for hand, likely in found.items()]


def today(some: Table) -> np.ndarray:
    """What the statistics' own scores say, log odds (n, kinds)."""
    return np.stack([some.values[:, some.names.index(f"{kind} odds")] for kind in KINDS], axis=1)


def figures(some: Table, likely: np.ndarray, hand: str) -> dict[str, float]:
    """AUC of each kind against clean rows, and of any flaw; recall at `ALARMS`; right names."""
    rows = np.isfinite(likely).all(axis=1) & ((some.hands == hand) | some.clean)
    clean = rows & some.clean
    told: dict[str, float] = {}
    for column, kind in enumerate(KINDS):
        flawed = rows & (target(some, kind) == 1)
        if flawed.sum() >= 5 and clean.sum() >= 5:
            both = np.concatenate([likely[flawed, column], likely[clean, column]])
            truth = np.r_[np.ones(flawed.sum()), np.zeros(clean.sum())]
            told[kind] = float(roc_auc_score(truth, both))
    told["mean AUC"] = float(np.mean(list(told.values()))) if told else float("nan")
    any_flaw = likely.max(axis=1)
    judged = rows & ~some.clean & (np.array(["overreach" not in kinds[:1] for kinds in some.kinds]))
    cut = float(np.quantile(any_flaw[clean], 1 - ALARMS))
    told["flagged at 5 % alarms"] = float((any_flaw[judged] > cut).mean())
    order = np.argsort(-likely, axis=1)[:, :2]
    named = [
        any(KINDS[column] in some.kinds[row] for column in order[row])
        for row in np.flatnonzero(judged)
    ]
    told["right among two"] = float(np.mean(named))
    return told


def main() -> None:
    """Prints a table: by hand that was left out, v0's scores and the fit."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("store", type=Path)
    parser.add_argument("--locked", action="store_true", help="the photographs looked at once")
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    some = read(given.store)
    print(
        f"{len(some.values)} regions of {len(set(some.photographs))} photographs, {int(some.clean.sum())} clean"
    )
    now = today(some)
    for judged in out_of_fold(some, given.seed, given.locked):
        hand = str(judged.hand[0])
        before = figures(some, np.where(np.isfinite(judged.likely), now, np.nan), hand)
        after = figures(some, judged.likely, hand)
        print(f"\n{hand} hand left out{'':12} v0     v1")
        for name in after:
            print(f"{name:24} {before.get(name, float('nan')):7.2f} {after[name]:7.2f}")


if __name__ == "__main__":
    main()
