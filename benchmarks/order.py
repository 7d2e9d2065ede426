"""Order of attempts: real fills that no injector touched, ranked by our `overall` and by their
perceptual distance to the known truth.

    .venv/bin/python benchmarks/order.py [--split test] [--places 1]

Prints Kendall's tau within each picture (tau-b), how often the truth itself stands first, and how
often findings on those fills are real: a fill counts as one that
does not hold when its distance to the truth exceeds `HOLDS`, set on what two exposures of the truth
and a shift by two pixels come to.
"""

from __future__ import annotations

import argparse
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np
from scipy.stats import kendalltau

sys.path.insert(0, str(Path(__file__).parent))
from detect import encoded  # noqa: E402
from flaws import OWN, blob, with_thing  # noqa: E402
from photographs import TEST, TRAIN, photograph  # noqa: E402

from zweiblick_core import methods  # noqa: E402
from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.io import read  # noqa: E402
from zweiblick_core.regions import from_mask  # noqa: E402

HOLDS = 0.35


def distance(result: np.ndarray, truth: np.ndarray, mask: np.ndarray) -> float:
    """How differently two fills look: broad colour, energy of three bands, and edges; 0 = alike.
    Plain pixel error would reward blur.
    """
    lab = lambda rgb: cv2.cvtColor((rgb / 255.0).astype(np.float32), cv2.COLOR_RGB2LAB)
    a, b = lab(result), lab(truth)
    inside = mask.astype(bool)
    broad = (
        float(
            np.linalg.norm(cv2.GaussianBlur(a, (0, 0), 8) - cv2.GaussianBlur(b, (0, 0), 8), axis=2)[
                inside
            ].mean()
        )
        / 6
    )
    texture = 0.0
    la, lb = a[..., 0], b[..., 0]
    for fine, coarse in ((0.5, 1.5), (1.5, 3.5), (3.5, 8)):
        energy = [
            np.sqrt(
                cv2.GaussianBlur(
                    (cv2.GaussianBlur(one, (0, 0), fine) - cv2.GaussianBlur(one, (0, 0), coarse))
                    ** 2,
                    (0, 0),
                    8,
                )
            )
            for one in (la, lb)
        ]
        texture += float(np.abs(np.log((energy[0] + 0.3) / (energy[1] + 0.3)))[inside].mean()) / 3
    edges = []
    for one in (la, lb):
        smooth = cv2.GaussianBlur(one, (0, 0), 2)
        edges.append(
            np.stack([cv2.Sobel(smooth, cv2.CV_32F, 1, 0), cv2.Sobel(smooth, cv2.CV_32F, 0, 1)], -1)
        )
    grade = float(np.linalg.norm(edges[0] - edges[1], axis=2)[inside].mean()) / (
        float(np.linalg.norm(edges[1], axis=2)[inside].mean()) + 4.0
    )
    return broad + texture + 0.5 * grade


def fills(
    truth: np.ndarray, original: np.ndarray, mask: np.ndarray, rng: np.random.Generator
) -> dict[str, np.ndarray]:
    """Attempts by name; the truth among them as another exposure saw it."""
    ys, xs = np.nonzero(mask)
    made = {
        "truth": np.where(
            mask[..., None],
            np.clip(truth + rng.normal(0, OWN, truth.shape), 0, 255).round().astype(np.uint8),
            truth,
        )
    }
    made["marching"] = cv2.inpaint(original, mask.astype(np.uint8), 4, cv2.INPAINT_TELEA)
    made["flow"] = cv2.inpaint(original, mask.astype(np.uint8), 4, cv2.INPAINT_NS)
    made["exemplar"] = methods.exemplar(original, mask, seed=1, scale=0.5, margin=90)
    size = int(max(np.ptp(xs), np.ptp(ys)) * 1.15) + 8
    for name, function in (
        ("straight copy", methods.straight_copy),
        ("blended copy", methods.blended_copy),
    ):
        for dx, dy in ((size, 0), (-size, 0), (0, size), (0, -size)):
            if (
                xs.min() + dx >= 0
                and xs.max() + dx < mask.shape[1]
                and ys.min() + dy >= 0
                and ys.max() + dy < mask.shape[0]
            ):
                made[name] = function(original, mask, (dx, dy))
                break
    soft = cv2.GaussianBlur(truth, (0, 0), 1.4)
    made["truth, softened"] = np.where(mask[..., None], soft, truth)
    return made


def case(name: str, place: int) -> list[dict]:
    cv2.setNumThreads(1)
    rng = np.random.default_rng(sum(map(ord, name)) * 1000 + place)
    truth = photograph(name)
    mask = blob(rng, truth.shape[:2], rng.uniform(60, min(130, min(truth.shape[:2]) / 3.2)))
    original = with_thing(truth, mask, rng)
    first = read(encoded(original, 0))
    rows = []
    for method, result in fills(truth, original, mask, rng).items():
        report = check(first, read(encoded(result, 0)), from_mask(mask))
        rows.append(
            {
                "photo": name,
                "place": place,
                "method": method,
                "overall": report.overall,
                "distance": distance(result, truth, mask),
                "sure": [finding.confidence for finding in report.regions[0].findings],
            }
        )
    return rows


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--split", choices=("train", "test"), default="test")
    parser.add_argument("--places", type=int, default=1)
    given = parser.parse_args()
    names = TRAIN if given.split == "train" else TEST
    with ProcessPoolExecutor(2) as pool:
        cases = list(
            pool.map(
                case,
                *zip(
                    *[(name, place) for name in names for place in range(given.places)], strict=True
                ),
            )
        )
    taus, first = [], []
    for rows in cases:
        tau = kendalltau(
            [row["overall"] for row in rows], [-row["distance"] for row in rows]
        ).statistic
        best = max(rows, key=lambda row: row["overall"])
        taus.append(float(tau))
        first.append(best["method"] == "truth")
        print(
            f"{rows[0]['photo']:16} {rows[0]['place']} tau {tau:5.2f}  first {best['method']:16} "
            + "  ".join(
                f"{row['method']} {row['overall']:.2f}/{row['distance']:.2f}"
                for row in sorted(rows, key=lambda row: row["distance"])
            )
        )
    print(
        f"{given.split}: n {len(cases)} places, {sum(map(len, cases))} fills; tau {np.mean(taus):.2f} (median {np.median(taus):.2f}); truth first {np.mean(first):.2f}"
    )
    sure = np.array(
        [
            (value, row["distance"] > HOLDS)
            for rows in cases
            for row in rows
            for value in row["sure"]
        ]
    ).reshape(-1, 2)
    for low, high in ((0.0, 0.6), (0.6, 0.8), (0.8, 0.9), (0.9, 1.01)):
        some = sure[(sure[:, 0] >= low) & (sure[:, 0] < high)]
        if len(some):
            print(
                f"real fills, findings {low:.1f} to {min(high, 1):.1f} sure: n {len(some)}, mean {some[:, 0].mean():.2f}, on fills that do not hold {some[:, 1].mean():.2f}"
            )


if __name__ == "__main__":
    main()
