"""Does the desk act on what a slip says? The demo's flawed regions, worked with the suggested
changes and without any.

.venv/bin/python benchmarks/advice.py
"""

from __future__ import annotations

import io
import json
import sys
import zipfile
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))
from demo import scenario  # noqa: E402
from standins.retoucher import work_slip  # noqa: E402
from zweiblick_core.check import check  # noqa: E402
from zweiblick_core.reading import read  # noqa: E402
from zweiblick_core.regions.masks import cropped  # noqa: E402
from zweiblick_core.rules.advice import Case, Flaw, advise  # noqa: E402
from zweiblick_core.visibility import parse_size  # noqa: E402

#: (picture, attempt, region), all by number.
CASES = (
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
)


def png(pixels: np.ndarray) -> bytes:
    return cv2.imencode(
        ".png", np.ascontiguousarray(pixels[..., ::-1] if pixels.ndim == 3 else pixels)
    )[1].tobytes()


def case(slug: str, attempt: int, region: int) -> tuple[str, float, float, float, list[str]]:
    cv2.setNumThreads(1)
    picture = next(one for one in scenario.PICTURES_OF_JOB if one.slug == slug)
    it = scenario.scene(slug)
    size = parse_size(scenario.SIZES[0][1])
    original = read(scenario.PICTURES / f"{slug}.jpg")
    regions = [cropped(mask, str(number)) for number, mask in enumerate(it.regions, 1)]
    look = lambda data: check(original, read(data), regions, size).regions[region - 1]
    given, _ = scenario.encode(picture.attempts[attempt - 1].make(it), 0)
    before = look(given)
    x, y, w, h = regions[region - 1].bbox
    height, width = it.original.shape[:2]
    changes = advise(
        Case(
            tuple(
                Flaw(found.kind, found.bbox, found.evidence, asdict(found.measure))
                for found in before.findings
            ),
            at_frame=x == 0 or y == 0 or x + w == width or y + h == height,
        )
    )
    results = []
    for some in ([asdict(change) for change in changes], []):
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as files:
            masks = {
                f"masks/{number}.png": png(mask.astype(np.uint8) * 255)
                for number, mask in enumerate(it.regions, 1)
            }
            slip = {
                "files": {"original": "original.jpg", "attempt": "attempt.png"},
                "regions": [{"number": region, "mask": f"masks/{region}.png", "changes": some}],
                "locked": [name for number, name in enumerate(masks, 1) if number != region],
            }
            files.writestr("slip.json", json.dumps(slip))
            files.writestr("original.jpg", (scenario.PICTURES / f"{slug}.jpg").read_bytes())
            files.writestr("attempt.png", given)
            for name, data in masks.items():
                files.writestr(name, data)
        results.append(look(work_slip(packed.getvalue())).overall)
    return (
        f"{slug} {attempt}/{region}",
        before.overall,
        results[0],
        results[1],
        [change.what for change in changes],
    )


def main() -> None:
    with ProcessPoolExecutor(2) as pool:
        rows = list(pool.map(case, *zip(*CASES, strict=True)))
    print(f"{'cell':16} {'before':>7} {'advised':>8} {'not':>7}  suggested changes")
    for name, before, told, not_told, changes in rows:
        print(f"{name:16} {before:7.3f} {told:8.3f} {not_told:7.3f}  {', '.join(changes)}")
    told, not_told = np.array([row[2] for row in rows]), np.array([row[3] for row in rows])
    print(
        f"mean overall: before {np.mean([row[1] for row in rows]):.3f}, with advice {told.mean():.3f}, without {not_told.mean():.3f}; "
        f"better with advice in {int((told > not_told + 0.01).sum())} of {len(rows)}, worse in {int((told < not_told - 0.01).sum())}"
    )


if __name__ == "__main__":
    main()
