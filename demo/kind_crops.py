"""Makes the crops of docs/kinds.md from the demo's own attempts: the original on the left, the
attempt on the right, the finding ringed below.

.venv/bin/python -m demo.kind_crops
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np

from demo import scenario
from zweiblick_core.check import check
from zweiblick_core.io import read
from zweiblick_core.regions.masks import cropped
from zweiblick_core.report.drawing import ringed

FOLDER = Path(__file__).parent.parent / "docs" / "kinds"
#: kind: picture, attempt, region.
SHOWN = {
    "repeat": (scenario.SIGN, 2, 0),
    "seam": (scenario.LADDER, 3, 1),
    "halo": (scenario.SIGN, 3, 0),
    "smear": (scenario.CART, 1, 1),
    "line": (scenario.CART, 2, 1),
    "residue": (scenario.REEL, 6, 0),
    "shadow": (scenario.SIGN, 5, 0),
    "tone": (scenario.BUOY, 1, 1),
    "grain": (scenario.REEL, 7, 0),
    "soft": (scenario.REEL, 5, 0),
    "invented": (scenario.REEL, 5, 1),
    "overreach": (scenario.REEL, 5, 0),
    "untouched": (scenario.REEL, 3, 0),
}
#: Size of each half, pixels.
WIDTH, HEIGHT = 380, 250


def crop_of(kind: str) -> np.ndarray:
    """uint8 (HEIGHT, 2 * WIDTH + 6, 3): original and attempt around the finding, the finding ringed
    on the attempt.
    """
    picture, number, region = SHOWN[kind]
    it = scenario.scene(picture.slug)
    attempt = picture.attempts[number - 1]
    data, _ = scenario.encode(attempt.make(it), attempt.quality)
    original, result = read(scenario.PICTURES / f"{picture.slug}.jpg"), read(data)
    report = check(
        original,
        result,
        [cropped(mask, name) for name, mask in zip(picture.regions, it.regions, strict=True)],
    )
    found = report.overreach["findings"] if kind == "overreach" else report.regions[region].findings
    finding = max(
        (one for one in found if one.kind == kind), key=lambda one: one.severity * one.confidence
    )
    x, y, w, h = finding.bbox
    scale = max(1.0, (w + 80) / WIDTH, (h + 80) / HEIGHT)
    size = (int(WIDTH * scale), int(HEIGHT * scale))
    left = int(np.clip(x + w / 2 - size[0] / 2, 0, original.width - size[0]))
    top = int(np.clip(y + h / 2 - size[1] / 2, 0, original.height - size[1]))
    halves = []
    for pixels in (original.pixels, ringed(result.pixels, finding.polygon, max(1, round(scale)))):
        halves.append(
            cv2.resize(
                pixels[top : top + size[1], left : left + size[0]],
                (WIDTH, HEIGHT),
                interpolation=cv2.INTER_AREA,
            )
        )
    return np.hstack([halves[0], np.full((HEIGHT, 6, 3), 119, np.uint8), halves[1]])


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    for kind in SHOWN:
        cv2.imwrite(
            str(FOLDER / f"{kind}.jpg"), crop_of(kind)[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88]
        )
        print(kind)


if __name__ == "__main__":
    main()
