"""Aids: computed ways of seeing. Each shows one thing that a picture holds and hides the rest.

An aid is drawn from a patch of pixels with a margin around it, so that a frame can be drawn tile by
    tile: a tile is exactly what the same place of the
whole frame would be. What must be the same on both sides (the gain of the grain, the mean that tone
is exaggerated around) is measured once, on the
original.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from . import views
from .ground import Ground, measure_ground
from .lines import Lines, draw_lines, find_lines
from .matches import Matches, draw_matches, find_matches, matches_within, searched

__all__ = [
    "AIDS",
    "Aid",
    "Ground",
    "Known",
    "Lines",
    "Matches",
    "aid_of",
    "find_lines",
    "find_matches",
    "matches_within",
    "measure_ground",
    "searched",
]


@dataclass(frozen=True)
class Known:
    """What an aid may rest on besides the pixels. `ground`: of the original; `lines`: of the image
    itself; `matches`: of the image's regions.
    """

    ground: Ground
    lines: Lines | None = None
    matches: tuple[Matches, ...] = ()


Draw = Callable[[np.ndarray, Known, int, int], np.ndarray]


@dataclass(frozen=True)
class Aid:
    """A way of seeing.

    Attributes:
        name: as the API has it.
        words: what it is called on screen.
        says: one line on what it shows.
        margin: pixels around a patch that it looks at.
        draw: (patch uint8 (height, width, 3), known, x, y of the patch in the frame) -> uint8
            (height, width, 3).
        needs: "matches" if they must be found before it can be drawn.
    """

    name: str
    words: str
    says: str
    margin: int
    draw: Draw = field(repr=False)
    needs: str = ""


def _plain(view: Callable[[np.ndarray, Ground], np.ndarray]) -> Draw:
    return lambda patch, known, x, y: view(patch, known.ground)


AIDS: tuple[Aid, ...] = (
    Aid(
        "fine-detail",
        "fine detail only",
        "What is finer than about four pixels, four times as strong; tone and colour are gone.",
        views.FINE_MARGIN,
        _plain(views.fine_detail),
    ),
    Aid(
        "grain",
        "grain only",
        "What is left when structure is taken out, on one scale for both sides: the original's grain reads as even, mild noise.",
        views.GRAIN_MARGIN,
        _plain(views.grain),
    ),
    Aid(
        "tone",
        "tone only",
        "Light and colour without detail, three times as far from the picture's mean: patches and casts show.",
        views.TONE_MARGIN,
        _plain(views.tone),
    ),
    Aid(
        "darks",
        "darks lifted",
        "The darkest third spread over most of the range, as a strong lift of the shadows would.",
        0,
        _plain(views.darks),
    ),
    Aid(
        "lights",
        "lights lowered",
        "The lightest third spread over most of the range, as a strong recovery of the lights would.",
        0,
        _plain(views.lights),
    ),
    Aid(
        "local-contrast",
        "local contrast",
        "Every place brought to the same contrast: weak outlines show as well as strong ones.",
        views.LOCAL_MARGIN,
        _plain(views.local_contrast),
    ),
    Aid(
        "denoised",
        "after denoising",
        "As a strong noise reduction would leave it: a fill with other grain keeps an outline.",
        views.DENOISED_MARGIN,
        _plain(views.denoised),
    ),
    Aid(
        "sharpened",
        "after sharpening",
        "As a strong output sharpening would leave it: seams and halos show as edges.",
        views.SHARPENED_MARGIN,
        _plain(views.sharpened),
    ),
    Aid(
        "lines",
        "straight lines",
        "Straight edges, those that share a vanishing point drawn alike, with the points and the horizon where they lie in the picture.",
        0,
        lambda patch, known, x, y: draw_lines(patch, known.lines, x, y),
    ),
    Aid(
        "matches",
        "match map",
        "Where the inside's texture is found again outside: one flat colour is one piece copied from one place; what stays dark is like nothing else.",
        0,
        lambda patch, known, x, y: draw_matches(patch, known.matches, x, y),
        needs="matches",
    ),
)


def aid_of(name: str) -> Aid | None:
    """The aid of a name; None where there is none."""
    return next((aid for aid in AIDS if aid.name == name), None)
