"""How the statistics' own scores and a fit do on photographs and hands that were left out.

.venv/bin/python -m training.evaluate OUT.jsonl [--locked] [--seed 1] [--draws 200]

Intervals are of 95 %, by bootstrap over photographs (Efron 1979).
"""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from sklearn.metrics import roc_auc_score

from zweiblick_core.scoring.asking import KINDS

from .features import Table, lines_of, read
from .fit import (
    REPORTED,
    STANDS_OUT,
    Judged,
    likely_of,
    out_of_fold,
    regions_of,
    stack_of,
    weights_out_of_fold,
)

#: So few regions of a kind say nothing.
FEW = 5
#: Shares of clean regions at which recall is stated.
ALARMS = (0.02, 0.05, 0.1)


@dataclass(frozen=True)
class Rows:
    """What is judged; a clean region comes once for each hand.

    Attributes:
        at: regions, int (r,). values: of each kind its strongest reading's, (r, kinds), on any
            scale.
    """

    at: np.ndarray
    values: np.ndarray


def pooled(some: Table, judged: list[Judged], values: list[np.ndarray]) -> Rows:
    """All hands together; `values`: of each reading, for each hand."""
    at = [regions_of(some, one) for one in judged]
    return Rows(
        np.concatenate(at),
        np.concatenate([some.highest(value)[rows] for rows, value in zip(at, values, strict=True)]),
    )


def figures(some: Table, rows: Rows) -> dict[str, float]:
    """AUC of each kind's strongest reading against clean regions, and their mean; AUC of the
    strongest reading of all; how many flawed regions reach what a share of clean ones do; in how
    many a right name is among the two strongest.
    """
    clean, inside = some.clean[rows.at], some.inside[rows.at]
    floor = rows.values[np.isfinite(rows.values)].min() - 1
    values = np.where(np.isfinite(rows.values), rows.values, floor)
    said: dict[str, float] = {}
    auc = lambda flawed, of: float(
        roc_auc_score(
            np.r_[np.ones(flawed.sum()), np.zeros(clean.sum())], np.r_[of[flawed], of[clean]]
        )
    )
    for column, kind in enumerate(KINDS):
        flawed = np.array([some.kinds[row][:1] == [kind] for row in rows.at])
        if flawed.sum() >= FEW and clean.sum() >= FEW:
            said[kind] = auc(flawed, values[:, column])
    said["mean AUC"] = float(np.mean(list(said.values()))) if said else float("nan")
    highest = values.max(axis=1)
    said["any flaw"] = auc(inside, highest)
    for alarms in ALARMS:
        cut = float(np.quantile(highest[clean], 1 - alarms))
        said[f"flagged at {alarms:.0%} alarms"] = float((highest[inside] > cut).mean())
    order = np.argsort(-values, axis=1)[:, :2]
    said["right among two"] = float(
        np.mean(
            [
                any(KINDS[column] in some.kinds[rows.at[at]] for column in order[at])
                for at in np.flatnonzero(inside)
            ]
        )
    )
    return said


def with_finding(some: Table, rows: np.ndarray, flagged: np.ndarray) -> dict[str, float]:
    """Shares of regions that have a finding.

    Args:
        rows: regions, int (r,). flagged: bool (r,).
    """
    clean = some.clean[rows]
    along = some.outlines[rows] == "along an edge"
    of = lambda chosen: float(flagged[chosen].mean()) if chosen.any() else float("nan")
    return {
        "clean": of(clean),
        "clean, along an edge": of(clean & along),
        "flawed": of(some.inside[rows]),
        "flawed, along an edge": of(some.inside[rows] & along),
    }


def stands_out(some: Table) -> np.ndarray:
    """Which readings do by their score alone, bool (m,)."""
    least = np.array([STANDS_OUT["hints"].get(kind, STANDS_OUT["score"]) for kind in KINDS])
    return some.scores >= least[some.kind]


def flagged(
    some: Table, judged: list[Judged], likely: list[np.ndarray], cut: float
) -> dict[str, float]:
    """`with_finding` where what stands out is reported from a probability on."""
    out = stands_out(some)
    rows = [regions_of(some, one) for one in judged]
    found = [
        some.highest(np.where(out, values, 0.0))[at].max(axis=1) >= cut
        for at, values in zip(rows, likely, strict=True)
    ]
    return with_finding(some, np.concatenate(rows), np.concatenate(found))


def deciles(
    some: Table, judged: list[Judged], likely: list[np.ndarray], least: float
) -> list[tuple[float, float, int]]:
    """Reliability of readings whose score is so high: of each tenth of probabilities the mean said,
    the part that is right (half of all regions clean), how many.
    """
    said, so, heavy = [], [], []
    weight = weights_out_of_fold(some, judged)
    for one, values in zip(judged, likely, strict=True):
        rows = np.isfinite(one.odds) & (some.scores >= least)
        said.append(values[rows])
        so.append(some.right[rows])
        heavy.append(weight[rows])
    p, right, w = np.concatenate(said), np.concatenate(so), np.concatenate(heavy)
    out = []
    for tenth in range(10):
        there = (p >= tenth / 10) & (p < (tenth + 1) / 10 + (tenth == 9))
        if there.any():
            out.append(
                (
                    float(np.average(p[there], weights=w[there])),
                    float(np.average(right[there], weights=w[there])),
                    int(there.sum()),
                )
            )
    return out


def interval(some: Table, rows: Rows, draws: int, seed: int) -> dict[str, tuple[float, float]]:
    """95 % of each figure, over drawn photographs."""
    rng = np.random.default_rng(seed)
    names = sorted(set(some.photographs[rows.at]))
    by_name = {name: np.flatnonzero(some.photographs[rows.at] == name) for name in names}
    drawn: dict[str, list[float]] = {}
    for _ in range(draws):
        chosen = np.concatenate([by_name[name] for name in rng.choice(names, len(names))])
        for name, value in figures(some, Rows(rows.at[chosen], rows.values[chosen])).items():
            drawn.setdefault(name, []).append(value)
    return {
        name: (float(np.nanquantile(values, 0.025)), float(np.nanquantile(values, 0.975)))
        for name, values in drawn.items()
    }


def main() -> None:
    """Prints tables."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("store", type=Path)
    parser.add_argument("--locked", action="store_true", help="the photographs looked at once")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--draws", type=int, default=200)
    given = parser.parse_args()
    some = read(lines_of(given.store))
    print(
        f"{len(some.kinds)} regions of {len(set(some.photographs))} photographs, {int(some.clean.sum())} clean, {len(some.of)} readings"
    )
    judged = out_of_fold(some, given.seed, given.locked)
    # Nothing is chosen on what is locked: how they are stacked is the others'.
    open_ = out_of_fold(some, given.seed) if given.locked else judged
    stack = stack_of(some, open_)
    likely = [likely_of(some, one, stack) for one in judged]
    before = pooled(some, judged, [some.scores] * len(judged))
    after = pooled(some, judged, likely)
    old, new = figures(some, before), figures(some, after)
    around = interval(some, after, given.draws, given.seed)
    earlier = interval(some, before, given.draws, given.seed)
    print(f"{'':24} scores               fit")
    for name, value in new.items():
        print(
            f"{name:24} {old[name]:.2f} ({earlier[name][0]:.2f}..{earlier[name][1]:.2f})    {value:.2f} ({around[name][0]:.2f}..{around[name][1]:.2f})"
        )
    every = [np.ones(len(some.of)) for _ in judged]
    before_, after_ = flagged(some, judged, every, 0.5), flagged(some, judged, likely, REPORTED)
    print(f"\nwith a finding            by score   from {REPORTED:.2f} on")
    for name, value in after_.items():
        print(f"{name:24}  {before_[name]:.2f}       {value:.2f}")
    print("\nsaid, so, how many, of readings that stand out")
    for said, so, count in deciles(some, judged, likely, STANDS_OUT["score"]):
        print(f"  {said:.2f} {so:.2f} {count}")


if __name__ == "__main__":
    main()
