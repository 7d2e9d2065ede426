"""An outline that is being drawn: it travels between browser and server and is stored by neither
until a person keeps it. One line of text: the corner and a 1-bit PNG of the mask in its box.
"""

from __future__ import annotations

import base64
import binascii
import re

import cv2
import numpy as np

from zweiblick_core.errors import Refused
from zweiblick_core.io import read_header
from zweiblick_core.regions import Region
from zweiblick_core.regions.masks import cropped

from .models import encode_mask

#: Characters; a hand's outline of 24 megapixels takes a tenth of it.
LONGEST = 1_500_000
_FORM = re.compile(r"([0-9]{1,6}),([0-9]{1,6});([A-Za-z0-9+/=]+)")


def written(area: Region) -> str:
    """An area as a draft."""
    png = base64.b64encode(encode_mask(area.mask)).decode()
    return f"{area.bbox[0]},{area.bbox[1]};{png}"


def read_draft(text: str, frame: tuple[int, int], name: str = "draft") -> Region:
    """The area of a draft.

    Args:
        frame: (height, width) of the original.

    Raises:
        Refused: it is none of ours, or lies outside the frame.
    """
    found = _FORM.fullmatch(text) if len(text) <= LONGEST else None
    if found is None:
        raise Refused("this outline cannot be read; begin it anew")
    try:
        data = base64.b64decode(found[3], validate=True)
        header = read_header(data)
    except (binascii.Error, Refused) as error:
        raise Refused("this outline cannot be read; begin it anew") from error
    x, y = int(found[1]), int(found[2])
    if header.format != "png" or x + header.width > frame[1] or y + header.height > frame[0]:
        raise Refused("this outline does not lie in the picture; begin it anew")
    decoded = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE)
    if decoded is None:
        raise Refused("this outline cannot be read; begin it anew")
    return cropped(decoded > 127, name, (x, y))
