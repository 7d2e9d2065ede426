"""What colour the removed thing had."""

from __future__ import annotations

import numpy as np

from ...scene.window import Window


def removed_direction(window: Window) -> np.ndarray | None:
    """Unit CIELAB direction towards the removed thing: what the original shows more of, over the
    pixels that changed most; None if
    they hardly changed."""
    if window.filled.sum() < 12:
        return None
    where = np.flatnonzero(window.filled)
    # A few thousand pixels know the colour as well as all do.
    where = where[:: max(1, len(where) // 20_000)]
    taken = window.lab_original.reshape(-1, 3)[where] - window.lab_result.reshape(-1, 3)[where]
    amount = np.linalg.norm(taken, axis=1)
    strongest = taken[amount >= np.percentile(amount, 70)]
    direction = np.median(strongest, axis=0)
    length = float(np.linalg.norm(direction))
    return (direction / length).astype(np.float32) if length > 4 else None
