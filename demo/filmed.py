"""Shots with known truth: a camera that pans over a photograph by hand, something that has to go,
light that changes, something that passes in front; and fills with one fault each.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter1d

#: What is made wrong, and from which frame on it can be seen.
FAULTS = ("drift", "flicker", "pop", "boiling", "softening", "light", "occlusion", "shadow")


@dataclass
class Made:
    """A shot and what is known of it.

    Attributes:
        original, result: frames, uint8 (height, width, 3).
        masks: where the thing is in each frame, bool.
        wrong: frames in which the fault is. camera: from the ground's pixels to each frame's, (3, 3).
    """

    original: list[np.ndarray]
    result: list[np.ndarray]
    masks: list[np.ndarray]
    wrong: list[int] = field(default_factory=list)
    camera: list[np.ndarray] = field(default_factory=list)


@dataclass(frozen=True)
class Scene:
    """What is filmed.

    Attributes:
        frames: how many. shape: (height, width) of each. pan: pixels a frame. shake: pixels.
        grain: sigma, levels. light: how much the light changes over the shot, parts.
        passing: whether something passes in front. walking: whether what has to go walks, with a
            shadow.
        radius: of what has to go, pixels. wave: how far the sides of what passes swing, pixels.
    """

    frames: int = 48
    shape: tuple[int, int] = (240, 320)
    pan: float = 1.2
    shake: float = 0.6
    grain: float = 1.2
    light: float = 0.15
    passing: bool = True
    walking: bool = False
    radius: int = 30
    wave: float = 6.0
    seed: int = 1


def filmed(ground: np.ndarray, scene: Scene, fault: str = "", amount: float = 1.0) -> Made:
    """A shot over a ground (a photograph larger than the frame plus the pan), uint8 (n, m, 3)."""
    return _Filming(ground, scene, fault, amount).made()


class _Filming:
    def __init__(self, ground: np.ndarray, scene: Scene, fault: str, amount: float) -> None:
        self.scene, self.fault, self.amount = scene, fault, amount
        self.rng = np.random.default_rng(scene.seed)
        self.ground = ground.astype(np.float32)
        height, width = scene.shape
        count = scene.frames
        away = np.cumsum(self.rng.normal(0, 1, (count, 2)), axis=0)
        away = gaussian_filter1d(away, 1.2, axis=0) * scene.shake
        travel = np.stack([np.arange(count) * scene.pan, np.zeros(count)], axis=1)
        spare = np.array([ground.shape[1] - width, ground.shape[0] - height], float)
        start = (spare - travel[-1]) / 2
        self.corner = np.clip(start + travel + away - away.mean(axis=0), 2, spare - 2)
        self.turn = gaussian_filter1d(self.rng.normal(0, 1, count), 2.0) * 0.12
        middle = self.corner.mean(axis=0) + np.array([width, height]) / 2
        self.at = np.tile(middle, (count, 1))
        if scene.walking:
            self.at[:, 0] += np.linspace(-0.28, 0.28, count) * width
        turns = np.linspace(0, 1, count)
        self.gain = 1 + scene.light * np.sin(2.2 * np.pi * turns + self.rng.uniform(0, 3))
        where = slice(int(0.35 * count), int(0.65 * count))
        self.fault_frames = list(range(count))[where]
        self.pop_at = int(self.rng.integers(count // 4, 3 * count // 4))
        self.phases = self.rng.normal(0, 1, count)

    def view(
        self, plane: np.ndarray, number: int, extra: tuple[float, float] = (0, 0)
    ) -> np.ndarray:
        """A plane of the ground as the camera sees it in one frame."""
        height, width = self.scene.shape
        return cv2.warpAffine(
            plane,
            self.camera(number, extra)[:2],
            (width, height),
            flags=cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_REFLECT_101,
        )

    def camera(self, number: int, extra: tuple[float, float] = (0, 0)) -> np.ndarray:
        """From the ground's pixels to a frame's, (3, 3)."""
        height, width = self.scene.shape
        matrix = cv2.getRotationMatrix2D((width / 2, height / 2), float(self.turn[number]), 1.0)
        shift = np.eye(3)
        shift[:2, 2] = -(self.corner[number] + np.asarray(extra))
        return np.vstack([matrix, [0, 0, 1]]) @ shift

    def disc(self, x: float, y: float, radius: float, soft: float = 1.0) -> np.ndarray:
        """A disc on the ground, float32 0..1."""
        yy, xx = np.mgrid[: self.ground.shape[0], : self.ground.shape[1]]
        far = np.hypot(xx - x, yy - y)
        return np.clip((radius - far) / soft + 0.5, 0, 1).astype(np.float32)

    def passer(self, number: int) -> np.ndarray:
        """What passes in front, as it covers the frame, 0..1 (height, width)."""
        height, width = self.scene.shape
        if not self.scene.passing:
            return np.zeros((height, width), np.float32)
        x = width * (-0.5 + 2.0 * number / (self.scene.frames - 1))
        columns = np.arange(width, dtype=np.float32)[None, :]
        rows = np.arange(height, dtype=np.float32)[:, None]
        across = np.clip(
            width * 0.05 - np.abs(columns - x - self.scene.wave * np.sin(rows / 19)) + 0.5, 0, 1
        )
        return np.broadcast_to(across, (height, width)).astype(np.float32)

    def fill(self, number: int) -> np.ndarray:
        """The ground in place of the thing, as the method made it, of this frame's light."""
        fault, amount = self.fault, self.amount
        seen = self.view(self.ground, number) * self.gain[number]
        if fault == "drift":
            slid = (number - self.scene.frames / 2) * 0.12 * amount
            return self.view(self.ground, number, (slid, 0)) * self.gain[number]
        if fault == "flicker":
            return seen * (1 + 0.012 * amount * self.phases[number])
        if fault == "pop" and number == self.pop_at:
            return cv2.GaussianBlur(seen, (0, 0), 1 + 2.0 * amount) * (1 + 0.02 * amount)
        if fault == "boiling":
            own = (
                np.random.default_rng(900 + number).normal(0, 1, seen.shape[:2]).astype(np.float32)
            )
            own = cv2.GaussianBlur(own, (0, 0), 2.0)
            return seen + (own / own.std() * 2.2 * amount)[..., None]
        if fault == "softening":
            wide = 0.2 + 1.1 * amount * number / self.scene.frames
            return cv2.GaussianBlur(seen, (0, 0), wide)
        if fault == "light":
            return self.view(self.ground, number) * (
                self.gain[number] + amount * (self.gain.mean() - self.gain[number])
            )
        return seen

    def made(self) -> Made:
        scene, found = self.scene, Made([], [], [])
        thing_colour = np.array([150, 60, 40], np.float32)
        for number in range(scene.frames):
            x, y = self.at[number]
            disc = self.view(self.disc(x, y, scene.radius), number)[..., None]
            mask = self.view(self.disc(x, y, scene.radius + 4), number) > 0.5
            clean = self.view(self.ground, number) * self.gain[number]
            shadow = np.ones_like(disc)
            if scene.walking:
                dark = self.view(
                    self.disc(
                        x + scene.radius * 1.3, y + scene.radius * 0.8, scene.radius * 0.9, 6
                    ),
                    number,
                )
                shadow = (1 - 0.35 * dark)[..., None]
            with_thing = clean * shadow * (1 - disc) + thing_colour * self.gain[number] * disc
            kept = clean
            if self.fault == "shadow":
                kept = clean * (1 - self.amount * (1 - shadow))
            inside = cv2.GaussianBlur(mask.astype(np.float32), (0, 0), 0.8)[..., None]
            shown = (
                kept * (1 - inside)
                + self.fill(number) * (shadow if self.fault == "shadow" else 1) * inside
            )
            if not scene.walking:
                shown = clean * (1 - inside) + self.fill(number) * inside
            grain = self.rng.normal(0, scene.grain, clean.shape)
            other = self.rng.normal(0, scene.grain, clean.shape)
            passer = self.passer(number)[..., None]
            dark = (
                np.array([52, 58, 66], np.float32)
                + 10 * np.sin(np.arange(scene.shape[0]) / 3.0)[:, None, None]
            )
            before = with_thing * (1 - passer) + dark * passer + grain
            over = passer
            if self.fault == "occlusion":
                over = passer * (1 - self.amount * inside)
            after = (
                shown * (1 - over)
                + dark * over
                + grain * (1 - inside)
                + np.where(inside > 0.5, other, 0)
            )
            if self.fault == "shadow" or scene.walking:
                worked = (inside > 0.02) | ((shadow < 0.995) if scene.walking else False)
                after = np.where(worked, after, before)
            else:
                after = np.where(inside > 0.004, after, before)
            found.original.append(np.clip(before, 0, 255).round().astype(np.uint8))
            found.result.append(np.clip(after, 0, 255).round().astype(np.uint8))
            found.masks.append(mask)
            found.camera.append(self.camera(number))
        found.wrong = self._wrong(found)
        return found

    def _wrong(self, found: Made) -> list[int]:
        if self.fault == "pop":
            return [self.pop_at]
        if self.fault == "occlusion":
            return [
                number
                for number, mask in enumerate(found.masks)
                if (self.passer(number)[mask] > 0.5).mean() > 0.05
            ]
        return list(range(self.scene.frames)) if self.fault else []
