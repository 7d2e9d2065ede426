"""CPU seconds of a check against decoding both files, as ratios in one run.

.venv/bin/python benchmarks/speed.py [--megapixels 24] [--region 1.0] [--all]
"""

from __future__ import annotations

import argparse
import cProfile
import pstats
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from flaws import with_thing  # noqa: E402
from photographs import photograph  # noqa: E402

from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.io import Picture, read  # noqa: E402
from zweiblick_core.kinds import REGISTRY  # noqa: E402
from zweiblick_core.regions import Region, from_mask  # noqa: E402


def enlarged(
    megapixels: float, region: float, places: tuple[tuple[int, int], ...] = ((0, 0),)
) -> tuple[np.ndarray, np.ndarray]:
    """Our own picture enlarged with fresh grain, uint8 (height, width, 3), and a bool mask of discs
    of `region` megapixels each; `places`: where, in quarters of
    the width and eighths of it from the middle."""
    truth = photograph("warehouse-truth")
    width = int(np.sqrt(megapixels * 1.5e6))
    large = cv2.resize(truth, (width, width * 2 // 3), interpolation=cv2.INTER_CUBIC)
    rng = np.random.default_rng(1)
    large = np.clip(large + rng.normal(0, 2, large.shape), 0, 255).astype(np.uint8)
    mask = np.zeros(large.shape[:2], np.uint8)
    for dx, dy in places:
        cv2.circle(
            mask,
            (width // 2 + dx * width // 4, width // 3 + dy * width // 8),
            int(np.sqrt(region * 1e6 / np.pi)),
            1,
            -1,
        )
    return large, mask.astype(bool)


def pair(
    megapixels: float,
    region: float,
    seam: bool = False,
    places: tuple[tuple[int, int], ...] = ((0, 0),),
) -> tuple[bytes, bytes, np.ndarray]:
    """A pair of JPEGs of such a picture, and its mask; `seam`: the fills are too bright."""
    large, mask = enlarged(megapixels, region, places)
    result = large.copy()
    if seam:
        result[mask] = np.clip(result[mask].astype(int) + 24, 0, 255)
    encode = lambda pixels: cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 92])[
        1
    ].tobytes()
    return encode(with_thing(large, mask, np.random.default_rng(2))), encode(result), mask


def measured(original: Picture, result: Picture, regions: list[Region]) -> float:
    """CPU seconds of one check."""
    start = time.process_time()
    check(original, result, regions)
    return time.process_time() - start


def ratios(megapixels: float, region: float) -> None:
    """Three turns of decoding and checking, in a process of its own: memory that other pictures
    left behind would halve what decoding costs and hardly change a check.

    The ratio is told of each turn, the first of which makes tables and takes memory, and of the
    least that each of both took, since whatever else a machine does can only add.
    """
    cv2.setNumThreads(1)
    first, second, mask = pair(megapixels, region)
    decoding, checking = [], []
    for _ in range(3):
        start = time.process_time()
        original, result = read(first), read(second)
        decoding.append(time.process_time() - start)
        checking.append(measured(original, result, from_mask(mask)))
    turns = ", ".join(f"{one / other:.1f}" for one, other in zip(checking, decoding, strict=True))
    print(
        f"{megapixels:.0f} megapixels, region {region:.2f}: decoding {min(decoding):.2f} s, check {min(checking):.2f} s, ratio {min(checking) / min(decoding):.1f}, "
        f"turn by turn {turns}; above decoding {min(checking) - min(decoding):.2f} s",
        flush=True,
    )


def alone(measure: Callable[[float, float], None], megapixels: float, region: float) -> None:
    """One of these measurements in a new process."""
    process = get_context("spawn").Process(target=measure, args=(megapixels, region))
    process.start()
    process.join()
    if process.exitcode:
        raise SystemExit(process.exitcode)


_ALONE = """
import sys
import cv2
from zweiblick_core.check import check
from zweiblick_core.io import read
from zweiblick_core.regions import from_mask
cv2.setNumThreads(1)
mask = cv2.imread(sys.argv[3], cv2.IMREAD_GRAYSCALE) > 0
# Not getrusage: that remembers what the parent held when it forked.
peak = lambda: next(int(line.split()[1]) for line in open("/proc/self/status") if line.startswith("VmHWM")) / 2**20
empty = peak()
check(read(open(sys.argv[1], "rb").read()), read(open(sys.argv[2], "rb").read()), from_mask(mask))
print(empty, peak())
"""


def memory(megapixels: float, region: float) -> None:
    """The most memory that a process holds which does nothing but one check (VmHWM, which Linux
    counts in KiB).
    """
    first, second, mask = pair(megapixels, region)
    with tempfile.TemporaryDirectory() as folder:
        names = [str(Path(folder) / name) for name in ("original.jpg", "result.jpg", "mask.png")]
        Path(names[0]).write_bytes(first)
        Path(names[1]).write_bytes(second)
        cv2.imwrite(names[2], mask.astype(np.uint8) * 255)
        del first, second, mask
        told = subprocess.run(
            [sys.executable, "-c", _ALONE, *names], check=True, capture_output=True, text=True
        ).stdout.split()
    print(
        f"{megapixels:.0f} megapixels, region {region:.2f}, in a process of its own: {float(told[1]):.2f} GiB at most, {float(told[0]):.2f} of it before anything was decoded",
        flush=True,
    )


def four(megapixels: float, region: float) -> None:
    """Four regions in one check against four checks of one: by turns, so that a machine that slows
    down slows both, three times, of each the least.
    """
    cv2.setNumThreads(1)
    first, second, mask = pair(megapixels, region, places=((-1, -1), (1, -1), (-1, 1), (1, 1)))
    original, result = read(first), read(second)
    moved = from_mask(mask)
    assert len(moved) == 4
    together, apart = [], []
    for _ in range(3):
        apart.append(sum(measured(original, result, [one]) for one in moved))
        together.append(measured(original, result, moved))
    turns = ", ".join(f"{one / other:.2f}" for one, other in zip(together, apart, strict=True))
    print(
        f"four regions of {region:.2f} megapixels: together {min(together):.2f} s, four checks {min(apart):.2f} s, ratio {min(together) / min(apart):.2f}; turn by turn {turns}",
        flush=True,
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--megapixels", type=float, default=24)
    parser.add_argument("--region", type=float, default=1.0)
    parser.add_argument(
        "--all",
        action="store_true",
        help="also regions of other sizes, 60 megapixels, and four regions at once",
    )
    given = parser.parse_args()
    cv2.setNumThreads(1)
    if given.all:
        for region in (0.25, 0.5, 1.0, 2.0):
            alone(ratios, 24, region)
        alone(four, 24, 0.25)
        alone(ratios, 60, 1.0)
        memory(60, 1.0)
    else:
        alone(ratios, given.megapixels, given.region)
    first, second, mask = pair(given.megapixels, given.region)
    original, result = read(first), read(second)
    profile = cProfile.Profile()
    profile.enable()
    check(original, result, from_mask(mask))
    profile.disable()
    spent = {
        (Path(name).stem, function): total
        for (name, _, function), (_, _, _, total, _) in pstats.Stats(profile).stats.items()
    }  # type: ignore[attr-defined]
    shown = {kind: spent.get((kind, "measure"), 0.0) for kind in (*REGISTRY, "overreach")}
    shown |= {
        "register": spent.get(("registering", "register"), 0.0),
        "base": spent.get(("base", "grading_of"), 0.0),
        "carriers": spent.get(("carriers", "measure_carriers"), 0.0),
        "window": spent.get(("windows", "open_window"), 0.0),
        "changed area": spent.get(("windows", "changed"), 0.0),
    }
    print(
        "by kind, what several share counted where it was first asked for: "
        + ", ".join(
            f"{name} {seconds:.2f}"
            for name, seconds in sorted(shown.items(), key=lambda one: -one[1])
        )
    )


if __name__ == "__main__":
    main()
