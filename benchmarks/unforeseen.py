"""Flaws and outlines that nothing was made for: how what was tuned on `detect.py`'s flaws carries
over to others.

    .venv/bin/python benchmarks/unforeseen.py [--folder pictures] [--split train] [--places 0 1]
    [--quality 90] [--flaws "small pieces" word] [--json out.json]
    .venv/bin/python benchmarks/unforeseen.py --shapes pole wire limb small speck ring corner
    --known

Outlines are blobs, rectangles, figures with limbs, poles, large blobs and two blobs at once, each
photograph in its turn, or those that are
asked for. Several kinds may be right: each flaw has its own. Pictures of a folder (PNG) are given
grain as the others are.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
import flaws as known  # noqa: E402
from detect import auc, encoded  # noqa: E402
from flaws import Flaw, blob, with_thing  # noqa: E402
from photographs import CORRELATED, GRAIN, TEST, TRAIN, names_in, picture_of  # noqa: E402

from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.io import read  # noqa: E402
from zweiblick_core.regions import from_mask  # noqa: E402


def _own(truth, rng):
    return rng.normal(0, known.OWN, truth.shape)


def _grid(mask):
    return np.mgrid[: mask.shape[0], : mask.shape[1]].astype(np.float32)


def _inside(mask):
    return cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)


def _middle(mask):
    """(y, x) of the place farthest from the outline, and how far that is."""
    depth = _inside(mask)
    y, x = np.unravel_index(int(depth.argmax()), depth.shape)
    return int(y), int(x), float(depth.max())


def _soft(mask, sigma=4.0):
    return cv2.GaussianBlur(
        cv2.erode(mask.astype(np.uint8), np.ones((7, 7))).astype(np.float32), (0, 0), sigma
    )[..., None]


def _laid(truth, mask, rng, change: Callable[[np.ndarray], np.ndarray], feather=0.0):
    return known._paste(truth, change(truth.astype(np.float32)) + _own(truth, rng), mask, feather)


def changed(change: Callable[..., np.ndarray], feather: float = 1.0) -> Flaw:
    """The truth, changed by `change(truth, rng)`, cut to the region."""
    return lambda truth, original, mask, rng: known._paste(
        truth, change(truth.astype(np.float32), rng), mask, feather
    )


def ramped(truth, original, mask, rng):
    """A step at one side of the rim that is zero at the other."""
    y, x = _grid(mask)
    turn = rng.uniform(0, 2 * np.pi)
    along = x * np.cos(turn) + y * np.sin(turn)
    along = np.clip((along - along[mask].min()) / np.ptp(along[mask]), 0, 1)
    return _laid(truth, mask, rng, lambda fill: fill + rng.choice([-1, 1]) * 18 * along[..., None])


def coloured_step(truth, original, mask, rng):
    return _laid(
        truth,
        mask,
        rng,
        lambda fill: fill + np.roll(np.array([8.0, -5.0, -2.0]), int(rng.integers(3))),
    )


def half_rim(width: float, levels: float) -> Flaw:
    """A ring along one half of the rim."""

    def made(truth, original, mask, rng):
        y, x = _grid(mask)
        turn, (row, column, _) = rng.uniform(0, 2 * np.pi), _middle(mask)
        side = cv2.GaussianBlur(
            ((x - column) * np.cos(turn) + (y - row) * np.sin(turn) > 0).astype(np.float32),
            (0, 0),
            3,
        )[..., None]
        return _laid(
            truth,
            mask,
            rng,
            lambda fill: fill + rng.choice([-1, 1]) * levels * known._ring(mask, width) * side,
        )

    return made


def purple_rim(truth, original, mask, rng):
    return _laid(
        truth, mask, rng, lambda fill: fill + np.array([14.0, -10.0, 14.0]) * known._ring(mask, 2.5)
    )


def diffused_along(truth, original, mask, rng):
    """A real fill by the Navier-Stokes equations (Bertalmio, Bertozzi and Sapiro 2001, as in
    OpenCV).
    """
    return cv2.inpaint(original, mask.astype(np.uint8), 5, cv2.INPAINT_NS)


def small_pieces(truth, original, mask, rng):
    """One round clump from beside the region, laid in three times."""
    depth, offset = _inside(mask), known._offset(truth, mask, rng)
    radius = int(np.clip(depth.max() * 0.5, 12, 26))
    ys, xs = np.nonzero(depth > radius * 0.8)
    if len(ys) < 10 or offset is None:
        return None
    y, x = _grid(mask)
    height, width = mask.shape
    source = np.clip(
        [ys.mean() + offset[1], xs.mean() + offset[0]],
        radius + 1,
        [height - radius - 2, width - radius - 2],
    ).astype(int)
    fill = truth.astype(np.float32) + _own(truth, rng)
    for at in rng.integers(0, len(ys), 3):
        moved = cv2.warpAffine(
            truth,
            np.array([[1, 0, xs[at] - source[1]], [0, 1, ys[at] - source[0]]], np.float32),
            (width, height),
        ).astype(np.float32)
        amount = np.clip((radius - np.hypot(x - xs[at], y - ys[at])) / (0.3 * radius), 0, 1)[
            ..., None
        ]
        fill = fill * (1 - amount) + moved * amount
    return known._paste(truth, fill, mask, 0)


def copied_in_part(truth, original, mask, rng):
    made = known._copied(truth, mask, rng)
    if made is None:
        return None
    amount = cv2.GaussianBlur(known._part_of(mask, 0.45, rng).astype(np.float32), (0, 0), 3)[
        ..., None
    ]
    return known._paste(
        truth, (truth + _own(truth, rng)) * (1 - amount) + made[0] * amount, mask, 2
    )


def copied_upside_down(truth, original, mask, rng):
    offset = known._offset(truth, mask, rng)
    if offset is None:
        return None
    ys, xs = np.nonzero(mask)
    fill = truth.astype(np.float32).copy()
    fill[ys, xs] = truth[ys.max() + ys.min() - ys + offset[1], xs + offset[0]]
    return known._paste(truth, fill, mask, 3)


def warped(matrix: Callable[[float, float, np.random.Generator], np.ndarray]) -> Flaw:
    """The fill by an affine `matrix(x, y, rng)` about the region's middle."""

    def made(truth, original, mask, rng):
        y, x, _ = _middle(mask)
        there = cv2.warpAffine(
            truth,
            matrix(float(x), float(y), rng),
            truth.shape[1::-1],
            flags=cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_REFLECT,
        )
        return known._paste(truth, there + _own(truth, rng), mask, 0)

    return made


def sheared(x, y, rng):
    slope = float(np.tan(np.radians(5)) * rng.choice([-1, 1]))
    return (
        np.array([[1, slope, -slope * y], [0, 1, 0]])
        if rng.random() < 0.5
        else np.array([[1, 0, 0], [slope, 1, -slope * x]])
    )


def bulged(truth, original, mask, rng):
    """Displaced by 6 px in the middle, by none at the rim."""
    y, x = _grid(mask)
    amount, turn = (
        6 * np.sin(_inside(mask) / _middle(mask)[2] * np.pi / 2),
        rng.uniform(0, 2 * np.pi),
    )
    there = cv2.remap(
        truth,
        (x + amount * np.cos(turn)).astype(np.float32),
        (y + amount * np.sin(turn)).astype(np.float32),
        cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_REFLECT,
    )
    return known._paste(truth, there + _own(truth, rng), mask, 0)


def hot_spot(truth, original, mask, rng):
    y, x = _grid(mask)
    row, column, depth = _middle(mask)
    light = np.exp(-((x - column) ** 2 + (y - row) ** 2) / (2 * (0.6 * depth) ** 2))[..., None]
    return _laid(truth, mask, rng, lambda fill: fill + rng.choice([-1, 1]) * 22 * light, 2)


def warmer(truth, original, mask, rng):
    return _laid(
        truth, mask, rng, lambda fill: fill * (1 + _soft(mask) * np.array([0.07, 0, -0.09]))
    )


def paler(truth, original, mask, rng):
    return _laid(
        truth,
        mask,
        rng,
        lambda fill: fill + 0.6 * _soft(mask) * (fill.mean(2, keepdims=True) - fill),
    )


def one_grain(truth, original, mask, rng):
    """Grain laid on alike in all colours."""
    return known._paste(truth, truth + rng.normal(0, 3.5, truth.shape[:2])[..., None], mask, 1)


def coarse_grain(fill, rng):
    grain = cv2.GaussianBlur(rng.normal(0, 1, fill.shape).astype(np.float32), (0, 0), 1.3)
    return cv2.GaussianBlur(fill, (0, 0), 0.8) + grain / grain.std() * 2.6


def defocused(fill, rng):
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (7, 7)).astype(np.float32)
    grain = cv2.GaussianBlur(rng.normal(0, 1, fill.shape).astype(np.float32), (0, 0), CORRELATED)
    return cv2.filter2D(fill, -1, disc / disc.sum()) + grain / grain.std() * GRAIN


def saved_hard(fill, rng):
    return cv2.imdecode(
        cv2.imencode(
            ".jpg", fill.round().astype(np.uint8)[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 35]
        )[1],
        cv2.IMREAD_COLOR,
    )[..., ::-1].astype(np.float32)


def rim_left(truth, original, mask, rng):
    """A stretch of the thing's own edge, 5 px deep."""
    thing = np.abs(original.astype(int) - truth).max(2) > 12
    y, x = _grid(mask)
    row, column, _ = _middle(mask)
    kept = (
        thing
        & (_inside(thing) <= 5)
        & (np.cos(np.arctan2(y - row, x - column) - rng.uniform(0, 2 * np.pi)) > 0.75)
    )
    result = known.clean(truth, original, mask, rng)
    result[kept] = original[kept]
    return result if kept.sum() > 30 else None


def ghost_below(truth, original, mask, rng):
    y = _grid(mask)[0]
    rows = y[mask]
    amount = np.clip((y - (rows.min() + 0.6 * np.ptp(rows))) / 8, 0, 1)[..., None] * 0.25
    return _laid(truth, mask, rng, lambda fill: fill * (1 - amount) + original * amount)


def word(truth, original, mask, rng):
    row, column, depth = _middle(mask)
    size = depth / 34
    if size < 0.4:
        return None
    ink = np.zeros(mask.shape, np.uint8)
    cv2.putText(
        ink,
        "RAM",
        (int(column - 30 * size), int(row + 10 * size)),
        cv2.FONT_HERSHEY_TRIPLEX,
        size,
        255,
        max(1, int(2 * size)),
        cv2.LINE_AA,
    )
    amount = (ink / 255.0)[..., None]
    return _laid(
        truth,
        mask,
        rng,
        lambda fill: fill * (1 - amount) + (230 if truth[mask].mean() < 128 else 20) * amount,
    )


def outside(size: int, change: Callable[[np.ndarray], np.ndarray]) -> Flaw:
    """A disc far from the region, changed."""

    def made(truth, original, mask, rng):
        amount = known._away(mask, rng, size)
        if amount is None:
            return None
        result = known.clean(truth, original, mask, rng).astype(np.float32)
        return (
            np.clip(result * (1 - amount) + change(truth.astype(np.float32)) * amount, 0, 255)
            .round()
            .astype(np.uint8)
        )

    return made


#: name: (kinds that are right, maker).
UNFORESEEN: dict[str, tuple[tuple[str, ...], Flaw]] = {
    "clean": ((), known.clean),
    "ramped step": (("seam", "tone"), ramped),
    "coloured step": (("seam", "tone"), coloured_step),
    "half rim 2 px": (("halo", "seam"), half_rim(2, 14)),
    "half rim 5 px": (("halo", "seam"), half_rim(5, 12)),
    "purple rim": (("halo", "seam"), purple_rim),
    "median": (
        ("smear", "soft"),
        changed(
            lambda fill, rng: cv2.medianBlur(fill.round().astype(np.uint8), 9).astype(np.float32), 0
        ),
    ),
    "diffused": (("smear", "grain"), diffused_along),
    "small pieces": (("repeat",), small_pieces),
    "copied in part": (("repeat",), copied_in_part),
    "upside down": (("repeat",), copied_upside_down),
    "sheared": (("line", "seam"), warped(sheared)),
    "enlarged 1.1": (
        ("line", "seam"),
        warped(lambda x, y, rng: cv2.getRotationMatrix2D((x, y), 0, 1.1)),
    ),
    "bulged": (("line",), bulged),
    "hot spot": (("tone",), hot_spot),
    "warmer": (("tone",), warmer),
    "paler": (("tone",), paler),
    "one grain": (("grain",), one_grain),
    "coarse grain": (("grain", "soft"), changed(coarse_grain)),
    "defocused": (("soft", "smear"), changed(defocused)),
    "saved hard": (("grain", "smear", "soft"), changed(saved_hard)),
    "rim left": (("residue", "halo", "seam"), rim_left),
    "ghost below": (("residue", "tone"), ghost_below),
    "word": (("invented",), word),
    "moved outside": (("overreach",), outside(40, lambda fill: np.roll(fill, 2, 1))),
    "pale outside": (
        ("overreach",),
        outside(50, lambda fill: (fill + fill.mean(2, keepdims=True)) / 2),
    ),
}
SHAPES = (
    "blob",
    "rectangle",
    "figure",
    "pole",
    "large",
    "two",
    "wire",
    "limb",
    "small",
    "speck",
    "ring",
    "corner",
)
#: Those that take turns where none is asked for.
USUAL = SHAPES[:6]
#: Flaws of `detect.py` that show at a glance, for outlines it does not have: what scores zero
#: here is not seen at all.
KNOWN = (
    "copy",
    "step 20",
    "blur 2.5",
    "streaks",
    "diffusion",
    "tone 25",
    "cast 10",
    "grain x 0",
    "grain x 2.5",
    "soft .8",
    "too sharp",
    "ghost .12",
    "sliver 3 %",
    "dots r 3",
    "outside 4",
    "untouched",
)


def outline(shape: str, rng: np.random.Generator, frame: tuple[int, int]) -> np.ndarray:
    """A region of one of `SHAPES`, bool."""
    height, width = frame
    if shape in ("blob", "large", "two"):
        size = {"blob": rng.uniform(70, 170), "large": min(300.0, 0.42 * min(frame)), "two": 80.0}[
            shape
        ]
        return blob(rng, frame, size) | (blob(rng, frame, 60) if shape == "two" else False)
    drawn = np.zeros(frame, np.uint8)
    x, y = rng.uniform(0.22, 0.78) * width, rng.uniform(0.22, 0.78) * height
    if shape == "rectangle":
        corners = cv2.boxPoints(
            (
                (x, y),
                (rng.uniform(50, 150), rng.uniform(50, 150)),
                float(rng.choice([0.0, rng.uniform(0, 90)])),
            )
        )
        cv2.fillPoly(drawn, [corners.round().astype(np.int32)], 1)
    elif shape == "figure":
        size = rng.uniform(0.7, 1.3)
        at = lambda right, below: (int(x + right * size), int(y + below * size))
        cv2.ellipse(drawn, at(0, -60), (int(16 * size), int(20 * size)), 0, 0, 360, 1, -1)
        cv2.ellipse(drawn, at(0, 0), (int(28 * size), int(48 * size)), 0, 0, 360, 1, -1)
        for side in (-1, 1):
            cv2.line(drawn, at(12 * side, 30), at(18 * side, 100), 1, int(16 * size))
            cv2.line(drawn, at(20 * side, -30), at(42 * side, 30), 1, int(12 * size))
    elif shape == "wire":
        across = np.arange(int(0.15 * width), int(0.8 * width))
        sags = (
            y
            + (across - x) * rng.uniform(-0.35, 0.35)
            + rng.uniform(10, 40) * ((across - x) / (0.4 * width)) ** 2
        )
        cv2.polylines(
            drawn,
            [np.stack([across, np.clip(sags, 8, height - 9)], -1).round().astype(np.int32)],
            False,
            1,
            int(rng.uniform(9, 14)),
        )
    elif shape == "limb":
        cv2.line(
            drawn,
            (int(x), int(y)),
            (int(x + rng.uniform(-90, 90)), int(y + rng.uniform(60, 120))),
            1,
            int(rng.uniform(16, 26)),
        )
    elif shape in ("small", "speck"):
        return (
            blob(rng, frame, 32)
            if shape == "small"
            else cv2.circle(drawn, (int(x), int(y)), 13, 1, -1).astype(bool)
        )
    elif shape == "ring":
        cv2.ellipse(drawn, (int(x), int(y)), (90, 75), 0, 0, 360, 1, 18)
    elif shape == "corner":
        cv2.ellipse(
            drawn,
            (int(width * rng.uniform(0.97, 1.03)), int(height * rng.uniform(0.3, 0.97))),
            (90, 70),
            0,
            0,
            360,
            1,
            -1,
        )
    else:
        cv2.line(
            drawn,
            (int(x), int(0.15 * height)),
            (int(x + rng.uniform(-40, 40)), int(0.8 * height)),
            1,
            int(rng.uniform(14, 30)),
        )
    return drawn.astype(bool)


def asked(too: bool) -> dict[str, tuple[tuple[str, ...], Flaw]]:
    """The flaws, and which kinds are right for each."""
    also = {}
    for name in KNOWN if too else ():
        kind, _, maker = known.FLAWS[name]
        # What is tinted up to a near boundary steps there, too.
        also[name] = ((kind, "seam") if kind == "tone" else (kind,), maker)
    return {**UNFORESEEN, **also}


def case(
    name: str,
    folder: str | None,
    place: int,
    shape: str,
    quality: int,
    some: list[str] | None,
    too: bool,
) -> list[dict]:
    """All flaws at one place of one picture; `too`: also `KNOWN` ones."""
    cv2.setNumThreads(1)
    seed = sum(map(ord, name))
    truth, rng = (
        picture_of(name, folder),
        np.random.default_rng(seed * 31 + place * 7 + SHAPES.index(shape)),
    )
    mask = outline(shape, rng, truth.shape[:2])
    original = with_thing(truth, mask, rng)
    before, rows = read(encoded(original, quality)), []
    for flaw, (right, maker) in asked(too).items():
        result = (
            maker(truth, original, mask, np.random.default_rng(place * 77 + len(flaw) + seed))
            if not some or flaw in some
            else None
        )
        if result is None:
            continue
        report = check(before, read(encoded(result, quality)), from_mask(mask))
        # Two things are two regions: what is told of either is told.
        regions, far = report.regions, list(report.overreach["findings"])
        near = [one for region in regions for one in region.findings]
        weight = lambda findings: max(
            (one.severity * one.confidence for one in findings), default=0.0
        )
        found = [*far, *near] if weight(far) > weight(near) else [*near, *far]
        scores = {
            kind: max(region.scores[kind] for region in regions) for kind in regions[0].scores
        }
        rows.append(
            {
                "picture": name,
                "place": place,
                "shape": shape,
                "flaw": flaw,
                "right": right,
                "found": [one.kind for one in found],
                "sure": [one.score for one in found],
                "scores": {**scores, "overreach": report.overreach["score"]},
                "abstained": sorted(
                    set.intersection(*(set(region.abstained) for region in regions))
                ),
            }
        )
    return rows


def table(rows: list[dict]) -> None:
    clean = [row for row in rows if not row["right"]]
    for row in clean:
        if row["found"]:
            print(
                "   false alarm:",
                row["picture"],
                row["place"],
                row["shape"],
                row["found"],
                [round(sure, 2) for sure in row["sure"]],
            )
    if clean:
        untold = Counter(kind for row in clean for kind in row["abstained"])
        print(
            f"clean: n {len(clean)}, any finding {np.mean([bool(row['found']) for row in clean]):.3f}; cannot tell: {dict(untold)}"
        )
    print(
        f"{'flaw':16} {'right':24} {'n':>4} {'AUC':>6} {'any':>5} {'found':>6} {'first':>6}  called instead"
    )
    for flaw, (right, _) in asked(True).items():
        some = [row for row in rows if row["flaw"] == flaw]
        if not right or not some:
            continue
        # What abstains has a score of zero here: a user gets nothing either way.
        best = lambda row, right=right: max(
            0.0 if kind in row["abstained"] else row["scores"].get(kind, 0.0) for kind in right
        )
        over = (
            auc(np.array([best(row) for row in some]), np.array([best(row) for row in clean]))
            if clean
            else float("nan")
        )
        told = [row for row in some if row["found"]]
        first = np.mean([row["found"][0] in right for row in told]) if told else float("nan")
        wrong = Counter(row["found"][0] for row in told if row["found"][0] not in right)
        found = np.mean([bool(set(right) & set(row["found"])) for row in some])
        print(
            f"{flaw:16} {'/'.join(right):24} {len(some):4} {over:6.3f} {len(told) / len(some):5.2f} {found:6.2f} {first:6.2f}  "
            + ", ".join(f"{kind} {n}" for kind, n in wrong.most_common())
        )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--folder", help="pictures of one's own, PNG")
    parser.add_argument("--split", choices=("train", "test"), default="train")
    parser.add_argument("--places", type=int, nargs="*", default=[0])
    parser.add_argument("--quality", type=int, default=0, help="JPEG quality; 0 for PNG")
    parser.add_argument("--flaws", nargs="*", help="only these")
    parser.add_argument(
        "--shapes",
        nargs="*",
        choices=SHAPES,
        help="each of these at every place; else the usual ones by turns",
    )
    parser.add_argument(
        "--known",
        action="store_true",
        help="also flaws of detect.py, for outlines it does not have",
    )
    parser.add_argument("--json", type=Path)
    given = parser.parse_args()
    names = names_in(given.folder) if given.folder else (TRAIN if given.split == "train" else TEST)
    jobs = [
        (name, given.folder, place, shape, given.quality, given.flaws, given.known)
        for place in given.places
        for number, name in enumerate(names)
        for shape in given.shapes or [USUAL[(number + place) % len(USUAL)]]
    ]
    with ProcessPoolExecutor(2) as pool:
        rows = [row for some in pool.map(case, *zip(*jobs, strict=True)) for row in some]
    table(rows)
    if given.json:
        given.json.write_text(json.dumps(rows))


if __name__ == "__main__":
    main()
