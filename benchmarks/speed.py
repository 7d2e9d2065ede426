"""CPU seconds of a check against decoding both files, as ratios in one run.

    .venv/bin/python benchmarks/speed.py [--megapixels 24] [--region 1.0]
"""

from __future__ import annotations

import argparse
import cProfile
import pstats
import sys
import time
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from flaws import with_thing  # noqa: E402
from photographs import photograph  # noqa: E402

from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.reading import read  # noqa: E402
from zweiblick_core.regions import from_mask  # noqa: E402


def pair(megapixels: float, region: float, seam: bool = False) -> tuple[bytes, bytes, np.ndarray]:
    """A pair of JPEGs made from our own picture, enlarged with fresh grain, and a round mask of `region` megapixels; `seam`: the fill is too bright."""
    truth = photograph("warehouse-truth")
    width = int(np.sqrt(megapixels * 1.5e6))
    large = cv2.resize(truth, (width, width * 2 // 3), interpolation=cv2.INTER_CUBIC)
    rng = np.random.default_rng(1)
    large = np.clip(large + rng.normal(0, 2, large.shape), 0, 255).astype(np.uint8)
    mask = np.zeros(large.shape[:2], np.uint8)
    cv2.circle(mask, (width // 2, width // 3), int(np.sqrt(region * 1e6 / np.pi)), 1, -1)
    result = large.copy()
    if seam:
        result[mask > 0] = np.clip(result[mask > 0].astype(int) + 24, 0, 255)
    encode = lambda pixels: cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 92])[1].tobytes()
    return encode(with_thing(large, mask.astype(bool), rng)), encode(result), mask.astype(bool)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--megapixels", type=float, default=24)
    parser.add_argument("--region", type=float, default=1.0)
    given = parser.parse_args()
    cv2.setNumThreads(1)
    first, second, mask = pair(given.megapixels, given.region)
    start = time.process_time()
    original, result = read(first), read(second)
    decoding = time.process_time() - start
    profile = cProfile.Profile()
    start = time.process_time()
    profile.enable()
    check(original, result, from_mask(mask))
    profile.disable()
    checking = time.process_time() - start
    print(f"{given.megapixels:.0f} megapixels, region {given.region:.1f}: decoding {decoding:.2f} s, check {checking:.2f} s, ratio {checking / decoding:.1f}")
    pstats.Stats(profile).sort_stats("cumtime").print_stats("kinds|check.py|registering|carriers|windows|base|overreach", 40)


if __name__ == "__main__":
    main()
