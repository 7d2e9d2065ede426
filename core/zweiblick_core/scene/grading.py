"""The agreed base: a change of the whole picture's tone is no flaw of a removal. It is recognised,
measured, and offered as what all else is judged against.

Per channel a curve from the original's levels to the result's is taken as the median of what a
thousand small places outside every region became (a
global tone mapping, as in comparagram estimation, Mann 2000). It is a grading if it departs from
identity by more than compression moves, and if what is left
after it is much less than before.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from ..io import Picture, eight_bit, share_of, shrunk

#: Nodes of a curve; levels of 255.
NODES = np.linspace(0, 255, 35)
#: Mean departure from identity (levels) from which it counts, and the share of the difference that
#: it must explain.
LEAST, EXPLAINS = 0.9, 0.45


@dataclass(frozen=True)
class Grading:
    """Attributes: curves: (3, len(NODES)) output level at each of `NODES`, for red, green, blue;
    mean_levels: mean absolute change; delta_e: the same
    as a CIELAB difference; explained: share of the whole difference that the curves take away,
    0..1.
    """

    curves: np.ndarray
    mean_levels: float
    delta_e: float
    explained: float

    def facts(self) -> dict[str, object]:
        """As the report states it."""
        return {
            "kind": "grading",
            "nodes": NODES.tolist(),
            "curves": {
                name: np.round(curve, 2).tolist()
                for name, curve in zip(("red", "green", "blue"), self.curves, strict=True)
            },
            "mean_levels": self.mean_levels,
            "delta_e": self.delta_e,
            "explained": self.explained,
            "agreed": False,
            "words": f"the whole picture was graded: {self.mean_levels:.1f} levels, CIELAB {self.delta_e:.1f} on average; judged against that base",
        }

    def applied(self, picture: Picture) -> Picture:
        """The original as this grading leaves it."""
        top = 255 if picture.pixels.dtype == np.uint8 else 65535
        levels = np.arange(top + 1) * (255 / top)
        out = np.empty_like(picture.pixels)
        for c in range(3):
            table = (
                np.clip(np.interp(levels, NODES, self.curves[c]) * (top / 255), 0, top)
                .round()
                .astype(out.dtype)
            )
            out[..., c] = (
                cv2.LUT(np.ascontiguousarray(picture.pixels[..., c]), table)
                if top == 255
                else table[picture.pixels[..., c]]
            )
        return replace(picture, pixels=out)


def _places(
    original: np.ndarray, result: np.ndarray, keep: np.ndarray | None
) -> tuple[np.ndarray, np.ndarray]:
    """Means (n, 3) of small places in both, up to about 40,000."""
    height, width = original.shape[:2]
    side = max(1, min(8, min(height, width) // 48), int(np.sqrt(height * width / 40_000)))
    size = (max(1, width // side), max(1, height // side))
    first, second = (eight_bit(shrunk(pixels, size)) for pixels in (original, result))
    if keep is None:
        return first.reshape(-1, 3), second.reshape(-1, 3)
    some = share_of(keep, size) >= 254
    return first[some], second[some]


def grading_of(original: Picture, result: Picture, keep: np.ndarray | None) -> Grading | None:
    """The whole picture's change of tone, or None where there is none to speak of.

    Args:
        original, result: of one frame.
        keep: bool (height, width), True where neither a region nor the outside of either picture
            lies.
    """
    first, second = _places(original.pixels, result.pixels, keep)
    if len(first) < 200:
        return None
    before = np.abs(second - first)
    # A grading moves most of a picture; what is the same in a third of it was changed for other
    # reasons.
    if float(np.percentile(before.max(axis=1), 33)) < 0.3 or (
        float(np.median(before)) < 0.35 and float(before.mean()) < LEAST
    ):
        return None
    curves = np.empty((3, len(NODES)))
    for c in range(3):
        shift = second[:, c] - first[:, c]
        which = np.digitize(first[:, c], (NODES[1:] + NODES[:-1]) / 2)
        counts = np.bincount(which, minlength=len(NODES))
        medians = np.array(
            [np.median(shift[which == k]) if counts[k] >= 12 else np.nan for k in range(len(NODES))]
        )
        known = ~np.isnan(medians)
        if not known.any():
            return None
        filled = np.where(known, medians, 0.0)
        if not known.all():
            # Levels that hardly occur follow the bend of those that do.
            bend = np.polynomial.Polynomial.fit(
                NODES[known], medians[known], min(2, int(known.sum()) - 1), w=np.sqrt(counts[known])
            )
            filled[~known] = np.clip(
                bend(NODES[~known]), medians[known].min() - 12, medians[known].max() + 12
            )
        # A curve bends slowly, and never turns back.
        smooth = np.convolve(np.pad(filled, 1, mode="edge"), [0.25, 0.5, 0.25], mode="valid")
        curves[c] = np.maximum.accumulate(np.clip(NODES + smooth, 0, 255))
    mapped = np.stack([np.interp(first[:, c], NODES, curves[c]) for c in range(3)], -1)
    amount = float(np.abs(mapped - first).mean())
    # By medians: what was changed elsewhere on purpose must not hide a grading, nor make one.
    left, was = (
        float(np.median(np.abs(second - mapped).max(axis=1))),
        float(np.median(before.max(axis=1))),
    )
    explained = 1 - left / max(was, 1e-6)
    if amount < LEAST or explained < EXPLAINS:
        return None
    lab = lambda rgb: cv2.cvtColor((rgb[None] / 255).astype(np.float32), cv2.COLOR_RGB2LAB)[0]
    return Grading(
        curves, amount, float(np.linalg.norm(lab(mapped) - lab(first), axis=1).mean()), explained
    )
