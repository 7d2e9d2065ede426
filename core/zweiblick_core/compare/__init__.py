"""Two attempts against each other: what is the same to the pixel."""

from .locks import Proof, same_pixels

__all__ = ["Proof", "same_pixels"]
