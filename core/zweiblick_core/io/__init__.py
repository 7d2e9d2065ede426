"""Reading picture files and masks."""

from .decode import MOST_PIXELS, Header, read, read_header
from .jpeg import jpeg_quality
from .masks import read_mask
from .picture import Picture, Saving, eight_bit
from .shrink import share_of, shrunk

__all__ = [
    "MOST_PIXELS",
    "Header",
    "Picture",
    "Saving",
    "eight_bit",
    "jpeg_quality",
    "read",
    "read_header",
    "read_mask",
    "share_of",
    "shrunk",
]
