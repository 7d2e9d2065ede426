"""Filling a shot from its own ground: what was hidden is seen in other frames, or was repaired in some."""

from .asked import Mending
from .mend import METHODS, mend

__all__ = ["METHODS", "Mending", "mend"]
