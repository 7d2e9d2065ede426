"""Fills that are seen at a glance, blended in so that no step gives them away: how many have a finding,
what the worst is called, and how visible it is said to be; and how many of the same regions have one
where the fill is the truth.

    .venv/bin/python benchmarks/glance.py [--regions 48] [--size 1080px]

Photographs and flaws are those of `training/` (its fourth hand), at other places than the store's.
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))
from training.makers.fourth import MAKERS  # noqa: E402
from training.makers.hands import with_thing  # noqa: E402
from training.outlines import blob  # noqa: E402
from training.photographs import names, photograph  # noqa: E402
from training.synthesise import saved  # noqa: E402
from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.io import read  # noqa: E402
from zweiblick_core.regions import from_mask  # noqa: E402
from zweiblick_core.report import Finding  # noqa: E402
from zweiblick_core.visibility import WORDS, parse_size  # noqa: E402

#: How plain the flaws are, 0..1: as unlike what lies around as `fourth` makes them or more.
STRENGTH = 0.3


def one(number: int, size: str) -> tuple[str, list[Finding], list[Finding]]:
    """The maker's name, and the findings with its flaw and without."""
    cv2.setNumThreads(1)
    for attempt in range(100):
        rng = np.random.default_rng([20278, number, attempt])
        maker = list(MAKERS)[number % len(MAKERS)]
        truth = photograph(str(rng.choice(names())))
        if min(truth.shape[:2]) < 380:
            continue
        mask = blob(rng, truth.shape[:2], float(rng.uniform(80, 150)))
        original = with_thing(truth, mask, rng)
        made = maker(STRENGTH)(truth, original, mask, rng)
        if made is None:
            continue
        own = np.clip(truth + rng.normal(0, 0.4, truth.shape), 0, 255).round().astype(np.uint8)
        clean = np.where(mask[..., None], own, truth)
        before = read(saved(original, 0))
        found = [
            check(before, read(saved(result, 0)), from_mask(mask), parse_size(size))
            .regions[0]
            .findings
            for result in (made, clean)
        ]
        return maker.__name__, found[0], found[1]
    raise RuntimeError("no photograph has room")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--regions", type=int, default=48)
    parser.add_argument("--size", default="1080px")
    given = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        rows = list(pool.map(partial(one, size=given.size), range(given.regions)))
    for maker in MAKERS:
        some = [found for name, found, _ in rows if name == maker.__name__]
        worst = [max(found, key=lambda f: f.severity * f.confidence) for found in some if found]
        words = Counter(max(found, key=lambda f: f.severity).word for found in some if found)
        print(f"{maker.__name__}: {len(worst)} of {len(some)} have a finding")
        print("   called", dict(Counter(f.kind for f in worst).most_common()))
        print("   said to be", {word: words[word] for word in reversed(WORDS) if words[word]})
    clean = sum(bool(found) for _, _, found in rows)
    print(f"the truth: {clean} of {len(rows)} have a finding")


if __name__ == "__main__":
    main()
