"""From rendered light to photographs: lens, sensor, JPEG; and the masks of what must go.

    python demo/generator/develop.py RENDERS demo/pictures

Reads <scene>-with.npz and <scene>-without.npz, writes <scene>.jpg (the original), <scene>-truth.jpg
(the same view without the
things, developed as an exposure of its own) and <scene>-mask.png (white where something must go).
These are committed.
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from scipy import ndimage


def expose(light: np.ndarray, white: float, seed: int) -> np.ndarray:
    """Linear light (h, w, 3) to sRGB uint8 through a lens, a Bayer sensor and a plain development."""
    rng = np.random.default_rng(seed)
    height, width = light.shape[:2]
    scene = light.astype(np.float32) / white
    scene = ndimage.gaussian_filter(scene, (0.62, 0.62, 0))
    scene = 0.985 * scene + 0.015 * cv2.GaussianBlur(np.minimum(scene, 3), (0, 0), 22)
    y, x = np.mgrid[-1 : 1 : height * 1j, -1 : 1 : width * 1j]
    scene *= (1 - 0.13 * (x * x + y * y) / 2)[..., None].astype(np.float32)
    gains = np.array(
        [0.55, 1.0, 0.68], np.float32
    )  # daylight on the sensor, undone after the mosaic
    raw = scene * gains
    mosaic = np.empty((height, width), np.float32)
    mosaic[0::2, 0::2], mosaic[0::2, 1::2] = raw[0::2, 0::2, 0], raw[0::2, 1::2, 1]
    mosaic[1::2, 0::2], mosaic[1::2, 1::2] = raw[1::2, 0::2, 1], raw[1::2, 1::2, 2]
    electrons = 5200.0
    mosaic = rng.poisson(np.clip(mosaic, 0, 4) * electrons) / electrons + rng.normal(
        0, 0.0011, mosaic.shape
    )
    steps = np.clip(mosaic * 12000 + 600, 0, 65535).astype(np.uint16)
    rgb = cv2.cvtColor(steps, cv2.COLOR_BayerRGGB2BGR_EA).astype(np.float32)[..., ::-1]
    rgb = (rgb - 600) / 12000 / gains
    rgb = np.clip(rgb, 0, None)
    rgb = rgb / (1 + 0.22 * rgb) * 1.16  # a shoulder, so that bright stone keeps its drawing
    srgb = np.where(
        rgb <= 0.0031308, 12.92 * rgb, 1.055 * np.power(np.clip(rgb, 1e-6, 1.0), 1 / 2.4) - 0.055
    )
    srgb = np.power(np.clip(srgb, 0, 1), 1.16)
    srgb = srgb + 0.35 * (srgb - cv2.GaussianBlur(srgb, (0, 0), 1.1))
    return np.clip(srgb * 255 + 0.5, 0, 255).astype(np.uint8)


def masks(
    light: np.ndarray,
    bare: np.ndarray,
    depth: np.ndarray,
    bare_depth: np.ndarray,
    cuts: tuple,
    margin: int,
    painted: bool = False,
) -> np.ndarray:
    """What must go: where the depth differs, and the shadow where the light does; gaps closed, a
    margin added. uint8 0/255.
    """
    thing = (
        np.abs(depth.astype(np.float32) - bare_depth.astype(np.float32))
        > 0.006 * bare_depth.astype(np.float32) + 0.004
    )
    thing = cv2.morphologyEx(thing.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    if painted:
        grey = lambda image: cv2.GaussianBlur(image.astype(np.float32).mean(axis=2), (0, 0), 2.5)
        ink = (np.abs(1 - grey(light) / (grey(bare) + 1e-4)) > 0.25).astype(np.uint8)
        thing |= cv2.dilate(
            cv2.morphologyEx(ink, cv2.MORPH_OPEN, np.ones((5, 5), np.uint8)),
            np.ones((25, 61), np.uint8),
        )
    soft = lambda image: cv2.GaussianBlur(image.astype(np.float32).mean(axis=2), (0, 0), 7)
    darker = 1 - soft(light) / (soft(bare) + 1e-4)
    shadow = (darker > 0.09).astype(np.uint8)
    shadow = cv2.morphologyEx(shadow, cv2.MORPH_OPEN, np.ones((11, 11), np.uint8))
    both = cv2.morphologyEx(
        thing | shadow, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (41, 41))
    )
    both = cv2.dilate(both, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (margin, margin)))
    # A person draws a flowing outline, which does not follow every board and brick.
    both = (cv2.GaussianBlur(both.astype(np.float32), (0, 0), 13) > 0.33).astype(np.uint8)
    rings, _ = cv2.findContours(both, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    both = cv2.drawContours(np.zeros_like(both), rings, -1, 1, cv2.FILLED)
    for x0, y0, x1, y1 in cuts:
        both[y0:y1, x0:x1] = 0
    count, labels, stats, _ = cv2.connectedComponentsWithStats(both)
    touches = np.array([bool(thing[labels == label].any()) for label in range(count)])
    touches[0] = False
    keep = touches & (stats[:, cv2.CC_STAT_AREA] > 2500)
    return (keep[labels] * 255).astype(np.uint8)


#: A wide penumbra wants a wide margin, or a dark rim stays.
MARGINS = {"boatshed": 71}
#: Scenes where paint on a wall must go: there the light differs either way, and where it does so
#: strongly counts as the thing.
PAINTED = {"market"}
#: Where the masks of two things would touch, a gap keeps them apart: (x0, y0, x1, y1).
CUTS = {"warehouse": ((1084, 800, 1098, 1200),)}
#: Where one thing's shadow runs into another thing no gap is possible: from these boxes on a mask
#: counts as the second region, grey 192.
SECOND = {"jetty": ((966, 690, 1800, 1200), (798, 960, 1800, 1200))}


def main() -> None:
    renders, out = Path(sys.argv[1]), Path(sys.argv[2])
    out.mkdir(parents=True, exist_ok=True)
    for found in sorted(renders.glob("*-with.npz")):
        scene = found.name.removesuffix("-with.npz")
        if not (renders / f"{scene}-without.npz").exists():
            continue
        seen, bare = np.load(found), np.load(renders / f"{scene}-without.npz")
        white = float(np.percentile(bare["light"].astype(np.float32), 98.5)) / 0.92
        for name, render, seed in ((scene, seen, 1), (f"{scene}-truth", bare, 2)):
            picture = expose(render["light"].astype(np.float32), white, seed)
            cv2.imwrite(
                str(out / f"{name}.jpg"), picture[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 92]
            )
        mask = masks(
            seen["light"],
            bare["light"],
            seen["depth"],
            bare["depth"],
            CUTS.get(scene, ()),
            MARGINS.get(scene, 23),
            scene in PAINTED,
        )
        for x0, y0, x1, y1 in SECOND.get(scene, ()):
            part = mask[y0:y1, x0:x1]
            part[part > 0] = 192
        cv2.imwrite(str(out / f"{scene}-mask.png"), mask)
        print(scene, "developed")


if __name__ == "__main__":
    main()
