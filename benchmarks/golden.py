"""Reports before and after the core was changed: whether they still say the same.

.venv/bin/python benchmarks/golden.py write FOLDER
.venv/bin/python benchmarks/golden.py compare FOLDER [--tolerance 1e-4] [--only coffee]

Every flaw once on some photographs, and the demo's attempts. Writing takes some minutes of two
cores; a comparison examines everything anew and names each value that moved.
"""

from __future__ import annotations

import argparse
import json
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from pathlib import Path

import cv2
import numpy as np

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent)]
from detect import encoded  # noqa: E402
from flaws import COURSED, FLAWS, HARD, LINED, blob, coursed, ended, lined, with_thing  # noqa: E402
from photographs import picture_of  # noqa: E402

from demo import scenario  # noqa: E402
from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.io import read  # noqa: E402
from zweiblick_core.regions import Region, from_mask  # noqa: E402

#: Photographs and the JPEG quality they are saved at, 0 for PNG.
GROUNDS = (("coffee", 0), ("coins", 90), ("boatshed-truth", 90))


@dataclass(frozen=True)
class Case:
    """What is examined: a name that is a file's, both files, and the regions."""

    name: str
    original: bytes
    result: bytes
    regions: list[Region]


def injected(photograph: str, quality: int) -> Iterator[Case]:
    """Every flaw, and clean fills on every hard ground, at one place of a photograph."""
    rng = np.random.default_rng(sum(map(ord, photograph)))
    truth = picture_of(photograph, None)
    mask = blob(rng, truth.shape[:2], rng.uniform(60, 110))
    boards = coursed(truth, mask, np.random.default_rng(11))
    grounds = [
        (truth, {"clean": None, **{name: made[2] for name, made in FLAWS.items()}}),
        (lined(truth, mask, rng), {name: made[2] for name, made in LINED.items()}),
        (boards, {name: made[2] for name, made in COURSED.items()}),
        *((make(truth, mask, rng), {f"clean, {name}": None}) for name, make in HARD.items()),
    ]
    for behind, flaws in grounds:
        before = with_thing(behind, mask, np.random.default_rng(1))
        for flaw, maker in flaws.items():
            given = (behind, truth) if maker is ended else behind
            after = (
                behind if maker is None else maker(given, before, mask, np.random.default_rng(7))
            )
            if after is None:
                continue
            one, result = after if isinstance(after, tuple) else (before, after)
            yield Case(
                f"{photograph} {flaw}".replace("/", " of "),
                encoded(one, quality),
                encoded(result, quality),
                from_mask(mask),
            )


def shown() -> Iterator[Case]:
    """The demo's attempts that are stored as files of their own."""
    for picture in scenario.PICTURES_OF_JOB:
        it = scenario.scene(picture.slug)
        regions = [
            region for number, mask in enumerate(it.regions) for region in from_mask(mask)[:1]
        ]
        for number, made in enumerate(picture.attempts):
            data, _ = scenario.encode(made.make(it), 92)
            yield Case(
                f"demo {picture.slug} {number}", scenario.file_of(picture.slug), data, regions
            )


def reported(case: Case) -> dict:
    """A case's report as JSON has it."""
    cv2.setNumThreads(1)
    regions = case.regions
    named = [replace(one, id=str(n)) for n, one in enumerate(regions)]
    report = check(read(case.original), read(case.result), named)
    return json.loads(report.to_json())


def moved(before: object, after: object, tolerance: float, at: str = "") -> Iterator[str]:
    """What differs, as "place: before -> after"."""
    if isinstance(before, dict) and isinstance(after, dict):
        for key in sorted({*before, *after}):
            if key in before and key in after:
                yield from moved(before[key], after[key], tolerance, f"{at}.{key}")
            else:
                yield f"{at}.{key}: only {'before' if key in before else 'after'}"
    elif isinstance(before, list) and isinstance(after, list) and len(before) == len(after):
        for number, (one, other) in enumerate(zip(before, after, strict=True)):
            yield from moved(one, other, tolerance, f"{at}[{number}]")
    elif isinstance(before, float) and isinstance(after, (int, float)):
        if abs(before - after) > tolerance * max(1.0, abs(before)):
            yield f"{at}: {before} -> {after}"
    elif before != after:
        yield f"{at}: {str(before)[:60]} -> {str(after)[:60]}"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("what", choices=("write", "compare"))
    parser.add_argument("folder", type=Path)
    parser.add_argument("--tolerance", type=float, default=1e-4)
    parser.add_argument("--only", default="", help="a photograph, or demo")
    given = parser.parse_args()
    given.folder.mkdir(parents=True, exist_ok=True)
    start = time.time()
    wanted = [ground for ground in GROUNDS if given.only in ("", ground[0])]
    cases = [case for ground in wanted for case in injected(*ground)]
    if given.only in ("", "demo"):
        cases += shown()
    different = 0
    # OpenCV's threads do not outlive a fork.
    with ProcessPoolExecutor(2, get_context("spawn")) as pool:
        for case, report in zip(cases, pool.map(reported, cases), strict=True):
            file = given.folder / f"{case.name}.json"
            if given.what == "write":
                file.write_text(json.dumps(report, indent=1))
                continue
            changes = list(moved(json.loads(file.read_text()), report, given.tolerance))
            different += bool(changes)
            for change in changes[:8]:
                print(f"{case.name}{change}")
    print(f"{len(cases)} reports in {time.time() - start:.0f} s", end="")
    print("" if given.what == "write" else f", {different} of them moved")
    sys.exit(1 if different else 0)


if __name__ == "__main__":
    main()
