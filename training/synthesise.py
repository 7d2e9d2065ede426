"""Regions with and without flaws, and what the core's statistics say of them.

.venv/bin/python -m training.synthesise OUT.jsonl [--rounds 4] [--seed 1] [--photographs bark,brick]

One line a region. Lines that OUT has already are not made again, so that it can be broken off.
"""

from __future__ import annotations

import argparse
import json
import sys
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict, dataclass
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from zweiblick_core import overreach
from zweiblick_core.align import Pair
from zweiblick_core.check import found, measured
from zweiblick_core.features.context import context_of
from zweiblick_core.io import Picture, read
from zweiblick_core.kinds import REGISTRY
from zweiblick_core.regions import from_mask
from zweiblick_core.report import Reading
from zweiblick_core.scene.carriers import measure_carriers
from zweiblick_core.scene.look import Scene
from zweiblick_core.scene.planes import luma_of
from zweiblick_core.scene.window import open_window
from zweiblick_core.visibility import NATIVE

from .makers.hands import HANDS, PLAIN, Maker, with_thing
from .outlines import along_an_edge, at_the_frame, blob, pole
from .photographs import names, photograph

#: Sorts of outlines, in the proportion in which they are made.
OUTLINES = {"blob": 0.4, "along an edge": 0.25, "pole": 0.1, "frame": 0.1, "small": 0.15}
#: JPEG quality both files are saved at, 0 for PNG; the last: the result was saved again.
SAVED = ((0, 0), (0, 0), (95, 95), (88, 88), (92, 80))
#: Of each place, how many regions are clean, how many have a flaw, and how many one that is seen at
#: a glance.
CLEAN, FLAWED, GLARING = 1, 3, 1


@dataclass(frozen=True)
class Place:
    """One region of one photograph, and how it is saved."""

    photograph: str
    number: int
    seed: int

    @property
    def name(self) -> str:
        """What its lines are found by."""
        return f"{self.photograph} {self.number}"


def rng_of(place: Place, *more: int) -> np.random.Generator:
    """A generator that depends on nothing but the place."""
    return np.random.default_rng([place.seed, sum(map(ord, place.photograph)), place.number, *more])


def outline(truth: np.ndarray, sort: str, rng: np.random.Generator) -> np.ndarray | None:
    """A mask of a sort of `OUTLINES`, bool; None where the picture has no room for it."""
    frame = truth.shape[:2]
    size = float(rng.uniform(60, min(150, 0.4 * min(frame))))
    if sort == "along an edge":
        return along_an_edge(truth, rng, max(size, 80.0))
    if sort == "pole":
        return pole(rng, frame, size)
    if sort == "frame":
        return at_the_frame(rng, frame, size)
    return blob(rng, frame, size if sort == "blob" else float(rng.uniform(26, 50)))


def exposed(name: str, rng: np.random.Generator) -> np.ndarray:
    """A photograph as one of several cameras might have made it: another size, and some grain."""
    pixels = photograph(name)
    part = float(rng.choice([1.0, 1.0, 0.7, 0.5]))
    if part < 1 and min(pixels.shape[:2]) * part > 260:
        size = (round(pixels.shape[1] * part), round(pixels.shape[0] * part))
        pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    grain = float(rng.choice([0.0, 0.8, 1.5, 3.0]))
    noise = rng.normal(0, 1, pixels.shape)
    noise = cv2.GaussianBlur(noise, (0, 0), float(rng.choice([0.3, 0.6, 0.9])))
    return np.clip(pixels + grain * noise / noise.std(), 0, 255).round().astype(np.uint8)


def saved(pixels: np.ndarray, quality: int) -> bytes:
    """PNG for quality 0, else JPEG."""
    options = [cv2.IMWRITE_JPEG_QUALITY, quality] if quality else []
    _, data = cv2.imencode(".jpg" if quality else ".png", pixels[..., ::-1], options)
    return bytes(data.tobytes())


def rows_of(place: Place) -> list[dict[str, Any]]:
    """A clean region and some with a flaw each, as lines for the store."""
    cv2.setNumThreads(1)
    rng = rng_of(place)
    truth = exposed(place.photograph, rng)
    sorts = list(OUTLINES)
    sort = sorts[int(rng.choice(len(sorts), p=list(OUTLINES.values())))]
    mask = outline(truth, sort, rng)
    if mask is None:
        sort, mask = "blob", blob(rng, truth.shape[:2], 90)
    first, second = SAVED[int(rng.integers(len(SAVED)))]
    original = with_thing(truth, mask, rng)
    rows = []
    chosen = rng.permutation(len(HANDS))
    plain: list[Maker | None] = [PLAIN[int(at)] for at in rng.permutation(len(PLAIN))]
    some: list[Maker | None] = [HANDS[int(at)] for at in chosen]
    flawed = {False: 0, True: 0}
    for number, maker in enumerate([None] * CLEAN + some + plain):
        at_a_glance = maker in PLAIN
        if maker and flawed[at_a_glance] == (GLARING if at_a_glance else FLAWED):
            continue
        own = rng_of(place, number + 1)
        strength = float(own.uniform(0, 1))
        if maker is None:
            made: Any = np.where(
                mask[..., None],
                np.clip(truth + own.normal(0, 0.4, truth.shape), 0, 255).round(),
                truth,
            ).astype(np.uint8)
        else:
            made = maker.make(strength)(truth, original, mask, own)
            if made is None:
                continue
            flawed[at_a_glance] += 1
        before, after = made if isinstance(made, tuple) else (original, made)
        row = {
            "place": place.name,
            "photograph": place.photograph,
            "outline": sort,
            "saved": [first, second],
            "maker": maker.name if maker else "",
            "hand": maker.hand if maker else "",
            "kinds": list(maker.kinds) if maker else [],
            "strength": strength if maker else 0.0,
        }
        start = time.process_time()
        one, other = read(saved(before, first)), read(saved(after, second))
        flaw = np.abs(after.astype(int) - truth).max(2) > 2 if maker else np.zeros_like(mask)
        rows.append({**row, **seen(one, other, mask, flaw), "seconds": time.process_time() - start})
    return rows


def seen(original: Picture, result: Picture, mask: np.ndarray, flaw: np.ndarray) -> dict[str, Any]:
    """What the statistics say of a region, and what is reported of it today.

    Args:
        mask: bool, the region. flaw: bool, where the result is not the truth.
    """
    carriers = measure_carriers(original, result, luma_of(original.pixels), luma_of(result.pixels))
    regions = from_mask(mask)
    region = max(regions, key=lambda one: int(one.mask.sum()))
    window = open_window(Scene(Pair(original, result)), region, regions)
    told = measured(window, carriers, REGISTRY)
    far = overreach.measure(original, result, ~mask, carriers, False)
    described_now = [described(one, flaw) for one in (*told.readings, *far)]
    frame = (original.width, original.height)
    return {
        "context": context_of(window, carriers),
        "readings": described_now,
        "abstained": {kind: one.leaning for kind, one in told.abstained.items()},
        # What is decided changes names and scores: it comes last.
        "found": [
            [one.kind, one.confidence, one.word, one.runner_up]
            for one in found(window, told.readings, NATIVE, frame)
        ],
        "outside": [one.score for one in far],
    }


def described(reading: Reading, flaw: np.ndarray) -> dict[str, Any]:
    """A reading as the fit sees it; `hit`: how much of it lies where something is wrong."""
    drawn = np.zeros(flaw.shape, np.uint8)
    ring = np.round(np.array(reading.polygon) - 0.5).astype(np.int32)
    if len(ring):
        cv2.fillPoly(drawn, [ring], 1)
    there = drawn.astype(bool)
    natural = reading.measure.natural
    return {
        "kind": reading.kind,
        "what": reading.evidence.what,
        "score": reading.score,
        "value": reading.measure.value,
        "natural": [natural.low, natural.high, natural.n],
        "bbox": reading.bbox,
        "hit": float(flaw[there].mean()) if there.any() else 0.0,
        "extent": reading.signal.extent,
        "evidence": {
            name: float(value)
            for name, value in reading.evidence.to_json().items()
            if isinstance(value, (bool, int, float, np.floating, np.integer))
        },
    }


def places(some: list[str], rounds: int, seed: int) -> Iterator[Place]:
    """Every photograph once, then every one again."""
    for number in range(rounds):
        for name in some:
            yield Place(name, number, seed)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--rounds", type=int, default=4)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--photographs", default="")
    parser.add_argument("--workers", type=int, default=2)
    given = parser.parse_args()
    some = given.photographs.split(",") if given.photographs else names()
    done = set()
    if given.out.exists():
        done = {json.loads(line)["place"] for line in given.out.read_text().splitlines()}
    left = [one for one in places(some, given.rounds, given.seed) if one.name not in done]
    start, count = time.time(), 0
    with ProcessPoolExecutor(given.workers, get_context("spawn")) as pool:
        for number, rows in enumerate(pool.map(rows_of, left), 1):
            with given.out.open("a") as file:
                file.writelines(json.dumps(row) + "\n" for row in rows)
            count += len(rows)
            if number % 20 == 0:
                took = time.time() - start
                print(f"{number} of {len(left)} places, {count} regions, {took:.0f} s", flush=True)
    print(json.dumps({"places": len(left), "regions": count, **asdict(Place("", 0, given.seed))}))
    sys.exit(0)


if __name__ == "__main__":
    main()
