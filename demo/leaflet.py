"""Autumn Leaflet: the demo's second job, of last month. Small details of the same town, all ruled on,
most of them signed off and released; one that its terms do not let out.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from demo.rendered import Scene, rendered
from demo.scenario import (
    Made,
    PictureOf,
    beside,
    diffused,
    encode,
    hand,
    lay,
    really_there,
    too_bright,
)
from demo.scenario import tight as too_tight
from zweiblick_core import methods
from zweiblick_core.io import read

JOB = "Autumn Leaflet"
CLIENT = "Harbour office of Quellmuende"
SIZES = (("leaflet, A6", "148x105mm@300dpi@350mm"), ("phone, 1080 px", "1080px@430dpi@350mm"))
#: How much smaller the details are than what they were taken from, and what is left around a thing.
_SCALE, _AROUND = 0.36, 240
_QUALITY = 92


@dataclass(frozen=True)
class Detail:
    """What a picture shows: a thing of a rendered picture, moved and exposed a little otherwise.

    Attributes:
        source, region: the rendered picture and which of its things.
        shift: how far the frame is moved, pixels of the source.
        mirrored: left and right exchanged, so that it is another view.
    """

    source: str
    region: int
    shift: tuple[int, int] = (0, 0)
    gain: float = 1.0
    seed: int = 1
    mirrored: bool = False


def _cut(detail: Detail) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    it = rendered(detail.source)
    mask = it.regions[detail.region]
    x, y, w, h = cv2.boundingRect(mask.astype(np.uint8))
    left = max(0, x - _AROUND + detail.shift[0])
    top = max(0, y - _AROUND + detail.shift[1])
    part = np.s_[top : y + h + _AROUND + detail.shift[1], left : x + w + _AROUND + detail.shift[0]]
    size = tuple(round(side * _SCALE) for side in mask[part].shape[::-1])
    noise = np.random.default_rng(detail.seed).normal(0, 0.5, (size[1], size[0], 3))
    small = lambda pixels: np.clip(
        cv2.resize(pixels[part], size, interpolation=cv2.INTER_AREA) * detail.gain + noise, 0, 255
    )
    shown = cv2.resize(mask[part].astype(np.uint8), size, interpolation=cv2.INTER_NEAREST) > 0
    # Other things of the source stand here too, and nobody asks for them to go: they belong.
    truth = np.where(
        cv2.dilate(shown.astype(np.uint8), np.ones((9, 9)))[..., None] > 0,
        small(it.truth),
        small(it.original),
    )
    found = (small(it.original), truth, shown)
    return tuple(one[:, ::-1] for one in found) if detail.mirrored else found  # type: ignore[return-value]


@lru_cache(maxsize=2)
def scene(slug: str) -> Scene:
    """A picture with its truth and its region, as the camera saved it."""
    original, truth, mask = _cut(DETAILS[slug])
    saved = lambda pixels: read(encode(pixels.round().astype(np.uint8), _QUALITY)[0]).pixels
    return Scene(saved(original), saved(truth), (np.ascontiguousarray(mask),))


def file_of(slug: str) -> bytes:
    """The original, as it is brought in."""
    return encode(_cut(DETAILS[slug])[0].round().astype(np.uint8), _QUALITY)[0]


def from_examples(it: Scene) -> np.ndarray:
    return methods.exemplar(it.original, it.regions[0], seed=7, scale=0.5, margin=60)


def tight(it: Scene) -> np.ndarray:
    return too_tight(it.original, it, 0)


def bright(it: Scene) -> np.ndarray:
    return too_bright(it.original, it, 0)


def displaced(it: Scene) -> np.ndarray:
    return beside(it.original, it, 0, 4, 2)


def held(it: Scene) -> np.ndarray:
    """A service that had a good day: what was there, with a grain of its own."""
    noise = np.random.default_rng(21).normal(0, 0.7, it.original.shape)
    return lay(it.original, really_there(it) + noise, it.regions[0], 4)


def _service(make: object, seconds: float, **settings: object) -> Made:
    return Made(
        "Fortnimm",
        "outside service",
        "Fortnimm",
        seconds,
        "0.04",
        make,  # type: ignore[arg-type]
        95,
        {"margin": 4, **settings},
    )


def _by_hand(make: object, seconds: float, cost: str) -> Made:
    return Made(
        "retouched by hand",
        "by hand",
        "Mona Reetz",
        seconds,
        cost,
        make,  # type: ignore[arg-type]
        settings={"feather": 5},
    )


def _built_in(method: str, make: object, seconds: float) -> Made:
    return Made(method, "built in", "Zweiblick", seconds, None, make)  # type: ignore[arg-type]


_EXAMPLES = _built_in("exemplar fill", from_examples, 2.6)
_DIFFUSED = _built_in("marching diffusion", diffused, 0.2)
#: Picture, what it shows, its attempts, and how each was ruled, in this order: p passes, w rework,
#: b rebuild.
_ROWS: tuple[tuple[str, str, str, Detail, tuple[Made, ...], str], ...] = (
    (
        "leaf-barrel",
        "Barrel by the warehouse",
        "barrel",
        Detail("warehouse", 1),
        (_DIFFUSED, _EXAMPLES, _service(tight, 4.1), _by_hand(hand, 900.0, "15.00")),
        "bwwp",
    ),
    (
        "leaf-reel",
        "Hose reel",
        "hose reel",
        Detail("market", 1),
        (_DIFFUSED, _EXAMPLES, _service(bright, 4.4), _service(held, 4.0, take=2)),
        "bwwp",
    ),
    (
        "leaf-cart",
        "Hand-cart",
        "hand-cart",
        Detail("quay", 1, seed=2),
        (
            _DIFFUSED,
            _service(tight, 5.9),
            _by_hand(displaced, 1500.0, "25.00"),
            _by_hand(hand, 800.0, "13.00"),
        ),
        "wwwp",
    ),
    (
        "leaf-ladder",
        "Ladder at the warehouse",
        "ladder",
        Detail("warehouse", 0, seed=3),
        (
            _DIFFUSED,
            _service(bright, 4.8),
            _by_hand(displaced, 1300.0, "22.00"),
            _by_hand(hand, 1100.0, "18.00"),
        ),
        "bwwp",
    ),
    (
        "leaf-pole",
        "Pole at the quay",
        "scaffold pole",
        Detail("quay", 0, seed=4, mirrored=True),
        (_DIFFUSED, _EXAMPLES, _service(bright, 5.0), _service(held, 4.7, take=2)),
        "wwwp",
    ),
    (
        "leaf-name",
        "Lettering on the hall",
        "lettering",
        Detail("market", 0, seed=5),
        (
            _DIFFUSED,
            _EXAMPLES,
            _service(tight, 3.9),
            _service(held, 3.8, take=2, terms="private use only"),
        ),
        "wwwp",
    ),
    (
        "leaf-drum",
        "Drum by the warehouse",
        "drum",
        Detail("warehouse", 1, seed=6, mirrored=True),
        (_DIFFUSED, _EXAMPLES, _service(bright, 4.2), _by_hand(displaced, 1000.0, "17.00")),
        "bwww",
    ),
    *(
        (
            f"leaf-sign-{number}",
            f"Folding sign, {words} shot",
            "folding sign",
            Detail("boatshed", 0, shift, gain, 6 + number),
            (
                _DIFFUSED,
                _service(tight, 5.1 + number / 10),
                _service(bright, 5.3 + number / 10, take=2),
                _by_hand(hand, 700.0, "12.00"),
            ),
            ruled,
        )
        for number, words, shift, gain, ruled in (
            (1, "first", (0, 0), 1.0, "bwwp"),
            (2, "second", (10, -6), 1.01, "bwwp"),
            (3, "third", (-8, 8), 0.99, "bwwp"),
        )
    ),
)
DETAILS = {slug: detail for slug, _, _, detail, _, _ in _ROWS}
PICTURES = tuple(PictureOf(slug, name, (thing,), made) for slug, name, thing, _, made, _ in _ROWS)
_WORDS = {"p": "passes", "w": "rework", "b": "rebuild"}
#: By picture, what was ruled of its attempts, the first first.
RULED = {slug: tuple(_WORDS[one] for one in ruled) for slug, *_, ruled in _ROWS}
#: What left, in this order; the others hold or not, and stay.
SIGNED = ("leaf-barrel", "leaf-reel", "leaf-cart", "leaf-ladder", "leaf-sign-1", "leaf-sign-2")
#: Held in an attempt whose terms do not allow a paying client.
BARRED = "leaf-name"


@dataclass(frozen=True)
class Said:
    """What the client said of a released picture, and what was answered; empty: nothing yet.
    `place`: a share of the picture's width and height, None for the whole.
    """

    picture: str
    words: str
    place: tuple[float, float] | None
    answer: str


REMARKS = (
    Said(
        "leaf-barrel",
        "Was there not a drain below the barrel?",
        (0.52, 0.78),
        "No: the other exposure shows bare cobbles there.",
    ),
    Said("leaf-cart", "Could the rope stay a little longer?", (0.3, 0.6), ""),
)


def make(slug: str, number: int) -> tuple[bytes, str]:
    """One attempt's file; run in a process of its own."""
    picture = next(one for one in PICTURES if one.slug == slug)
    attempt = picture.attempts[number - 1]
    return encode(attempt.make(scene(slug)), attempt.quality)
