"""Render the scenario's pictures twice, with and without what must go: the second is the exact
truth.

Needs `demo/generator/requirements.txt`; run rarely, and commit what comes out:

    python demo/generator/render.py warehouse OUT [--width 1800] [--samples 64]

Writes OUT/<scene>-with.npy and -without.npy (linear float32, HxWx3), and -depth.npz (the same
views' depths, for masks).
"""

from __future__ import annotations

import argparse
import sys
import tempfile
from pathlib import Path

import mitsuba as mi
import numpy as np

mi.set_variant("llvm_ad_rgb")
sys.path.insert(0, str(Path(__file__).parent))
import surfaces  # noqa: E402

Transform = mi.ScalarTransform4f
SCRATCH = Path(tempfile.mkdtemp())


def texture(array: np.ndarray) -> dict:
    return {
        "type": "bitmap",
        "bitmap": mi.Bitmap(np.ascontiguousarray(array, np.float32)),
        "raw": True,
        "wrap_mode": "mirror",
    }


def matter(albedo, rough=0.8, metallic=0.0, specular=0.4) -> dict:
    colour = (
        texture(albedo)
        if isinstance(albedo, np.ndarray)
        else {"type": "rgb", "value": list(albedo)}
    )
    roughness = texture(rough[..., None]) if isinstance(rough, np.ndarray) else rough
    return {
        "type": "twosided",
        "inner": {
            "type": "principled",
            "base_color": colour,
            "roughness": roughness,
            "metallic": metallic,
            "specular": specular,
        },
    }


def mesh(
    name: str,
    points: np.ndarray,
    faces: np.ndarray,
    texcoords: np.ndarray,
    bsdf: dict,
    normals: np.ndarray | None = None,
) -> dict:
    made = mi.Mesh(
        name,
        len(points),
        len(faces),
        has_vertex_normals=normals is not None,
        has_vertex_texcoords=True,
    )
    parameters = mi.traverse(made)
    parameters["vertex_positions"] = np.ascontiguousarray(points, np.float32).ravel()
    parameters["faces"] = np.ascontiguousarray(faces, np.uint32).ravel()
    parameters["vertex_texcoords"] = np.ascontiguousarray(texcoords, np.float32).ravel()
    if normals is not None:
        parameters["vertex_normals"] = np.ascontiguousarray(normals, np.float32).ravel()
    parameters.update()
    path = SCRATCH / f"{name}.ply"
    made.write_ply(str(path))
    return {"type": "ply", "filename": str(path), "bsdf": bsdf, "face_normals": normals is None}


def relief(name: str, surface: surfaces.Surface, place, every: int = 2, holes=()) -> dict:
    """A height field as a mesh. `place(a, b, h)` maps metres along, across (down the rows) and
    height to the world;
    `holes` are (a0, a1, b0, b1) left open."""
    height = surface.height[::every, ::every]
    rows, columns = height.shape
    b, a = np.meshgrid(
        np.arange(rows) * surface.step * every,
        np.arange(columns) * surface.step * every,
        indexing="ij",
    )
    points = np.stack(place(a, b, height), -1)
    du, dv = np.gradient(points, axis=1), np.gradient(points, axis=0)
    normals = np.cross(du, dv)
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    index = np.arange(rows * columns).reshape(rows, columns)
    p, q, r, s = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    keep = np.ones(p.shape, bool)
    for a0, a1, b0, b1 in holes:
        keep &= ~((a[:-1, :-1] > a0) & (a[:-1, :-1] < a1) & (b[:-1, :-1] > b0) & (b[:-1, :-1] < b1))
    faces = np.concatenate([np.stack([p, q, r], -1)[keep], np.stack([p, r, s], -1)[keep]])
    texcoords = np.stack(
        [a / (columns * surface.step * every), b / (rows * surface.step * every)], -1
    )
    return mesh(
        name,
        points.reshape(-1, 3),
        faces,
        texcoords.reshape(-1, 2),
        matter(surface.albedo, surface.rough),
        normals.reshape(-1, 3),
    )


def box(name: str, size, transform, bsdf: dict, bevel: float = 0.006) -> dict:
    """A box with bevelled edges, centred on the origin before `transform`."""
    half = np.array(size) / 2
    bevel = min(bevel, half.min() * 0.45)
    points, faces = [], []
    corner = {}
    for signs in np.ndindex(2, 2, 2):
        sign = np.array(signs) * 2 - 1
        for axis in range(3):
            point = sign * (half - bevel)
            point = point.astype(float)
            point[axis] = sign[axis] * half[axis]
            corner[(*signs, axis)] = len(points)
            points.append(point)

    def quad(*keys):
        ids = [corner[k] for k in keys]
        faces.append([ids[0], ids[1], ids[2]])
        faces.append([ids[0], ids[2], ids[3]])

    for axis in range(3):
        u, v = [i for i in range(3) if i != axis]
        for side in (0, 1):

            def key(a, b, which=axis):
                k = [0, 0, 0]
                k[axis], k[u], k[v] = side, a, b
                return (*k, which)

            quad(key(0, 0), key(1, 0), key(1, 1), key(0, 1))
            for run, other in ((u, v), (v, u)):
                for end in (0, 1):
                    if other < axis:
                        continue
                    first = [0, 0, 0]
                    first[axis], first[other] = side, end
                    second = list(first)
                    second[run] = 1
                    quad((*first, axis), (*second, axis), (*second, other), (*first, other))
    for signs in np.ndindex(2, 2, 2):
        faces.append([corner[(*signs, axis)] for axis in range(3)])
    points = np.array(points)
    # Texture runs along the longest side.
    order = np.argsort(-half)
    texcoords = np.stack(
        [
            points[:, order[0]] / half[order[0]] * 0.5 + 0.5,
            points[:, order[1]] * 1.0 + points[:, order[2]] * 1.0 + 0.5,
        ],
        -1,
    )
    matrix = np.array(transform.matrix, dtype=float).reshape(4, 4)
    points = points @ matrix[:3, :3].T + matrix[:3, 3]
    return mesh(name, points, np.array(faces), texcoords, bsdf)


def revolved(
    name: str, profile: np.ndarray, bsdf: dict, at, around: int = 240, waviness=None
) -> dict:
    """A surface of revolution about z from `profile` (radius, height)."""
    angle = np.linspace(0, 2 * np.pi, around + 1)
    radius = profile[:, :1] + (waviness(angle)[None, :] if waviness else 0)
    z = (
        np.broadcast_to(profile[:, 1:], radius.shape)
        if radius.shape[1] > 1
        else np.broadcast_to(profile[:, 1:], (len(profile), around + 1))
    )
    radius = np.broadcast_to(radius, z.shape)
    points = np.stack(
        [radius * np.cos(angle) + at[0], radius * np.sin(angle) + at[1], z + at[2]], -1
    )
    normals = np.cross(np.gradient(points, axis=1), np.gradient(points, axis=0))
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True) + 1e-12
    rows, columns = z.shape
    index = np.arange(rows * columns).reshape(rows, columns)
    p, q, r, s = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    faces = np.concatenate(
        [np.stack([p, q, r], -1).reshape(-1, 3), np.stack([p, r, s], -1).reshape(-1, 3)]
    )
    texcoords = np.stack(
        [np.broadcast_to(angle / (2 * np.pi) * 3, z.shape), (z - z.min()) / np.ptp(z)], -1
    )
    return mesh(
        name, points.reshape(-1, 3), faces, texcoords.reshape(-1, 2), bsdf, normals.reshape(-1, 3)
    )


def sky(rng: np.random.Generator, sun, sun_power: float, haze: float) -> dict:
    """An equirectangular sky with cloud, haze and a slightly veiled sun, so that shadows have soft
    edges.
    """
    rows, columns = 512, 1024
    theta, phi = np.meshgrid(
        (np.arange(rows) + 0.5) / rows * np.pi,
        (np.arange(columns) + 0.5) / columns * 2 * np.pi,
        indexing="ij",
    )
    # Mitsuba's map is y-up; it is turned to z-up below.
    direction = np.stack(
        [np.sin(phi) * np.sin(theta), np.cos(theta), -np.cos(phi) * np.sin(theta)], -1
    )
    up = np.clip(direction[..., 1], 0, 1)
    cloud = surfaces.smooth(-0.7, 1.4, surfaces.fractal(rng, (rows, columns), 1.7, 300, 2.0))
    blue = np.array([0.36, 0.52, 0.80]) * (0.75 + 0.5 * (1 - up))[..., None]
    white = np.array([0.95, 0.96, 0.98])
    veil = np.clip(haze + (1 - haze) * cloud, 0, 1)[..., None]
    image = blue * (1 - veil) + white * veil
    image[direction[..., 1] < 0] = [0.16, 0.15, 0.135]
    s = np.array([sun[0], sun[2], -sun[1]], float)  # z-up world to y-up map
    s /= np.linalg.norm(s)
    angle = np.degrees(np.arccos(np.clip(direction @ s, -1, 1)))
    image += (np.exp(-((angle / 14) ** 2)) * 2.2)[..., None] * np.array([1, 0.95, 0.86])
    disc = angle < 1.3
    image[disc] += sun_power / max(disc.sum(), 1) * 40 * np.array([1.0, 0.90, 0.74])
    return {
        "type": "envmap",
        "bitmap": mi.Bitmap(image.astype(np.float32)),
        "to_world": Transform().rotate([1, 0, 0], 90),
    }


def wall(x0, z1, y=0.0):
    return lambda a, b, h: (a + x0, y - h, z1 - b)


def ground(x0, y0):
    return lambda a, b, h: (a + x0, b + y0, h)


def at(x, y, z):
    return Transform().translate([x, y, z])


def ladder(rng, foot, top, width=0.40, rungs=11) -> dict:
    """A wooden ladder leaning from `foot` to `top` (x, y, z of its middle)."""
    foot, top = np.array(foot, float), np.array(top, float)
    length = np.linalg.norm(top - foot)
    lean = np.degrees(np.arctan2(top[1] - foot[1], top[2] - foot[2]))
    aside = np.degrees(np.arctan2(top[0] - foot[0], top[2] - foot[2]))
    base = Transform().translate(list(foot)).rotate([0, 1, 0], aside).rotate([1, 0, 0], -lean)
    wood = lambda: matter(surfaces.boards(rng, 1.2, 0.12, 0.2, (0.42, 0.31, 0.19), 0.2).albedo, 0.6)
    parts = {}
    for side in (-1, 1):
        parts[f"stile{side + 1}"] = box(
            f"stile{side + 1}",
            (0.035, 0.07, length),
            base @ at(side * width / 2, 0, length / 2),
            wood(),
        )
    for i in range(rungs):
        z = 0.22 + i * (length - 0.42) / (rungs - 1)
        parts[f"rung{i}"] = {
            "type": "cylinder",
            "p0": [-width / 2, 0, z],
            "p1": [width / 2, 0, z],
            "radius": 0.016,
            "to_world": base,
            "bsdf": wood(),
        }
    return parts


def barrel(rng, x, y) -> dict:
    t = np.linspace(0, 1, 160)
    radius = 0.255 + 0.055 * np.sin(np.pi * t)
    albedo = surfaces.boards(
        rng, 1.9, 0.9, 0.075, (0.33, 0.22, 0.13), -0.1, upright=True, lapped=False
    ).albedo
    wave = lambda angle: -0.0035 * np.exp(-(((((angle / (2 * np.pi) * 25) % 1) - 0.5) / 0.10) ** 2))
    parts = {
        "barrel": revolved(
            "barrel",
            np.stack([radius, t * 0.86], -1),
            matter(albedo, 0.55),
            (x, y, 0.012),
            waviness=wave,
        )
    }
    for i, place in enumerate((0.05, 0.22, 0.78, 0.95)):
        r = 0.255 + 0.055 * np.sin(np.pi * place) + 0.004
        z = place * 0.86
        band = np.array(
            [
                [r - 0.006, z - 0.024],
                [r, z - 0.022],
                [r + 0.001, z],
                [r, z + 0.022],
                [r - 0.006, z + 0.024],
            ]
        )
        rust = surfaces.stone(rng, (64, 800), (0.16, 0.10, 0.075))
        parts[f"hoop{i}"] = revolved(f"hoop{i}", band, matter(rust, 0.5, 0.5), (x, y, 0.012))
    lid = matter(
        surfaces.boards(rng, 0.6, 0.6, 0.09, (0.33, 0.23, 0.14), 0.3, lapped=False).albedo, 0.6
    )
    parts["lid"] = {
        "type": "disk",
        "to_world": Transform().translate([x, y, 0.845]).scale(0.25),
        "bsdf": lid,
    }
    return parts


def folding_sign(rng, x, y, turn) -> dict:
    """Two framed boards hinged at the top, chalk on the front."""
    parts = {}
    base = Transform().translate([x, y, 0.01]).rotate([0, 0, 1], turn)
    frame = lambda: matter(surfaces.boards(rng, 1.0, 0.1, 0.2, (0.30, 0.19, 0.11), 0.0).albedo, 0.5)
    for n, (side, lean) in enumerate(((-1, -13), (1, 13))):
        panel = base @ Transform().translate([0, side * 0.235, 0]).rotate([1, 0, 0], lean)
        slate = (
            surfaces.stone(rng, (500, 300), (0.045, 0.05, 0.05))
            + 0.05 * np.clip(surfaces.fractal(rng, (500, 300), 1.4, 120), 0, 2)[..., None]
        )
        if side < 0:
            import cv2

            chalk = np.zeros((500, 300), np.uint8)
            for row, text in enumerate(("HEUTE", "Fisch", "& Brot", "3 Taler")):
                cv2.putText(
                    chalk,
                    text,
                    (30 + 9 * (row % 2), 110 + row * 100),
                    cv2.FONT_HERSHEY_SCRIPT_COMPLEX,
                    1.9,
                    255,
                    7,
                    cv2.LINE_AA,
                )
            chalk = (
                chalk.astype(np.float32)
                / 255
                * np.clip(0.75 + 0.3 * surfaces.fractal(rng, chalk.shape, 0.6, 8), 0.1, 1)
            )
            slate = slate * (1 - chalk[..., None]) + 0.75 * chalk[..., None]
        slate = np.flipud(np.clip(slate, 0.02, 0.9)).astype(np.float32)
        parts[f"slate{n}"] = {
            "type": "rectangle",
            "to_world": panel
            @ Transform()
            .translate([0, side * 0.012, 0.56])
            .rotate([1, 0, 0], 90)
            .scale([0.26, 0.44, 1]),
            "bsdf": matter(slate, 0.7),
        }
        parts[f"back{n}"] = box(f"back{n}", (0.53, 0.018, 0.90), panel @ at(0, 0, 0.56), frame())
        for name, size, place in (
            ("l", (0.05, 0.03, 1.06), (-0.275, side * 0.006, 0.53)),
            ("r", (0.05, 0.03, 1.06), (0.275, side * 0.006, 0.53)),
            ("t", (0.55, 0.03, 0.055), (0, side * 0.006, 1.03)),
            ("b", (0.55, 0.03, 0.055), (0, side * 0.006, 0.10)),
        ):
            parts[f"f{name}{n}"] = box(f"f{name}{n}", size, panel @ at(*place), frame())
    return parts


def wheel(name: str, radius: float, transform, bsdf: dict, spokes: int = 10) -> dict:
    """A spoked wheel about the z axis before `transform`."""
    ring = np.linspace(0, 2 * np.pi, 24)
    rim = np.stack([radius - 0.02 + 0.02 * np.cos(ring), 0.024 * np.sin(ring)], -1)
    parts = {
        f"{name}rim": {**revolved(f"{name}rim", rim, bsdf, (0, 0, 0)), "to_world": transform},
        f"{name}hub": {
            "type": "cylinder",
            "p0": [0, 0, -0.06],
            "p1": [0, 0, 0.06],
            "radius": 0.045,
            "to_world": transform,
            "bsdf": bsdf,
        },
    }
    for i in range(spokes):
        angle = 2 * np.pi * i / spokes
        tip = [float(np.cos(angle) * (radius - 0.02)), float(np.sin(angle) * (radius - 0.02)), 0]
        parts[f"{name}spoke{i}"] = {
            "type": "cylinder",
            "p0": [0, 0, 0],
            "p1": tip,
            "radius": 0.013,
            "to_world": transform,
            "bsdf": bsdf,
        }
    return parts


def hand_cart(rng, x, y, turn) -> dict:
    """Two wheels, a boarded bed, two shafts resting on props."""
    base = Transform().translate([x, y, 0.012]).rotate([0, 0, 1], turn)
    wood = lambda tone=(0.36, 0.27, 0.17): matter(
        surfaces.boards(rng, 1.4, 0.2, 0.2, tone, 0.15).albedo, 0.6
    )
    parts = {}
    for n, side in enumerate((-1, 1)):
        parts |= wheel(
            f"wheel{n}",
            0.36,
            base @ at(-0.12, side * 0.46, 0.36) @ Transform().rotate([1, 0, 0], 90),
            wood((0.20, 0.09, 0.065)),
        )
        parts[f"shaft{n}"] = box(
            f"shaft{n}", (1.95, 0.05, 0.06), base @ at(0.42, side * 0.33, 0.50), wood()
        )
        parts[f"prop{n}"] = box(
            f"prop{n}", (0.05, 0.05, 0.47), base @ at(0.52, side * 0.33, 0.235), wood()
        )
        parts[f"side{n}"] = box(
            f"side{n}",
            (1.1, 0.025, 0.24),
            base @ at(-0.05, side * 0.37, 0.66),
            wood((0.24, 0.30, 0.31)),
        )
    for i in range(5):
        parts[f"bed{i}"] = box(
            f"bed{i}", (1.12, 0.135, 0.025), base @ at(-0.05, -0.28 + 0.14 * i, 0.545), wood()
        )
    for n, end in enumerate((-0.6, 0.5)):
        parts[f"end{n}"] = box(
            f"end{n}", (0.025, 0.74, 0.24), base @ at(end, 0, 0.66), wood((0.24, 0.30, 0.31))
        )
    parts["axle"] = box("axle", (0.06, 0.86, 0.06), base @ at(-0.12, 0, 0.36), wood())
    return parts


def hose_reel(rng, x, z) -> dict:
    """A drum on a bracket at the wall, red hose wound on it, its end hanging."""
    facing = Transform().translate([x, -0.19, z]).rotate([1, 0, 0], 90)
    iron = matter(surfaces.stone(rng, (300, 300), (0.10, 0.11, 0.115)), 0.45, 0.3)
    red = matter(surfaces.stone(rng, (200, 600), (0.36, 0.055, 0.04)), 0.5)
    ring = np.linspace(0, 2 * np.pi, 24)
    parts = {}
    for i in range(4):
        for layer in range(2):
            tube = np.stack(
                [
                    0.235 - 0.034 * layer + 0.019 * np.cos(ring),
                    -0.058 + 0.038 * i + 0.019 * np.sin(ring),
                ],
                -1,
            )
            parts[f"hose{i}{layer}"] = {
                **revolved(f"hose{i}{layer}", tube, red, (0, 0, 0)),
                "to_world": facing,
            }
    for n, (place, radius) in enumerate(((-0.095, 0.285), (0.095, 0.285))):
        rim = np.stack([radius - 0.012 + 0.012 * np.cos(ring), place + 0.012 * np.sin(ring)], -1)
        parts[f"rim{n}"] = {**revolved(f"rim{n}", rim, iron, (0, 0, 0)), "to_world": facing}
        for i in range(5):
            angle = 2 * np.pi * i / 5 + 0.3
            parts[f"arm{n}{i}"] = {
                "type": "cylinder",
                "p0": [0, 0, place],
                "p1": [float(np.cos(angle) * radius), float(np.sin(angle) * radius), place],
                "radius": 0.011,
                "to_world": facing,
                "bsdf": iron,
            }
    parts["hub"] = {
        "type": "cylinder",
        "p0": [0, 0, -0.15],
        "p1": [0, 0, 0.12],
        "radius": 0.05,
        "to_world": facing,
        "bsdf": iron,
    }
    parts["bracket"] = box("bracket", (0.16, 0.05, 0.30), at(x, -0.025, z), iron)
    parts["tail"] = {
        "type": "cylinder",
        "p0": [x + 0.235, -0.22, z],
        "p1": [x + 0.25, -0.20, z - 0.62],
        "radius": 0.019,
        "bsdf": red,
    }
    parts["nozzle"] = {
        "type": "cylinder",
        "p0": [x + 0.25, -0.20, z - 0.60],
        "p1": [x + 0.256, -0.20, z - 0.78],
        "radius": 0.024,
        "bsdf": iron,
    }
    return parts


def buoy(rng, x, y) -> dict:
    """A net buoy standing on its foot: orange with a white band, an eye on top."""
    t = np.linspace(-np.pi / 2, np.pi / 2, 120)
    profile = np.stack([np.maximum(0.27 * np.cos(t), 0.05), 0.30 + 0.29 * np.sin(t)], -1)
    skin = surfaces.stone(rng, (400, 900), (0.62, 0.17, 0.03))
    skin[150:235] = surfaces.stone(rng, (85, 900), (0.62, 0.60, 0.55))
    grime = surfaces.smooth(-0.2, 2.0, surfaces.fractal(rng, (400, 900), 1.5, 250))[..., None] * 0.4
    skin = (skin * (1 - grime) + grime * 0.10).astype(np.float32)
    top = np.linspace(0, 2 * np.pi, 24)
    eye = np.stack([0.06 + 0.016 * np.cos(top), 0.016 * np.sin(top)], -1)
    iron = matter(surfaces.stone(rng, (80, 400), (0.09, 0.07, 0.06)), 0.55, 0.3)
    return {
        "buoy": revolved("buoy", profile, matter(skin, 0.35), (x, y, 0.01)),
        "neck": {
            "type": "cylinder",
            "p0": [x, y, 0.56],
            "p1": [x, y, 0.66],
            "radius": 0.045,
            "bsdf": iron,
        },
        "eye": {
            **revolved("eye", eye, iron, (0, 0, 0)),
            "to_world": Transform()
            .translate([x, y, 0.71])
            .rotate([0, 0, 1], 25)
            .rotate([1, 0, 0], 90),
        },
    }


def market(rng) -> tuple[dict, dict, dict]:
    """The market hall's tiled wall: a hose reel hangs across its dado rail, and a stand's number is
    painted on the tiles.
    """
    green = (0.055, 0.135, 0.105)
    cream = ((0.60, 0.56, 0.45), (0.57, 0.53, 0.42), (0.62, 0.585, 0.49))
    tiled = surfaces.tiles(
        rng,
        8.0,
        3.6,
        (0.152, 0.152),
        cream,
        joint=0.0045,
        gloss=0.16,
        bands={n: green for n in (0, 1, 9, 11)},
    )
    slabs = surfaces.tiles(
        rng,
        9.0,
        6.0,
        (0.62, 0.44),
        ((0.26, 0.25, 0.23), (0.31, 0.295, 0.265), (0.22, 0.215, 0.20)),
        bond=0.5,
        joint=0.009,
        gloss=0.7,
        jitter=0.10,
        rise=0.003,
        step=0.003,
    )
    oak = lambda tone=(0.13, 0.19, 0.165): matter(
        surfaces.boards(rng, 4.0, 0.1, 0.3, tone, 0.1).albedo, 0.5
    )
    iron = lambda: matter(surfaces.stone(rng, (600, 100), (0.12, 0.13, 0.13)), 0.5, 0.3)
    scene = {
        "sky": sky(rng, (-0.62, -0.74, 0.55), 2300.0, 0.4),
        "wall": relief("wall", tiled, wall(-4.0, 3.6)),
        "floor": relief("floor", slabs, ground(-4.5, -5.95)),
        "rail": box("rail", (8.0, 0.035, 0.10), at(0, -0.016, 1.19), oak()),
        "kerb": box(
            "kerb",
            (8.0, 0.12, 0.14),
            at(0, -0.05, 0.07),
            matter(surfaces.stone(rng, tone=(0.34, 0.32, 0.29)), 0.7),
            0.012,
        ),
    }
    for n, x in enumerate((-1.86, 2.45)):
        scene[f"column{n}"] = {
            "type": "cylinder",
            "p0": [x, -0.30, 0.0],
            "p1": [x, -0.30, 3.6],
            "radius": 0.075,
            "bsdf": iron(),
        }
        scene[f"foot{n}"] = {
            **revolved(
                f"foot{n}",
                np.array([[0.16, 0.0], [0.16, 0.06], [0.12, 0.10], [0.10, 0.24], [0.076, 0.26]]),
                iron(),
                (x, -0.30, 0.004),
            )
        }
    for i in range(4):
        scene[f"leg{i}"] = box(
            f"leg{i}",
            (0.07, 0.07, 0.42),
            at(-1.45 + 0.95 * (i % 2), -0.42 + 0.28 * (i // 2), 0.215),
            oak((0.30, 0.22, 0.14)),
        )
    for i in range(3):
        scene[f"seat{i}"] = box(
            f"seat{i}",
            (1.25, 0.105, 0.035),
            at(-0.97, -0.42 + 0.125 * i, 0.445),
            oak((0.34, 0.25, 0.15)),
        )
    painted = surfaces.lettered(
        rng, tiled, "STAND 7", (2.85, 1.47), 0.21, (0.045, 0.065, 0.13), 0.9
    )
    gone = {"wall": relief("wall", painted, wall(-4.0, 3.6)), **hose_reel(rng, 0.95, 1.22)}
    return scene, gone, {"origin": [0.10, -4.6, 1.55], "target": [0.12, 0, 1.06], "fov": 52}


def quay(rng) -> tuple[dict, dict, dict]:
    """A railing before a brick wall: a hand-cart stands at it, and a scaffold pole cuts the frame's
    left edge.
    """
    bricks = surfaces.bricks(rng, 9.0, 4.6)
    window = (1.55, 2.75, 1.15, 2.35)
    stone = lambda tone=(0.40, 0.37, 0.32): matter(surfaces.stone(rng, tone=tone), 0.8)
    iron = lambda tone=(0.075, 0.085, 0.09): matter(surfaces.stone(rng, (200, 900), tone), 0.5, 0.2)
    scene = {
        "sky": sky(rng, (0.55, -0.76, 0.58), 2500.0, 0.35),
        "wall": relief(
            "wall",
            bricks,
            wall(-4.5, 4.6),
            holes=[(window[0] + 4.5, window[1] + 4.5, 4.6 - window[3], 4.6 - window[2])],
        ),
        "quay": relief("quay", surfaces.setts(rng, 10.0, 7.0), ground(-5.0, -6.95)),
        "shutter": relief(
            "shutter",
            surfaces.boards(
                rng, 1.2, 1.2, 0.12, (0.24, 0.29, 0.20), 0.25, upright=True, lapped=False
            ),
            wall(1.55, 2.35, 0.07),
        ),
        "plinth": box(
            "plinth", (9.0, 0.16, 0.42), at(0, -0.02, 0.21), stone((0.33, 0.31, 0.275)), 0.015
        ),
        "course": box(
            "course", (9.0, 0.12, 0.13), at(0, -0.01, 2.66), stone((0.42, 0.385, 0.33)), 0.012
        ),
        "sill": box("sill", (1.36, 0.22, 0.085), at(2.15, -0.02, 1.13), stone()),
        "lintel": box("lintel", (1.5, 0.16, 0.20), at(2.15, 0.055, 2.45), stone()),
        "jamb": box("jamb", (1.4, 0.04, 1.4), at(2.15, 0.16, 1.75), stone((0.14, 0.13, 0.12))),
    }
    for i, z in enumerate((0.55, 1.02)):
        scene[f"bar{i}"] = {
            "type": "cylinder",
            "p0": [-4.6, -1.1, z],
            "p1": [4.6, -1.1, z],
            "radius": 0.026,
            "bsdf": iron(),
        }
    for i, x in enumerate((-2.75, -1.15, 0.45, 2.05)):
        scene[f"post{i}"] = box(f"post{i}", (0.075, 0.075, 1.10), at(x, -1.1, 0.55), iron())
        scene[f"knob{i}"] = {
            "type": "sphere",
            "center": [x, -1.1, 1.13],
            "radius": 0.055,
            "bsdf": iron(),
        }
    zinc = lambda: matter(surfaces.stone(rng, (600, 100), (0.33, 0.34, 0.345)), 0.4, 0.6)
    gone = hand_cart(rng, 0.05, -2.0, 12)
    gone["pole"] = {
        "type": "cylinder",
        "p0": [-1.93, -1.45, 0.0],
        "p1": [-1.93, -1.45, 4.6],
        "radius": 0.032,
        "bsdf": zinc(),
    }
    gone["coupler"] = {
        "type": "cylinder",
        "p0": [-1.93, -1.45, 1.62],
        "p1": [-1.93, -1.45, 1.74],
        "radius": 0.052,
        "bsdf": iron((0.16, 0.12, 0.09)),
    }
    gone["baseplate"] = box("baseplate", (0.16, 0.16, 0.02), at(-1.93, -1.45, 0.03), zinc())
    return scene, gone, {"origin": [0.15, -6.1, 1.64], "target": [0.05, 0, 0.86], "fov": 49}


def jetty(rng) -> tuple[dict, dict, dict]:
    """A deck whose planks run to the wall: a buoy and a barrel stand on it."""
    deck = surfaces.boards(
        rng, 8.0, 6.0, 0.145, (0.30, 0.265, 0.215), 1.2, upright=True, lapped=False
    )
    ashlar = surfaces.tiles(
        rng,
        8.6,
        3.2,
        (0.66, 0.33),
        ((0.33, 0.30, 0.25), (0.38, 0.345, 0.285), (0.29, 0.27, 0.235)),
        bond=0.5,
        joint=0.012,
        gloss=0.8,
        jitter=0.11,
        rise=0.012,
    )
    iron = lambda tone=(0.08, 0.085, 0.085): matter(surfaces.stone(rng, (300, 300), tone), 0.5, 0.3)
    bollard = np.array(
        [
            [0.15, 0.0],
            [0.15, 0.03],
            [0.115, 0.05],
            [0.10, 0.25],
            [0.135, 0.31],
            [0.145, 0.35],
            [0.12, 0.39],
            [0.001, 0.40],
        ]
    )
    scene = {
        "sky": sky(rng, (-0.58, -0.72, 0.50), 2200.0, 0.4),
        "deck": relief("deck", deck, ground(-4.0, -5.9)),
        "wall": relief("wall", ashlar, wall(-4.3, 3.2)),
        "fender": box(
            "fender",
            (8.6, 0.12, 0.20),
            at(0, -0.07, 0.72),
            matter(surfaces.boards(rng, 6.0, 0.2, 0.5, (0.17, 0.14, 0.11), 0.6).albedo, 0.7),
        ),
        "sleeper": box(
            "sleeper",
            (8.6, 0.18, 0.12),
            at(0, -0.12, 0.05),
            matter(surfaces.boards(rng, 6.0, 0.2, 0.5, (0.22, 0.18, 0.14), 0.6).albedo, 0.7),
        ),
    }
    for n, x in enumerate((-2.0, 1.95)):
        scene[f"bollard{n}"] = revolved(f"bollard{n}", bollard, iron(), (x, -0.75, 0.006))
    rope = matter(surfaces.stone(rng, (300, 300), (0.42, 0.36, 0.25)), 0.9)
    for i in range(3):
        ring = np.linspace(0, 2 * np.pi, 40)
        scene[f"rope{i}"] = revolved(
            f"rope{i}",
            np.stack(
                [
                    0.24 - 0.04 * (i % 2) + 0.021 * np.cos(ring),
                    0.03 + 0.04 * i + 0.021 * np.sin(ring),
                ],
                -1,
            ),
            rope,
            (1.15, -1.5, 0),
        )
    ring = np.linspace(0, 2 * np.pi, 24)
    scene["ringbolt"] = {
        **revolved(
            "ringbolt",
            np.stack([0.11 + 0.014 * np.cos(ring), 0.014 * np.sin(ring)], -1),
            iron(),
            (0, 0, 0),
        ),
        "to_world": Transform().translate([0.95, -0.03, 1.55]).rotate([1, 0, 0], 90),
    }
    gone = {**buoy(rng, 0.28, -1.55), **barrel(rng, -1.05, -1.15)}
    return scene, gone, {"origin": [0.05, -5.0, 1.62], "target": [0.0, 0, 0.68], "fov": 50}


def warehouse(rng) -> tuple[dict, dict, dict]:
    bricks = surfaces.bricks(rng, 9.0, 5.0)
    door, window = (-2.75, -1.45, 0.0, 2.15), (1.9, 3.1, 1.05, 2.35)
    holes = [(d[0] + 4.5, d[1] + 4.5, 5.0 - d[3], 5.0 - d[2] + 0.1) for d in (door, window)]
    stone = lambda tone=(0.40, 0.37, 0.32): matter(surfaces.stone(rng, tone=tone), 0.8)
    scene = {
        "sky": sky(rng, (-0.46, -0.80, 0.60), 2600.0, 0.35),
        "wall": relief("wall", bricks, wall(-4.5, 5.0), holes=holes),
        "quay": relief(
            "quay",
            surfaces.setts(rng, 10.0, 7.0, puddle=(2.6, 4.6, 0.62, -0.004)),
            ground(-5.0, -6.95),
        ),
        "planks": relief(
            "planks",
            surfaces.boards(
                rng, 1.3, 2.2, 0.145, (0.10, 0.16, 0.155), 0.25, upright=True, lapped=False
            ),
            wall(-2.75, 2.15, 0.11),
        ),
    }
    for n, (x0, x1, z0, z1) in enumerate((door, window)):
        width, middle = x1 - x0, (x0 + x1) / 2
        scene[f"lintel{n}"] = box(
            f"lintel{n}", (width + 0.36, 0.16, 0.22), at(middle, 0.055, z1 + 0.11), stone()
        )
        scene[f"jambl{n}"] = box(
            f"jambl{n}",
            (0.08, 0.22, z1 - z0),
            at(x0 - 0.035, 0.10, (z0 + z1) / 2),
            stone((0.33, 0.30, 0.26)),
        )
        scene[f"jambr{n}"] = box(
            f"jambr{n}",
            (0.08, 0.22, z1 - z0),
            at(x1 + 0.035, 0.10, (z0 + z1) / 2),
            stone((0.33, 0.30, 0.26)),
        )
    scene["sill"] = box("sill", (1.36, 0.22, 0.085), at(2.5, -0.02, 1.03), stone())
    scene["step"] = box(
        "step", (1.5, 0.42, 0.13), at(-2.1, -0.17, 0.06), stone((0.34, 0.32, 0.29)), 0.012
    )
    scene["course"] = box(
        "course", (9.0, 0.13, 0.15), at(0, -0.01, 2.93), stone((0.42, 0.385, 0.33)), 0.012
    )
    scene["glass"] = {
        "type": "rectangle",
        "to_world": Transform()
        .translate([2.5, 0.13, 1.7])
        .rotate([1, 0, 0], 90.6)
        .scale([0.6, 0.66, 1]),
        "bsdf": matter((0.02, 0.025, 0.03), 0.05, 0.0, 0.7),
    }
    painted = lambda: matter(
        surfaces.boards(rng, 1.2, 0.1, 0.2, (0.48, 0.47, 0.42), 0.1).albedo, 0.5
    )
    for i, (size, place) in enumerate(
        (
            ((0.07, 0.06, 1.3), (1.935, 0.1, 1.7)),
            ((0.07, 0.06, 1.3), (3.065, 0.1, 1.7)),
            ((1.2, 0.06, 0.07), (2.5, 0.1, 1.1)),
            ((1.2, 0.06, 0.07), (2.5, 0.1, 2.3)),
            ((0.05, 0.05, 1.3), (2.5, 0.105, 1.7)),
            ((1.2, 0.04, 0.035), (2.5, 0.11, 1.5)),
            ((1.2, 0.04, 0.035), (2.5, 0.11, 1.9)),
        )
    ):
        scene[f"sash{i}"] = box(f"sash{i}", size, at(*place), painted())
    iron = lambda: matter(surfaces.stone(rng, (80, 400), (0.09, 0.07, 0.06)), 0.55, 0.3)
    for i, (x, z, turn) in enumerate(
        ((0.62, 2.42, 38), (0.62, 2.42, -38), (-3.4, 2.42, 38), (-3.4, 2.42, -38))
    ):
        scene[f"anchor{i}"] = box(
            f"anchor{i}",
            (0.055, 0.03, 0.62),
            at(x, -0.025, z) @ Transform().rotate([0, 1, 0], turn),
            iron(),
        )
    scene["pipe"] = {
        "type": "cylinder",
        "p0": [-0.95, -0.07, 0.02],
        "p1": [-0.95, -0.07, 5.0],
        "radius": 0.048,
        "bsdf": matter(surfaces.stone(rng, (600, 100), (0.20, 0.22, 0.215)), 0.5),
    }
    for i, z in enumerate((0.7, 2.3, 3.9)):
        scene[f"collar{i}"] = {
            "type": "cylinder",
            "p0": [-0.95, -0.07, z],
            "p1": [-0.95, -0.07, z + 0.06],
            "radius": 0.060,
            "bsdf": iron(),
        }
    # Timbers against the wall at the far right, so that the row does not look swept.
    for i in range(5):
        scene[f"beam{i}"] = box(
            f"beam{i}",
            (1.5 + 0.1 * i, 0.14, 0.13),
            at(3.5, -0.28 - 0.05 * (i % 2), 0.085 + 0.14 * (i // 2))
            @ Transform().translate([0, -0.17 * (i % 2), 0]).rotate([0, 0, 1], 1.5 * i - 2),
            matter(surfaces.boards(rng, 1.5, 0.3, 0.5, (0.35, 0.27, 0.18), 0.5).albedo, 0.7),
        )
    gone = {**ladder(rng, (0.95, -0.85, 0.01), (0.72, -0.055, 3.25)), **barrel(rng, -0.28, -1.25)}
    view = {"origin": [0.45, -6.0, 1.66], "target": [-0.02, 0, 1.22], "fov": 53}
    return scene, gone, view


def boatshed(rng) -> tuple[dict, dict, dict]:
    shed = surfaces.boards(rng, 8.4, 3.6, 0.155, (0.30, 0.355, 0.345), 0.15)
    stone = lambda tone=(0.40, 0.37, 0.32): matter(surfaces.stone(rng, tone=tone), 0.8)
    gate = (1.15, 2.75)
    scene = {
        "sky": sky(rng, (0.66, -0.70, 0.52), 2100.0, 0.45),
        # Weatherboards: the lower edge of each laps over the one below, so rows are counted from
        # the top down.
        "wall": relief(
            "wall", shed, wall(-4.2, 3.75), holes=[(gate[0] + 4.2, gate[1] + 4.2, 1.4, 4.0)]
        ),
        "quay": relief(
            "quay",
            surfaces.setts(rng, 10.0, 6.6, puddle=(6.1, 4.5, 0.42, -0.004)),
            ground(-5.0, -6.45),
        ),
        "gate": relief(
            "gate",
            surfaces.boards(
                rng, 1.6, 2.45, 0.16, (0.33, 0.10, 0.075), 0.3, upright=True, lapped=False
            ),
            wall(1.15, 2.45, 0.05),
        ),
        "plinth": relief("plinth", surfaces.bricks(rng, 5.35, 0.27), wall(-4.2, 0.26, -0.02)),
    }
    scene["plinthcap"] = box(
        "plinthcap", (5.35, 0.1, 0.05), at(-4.2 + 5.35 / 2, 0.0, 0.275), stone((0.36, 0.33, 0.29))
    )
    trim = lambda: matter(
        surfaces.boards(rng, 2.0, 0.14, 0.3, (0.50, 0.49, 0.44), 0.2).albedo, 0.55
    )
    scene["trim0"] = box("trim0", (0.13, 0.08, 2.45), at(1.10, -0.03, 1.22), trim())
    scene["trim1"] = box("trim1", (0.13, 0.08, 2.45), at(2.80, -0.03, 1.22), trim())
    scene["trim2"] = box("trim2", (1.95, 0.09, 0.14), at(1.95, -0.03, 2.46), trim())
    iron = lambda: matter(surfaces.stone(rng, (80, 400), (0.07, 0.06, 0.055)), 0.5, 0.3)
    for i, z in enumerate((0.55, 1.75)):
        scene[f"strap{i}"] = box(f"strap{i}", (0.85, 0.02, 0.06), at(2.28, 0.035, z), iron())
    scene["ring"] = box("ring", (0.05, 0.05, 0.16), at(1.35, 0.03, 1.15), iron())
    scene["corner"] = box("corner", (0.16, 0.12, 3.7), at(-3.35, -0.01, 1.85), trim())
    rope = matter(surfaces.stone(rng, (300, 300), (0.42, 0.36, 0.25)), 0.9)
    for i in range(4):
        ring = np.linspace(0, 2 * np.pi, 40)
        radius = 0.25 - 0.035 * (i % 2)
        scene[f"rope{i}"] = revolved(
            f"rope{i}",
            np.stack([radius + 0.021 * np.cos(ring), 0.045 + 0.04 * i + 0.021 * np.sin(ring)], -1),
            rope,
            (-2.55, -0.75, 0),
        )
    gone = folding_sign(rng, -0.62, -0.95, 14)
    view = {"origin": [-0.75, -5.3, 1.58], "target": [-0.30, 0, 1.02], "fov": 50}
    return scene, gone, view


SCENES = {
    "warehouse": (warehouse, 11),
    "boatshed": (boatshed, 23),
    "market": (market, 31),
    "quay": (quay, 47),
    "jetty": (jetty, 59),
}


def render(parts: dict, view: dict, width: int, height: int, samples: int, seed: int) -> np.ndarray:
    scene = mi.load_dict(
        {
            "type": "scene",
            "integrator": {"type": "path", "max_depth": 7},
            **parts,
            "camera": {
                "type": "perspective",
                "fov": view["fov"],
                "fov_axis": "x",
                "to_world": Transform().look_at(
                    origin=view["origin"], target=view["target"], up=[0, 0, 1]
                ),
                "film": {
                    "type": "hdrfilm",
                    "width": width,
                    "height": height,
                    "rfilter": {"type": "gaussian"},
                    "pixel_format": "rgb",
                },
                "sampler": {"type": "independent", "sample_count": 8},
            },
        }
    )
    total = np.zeros((height, width, 3), np.float64)
    for number in range(max(1, samples // 8)):
        one = np.array(mi.render(scene, spp=8, seed=seed + number))[..., :3]
        one = np.nan_to_num(one, nan=0.0, posinf=8.0)
        total += np.minimum(one, 8.0)
        print(f"  pass {number + 1} of {max(1, samples // 8)}", flush=True)
    beauty = (total / max(1, samples // 8)).astype(np.float32)
    deep = mi.render(
        scene, spp=4, seed=1, integrator=mi.load_dict({"type": "aov", "aovs": "z:depth"})
    )
    return beauty, np.array(deep)[..., -1].astype(np.float32)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("scene", choices=SCENES)
    parser.add_argument("out", type=Path)
    parser.add_argument("--width", type=int, default=1800)
    parser.add_argument("--samples", type=int, default=64)
    parser.add_argument("--only", choices=("with", "without"))
    given = parser.parse_args()
    given.out.mkdir(parents=True, exist_ok=True)
    for kind in ("with", "without"):
        if given.only and kind != given.only:
            continue
        build, seed = SCENES[given.scene]
        scene, gone, view = build(np.random.default_rng(seed))
        parts = {**scene, **gone} if kind == "with" else scene
        beauty, depth = render(parts, view, given.width, given.width * 2 // 3, given.samples, 7)
        np.savez_compressed(
            given.out / f"{given.scene}-{kind}.npz",
            light=beauty.astype(np.float16),
            depth=depth.astype(np.float16),
        )
        print(given.scene, kind, "done", flush=True)


if __name__ == "__main__":
    main()
