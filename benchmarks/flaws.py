"""Clean results and flaws put into them, for measuring. Each takes (truth, original, mask, rng) and returns a result, all uint8."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

Flaw = Callable[[np.ndarray, np.ndarray, np.ndarray, np.random.Generator], np.ndarray]


def blob(rng: np.random.Generator, frame: tuple[int, int], size: float) -> np.ndarray:
    """A smooth random outline of about `size` px across; bool."""
    height, width = frame
    angle = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    radius = size / 2 * (1 + sum(rng.normal(0, 0.16 / k) * np.cos(k * angle + rng.uniform(0, 6.3)) for k in range(1, 5)))
    margin = size * 0.75 + 20
    if rng.random() < 0.12:  # at the frame's edge
        cx, cy = rng.uniform(0, size / 3), rng.uniform(margin, height - margin)
    else:
        cx, cy = rng.uniform(margin, width - margin), rng.uniform(margin, height - margin)
    points = np.stack([cx + radius * np.cos(angle), cy + radius * np.sin(angle) * rng.uniform(0.7, 1.3)], -1)
    filled = np.zeros(frame, np.uint8)
    cv2.fillPoly(filled, [points.round().astype(np.int32)], 1)
    return filled.astype(bool)


def with_thing(truth: np.ndarray, mask: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """The original: the truth with a shaded, textured thing that fills most of the mask."""
    thing = cv2.erode(mask.astype(np.uint8), np.ones((7, 7), np.uint8)).astype(np.float32)
    soft = cv2.GaussianBlur(thing, (0, 0), 0.9)[..., None]
    colour = rng.uniform(20, 235, 3)
    y, x = np.mgrid[:truth.shape[0], :truth.shape[1]]
    shade = 1 + 0.3 * np.sin(x / rng.uniform(20, 60) + rng.uniform(0, 6)) + 0.1 * np.sin(y / rng.uniform(5, 30))
    texture = colour * shade[..., None] + rng.normal(0, 3, truth.shape)
    return np.clip(truth * (1 - soft) + texture * soft, 0, 255).round().astype(np.uint8)


def _paste(truth: np.ndarray, fill: np.ndarray, mask: np.ndarray, feather: float) -> np.ndarray:
    alpha = mask.astype(np.float32)
    if feather:
        alpha = cv2.GaussianBlur(cv2.erode(alpha, np.ones((3, 3))), (0, 0), feather)
    return np.clip(truth * (1 - alpha[..., None]) + fill * alpha[..., None], 0, 255).round().astype(np.uint8)


def clean(truth, original, mask, rng):
    """A result that holds: the truth with noise of its own."""
    return _paste(truth, truth + rng.normal(0, 0.8, truth.shape), mask, 0)


def _offset(truth, mask, rng):
    ys, xs = np.nonzero(mask)
    for _ in range(400):
        length, angle = rng.uniform(1.15, 2.0) * max(np.ptp(xs), np.ptp(ys)), rng.uniform(0, 6.3)
        dx, dy = int(length * np.cos(angle)), int(length * np.sin(angle))
        if xs.min() + dx >= 2 and ys.min() + dy >= 2 and xs.max() + dx < truth.shape[1] - 2 and ys.max() + dy < truth.shape[0] - 2:
            return dx, dy
    return None


def _copied(truth, mask, rng, flip=False):
    found = _offset(truth, mask, rng)
    if found is None:
        return None
    dx, dy = found
    ys, xs = np.nonzero(mask)
    fill = truth.astype(np.float32).copy()
    source = xs.max() + xs.min() - xs if flip else xs
    fill[ys, xs] = truth[ys + dy, source + dx]
    return fill, (dx, dy)


def copy_plain(truth, original, mask, rng):
    made = _copied(truth, mask, rng)
    return None if made is None else _paste(truth, made[0], mask, 3)


def copy_mirrored(truth, original, mask, rng):
    made = _copied(truth, mask, rng, flip=True)
    return None if made is None else _paste(truth, made[0], mask, 3)


def copy_blended(truth, original, mask, rng):
    made = _copied(truth, mask, rng)
    if made is None:
        return None
    fill = np.clip(made[0], 0, 255).astype(np.uint8)
    inner = mask.copy()
    inner[:2], inner[-2:], inner[:, :2], inner[:, -2:] = False, False, False, False
    ys, xs = np.nonzero(inner)
    centre = (int((xs.min() + xs.max() + 1) // 2), int((ys.min() + ys.max() + 1) // 2))
    blended = cv2.seamlessClone(np.ascontiguousarray(fill), np.ascontiguousarray(truth), (inner * 255).astype(np.uint8), centre, cv2.NORMAL_CLONE)
    return _paste(truth, blended.astype(np.float32), inner, 0)


def step(levels: float) -> Flaw:
    def made(truth, original, mask, rng):
        tint = rng.choice([-1, 1]) * levels * np.array([1.0, rng.uniform(0.8, 1.1), rng.uniform(0.8, 1.1)])
        return _paste(truth, truth + tint + rng.normal(0, 0.8, truth.shape), mask, 0)
    return made


def cut(truth, original, mask, rng):
    """Another photograph's content, brought to the same mean, cut in hard."""
    turned = np.ascontiguousarray(np.rot90(truth, 2 if truth.shape[0] != truth.shape[1] else 1)).astype(np.float32)
    shifted = np.roll(turned, (int(rng.integers(40, 200)), int(rng.integers(40, 200))), (0, 1))
    shifted += truth[mask].mean(0) - shifted[mask].mean(0)
    return _paste(truth, shifted, mask, 0)


def _ring(mask, width):
    outside = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 5)
    inside = cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
    return np.exp(-((outside - inside + 3.0) / width) ** 2)[..., None]


def fringe(alpha: float) -> Flaw:
    """The thing's own rim is kept, at `alpha`."""
    def made(truth, original, mask, rng):
        thing = np.median(original[cv2.erode(mask.astype(np.uint8), np.ones((15, 15))).astype(bool)], axis=0) if mask.sum() > 600 else original[mask].mean(0)
        amount = alpha * _ring(mask, 2.5)
        return _paste(truth, truth * (1 - amount) + thing * amount, mask, 0)
    return made


def glow(levels: float) -> Flaw:
    def made(truth, original, mask, rng):
        return _paste(truth, truth + rng.choice([-1, 1]) * levels * _ring(mask, 4.0), mask, 0)
    return made


def lined(truth, mask, rng):
    """The truth with one to three straight edges laid across the mask, each a step of tone as a board's or a rail's edge is."""
    y, x = np.mgrid[:truth.shape[0], :truth.shape[1]]
    ys, xs = np.nonzero(mask)
    angle = rng.uniform(0, np.pi)
    out = truth.astype(np.float32)
    for _ in range(int(rng.integers(1, 4))):
        at = rng.integers(len(ys))
        across = (x - xs[at]) * np.sin(angle) + (y - ys[at]) * np.cos(angle)
        width, levels = rng.uniform(4, 14), rng.choice([-1, 1]) * rng.uniform(18, 45)
        out += (levels * 0.5 * (np.tanh((across + width) / 0.9) - np.tanh((across - width) / 0.9)))[..., None]
    return np.clip(out, 0, 255).round().astype(np.uint8)


def moved(pixels: float) -> Flaw:
    """The fill lies `pixels` beside its place, in both directions: every line in it jumps."""
    def made(truth, original, mask, rng):
        shifted = cv2.warpAffine(truth, np.array([[1, 0, pixels * rng.choice([-1, 1]) * 0.7], [0, 1, pixels * rng.choice([-1, 1]) * 0.7]], np.float32), truth.shape[1::-1],
                flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
        return _paste(truth, shifted + rng.normal(0, 0.8, truth.shape), mask, 0)
    return made


def turned(degrees: float) -> Flaw:
    def made(truth, original, mask, rng):
        ys, xs = np.nonzero(mask)
        matrix = cv2.getRotationMatrix2D((float(xs.mean()), float(ys.mean())), degrees * rng.choice([-1, 1]), 1.0)
        return _paste(truth, cv2.warpAffine(truth, matrix, truth.shape[1::-1], flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT) + rng.normal(0, 0.8, truth.shape), mask, 0)
    return made


def ended(truth, original, mask, rng):
    """`truth` here is a pair (with lines, without): the fill has the ground but not its lines."""
    with_lines, bare = truth
    return _paste(with_lines, bare + rng.normal(0, 0.8, bare.shape), mask, 2)


def blurred(sigma: float, part: float = 1.0) -> Flaw:
    """Washed out, over the whole of the fill or a part of its area, with a soft edge."""
    def made(truth, original, mask, rng):
        area = mask
        if part < 1:
            ys, xs = np.nonzero(mask)
            at = rng.integers(len(ys))
            near = np.hypot(xs - xs[at], ys - ys[at])
            area = np.zeros_like(mask)
            chosen = near <= np.quantile(near, part)
            area[ys[chosen], xs[chosen]] = True
        amount = cv2.GaussianBlur(area.astype(np.float32), (0, 0), 2)[..., None]
        soft = cv2.GaussianBlur(truth, (0, 0), sigma).astype(np.float32)
        return _paste(truth, (truth + rng.normal(0, 0.8, truth.shape)) * (1 - amount) + soft * amount, mask, 0)
    return made


def streaked(truth, original, mask, rng):
    """Drawn along one direction, as too many passes over one place leave it."""
    length, angle = 21, rng.uniform(0, np.pi)
    kernel = np.zeros((length, length), np.float32)
    middle = length // 2
    cv2.line(kernel, (int(middle - middle * np.cos(angle)), int(middle - middle * np.sin(angle))), (int(middle + middle * np.cos(angle)),
            int(middle + middle * np.sin(angle))), 1.0, 1)
    return _paste(truth, cv2.filter2D(truth.astype(np.float32), -1, kernel / kernel.sum()), mask, 0)


def diffused(truth, original, mask, rng):
    """A real diffusion fill (Telea 2004, as in OpenCV)."""
    return cv2.inpaint(original, mask.astype(np.uint8), 5, cv2.INPAINT_TELEA)


def untouched(truth, original, mask, rng):
    return original


#: name: (kind, strength, maker). Strengths: faint shows only at 200 %, clear at 100 %, glaring when the picture is fitted.
FLAWS: dict[str, tuple[str, str, Flaw]] = {
    "copy": ("repeat", "clear", copy_plain), "mirrored copy": ("repeat", "clear", copy_mirrored), "blended copy": ("repeat", "clear", copy_blended),
    "step 4": ("seam", "faint", step(4)), "step 8": ("seam", "clear", step(8)), "step 20": ("seam", "glaring", step(20)), "cut content": ("seam", "glaring", cut),
    "fringe .08": ("halo", "faint", fringe(0.08)), "fringe .15": ("halo", "clear", fringe(0.15)), "fringe .4": ("halo", "glaring", fringe(0.4)),
    "glow 8": ("halo", "clear", glow(8)),
    "blur 1.0": ("smear", "faint", blurred(1.0)), "blur 2.5": ("smear", "clear", blurred(2.5)), "blur 2.5, 1/4": ("smear", "clear", blurred(2.5, 0.25)),
    "blur 2.5, 1/8": ("smear", "clear", blurred(2.5, 0.125)), "streaks": ("smear", "glaring", streaked), "diffusion": ("smear", "glaring", diffused),
    "untouched": ("untouched", "glaring", untouched),
}
#: The same on a ground through which straight edges run; measured against clean results of that ground.
LINED: dict[str, tuple[str, str, Flaw]] = {
    "offset 2": ("line", "faint", moved(2)), "offset 3": ("line", "clear", moved(3)), "offset 6": ("line", "glaring", moved(6)), "kink 4": ("line", "clear", turned(4)),
            "kink 8": ("line", "glaring", turned(8)),
    "line ends": ("line", "glaring", ended),
}
