"""Boosted regression trees (Friedman 2001), read from an open file."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

#: In `Trees.feature` of a leaf.
LEAF = -1


@dataclass(frozen=True)
class Trees:
    """The sum of many small trees.

    Attributes:
        base: what every row starts at, log odds.
        feature: column that a node asks about, `LEAF` for a leaf; int (trees, nodes).
        threshold: a row goes left where its value is at most this; float (trees, nodes).
        left, right: the node that follows; int (trees, nodes).
        value: of a leaf, log odds; float (trees, nodes).
    """

    base: float
    feature: np.ndarray
    threshold: np.ndarray
    left: np.ndarray
    right: np.ndarray
    value: np.ndarray

    @classmethod
    def from_json(cls, said: dict[str, Any]) -> Trees:
        """From the artefact's part, a list for each tree of (feature, threshold, left, right) for a
        node that asks and (value,) for a leaf.
        """
        trees = said["trees"]
        shape = (len(trees), max(len(tree) for tree in trees))
        feature, left, right = (np.full(shape, fill, np.int64) for fill in (LEAF, 0, 0))
        threshold, value = np.zeros(shape), np.zeros(shape)
        for row, tree in enumerate(trees):
            for at, node in enumerate(tree):
                if len(node) == 1:
                    value[row, at] = node[0]
                else:
                    feature[row, at], threshold[row, at] = node[0], node[1]
                    left[row, at], right[row, at] = node[2], node[3]
        return cls(said["base"], feature, threshold, left, right, value)

    def log_odds(self, rows: np.ndarray) -> np.ndarray:
        """Of rows, float (n, features); float (n,)."""
        every = np.arange(len(self.feature))
        at = np.zeros((len(rows), len(every)), np.int64)
        while True:
            column = self.feature[every, at]
            asking = column != LEAF
            if not asking.any():
                return self.base + self.value[every, at].sum(axis=1)
            value = np.take_along_axis(rows, np.maximum(column, 0), axis=1)
            goes_left = value <= self.threshold[every, at]
            following = np.where(goes_left, self.left[every, at], self.right[every, at])
            at = np.where(asking, following, at)
