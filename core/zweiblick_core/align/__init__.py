"""Bringing a result into register with its original."""

from .alignment import Alignment
from .frames import onto_original, original_in_frame, resampled_onto
from .pair import Pair, brought_together
from .register import register

__all__ = [
    "Alignment",
    "Pair",
    "brought_together",
    "onto_original",
    "original_in_frame",
    "register",
    "resampled_onto",
]
