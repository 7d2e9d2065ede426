"""Seconds that each built-in method takes for one region of a tenth of a megapixel in a picture of
24, and for each its ratio to decoding the picture, in one run.

.venv/bin/python benchmarks/trials.py [--megapixels 24] [--region 0.1]
"""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path

import numpy as np

REPO = Path(__file__).parent.parent
sys.path[:0] = [str(REPO / "core"), str(Path(__file__).parent)]
from speed import pair  # noqa: E402

from zweiblick_core import methods  # noqa: E402
from zweiblick_core.errors import Refused  # noqa: E402
from zweiblick_core.io import read  # noqa: E402


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--megapixels", type=float, default=24)
    parser.add_argument("--region", type=float, default=0.1)
    given = parser.parse_args()
    first, _, mask = pair(given.megapixels, given.region, seam=False)
    start = time.perf_counter()
    pixels = read(first).pixels
    decoding = time.perf_counter() - start
    print(f"decoding {given.megapixels:g} megapixels: {decoding:.2f} s")
    away = int(np.flatnonzero(mask.any(0))[-1] - np.flatnonzero(mask.any(0))[0]) + 20
    for one in methods.DESCRIBED:
        own = {"offset": (away, 0)} if any(ask.kind == "offset" for ask in one.asks) else {}
        start = time.perf_counter()
        try:
            methods.remove(one.name, pixels, mask, grain=True, **own)
        except Refused as error:
            print(f"{one.name}: {error}")
            continue
        took = time.perf_counter() - start
        print(f"{one.name}: {took:.2f} s, {took / decoding:.1f} times decoding")


if __name__ == "__main__":
    main()
