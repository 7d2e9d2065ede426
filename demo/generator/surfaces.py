"""Height fields and albedo maps for the scenario's walls and grounds: every brick, sett and board
is different.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage


@dataclass
class Surface:
    """A relief over the plane: `height` in metres (rows go down), `albedo` linear RGB 0..1, `rough`
    0..1, `step` in metres.
    """

    height: np.ndarray
    albedo: np.ndarray
    rough: np.ndarray
    step: float


def fractal(
    rng: np.random.Generator,
    shape: tuple[int, int],
    exponent: float,
    coarsest: float,
    stretch: float = 1.0,
) -> np.ndarray:
    """Noise with a power-law spectrum, zero mean, unit deviation; `coarsest` is the longest wave in
    samples.
    """
    rows, columns = shape
    fy = np.fft.fftfreq(rows)[:, None] * stretch
    fx = np.fft.rfftfreq(columns)[None, :]
    radius = np.hypot(fx, fy)
    weight = np.where(radius > 0, np.maximum(radius, 1.0 / coarsest) ** -exponent, 0.0)
    spectrum = (rng.normal(size=weight.shape) + 1j * rng.normal(size=weight.shape)) * weight
    noise = np.fft.irfft2(spectrum, s=shape)
    return (noise / noise.std()).astype(np.float32)


def smooth(low: float, high: float, value: np.ndarray) -> np.ndarray:
    t = np.clip((value - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def _cells(rng, x, z, pitch_x, pitch_z, bond, jitter):
    """Which cell each sample lies in, and where in it (metres from the cell's own centre, turned by
    the cell's own angle).
    """
    row = np.floor(z / pitch_z).astype(int)
    row -= row.min()
    shift = bond * (np.arange(row.max() + 1) % 2) * pitch_x + rng.normal(
        0, jitter * pitch_x, row.max() + 1
    )
    along = x + shift[row]
    column = np.floor(along / pitch_x).astype(int)
    column -= column.min()
    size = (row.max() + 1, column.max() + 1)
    u = (along / pitch_x - np.floor(along / pitch_x) - 0.5) * pitch_x
    v = (z / pitch_z - np.floor(z / pitch_z) - 0.5) * pitch_z
    angle = rng.normal(0, 0.012, size)[row, column]
    u, v = (
        u + angle * v + rng.normal(0, 0.0015, size)[row, column],
        v - angle * u + rng.normal(0, 0.0012, size)[row, column],
    )
    return row, column, size, u, v


def _rounded(u, v, half_u, half_v, radius):
    """Signed distance to a rounded rectangle, negative inside, metres."""
    qu, qv = np.abs(u) - (half_u - radius), np.abs(v) - (half_v - radius)
    return (
        np.hypot(np.maximum(qu, 0), np.maximum(qv, 0)) + np.minimum(np.maximum(qu, qv), 0) - radius
    )


def bricks(rng: np.random.Generator, width: float, height: float, step: float = 0.0025) -> Surface:
    rows, columns = int(height / step), int(width / step)
    z, x = np.meshgrid(height - np.arange(rows) * step, np.arange(columns) * step, indexing="ij")
    x = x + 0.004 * fractal(rng, x.shape, 1.6, 400)
    z = z + 0.003 * fractal(rng, x.shape, 1.6, 900)
    row, column, size, u, v = _cells(rng, x, z, 0.252, 0.081, 0.5, 0.05)
    half_u = (0.1195 + rng.normal(0, 0.0018, size))[row, column]
    half_v = (0.0336 + rng.normal(0, 0.0011, size))[row, column]
    fine, middle = fractal(rng, x.shape, 0.9, 14), fractal(rng, x.shape, 1.2, 45)
    chipped = (rng.random(size) ** 3 * 0.006)[row, column]
    distance = (
        _rounded(u, v, half_u, half_v, 0.004) + chipped * np.maximum(middle, 0) + 0.0007 * fine
    )
    face = smooth(0.0035, -0.0045, distance)
    tilt = rng.normal(0, 0.010, size)[row, column] * u + rng.normal(0, 0.02, size)[row, column] * v
    proud = rng.normal(0, 0.0009, size)[row, column]
    relief = (
        face * (0.0085 + tilt + proud + 0.0005 * middle)
        + 0.00045 * fine
        + (1 - face) * 0.0009 * middle
    )
    palette = np.array(
        [
            [0.36, 0.165, 0.115],
            [0.43, 0.21, 0.14],
            [0.29, 0.13, 0.10],
            [0.335, 0.155, 0.115],
            [0.39, 0.235, 0.17],
            [0.215, 0.115, 0.10],
        ]
    )
    pick = rng.choice(len(palette), size, p=[0.3, 0.18, 0.18, 0.2, 0.09, 0.05])
    tone = palette[pick] * np.exp(rng.normal(0, 0.14, size))[..., None] + rng.normal(
        0, 0.008, (*size, 3)
    )
    brick = tone[row, column] * (1 + 0.10 * middle + 0.09 * fine)[..., None]
    # Burnt ends and lime bloom: each brick has its own, and bloom gathers where water runs.
    bloom = smooth(0.9, 2.6, fractal(rng, x.shape, 1.5, 300, 0.5)) * 0.35
    brick = brick * (1 - bloom[..., None]) + bloom[..., None] * 0.52
    mortar = np.array([0.36, 0.335, 0.30]) * (1 + 0.10 * fine + 0.12 * middle)[..., None]
    albedo = brick * face[..., None] + mortar * (1 - face[..., None])
    level = height - np.arange(rows)[:, None] * step
    soot = (
        smooth(
            -0.4, 2.2, fractal(rng, x.shape, 1.7, 1400, 0.35) + 0.8 * smooth(2.2, 4.6, level) - 0.3
        )
        * 0.45
    )
    algae = smooth(0.9, 0.0, level) * smooth(-1.0, 1.4, fractal(rng, x.shape, 1.5, 500)) * 0.6
    albedo = albedo * (1 - soot[..., None]) + soot[..., None] * albedo * 0.35
    albedo = albedo * (1 - algae[..., None]) + algae[..., None] * np.array([0.13, 0.145, 0.085])
    return Surface(
        relief.astype(np.float32),
        np.clip(albedo, 0.01, 0.95).astype(np.float32),
        np.full(x.shape, 0.85, np.float32),
        step,
    )


def setts(
    rng: np.random.Generator,
    width: float,
    depth: float,
    step: float = 0.003,
    puddle: tuple[float, float, float, float] | None = None,
) -> Surface:
    """Cobbled quay. `puddle` = (x, y, radius, level): a shallow hollow that holds water."""
    rows, columns = int(depth / step), int(width / step)
    z, x = np.meshgrid(np.arange(rows) * step, np.arange(columns) * step, indexing="ij")
    x = x + 0.014 * fractal(rng, x.shape, 1.6, 600)
    z = z + 0.012 * fractal(rng, x.shape, 1.6, 600)
    row, column, size, u, v = _cells(rng, x, z, 0.145, 0.118, 0.5, 0.12)
    half_u = (0.064 + rng.normal(0, 0.0035, size))[row, column]
    half_v = (0.050 + rng.normal(0, 0.003, size))[row, column]
    fine, middle = fractal(rng, x.shape, 0.9, 12), fractal(rng, x.shape, 1.3, 40)
    distance = _rounded(u, v, half_u, half_v, 0.018) + 0.0022 * middle + 0.0006 * fine
    face = smooth(0.004, -0.012, distance)
    dome = 1 - 0.35 * ((u / half_u) ** 2 + (v / half_v) ** 2)
    tilt = rng.normal(0, 0.035, size)[row, column] * u + rng.normal(0, 0.04, size)[row, column] * v
    relief = (
        face * (0.017 * dome + tilt + rng.normal(0, 0.003, size)[row, column])
        + 0.0006 * middle
        + 0.0004 * fine
        + (1 - face) * 0.0018 * fractal(rng, x.shape, 0.7, 8)
    )
    grey = np.exp(rng.normal(np.log(0.24), 0.24, size))
    tint = rng.normal(0, 0.014, size)
    tone = grey[..., None] * (1 + np.stack([tint, tint * 0.1, -tint], -1) * 2.2) + np.array(
        [0.012, 0.004, -0.006]
    )
    speckle = 1 + 0.13 * fine + 0.10 * middle
    stone = tone[row, column] * speckle[..., None]
    sand = np.array([0.25, 0.215, 0.165]) * (1 + 0.22 * fractal(rng, x.shape, 0.5, 8))[..., None]
    moss = smooth(0.2, 1.6, fractal(rng, x.shape, 1.5, 350)) * (1 - face) * 0.8
    sand = sand * (1 - moss[..., None]) + moss[..., None] * np.array([0.10, 0.125, 0.05])
    albedo = stone * face[..., None] + sand * (1 - face[..., None])
    dirt = smooth(-0.6, 1.9, fractal(rng, x.shape, 1.6, 900)) * 0.35
    albedo *= (1 - dirt)[..., None]
    rough = np.full(x.shape, 0.75, np.float32)
    if puddle:
        px, py, radius, level = puddle
        away = np.hypot(
            (np.arange(columns) * step - px)[None, :], 1.5 * (np.arange(rows) * step - py)[:, None]
        )
        away = away + 0.06 * fractal(rng, x.shape, 1.6, 300)
        relief = relief - 0.022 * smooth(radius * 1.5, 0, away)
        wet = relief < level
        damp = smooth(radius * 1.35, radius * 0.7, away)
        albedo *= (1 - 0.55 * np.maximum(damp, wet))[..., None]
        rough = np.where(wet, 0.04, 0.75 - 0.4 * damp).astype(np.float32)
        relief = np.maximum(relief, level)
    return Surface(
        relief.astype(np.float32), np.clip(albedo, 0.01, 0.95).astype(np.float32), rough, step
    )


def boards(
    rng: np.random.Generator,
    width: float,
    height: float,
    pitch: float,
    paint: tuple[float, float, float],
    worn: float,
    step: float = 0.002,
    upright: bool = False,
    lapped: bool = True,
) -> Surface:
    """Timber boards with the grain along the piece; lapped like weatherboarding, or butted like a
    door's planks.
    """
    long, across = (height, width) if upright else (width, height)
    rows, columns = int(across / step), int(long / step)
    v, u = np.meshgrid(np.arange(rows) * step, np.arange(columns) * step, indexing="ij")
    v = v + 0.0012 * fractal(rng, v.shape, 1.8, 1500)
    piece = np.floor(v / pitch).astype(int)
    piece -= piece.min()
    count = piece.max() + 1
    within = v / pitch - np.floor(v / pitch)
    # Boards are butted end to end at a place of their own, so that rows differ.
    joint = rng.uniform(0.15, 0.85, count)[piece] * long
    side = (u > joint).astype(int)
    number = piece * 2 + side
    grain = fractal(rng, v.shape, 1.05, 60, 0.06) if columns else v
    fine = fractal(rng, v.shape, 0.8, 10, 0.25)
    gap = np.minimum(within, 1 - within) * pitch
    open_joint = np.minimum(
        smooth(0.0005, 0.0035, gap),
        smooth(0.0005, 0.002, np.abs(u - joint)) if not upright else 1.0,
    )
    bow = rng.normal(0, 0.0012, count * 2)[number]
    relief = (0.014 * within if lapped else 0.0) + bow + 0.0006 * grain + 0.0003 * fine
    relief = relief * open_joint - (1 - open_joint) * 0.006
    tone = np.exp(rng.normal(0, 0.10, count * 2))[number]
    bare = smooth(
        0.6 - worn,
        1.9 - worn,
        fractal(rng, v.shape, 1.35, 260, 0.22)
        + 0.35 * grain
        + rng.normal(0, 0.4, count * 2)[number],
    )
    painted = np.array(paint) * (tone * (1 + 0.05 * grain + 0.04 * fine))[..., None]
    wood = (
        np.array([0.30, 0.255, 0.205])
        * (np.exp(rng.normal(0, 0.15, count * 2))[number] * (1 + 0.17 * grain + 0.08 * fine))[
            ..., None
        ]
    )
    albedo = painted * (1 - bare[..., None]) + wood * bare[..., None]
    stain = smooth(0.2, 2.2, fractal(rng, v.shape, 1.6, 700)) * 0.4
    albedo *= (1 - stain)[..., None] * (0.25 + 0.75 * open_joint)[..., None]
    # Nails near the ends of a board, two and two.
    rough = 0.62 + 0.25 * bare
    if upright:
        relief, albedo, rough = np.rot90(relief), np.rot90(albedo), np.rot90(rough)
    return Surface(
        np.ascontiguousarray(relief, np.float32),
        np.clip(np.ascontiguousarray(albedo, np.float32), 0.01, 0.95),
        np.ascontiguousarray(rough, np.float32),
        step,
    )


def tiles(
    rng: np.random.Generator,
    width: float,
    height: float,
    pitch: tuple[float, float],
    palette: tuple,
    bond: float = 0.0,
    joint: float = 0.003,
    gloss: float = 0.15,
    jitter: float = 0.05,
    rise: float = 0.004,
    bands: dict[int, tuple] | None = None,
    step: float = 0.0025,
) -> Surface:
    """Laid tiles, slabs or ashlar: `pitch` in metres, `palette` of linear tones to pick from,
    `bands` gives whole courses (counted from below) a tone.
    """
    rows, columns = int(height / step), int(width / step)
    z, x = np.meshgrid(height - np.arange(rows) * step, np.arange(columns) * step, indexing="ij")
    x = x + 0.0015 * fractal(rng, x.shape, 1.6, 700)
    z = z + 0.0015 * fractal(rng, x.shape, 1.6, 900)
    row, column, size, u, v = _cells(rng, x, z, *pitch, bond, 0.002)
    fine, middle, wide = (
        fractal(rng, x.shape, 0.9, 10),
        fractal(rng, x.shape, 1.2, 50),
        fractal(rng, x.shape, 1.6, 1000),
    )
    half_u = (pitch[0] / 2 - joint / 2 + rng.normal(0, joint * 0.12, size))[row, column]
    half_v = (pitch[1] / 2 - joint / 2 + rng.normal(0, joint * 0.12, size))[row, column]
    chipped = (rng.random(size) ** 6 * 0.008)[row, column]
    distance = (
        _rounded(u, v, half_u, half_v, min(pitch) * 0.03)
        + chipped * np.maximum(middle - 0.4, 0)
        + 0.0003 * fine
    )
    face = smooth(0.0008, -0.0022, distance)
    tilt = rng.normal(0, 0.004, size)[row, column] * u + rng.normal(0, 0.004, size)[row, column] * v
    relief = (
        face * (rise + tilt + 0.00012 * middle + (0.00005 + 0.0006 * gloss) * fine * (gloss > 0.4))
        + (1 - face) * 0.0004 * fine
    )
    tones = np.array(palette)
    tone = tones[rng.integers(len(tones), size=size)] * np.exp(rng.normal(0, jitter, size))[
        ..., None
    ] + rng.normal(0, 0.004, (*size, 3))
    for band, colour in (bands or {}).items():
        tone[band] = np.array(colour) * np.exp(rng.normal(0, jitter, size[1]))[:, None]
    albedo = tone[row, column] * (1 + (0.015 + 0.12 * gloss) * fine + 0.03 * middle)[..., None]
    crazed = smooth(1.2, 2.2, np.abs(fractal(rng, x.shape, 0.9, 30))) * 0.12 * face
    grout = np.array([0.30, 0.28, 0.25]) * (1 + 0.12 * fine + 0.12 * wide)[..., None]
    albedo = albedo * (1 - crazed[..., None]) * face[..., None] + grout * (1 - face[..., None])
    level = height - np.arange(rows)[:, None] * step
    dirt = (smooth(0.2, 2.4, wide + 0.8 * smooth(0.7, 0.0, level)) * 0.5)[..., None]
    albedo = albedo * (1 - dirt) + dirt * albedo * np.array([0.55, 0.5, 0.42])
    rough = np.clip(gloss * face + 0.85 * (1 - face) + 0.3 * dirt[..., 0], 0.08, 0.95)
    return Surface(
        relief.astype(np.float32),
        np.clip(albedo, 0.01, 0.95).astype(np.float32),
        rough.astype(np.float32),
        step,
    )


def lettered(
    rng: np.random.Generator,
    surface: Surface,
    text: str,
    at: tuple[float, float],
    size: float,
    paint: tuple[float, float, float],
    cover: float = 0.85,
) -> Surface:
    """The surface with worn lettering painted over it: `at` = its left end and foot line, metres
    along and down; `size` = height of a capital in metres.
    """
    import cv2

    ink = np.zeros(surface.height.shape, np.uint8)
    scale = size / surface.step / 22
    cv2.putText(
        ink,
        text,
        (int(at[0] / surface.step), int(at[1] / surface.step)),
        cv2.FONT_HERSHEY_TRIPLEX,
        scale,
        255,
        max(1, round(scale * 2.6)),
        cv2.LINE_AA,
    )
    worn = smooth(1.6, 0.2, fractal(rng, ink.shape, 1.0, 60)) * (
        1 + 0.06 * fractal(rng, ink.shape, 0.8, 12)
    )
    alpha = (ink.astype(np.float32) / 255 * cover * np.clip(0.35 + 0.65 * worn, 0, 1))[..., None]
    albedo = surface.albedo * (1 - alpha) + np.array(paint, np.float32) * alpha
    return Surface(
        surface.height,
        albedo.astype(np.float32),
        np.maximum(surface.rough, alpha[..., 0] * 0.5).astype(np.float32),
        surface.step,
    )


def stone(
    rng: np.random.Generator,
    shape: tuple[int, int] = (400, 1200),
    tone: tuple[float, float, float] = (0.40, 0.37, 0.32),
) -> np.ndarray:
    fine, middle, wide = (
        fractal(rng, shape, 0.8, 8),
        fractal(rng, shape, 1.2, 60),
        fractal(rng, shape, 1.6, 400),
    )
    return np.clip(
        np.array(tone) * (1 + 0.08 * fine + 0.09 * middle + 0.12 * wide)[..., None], 0.02, 0.9
    ).astype(np.float32)


def soften(image: np.ndarray, sigma: float) -> np.ndarray:
    return ndimage.gaussian_filter(image, (sigma, sigma, 0)[: image.ndim])
