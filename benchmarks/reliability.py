"""How sure is sure: fits confidence to what `detect.py --json` found, and prints a reliability
table.

    .venv/bin/python benchmarks/detect.py --split train --json out/x.json
    .venv/bin/python benchmarks/reliability.py out/train-0.json out/train-90.json

A finding is real when something was injected at its place. Clean regions are weighted so that they
are half of all, as among attempts that come in.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

sys.path.insert(0, str(Path(__file__).parent.parent / "core"))
from zweiblick_core.scoring import confidence  # noqa: E402


def findings(rows: list[dict]) -> np.ndarray:
    """(n, 3): score, real, weight."""
    clean = [row for row in rows if not row["kind"] and row["flaw"] != "grading"]
    flawed = [row for row in rows if row["kind"]]
    weight = len(flawed) / max(1, len(clean))
    found = [
        (score, real, w)
        for some, real, w in ((clean, 0.0, weight), (flawed, 1.0, 1.0))
        for row in some
        for score in row["sure"]
    ]
    return np.array(found).reshape(-1, 3)


def logit(score: np.ndarray) -> np.ndarray:
    some = np.clip(score, 1e-4, 1 - 1e-4)
    return np.log(some / (1 - some))


def main() -> None:
    rows = [row for path in sys.argv[1:] for row in json.loads(Path(path).read_text())]
    data = findings(rows)
    x, real, weight = np.minimum(logit(data[:, 0]), 6.0), data[:, 1], data[:, 2]

    def loss(p: np.ndarray) -> float:
        chance = 1 / (1 + np.exp(-(p[0] + p[1] * x)))
        return float(
            -(
                weight * (real * np.log(chance + 1e-9) + (1 - real) * np.log(1 - chance + 1e-9))
            ).sum()
            / weight.sum()
            + 0.002 * (p**2).sum()
        )

    a, b = minimize(loss, np.array([0.0, 0.5])).x
    print(
        f"fit over {len(data)} findings: confidence = logistic({a:.3f} + {b:.3f} * logit(score)), logit at most 6"
    )
    sure = np.array([confidence(score) for score in data[:, 0]])
    print("said       n   mean  real (clean weighted to half)")
    for low, high in ((0.0, 0.6), (0.6, 0.7), (0.7, 0.8), (0.8, 0.9), (0.9, 1.01)):
        some = (sure >= low) & (sure < high)
        if some.any():
            print(
                f"{low:.1f}-{min(high, 1):.1f} {some.sum():5}  {np.average(sure[some], weights=weight[some]):.2f}   {np.average(real[some], weights=weight[some]):.2f}"
            )


if __name__ == "__main__":
    main()
