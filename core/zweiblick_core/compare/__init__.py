"""Two attempts against each other: what is the same to the pixel, how a spot reads in both, what
settings they had, which people prefer.
"""

from .differing import Setting, differing
from .elsewhere import MARGIN, Elsewhere, Place, same_elsewhere
from .locks import Proof, same_pixels, same_when_saved_anew, saved_as
from .pairs import Choice, Strength, agreement, next_pair, strengths
from .spots import AROUND, Spot, apart, spot

__all__ = [
    "AROUND",
    "MARGIN",
    "Choice",
    "Elsewhere",
    "Place",
    "Proof",
    "Setting",
    "Spot",
    "Strength",
    "agreement",
    "apart",
    "differing",
    "next_pair",
    "same_elsewhere",
    "same_pixels",
    "same_when_saved_anew",
    "saved_as",
    "spot",
    "strengths",
]
