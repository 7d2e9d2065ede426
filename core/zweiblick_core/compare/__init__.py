"""Two attempts against each other: what is the same to the pixel, and how a spot reads in both."""

from .locks import Proof, same_pixels
from .spots import AROUND, Spot, apart, spot

__all__ = ["AROUND", "Proof", "Spot", "apart", "same_pixels", "spot"]
