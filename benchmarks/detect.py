"""How well flaws are found: AUC, recall at few false alarms, any-finding rate on clean regions;
split by photograph.

.venv/bin/python benchmarks/detect.py [--places 4] [--split test] [--quality 90]
.venv/bin/python benchmarks/detect.py --size 950 --folder pictures    # wide regions, in pictures of
one's own that have the room
"""

from __future__ import annotations

import argparse
import json
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from flaws import (
    ALSO,
    COURSED,
    FLAWS,
    HARD,
    LINED,
    area_of,
    blob,
    clean,
    coursed,
    ended,
    lined,
    with_thing,
)  # noqa: E402
from photographs import TEST, TRAIN, names_in, picture_of  # noqa: E402

from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.io import read  # noqa: E402
from zweiblick_core.kinds import REGISTRY  # noqa: E402
from zweiblick_core.regions import from_mask  # noqa: E402

Row = dict
#: Strengths at which a flaw shows at 100 % or when the picture is fitted.
VISIBLE = ("clear", "glaring")


def encoded(pixels: np.ndarray, quality: int) -> bytes:
    """PNG for quality 0, else JPEG."""
    ok, data = cv2.imencode(
        ".jpg" if quality else ".png",
        pixels[..., ::-1],
        [cv2.IMWRITE_JPEG_QUALITY, quality] if quality else [],
    )
    assert ok
    return data.tobytes()


def covered(findings: list, area: np.ndarray) -> float:
    """Intersection over union of what findings outline and what was injected."""
    drawn = np.zeros(area.shape, np.uint8)
    for finding in findings:
        cv2.fillPoly(drawn, [np.round(np.array(finding.polygon) - 0.5).astype(np.int32)], 1)
    found = drawn.astype(bool)
    return float((found & area).sum() / max(1, (found | area).sum()))


def case(
    name: str,
    place: int,
    quality: int,
    only: tuple[str, ...] | None,
    some: tuple[str, ...] | None = None,
    folder: str | None = None,
    size: int | None = None,
) -> list[Row]:
    """All flaws at one place of one photograph; `size`: about how wide the region is, pixels, in
    place of 60 to 150; nothing where a picture has no room for it.
    """
    cv2.setNumThreads(1)
    rng = np.random.default_rng(sum(map(ord, name)) * 1000 + place)
    truth = picture_of(name, folder)
    # `blob` keeps three quarters of the size and a little from the frame's edges.
    if size and min(truth.shape[:2]) < 1.5 * size + 50:
        return []
    mask = blob(rng, truth.shape[:2], size or rng.uniform(60, min(150, min(truth.shape[:2]) / 3.2)))
    original = with_thing(truth, mask, rng)
    # The outline a person draws lies a little outside the thing.
    rows = []
    with_lines = lined(truth, mask, rng)
    grounds = [
        ("", truth, {"clean": ("", "", clean), **FLAWS}),
        ("lined", with_lines, {"clean, lined": ("", "", clean), **LINED}),
        (
            "coursed",
            coursed(truth, mask, np.random.default_rng(place + 11)),
            {"clean, coursed": ("", "", clean), **COURSED},
        ),
    ]
    # The same ground in another exposure: grain all its own.
    again = picture_of(name, folder, seed=1)
    grounds.append(
        (
            "exposure",
            truth,
            {
                "clean, exposure": (
                    "",
                    "",
                    lambda behind, before, mask, rng: np.where(mask[..., None], again, behind),
                )
            },
        )
    )
    if quality:
        grounds.append(("recompressed", truth, {"clean, recompressed": ("", "", clean)}))
    grounds += [
        (
            ground,
            make(truth, mask, np.random.default_rng(place + 7)),
            {f"clean, {ground}": ("", "", clean)},
        )
        for ground, make in HARD.items()
    ]
    for ground, behind, flaws in grounds:
        before = (
            original if behind is truth else with_thing(behind, mask, np.random.default_rng(place))
        )
        first = read(encoded(before, quality))
        for flaw, (kind, strength, maker) in flaws.items():
            given = (behind, truth) if maker is ended else behind
            if (only and kind and kind not in only) or (some and flaw not in some):
                continue
            result = maker(given, before, mask, np.random.default_rng(place * 77 + len(flaw)))
            if result is None:
                continue
            one = first
            if isinstance(result, tuple):
                one, result = read(encoded(result[0], quality)), result[1]
            report = check(
                one,
                read(encoded(result, quality - 10 if ground == "recompressed" else quality)),
                from_mask(mask),
                kinds=only,
            )
            region = report.regions[0]
            findings, outside = list(region.findings), report.overreach["findings"]
            weight = lambda some: max((f.severity * f.confidence for f in some), default=0.0)
            findings = (
                [*outside, *findings]
                if weight(outside) > weight(findings)
                else [*findings, *outside]
            )
            right = [f for f in findings if f.kind == kind]
            rights = (kind, *ALSO.get(flaw, ()))
            iou = covered(right, area_of(kind, one.pixels, result, behind, mask)) if right else None
            rows.append(
                {
                    "photo": name,
                    "iou": iou,
                    "right_first": bool(findings) and findings[0].kind in rights,
                    "among_two": bool(findings)
                    and any(
                        one in rights
                        for one in (
                            findings[0].kind,
                            findings[0].runner_up,
                            *(f.kind for f in findings[1:2]),
                        )
                    ),
                    "place": place,
                    "quality": quality,
                    "flaw": flaw,
                    "ground": ground,
                    "kind": kind,
                    "strength": strength,
                    "scores": {**region.scores, "overreach": report.overreach["score"]},
                    "found": [f.kind for f in findings],
                    "second": [f.runner_up for f in findings],
                    "sure": [f.score for f in findings],
                    "values": [f.measure.value for f in findings],
                    "abstained": region.abstained,
                    "overall": region.overall,
                    "base": report.base is not None,
                }
            )
    return rows


def auc(bad: np.ndarray, good: np.ndarray) -> float:
    return float(
        (bad[:, None] > good[None, :]).mean() + 0.5 * (bad[:, None] == good[None, :]).mean()
    )


def table(rows: list[Row], out) -> None:
    plain, crossed, boards = (
        [row for row in rows if row["flaw"] == flaw]
        for flaw in ("clean", "clean, lined", "clean, coursed")
    )
    header = f"{'n':>4} {'AUC':>6} {'R@5%':>6} {'R@2%':>6} {'found':>6} {'first':>6} {'in two':>6} {'IoU':>5} {'overall':>8}"
    told = lambda name, kind, n, values: print(
        f"{name:16} {kind:9} {n:4} "
        + " ".join(
            f"{value:{width}.{digits}f}"
            for value, width, digits in zip(
                values, (6, 6, 6, 6, 6, 6, 5, 8), (3, 2, 2, 2, 2, 2, 2, 2), strict=True
            )
        ),
        file=out,
    )
    print(f"{'flaw':16} {'kind':9} {header}", file=out)
    by_kind: dict[str, list[tuple[int, list[float]]]] = {}
    for flaw, (kind, strength, _) in {**FLAWS, **LINED, **COURSED}.items():
        if not kind:
            continue
        good = crossed if flaw in LINED else boards if flaw in COURSED else plain
        bad = [row for row in rows if row["flaw"] == flaw and kind not in row["abstained"]]
        ok = np.array([row["scores"][kind] for row in good if kind not in row["abstained"]])
        if not bad or not len(ok):
            continue
        scores = np.array([row["scores"][kind] for row in bad])
        first = [row for row in bad if row["found"]]
        mean = lambda some: float(np.mean(some)) if len(some) else float("nan")
        values = [
            auc(scores, ok),
            *(float((scores > np.quantile(ok, 1 - rate)).mean()) for rate in (0.05, 0.02)),
            mean([kind in row["found"] for row in bad]),
            mean([row["right_first"] for row in first]),
            mean([row["among_two"] for row in first]),
            mean([row["iou"] for row in bad if row["iou"] is not None]),
            mean([row["overall"] for row in bad]),
        ]
        told(flaw, kind, len(bad), values)
        if strength in VISIBLE and kind != "untouched":
            by_kind.setdefault(kind, []).append((len(bad), values))
    # Each flaw against clean results of its own ground, so a kind's figures are the mean over its
    # flaws.
    print(f"\n{'visible flaws of':26} {header}", file=out)
    for kind, flaws in by_kind.items():
        weights, values = (
            np.array([n for n, _ in flaws], float),
            np.array([values for _, values in flaws]),
        )
        held = np.isfinite(values) * weights[:, None]
        told(
            kind,
            f"{len(flaws)} flaws",
            int(weights.sum()),
            (np.nan_to_num(values) * held).sum(axis=0) / np.maximum(held.sum(axis=0), 1e-9),
        )
    print(file=out)
    every = [row for row in rows if row["kind"] and row["found"]]
    if every:
        print(
            f"right kind first {np.mean([row['right_first'] for row in every]):.3f}, among two {np.mean([row['among_two'] for row in every]):.3f}, "
            f"n {len(every)} results with any finding of {sum(bool(row['kind']) for row in rows)}",
            file=out,
        )
    cleans = sorted({row["flaw"] for row in rows if not row["kind"]})
    holding = [row for row in rows if not row["kind"]]
    print(
        f"all clean: n {len(holding)}, any finding {np.mean([bool(row['found']) for row in holding]):.3f}",
        file=out,
    )
    for name, good in ((name, [row for row in rows if row["flaw"] == name]) for name in cleans):
        alarms = {
            kind: np.mean([kind in row["found"] for row in good])
            for kind in (*REGISTRY, "overreach")
        }
        print(
            f"{name}: n {len(good)}, any finding {np.mean([bool(row['found']) for row in good]):.3f}, "
            + ", ".join(f"{kind} {rate:.3f}" for kind, rate in alarms.items())
            + f", overall {np.mean([row['overall'] for row in good]):.2f}",
            file=out,
        )
        for row in good:
            if row["found"]:
                print(
                    "   false alarm:",
                    row["photo"],
                    row["place"],
                    row["found"],
                    [round(one, 2) for one in row["sure"]],
                    file=out,
                )
    cannot = {kind: sum(kind in row["abstained"] for row in rows) for kind in REGISTRY}
    print("cannot tell:", cannot, file=out)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--places", type=int, default=5)
    parser.add_argument("--split", choices=("train", "test", "both"), default="both")
    parser.add_argument("--quality", type=int, nargs="*", default=[0, 90])
    parser.add_argument("--kinds", nargs="*", help="only these kinds, and only flaws of theirs")
    parser.add_argument("--flaws", nargs="*", help="only these flaws or clean cases")
    parser.add_argument("--folder", help="pictures of one's own, PNG, in place of both splits")
    parser.add_argument(
        "--size",
        type=int,
        help="about how wide the regions are, pixels, in place of 60 to 150; pictures without the room are left out",
    )
    parser.add_argument("--json", type=Path)
    given = parser.parse_args()
    # A perfect score must give 1 and a constant one a half on this harness.
    assert auc(np.array([1.0, 2.0]), np.array([0.0])) == 1.0 and auc(np.ones(3), np.ones(5)) == 0.5
    start = time.process_time()
    splits = {"folder": names_in(given.folder)} if given.folder else {"train": TRAIN, "test": TEST}
    for split, names in splits.items():
        if given.split not in (split, "both") and not given.folder:
            continue
        for quality in given.quality:
            jobs = [
                (
                    name,
                    place,
                    quality,
                    tuple(given.kinds) if given.kinds else None,
                    tuple(given.flaws) if given.flaws else None,
                    given.folder,
                    given.size,
                )
                for name in names
                for place in range(given.places)
            ]
            with ProcessPoolExecutor(2) as pool:
                rows = [row for rows in pool.map(case, *zip(*jobs, strict=True)) for row in rows]
            print(
                f"\n{split}, {'PNG' if not quality else f'JPEG {quality}'}: {', '.join(name for name in names if any(row['photo'] == name for row in rows))}"
            )
            table(rows, sys.stdout)
            if given.json:
                given.json.with_name(f"{split}-{quality}.json").write_text(json.dumps(rows))
    print(f"\n{time.process_time() - start:.0f} CPU seconds in this process")


if __name__ == "__main__":
    main()
