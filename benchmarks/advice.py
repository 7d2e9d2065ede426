"""Does advice help? Failing regions whose truth is known, worked by a built-in method with what the
advice asks, and by the same method without: how many hold then.

    .venv/bin/python benchmarks/advice.py [--only demo|photographs] [--out results.json]

Twice on each: the demo's flawed attempts, and twelve photographs from which a thing was taken with
an outline that is too tight, and by diffusion.
"""

from __future__ import annotations

import argparse
import json
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict, dataclass
from pathlib import Path

import cv2
import numpy as np

sys.path[:0] = [str(Path(__file__).parent.parent), str(Path(__file__).parent)]
from flaws import blob, with_thing  # noqa: E402
from photographs import photograph  # noqa: E402

from demo import scenario  # noqa: E402
from zweiblick_core import methods  # noqa: E402
from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.errors import Refused  # noqa: E402
from zweiblick_core.io import Picture, read  # noqa: E402
from zweiblick_core.regions import Region, grown, reaching_frame  # noqa: E402
from zweiblick_core.regions.masks import cropped  # noqa: E402
from zweiblick_core.report import RegionReport  # noqa: E402
from zweiblick_core.rules.advice import Case, Flaw, advise  # noqa: E402
from zweiblick_core.rules.following import Asked, asked_of  # noqa: E402
from zweiblick_core.visibility import parse_size  # noqa: E402

SIZE = parse_size(scenario.SIZES[0][1])
#: The demo's cells that fail: (picture, attempt, region), by number.
DEMO = (
    ("warehouse", 2, 2),
    ("warehouse", 3, 2),
    ("boatshed", 1, 1),
    ("boatshed", 2, 1),
    ("boatshed", 3, 1),
    ("market", 1, 1),
    ("market", 1, 2),
    ("market", 2, 2),
    ("market", 3, 1),
    ("market", 3, 2),
    ("quay", 1, 1),
    ("quay", 3, 1),
    ("jetty", 1, 1),
    ("jetty", 1, 2),
    ("jetty", 2, 2),
    ("corner", 1, 1),
    ("deck", 2, 2),
    ("door-1", 1, 1),
)
PHOTOGRAPHS = (
    "brick",
    "astronaut",
    "coffee",
    "camera",
    "coins",
    "gravel",
    "grass",
    "chelsea",
    "rocket",
    "motorcycle_left",
    "retina",
    "hubble_deep_field",
)
#: What a region is worked by where the advice names no method.
USUAL = "copy that fits its rim"


@dataclass(frozen=True)
class Failing:
    """A region that may fail. `others`: the picture's other regions."""

    name: str
    original: Picture
    attempt: np.ndarray
    area: Region
    others: list[Region]
    method: str


def png(pixels: np.ndarray) -> bytes:
    ok, data = cv2.imencode(".png", np.ascontiguousarray(pixels[..., ::-1]))
    assert ok
    return data.tobytes()


def of_demo(slug: str, attempt: int, region: int) -> Failing:
    it = scenario.scene(slug)
    made = next(one for one in scenario.PICTURES_OF_JOB if one.slug == slug).attempts[attempt - 1]
    areas = [cropped(mask, str(number)) for number, mask in enumerate(it.regions, 1)]
    area = areas.pop(region - 1)
    original = read(scenario.file_of(slug))
    return Failing(f"{slug} {attempt}/{region}", original, made.make(it), area, areas, made.method)


def of_photograph(name: str, way: str) -> Failing:
    truth = photograph(name)
    if max(truth.shape[:2]) > 1000:
        scale = 1000 / max(truth.shape[:2])
        truth = cv2.resize(truth, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    rng = np.random.default_rng(sum(map(ord, name)))
    height, width = truth.shape[:2]
    mask = blob(rng, (height, width), int(rng.integers(34, 52)))
    original = with_thing(truth, mask, rng)
    tight = cv2.erode(mask.astype(np.uint8), np.ones((9, 9))) > 0
    worked = {
        "tight": lambda: methods.remove(USUAL, original, tight, feather=3.0),
        "diffused": lambda: methods.remove("marching diffusion", original, mask, radius=4),
    }
    method = USUAL if way == "tight" else "marching diffusion"
    return Failing(
        f"{name}, {way}", read(png(original)), worked[way](), cropped(mask, "1"), [], method
    )


def look(it: Failing, pixels: np.ndarray) -> RegionReport:
    return check(it.original, read(png(pixels)), [it.area, *it.others], SIZE).regions[0]


def boxed(boxes: tuple[tuple[float, ...], ...], frame: tuple[int, int]) -> np.ndarray:
    mask = np.zeros(frame, bool)
    for x, y, w, h in boxes:
        mask[max(0, round(y)) : round(y + h), max(0, round(x)) : round(x + w)] = True
    return mask


def tried(it: Failing, asked: Asked, method: str) -> np.ndarray:
    """A trial as a slip to a method makes it: from the attempt, at the outline that was asked for."""
    frame = (it.attempt.shape[0], it.attempt.shape[1])
    area = (grown(it.area, asked.grow, frame) if asked.grow else it.area) or it.area
    if asked.past_frame:
        area = reaching_frame(area, frame)
    out = boxed(asked.keep_out, frame)
    if asked.take_from:
        out |= ~boxed(asked.take_from, frame)
    own = {"along": asked.along} if method == USUAL and asked.along else {}
    return methods.remove(
        method,
        it.attempt,
        area.full(frame),
        feather=asked.feather,
        keep_out=out if out.any() else None,
        grain=asked.grain,
        tone=asked.tone,
        seed=1,
        **own,
    )


def outcome(it: Failing, asked: Asked, method: str) -> tuple[float, bool]:
    """How well it holds, 0..1, and whether nothing is found; what a method refuses does not."""
    try:
        report = look(it, tried(it, asked, method))
    except Refused:
        return 0.0, False
    return report.overall, not report.findings


def case(key: tuple[str, ...]) -> dict | None:
    cv2.setNumThreads(1)
    it = of_photograph(*key[1:]) if key[0] == "photographs" else of_demo(*key[1:])
    before = look(it, it.attempt)
    if not before.findings:
        return None
    x, y, w, h = it.area.bbox
    height, width = it.attempt.shape[:2]
    flaws = tuple(
        Flaw(found.kind, found.bbox, found.evidence, asdict(found.measure))
        for found in before.findings
    )
    at_frame = x == 0 or y == 0 or x + w == width or y + h == height
    changes = advise(Case(flaws, at_frame=at_frame, method=it.method))
    asked = asked_of([asdict(change) for change in changes])
    method = asked.method if asked.method in methods.METHODS else USUAL
    advised, plain = (outcome(it, settings, method) for settings in (asked, Asked()))
    return {
        "of": key[0],
        "name": it.name,
        "method": method,
        "changes": [change.what for change in changes],
        "before": before.overall,
        "advised": advised[0],
        "plain": plain[0],
        "advised holds": advised[1],
        "plain holds": plain[1],
    }


def table(rows: list[dict]) -> None:
    print(f"{'cell':26} {'before':>6} {'advised':>8} {'plain':>6}   changes")
    for row in rows:
        holds = lambda name, row=row: "*" if row[f"{name} holds"] else " "
        print(
            f"{row['name']:26} {row['before']:6.3f} {row['advised']:7.3f}{holds('advised')} "
            f"{row['plain']:5.3f}{holds('plain')}   {', '.join(row['changes'])}"
        )
    for of in ("demo", "photographs"):
        some = [row for row in rows if row["of"] == of]
        if not some:
            continue
        both = [(row["advised holds"], row["plain holds"]) for row in some]
        print(
            f"{of}: {len(some)} failing; hold with advice {sum(one for one, _ in both)}, without "
            f"{sum(one for _, one in both)}; only with {both.count((True, False))}, only without "
            f"{both.count((False, True))}; mean overall {np.mean([row['advised'] for row in some]):.3f}"
            f" against {np.mean([row['plain'] for row in some]):.3f}"
        )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", choices=("demo", "photographs"))
    parser.add_argument("--out")
    given = parser.parse_args()
    keys = [("demo", *one) for one in DEMO]
    keys += [("photographs", name, way) for name in PHOTOGRAPHS for way in ("tight", "diffused")]
    if given.only:
        keys = [key for key in keys if key[0] == given.only]
    with ProcessPoolExecutor(2) as pool:
        rows = [row for row in pool.map(case, keys) if row is not None]
    table(rows)
    if given.out:
        Path(given.out).write_text(json.dumps(rows, indent=1))


if __name__ == "__main__":
    main()
