"""What is natural in this picture: control placements, and how far a reading lies beyond them."""

from .distribution import excess, least_reported, natural_range, score_of
from .natural import Natural
from .placement import Room, outline_places

__all__ = [
    "Natural",
    "Room",
    "excess",
    "least_reported",
    "natural_range",
    "outline_places",
    "score_of",
]
