"""Which of several slips a file answers: by what it shows where nothing was to be worked."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import PurePath

import cv2
import numpy as np

from ..io import Picture, eight_bit
from ..regions import Region, grown
from .elsewhere import MARGIN

#: Pictures are compared as means over squares of so many pixels, the blocks of a JPEG, or larger
#: ones in large pictures, so that the longest side is at most `_SIDE`: there sharpening, grain and
#: compression average out, another attempt's fill does not.
_BLOCK, _SIDE = 8, 512
#: Mean difference, in 8-bit levels, up to which what was not to be worked counts as the same: a
#: JPEG saved at quality 80 stays at .6 on busy ground.
_SAME = 1.0
#: A file belongs where it fits this many times better than anywhere else.
_CLEARLY = 2.0


@dataclass(frozen=True)
class Sent:
    """What was sent. `key`: names it; `picture`: the attempt; `worked`: where work was asked for, in
    the attempt's own frame; `names`: words that a file's name may carry for it.
    """

    key: int
    picture: Picture
    worked: Sequence[Region]
    names: Sequence[str] = ()


def belongs(result: Picture, name: str, some: Iterable[Sent]) -> int | None:
    """The slip that a file answers: it shows what was sent, but for what was to be worked.

    Where several fit alike (one attempt sent twice, with nothing worked yet), the file's name
    decides; None where that does not, or where nothing fits.

    Args:
        result: a file of any origin.
        name: its name.
        some: what was sent; those in another frame are left out.
    """
    fits = [(found, one) for one in some if (found := _apart(one, result)) is not None]
    fits = sorted((fit for fit in fits if fit[0] <= _SAME), key=lambda fit: fit[0])
    if not fits:
        return None
    best = fits[0][0]
    alike = [one for found, one in fits if found <= max(_CLEARLY * best, _SAME / 20)]
    if len(alike) == 1:
        return alike[0].key
    named = [one for one in alike if _named(name, one.names)]
    return named[0].key if len(named) == 1 else None


def _apart(sent: Sent, result: Picture) -> float | None:
    """The mean difference outside what was to be worked, 8-bit levels; None in another frame or
    where nothing was worked.
    """
    if sent.picture.pixels.shape[:2] != result.pixels.shape[:2]:
        return None
    height, width = result.pixels.shape[:2]
    outside = np.ones((height, width), np.uint8)
    for area in sent.worked:
        wide = grown(area, MARGIN, (height, width))
        if wide is not None:
            outside &= ~wide.full((height, width)).view(np.uint8) & 1
    before, after = (eight_bit(one.pixels) for one in (sent.picture, result))
    if (before == after).all():
        return None
    scale = min(1 / _BLOCK, _SIDE / max(height, width))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    small = lambda pixels: cv2.resize(pixels.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    # A block that is worked in part says nothing.
    kept = small(outside) > 0.999
    if not kept.any():
        return None
    return float(np.abs(small(before) - small(after))[kept].mean())


def _named(name: str, words: Iterable[str]) -> bool:
    letters = lambda text: re.sub(r"[^0-9a-z]+", "-", text.lower()).strip("-")
    stem = f"-{letters(PurePath(name).stem)}-"
    return any(f"-{letters(word)}-" in stem for word in words)
