"""How often anything is found where the fill is the truth itself, over photographs that vary as
clients' do: other sizes, turned, harder, saved again.

    .venv/bin/python benchmarks/natural.py [--places 2] [--ways png,jpeg,kept,again] [--variants
    large] [--workers 2] [--list]

Only training photographs and four more that nothing is tested on. Each way is one of how the files
came about:
png: both lossless; jpeg: both saved as JPEG by themselves; kept: the result's region out of a JPEG,
    all else the original's JPEG, saved lossless, as
one that was put together is; again: the same saved as JPEG once more. The variant large, which is
not among those by default, has regions of 250 to 900 pixels in
pictures 4000 pixels wide.
"""

from __future__ import annotations

import argparse
import itertools
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np
import skimage

sys.path.insert(0, str(Path(__file__).parent))
from flaws import blob, with_thing  # noqa: E402
from photographs import TRAIN, photograph  # noqa: E402

from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.io import read  # noqa: E402
from zweiblick_core.regions import from_mask  # noqa: E402

MORE = ("moon", "clock_motion", "hubble_deep_field", "ihc")
VARIANTS = ("plain", "twice as large", "smaller", "turned", "harder")
LARGE = "large"
WAYS = ("png", "jpeg", "kept", "again")
Case = tuple[str, str, int, str]
#: kind, confidence, severity, what of it, its box.
Found = tuple[str, float, float, str, list[int]]


def _photograph(name: str) -> np.ndarray:
    if name not in MORE:
        return photograph(name)
    file = next(
        file
        for ending in ("png", "jpg")
        if (file := Path(skimage.__file__).parent / "data" / f"{name}.{ending}").exists()
    )
    pixels = cv2.imread(str(file), cv2.IMREAD_COLOR)[..., ::-1]
    # As `photograph` gives the others, which have lost theirs, some grain.
    grain = cv2.GaussianBlur(np.random.default_rng(3).normal(0, 1, pixels.shape), (0, 0), 0.5) * 2.2
    return np.clip(pixels + grain, 0, 255).round().astype(np.uint8)


def varied(name: str, variant: str) -> np.ndarray:
    """A photograph as it is or changed, uint8 (height, width, 3)."""
    pixels, rng = _photograph(name), np.random.default_rng(len(name) + len(variant))
    noisy = lambda values, sigma: np.clip(
        values + rng.normal(0, sigma, values.shape), 0, 255
    ).astype(np.uint8)
    if variant == "twice as large":
        pixels = noisy(
            cv2.resize(pixels[:900, :1100], None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC), 2
        )
    elif variant == LARGE:
        pixels = noisy(
            cv2.resize(
                pixels,
                (4000, 4000 * pixels.shape[0] // pixels.shape[1]),
                interpolation=cv2.INTER_CUBIC,
            ),
            2,
        )
    elif variant == "smaller":
        pixels = cv2.resize(pixels, None, fx=0.6, fy=0.6, interpolation=cv2.INTER_AREA)
    elif variant == "turned":
        height, width = pixels.shape[:2]
        turn = cv2.getRotationMatrix2D((width / 2, height / 2), 17, 1.35)
        pixels = noisy(cv2.warpAffine(pixels, turn, (width, height), flags=cv2.INTER_CUBIC), 1.3)
    elif variant == "harder":
        pixels = np.clip(255 * (pixels / 255.0) ** 0.7 * 1.05 - 5, 0, 255).astype(np.uint8)
    return np.ascontiguousarray(pixels)


def _file(pixels: np.ndarray, quality: int) -> bytes:
    """PNG at quality 0."""
    ending, how = (".jpg", [cv2.IMWRITE_JPEG_QUALITY, quality]) if quality else (".png", [])
    return cv2.imencode(ending, np.ascontiguousarray(pixels[..., ::-1]), how)[1].tobytes()


def pair_of(case: Case) -> tuple[bytes, bytes, np.ndarray]:
    """The files of a case and the mask, bool (height, width)."""
    name, variant, place, way = case
    truth = varied(name, variant)
    rng = np.random.default_rng(sum(map(ord, name + variant)) * 100 + place)
    mask = blob(
        rng,
        truth.shape[:2],
        rng.uniform(250, 900)
        if variant == LARGE
        else rng.uniform(50, min(170, min(truth.shape[:2]) / 3.2)),
    )
    if variant == LARGE:
        # What lies farther off is never looked at.
        ys, xs = np.nonzero(mask)
        near = (
            slice(max(0, ys.min() - 600), ys.max() + 600),
            slice(max(0, xs.min() - 600), xs.max() + 600),
        )
        truth, mask = np.ascontiguousarray(truth[near]), np.ascontiguousarray(mask[near])
    original = with_thing(truth, mask, rng)
    if way in ("png", "jpeg"):
        return _file(original, 92 * (way == "jpeg")), _file(truth, 92 * (way == "jpeg")), mask
    first = _file(original, 92)
    wide = cv2.dilate(mask.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    whole = np.where(wide[..., None], read(_file(truth, 92)).pixels, read(first).pixels)
    return first, _file(whole, 95 * (way == "again")), mask


def found_in(case: Case) -> list[Found]:
    cv2.setNumThreads(1)
    original, result, mask = pair_of(case)
    report = check(read(original), read(result), from_mask(mask))
    findings = [one for region in report.regions for one in region.findings] + list(
        report.overreach["findings"]
    )
    return [
        (
            one.kind,
            round(one.confidence, 2),
            round(one.severity, 2),
            str(one.evidence.get("what", "")),
            [int(x) for x in one.bbox],
        )
        for one in findings
    ]


def main() -> None:
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--places", type=int, default=2)
    parser.add_argument(
        "--first",
        type=int,
        default=0,
        help="number of the first place: others than those that were looked at",
    )
    parser.add_argument("--ways", default=",".join(WAYS))
    parser.add_argument("--variants", default=",".join(VARIANTS))
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--list", action="store_true", help="every finding in a line")
    given = parser.parse_args()
    variants = given.variants.split(",")
    cases = list(
        itertools.product(
            TRAIN + MORE,
            variants,
            range(given.first, given.first + given.places),
            given.ways.split(","),
        )
    )
    with ProcessPoolExecutor(given.workers) as pool:
        results = list(pool.map(found_in, cases))
    if given.list:
        for case, found in zip(cases, results, strict=True):
            for one in found:
                print(*case, *one)
    told = lambda words, counted: print(
        f"{words:24s} any finding in {sum(counted):3d} of {len(counted):3d}: {np.mean(counted):.3f}"
    )
    told("all", [bool(found) for found in results])
    for k, words in ((3, given.ways.split(",")), (1, variants), (0, TRAIN + MORE)):
        for word in words:
            told(
                word,
                [
                    bool(found)
                    for case, found in zip(cases, results, strict=True)
                    if case[k] == word
                ],
            )
    kinds = Counter(kind for found in results for kind in {one[0] for one in found})
    print(
        "by kind:", ", ".join(f"{kind} {count}" for kind, count in kinds.most_common()) or "nothing"
    )


if __name__ == "__main__":
    main()
