"""Two attempts against each other: what is the same to the pixel, how a spot reads in both, what
settings they had, which people prefer.
"""

from .belonging import Sent, belongs
from .differing import Setting, differing
from .elsewhere import MARGIN, Elsewhere, Place, same_elsewhere
from .locks import Proof, same_pixels, same_when_saved_anew, saved_as
from .pairs import Choice, Strength, agreement, next_pair, strengths
from .spots import AROUND, Spot, apart, spot
from .wear import Wear, wear

__all__ = [
    "AROUND",
    "MARGIN",
    "Choice",
    "Elsewhere",
    "Place",
    "Proof",
    "Sent",
    "Setting",
    "Spot",
    "Strength",
    "Wear",
    "agreement",
    "apart",
    "belongs",
    "differing",
    "next_pair",
    "same_elsewhere",
    "same_pixels",
    "same_when_saved_anew",
    "saved_as",
    "spot",
    "strengths",
    "wear",
]
