"""From what every kind saw to what is reported: probability, name, overall. It has no numbers of
its own: they are the artefact's.
"""

from .calibration import alone, is_reported, weigh
from .explain import explained
from .model import MODEL, Model
from .whole import holds, overall

__all__ = ["MODEL", "Model", "alone", "explained", "holds", "is_reported", "overall", "weigh"]
