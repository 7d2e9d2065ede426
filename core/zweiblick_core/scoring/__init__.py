"""From what every kind saw to what is reported: thresholds, confidence, overall. It has no numbers of
its own: they are the artefact's.
"""

from .calibration import alone, is_reported, weigh
from .model import MODEL, Model
from .whole import holds, of_all, overall

__all__ = ["MODEL", "Model", "alone", "holds", "is_reported", "of_all", "overall", "weigh"]
