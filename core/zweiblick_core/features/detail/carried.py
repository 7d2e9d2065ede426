"""What a fill's cells should show, carried in from the known ones around."""

from __future__ import annotations

import numpy as np

from .cells import broadly

#: How far from an area what is known may be carried in, grid steps.
NEAR = 30


def regressed(values: np.ndarray, columns: list[np.ndarray], known: np.ndarray) -> np.ndarray:
    """Coefficients (1 + columns, channels) of values (rows, columns, channels) on other grid
    values, over known cells; ridge towards zero.
    """
    design = np.stack([np.ones_like(columns[0]), *columns], -1)[known]
    wanted = values[known]
    strength = 0.02 * len(design) * np.diag([0.0] + [0.2] * len(columns)) + 1e-6 * np.eye(
        len(columns) + 1
    )
    if len(design) < 4 * (len(columns) + 1):
        out = np.zeros((len(columns) + 1, values.shape[-1]))
        out[0] = wanted.mean(axis=0) if len(wanted) else 0.0
        return out
    centre = design.mean(axis=0)
    centre[0] = 0
    shifted = design - centre
    solved = np.linalg.solve(shifted.T @ shifted + strength, shifted.T @ wanted)
    solved[0] -= centre[1:] @ solved[1:]
    return solved


def predicted(slope: np.ndarray, columns: list[np.ndarray]) -> np.ndarray:
    """What a regression expects, (rows, columns, channels)."""
    return np.stack([np.ones_like(columns[0]), *columns], -1) @ slope


def carried(
    values: np.ndarray,
    known: np.ndarray,
    without: np.ndarray,
    box: tuple[slice, slice],
    directions: bool = False,
) -> np.ndarray:
    """Carry grid values (rows, columns, channels) into `without` (bool) from known cells near it:
    finest neighbourhood with enough to go on
    (normalised convolution, Knutsson and Westin 1993).

    Args:
        box: rows and columns of the grid that are asked for.
        directions: also from left and right only, and from above and below only; the least of the
            three is expected. A plinth between bricks
            and setts is as smooth as it is to its left and right, and no more is asked of it.

    Returns:
        The values in the box.
    """
    rows, columns = np.flatnonzero(without.any(1)), np.flatnonzero(without.any(0))
    gap = (slice(int(rows[0]), int(rows[-1]) + 1), slice(int(columns[0]), int(columns[-1]) + 1))
    # The middle of a wide gap is far from anything known: there what lies farther off must be asked
    # too.
    wide = directions and max(one.stop - one.start for one in gap) > NEAR + 1
    near = 3 * NEAR if wide else NEAR
    around = tuple(
        slice(max(0, min(one.start - near, asked.start)), max(one.stop + near, asked.stop))
        for one, asked in zip(gap, box, strict=True)
    )
    inner = tuple(
        slice(asked.start - whole.start, asked.stop - whole.start)
        for asked, whole in zip(box, around, strict=True)
    )
    part, weight = values[around], (known[around] & ~without[around]).astype(np.float32)
    overall = part[weight > 0].mean(axis=0) if (weight > 0).any() else values[known].mean(axis=0)
    weighted = np.ascontiguousarray(part * weight[..., None], np.float32)
    found: list[np.ndarray] = []
    for across, down in ((1.0, 1.0), (1.0, 0.0), (0.0, 1.0))[: 3 if directions else 1]:
        value, settled = (
            np.zeros(part[inner].shape, np.float32),
            np.zeros(weight[inner].shape, np.float32),
        )
        for sigma in (1.5, 4.0, 12.0, 40.0)[: 4 if wide else 3]:
            sx, sy = max(0.6, sigma * across), max(0.6, sigma * down)
            reached, blurred = (
                broadly(weight, sx, sy)[inner],
                broadly(weighted, sx, sy).reshape(part.shape)[inner],
            )
            share = np.clip(reached * 5, 0, 1) * (1 - settled)
            value += blurred * (share / np.maximum(reached, 1e-5))[..., None]
            settled += share
        # Where nothing lies in that direction, it has no say.
        found.append(
            value
            + (1 - settled)[..., None]
            * (overall if across and down else np.maximum(found[0], overall))
        )
    return np.min(found, axis=0) if directions else found[0]


def box_of(corner: tuple[int, int], shape: np.ndarray) -> tuple[slice, slice]:
    """Rows and columns of the grid over which an array of cells lies."""
    return slice(corner[0], corner[0] + shape.shape[0]), slice(
        corner[1], corner[1] + shape.shape[1]
    )
