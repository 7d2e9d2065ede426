"""Where control outlines may be placed over untouched parts of the same picture."""

from __future__ import annotations

from functools import cached_property

import cv2
import numpy as np


class Room:
    """Where control outlines may be placed in one window: its texture and what is forbidden, at a quarter of
    the size, or an eighth of a large one's. Exactness is not needed to find
    room."""

    def __init__(self, forbidden: np.ndarray, luma: np.ndarray) -> None:
        """Args: forbidden: bool, where no control may lie (every region, changed or not); luma:
        float32, for the likeness of texture.
        """
        self.frame = luma.shape
        self.scale = 4 if min(luma.shape) < 1100 else 8
        self.blocked = self.small(forbidden) > 0.02
        grey = self.small(luma)
        self.grey, self.detail = grey, np.abs(grey - cv2.blur(grey, (3, 3)))
        self._placed: dict[tuple[bytes, tuple[int, ...]], _Placed] = {}

    def small(self, plane: np.ndarray) -> np.ndarray:
        """A plane of the window (height, width) averaged down by `scale`, float32; of bool, the
        share that is True, 0..1.
        """
        size = (max(1, plane.shape[1] // self.scale), max(1, plane.shape[0] // self.scale))
        # Whole blocks, so that a place is the same number of pixels everywhere.
        plane = plane[: max(1, size[1] * self.scale), : max(1, size[0] * self.scale)]
        if plane.dtype == bool:
            return (
                cv2.resize(
                    plane.view(np.uint8) * np.uint8(255), size, interpolation=cv2.INTER_AREA
                ).astype(np.float32)
                / 255
            )
        return cv2.resize(plane, size, interpolation=cv2.INTER_AREA)

    def places(self, mask: np.ndarray, count: int, seed: int) -> list[tuple[int, int]]:
        """Offsets (dx, dy) at which the same outline lies over untouched parts of the picture, the
        texture most alike first.

        Args:
            mask: bool, the area whose outline is placed elsewhere as a control.
            count: how many are wanted; fewer come back where there is no room.
            seed: places are drawn from it; the same seed gives the same places.

        Controls may overlap each other up to a third: fully disjoint ones leave too few around
            large regions.
        """
        if not mask.any():
            return []
        left, top, width, height = cv2.boundingRect(mask.view(np.uint8))
        space_y, space_x = self.frame[0] - height, self.frame[1] - width
        if space_y < 1 or space_x < 1:
            return []
        scale = self.scale
        shape = self.small(mask[top : top + height, left : left + width]) > 0.5
        if not shape.any():
            return []
        placed = self._over(shape)
        free = placed.overlap[: max(1, space_y // scale), : max(1, space_x // scale)] < 0.5
        ys, xs = np.nonzero(free)
        if not len(ys):
            return []
        there = placed.detail
        pick = np.random.default_rng(seed).permutation(len(ys))[: count * 12]
        # Likeness is to what surrounds the area: inside it lies the removed thing, or a fill under
        # suspicion.
        around = (
            cv2.dilate(
                self.small_within(mask, left, top, width, height), np.ones((11, 11), np.uint8)
            )
            > 0.3
        ) & ~self.blocked
        own = float(self.detail[around].mean()) if around.any() else float(self.detail.mean())
        ranked = sorted(
            zip(
                np.abs(
                    np.log((np.maximum(there[ys[pick], xs[pick]], 0) + 0.3) / (own + 0.3))
                ).tolist(),
                pick.tolist(),
                strict=True,
            )
        )
        chosen: list[tuple[int, int]] = []
        for _, k in ranked:
            y, x = int(ys[k]) * scale, int(xs[k]) * scale
            if all(
                abs(y - cy) > height * 2 / 3 or abs(x - cx) > width * 2 / 3 for cy, cx in chosen
            ):
                chosen.append((y, x))
                if len(chosen) == count:
                    break
        return [(x - left, y - top) for y, x in chosen]

    def small_within(
        self, mask: np.ndarray, left: int, top: int, width: int, height: int
    ) -> np.ndarray:
        """`small` of a mask of which nothing lies outside a box: only that is looked at."""
        scale, (rows, columns) = self.scale, self.blocked.shape
        if min(self.frame) < scale:
            return self.small(mask)
        whole = np.zeros((rows, columns), np.float32)
        first, last = (
            (top // scale, left // scale),
            (min(rows, -(-(top + height) // scale)), min(columns, -(-(left + width) // scale))),
        )
        if first[0] < last[0] and first[1] < last[1]:
            whole[first[0] : last[0], first[1] : last[1]] = self.small(
                mask[first[0] * scale : last[0] * scale, first[1] * scale : last[1] * scale]
            )
        return whole

    def _over(self, shape: np.ndarray) -> _Placed:
        """A shape (bool) placed everywhere; several kinds place the same."""
        key = (shape.tobytes(), shape.shape)
        if key not in self._placed:
            self._placed[key] = _Placed(self, shape.astype(np.float32))
        return self._placed[key]


class _Placed:
    """What lies under a shape (float32, 0 or 1), by its top left corner: `overlap`, how many
    blocked places; `detail`, the mean of that, not asked for where there is no room.
    """

    def __init__(self, room: Room, shape: np.ndarray) -> None:
        self.room, self.shape = room, shape
        self.overlap = cv2.filter2D(
            room.blocked.astype(np.float32),
            -1,
            shape,
            anchor=(0, 0),
            borderType=cv2.BORDER_CONSTANT,
        )

    @cached_property
    def detail(self) -> np.ndarray:
        return cv2.filter2D(
            self.room.detail,
            -1,
            self.shape / float(self.shape.sum()),
            anchor=(0, 0),
            borderType=cv2.BORDER_REPLICATE,
        )


def outline_places(
    mask: np.ndarray, forbidden: np.ndarray, luma: np.ndarray, count: int, seed: int
) -> list[tuple[int, int]]:
    """`Room.places` for once."""
    return Room(forbidden, luma).places(mask, count, seed)
