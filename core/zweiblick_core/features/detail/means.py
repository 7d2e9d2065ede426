"""Means over squares of cells, and how far they can be believed."""

from __future__ import annotations

import cv2
import numpy as np

from .cells import Cells
from .ground import Ground


def tellable(cells: Cells) -> np.ndarray:
    """How far detail can be seen at a place at all, 0..1 (rows, columns): in black and in burnt-out
    white there is none by nature, and nobody misses it.
    """
    level = cells.level * 255
    seen: np.ndarray = np.clip((level - 7) / 9, 0, 1) * np.clip((251 - level) / 5, 0, 1)
    return seen


def means_over(
    values: np.ndarray, known: np.ndarray, sides: tuple[int, ...], ground: Ground | None = None
) -> list[tuple[np.ndarray, np.ndarray]]:
    """Means of (rows, columns) or (rows, columns, channels) over squares of each side, in cells (0:
    over all known cells), and of which squares enough is known, bool:
    nearly half, or `ground.least`."""
    weight = known.astype(np.float32)
    weighted = np.ascontiguousarray(
        values * (weight if values.ndim == 2 else weight[..., None]), np.float32
    )
    found = []
    for side in sides:
        if side == 0:
            mean = values[known].mean(axis=0) if known.any() else np.zeros(values.shape[2:])
            found.append((np.broadcast_to(mean.astype(np.float32), values.shape), known))
            continue
        near = cv2.boxFilter(
            weight, -1, (side, side), normalize=False, borderType=cv2.BORDER_CONSTANT
        )
        total = cv2.boxFilter(
            weighted, -1, (side, side), normalize=False, borderType=cv2.BORDER_CONSTANT
        )
        count = np.maximum(near, 1)
        least = 0.45 * side * side if ground is None else ground.least(side)
        found.append(
            (
                total / (count if values.ndim == 2 else count[..., None]),
                known & (near >= min(least, max(2, known.sum() * 0.6))),
            )
        )
    return found


def pools(
    values: np.ndarray, known: np.ndarray, sides: tuple[int, ...], ground: Ground | None = None
) -> list[np.ndarray]:
    """`means_over` of (rows, columns); -9 where too little of a square is known."""
    return [
        np.where(enough, mean, -9.0) for mean, enough in means_over(values, known, sides, ground)
    ]


#: Places of a colour within this distance (CIELAB, lightness by half: shading changes it) are of
#: the same thing; so many of them are looked through, and so many must be known.
_SAME_COLOUR, _SAMPLED, _SO_MANY = 5.0, 900, 40
#: Squares of so many cells a side are compared.
_OVER = 3
#: Values that are larger by less than this count as little, natural logarithms.
_AS_LITTLE = 0.15
#: The share of places with as little that is rare, and that is natural; what natural ones leave of
#: a score.
_RARE, _NATURAL, _LEAVES = 0.04, 0.12, 0.4


def common_elsewhere(ground: Ground, own: np.ndarray, around: np.ndarray) -> np.ndarray:
    """How common places with as little of something are among untouched ones of the same colour; 0
    where too few of these are known.

    A blur leaves a place its colour and takes its detail; what is as smooth by nature is so
    wherever it shows.

    Args:
        own, around: (rows, columns) of the fill's crop and of the window, natural logarithms.

    Returns:
        (rows, columns) of the crop, 0..1.
    """

    def described(
        cells: Cells, values: np.ndarray, known: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray]:
        # Single cells vary too much to say how rare one is.
        pooled = np.stack(
            [
                pools(plane, known, (_OVER,))[0]
                for plane in (
                    values,
                    50.0 * cells.level,
                    cells.colour[..., 0],
                    cells.colour[..., 1],
                )
            ],
            -1,
        )
        return pooled, known & (pooled[..., 0] > -9)

    fill, inside = described(ground.fill, own, ground.inside)
    untouched, known = described(ground.around, around, ground.known)
    here, there = fill[inside], untouched[known]
    if len(there) > _SAMPLED:
        there = there[np.random.default_rng(20267).permutation(len(there))[:_SAMPLED]]
    share = np.zeros(ground.inside.shape, np.float32)
    if len(there) and len(here):
        colours, others = here[:, 1:], there[:, 1:]
        alike = (others**2).sum(axis=1) - 2 * colours @ others.T + (colours**2).sum(axis=1)[
            :, None
        ] < _SAME_COLOUR**2
        count = alike.sum(axis=1)
        as_little = (alike & (there[:, 0] <= here[:, :1] + _AS_LITTLE)).sum(axis=1)
        share[inside] = np.where(count >= _SO_MANY, as_little / np.maximum(count, 1), 0.0)
    return share


def uncommon(share: np.ndarray) -> np.ndarray:
    """What is left of a score where so large a share of what is alike is the same by nature; of any
    shape.
    """
    return np.asarray(1 - (1 - _LEAVES) * np.clip((share - _RARE) / (_NATURAL - _RARE), 0, 1))


def narrowed(hot: np.ndarray, values: np.ndarray, known: np.ndarray) -> np.ndarray:
    """Some cells that were reported by the mean of them all, less those that have no part in it: where
    most of what is missing is missing in a part of them, that part;
    a few that have no part in it are no part to leave out.

    Args:
        hot: bool (rows, columns). values: what was averaged, likewise. known: bool, which cells
            count.
    """
    near = pools(values, known, (3,))[0]
    some = hot & (near > -9)
    if not some.any():
        return hot
    most = float(np.percentile(near[some], 95))
    if most <= 0:
        return hot
    kept = some & (near >= 0.4 * most)
    rest = some & ~kept
    if rest.sum() < 0.25 * some.sum() or float(values[rest].mean()) > 0.25 * float(
        values[kept].mean()
    ):
        return hot
    return np.asarray(kept)
