"""Built-in ways to remove something, each on a window around the mask, deterministic for a seed."""

from .catalogue import METHODS, grown, outline_mask, remove
from .fills import biharmonic, blended_copy, diffusion, exemplar, straight_copy
from .fitting import best_offset, with_grain

__all__ = [
    "METHODS",
    "best_offset",
    "biharmonic",
    "blended_copy",
    "diffusion",
    "exemplar",
    "grown",
    "outline_mask",
    "remove",
    "straight_copy",
    "with_grain",
]
