"""Harbour Year: the demo's job, pictures and attempts. Everything here is made up.

Attempts come from the built-in methods and from the truth with noise of its own, some of it spoilt
the way results are spoilt.
Only this module reads the truth.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import lru_cache

import cv2
import numpy as np

from demo.composed import COMPOSED, QUALITY
from demo.rendered import PICTURES, Scene, rendered
from zweiblick_core import methods
from zweiblick_core.io import read


@dataclass(frozen=True)
class Made:
    """One attempt to be made: who and how, and the function that makes it. `quality`: JPEG quality,
    0 for PNG.
    """

    method: str
    kind: str
    maker: str
    seconds: float
    cost: str | None
    make: Callable[[Scene], np.ndarray]
    quality: int = 0
    settings: dict = field(default_factory=dict)


@dataclass(frozen=True)
class PictureOf:
    slug: str
    name: str
    regions: tuple[str, ...]
    attempts: tuple[Made, ...]


@lru_cache(maxsize=2)
def scene(slug: str) -> Scene:
    """A picture with its truth and its regions, as it is brought in."""
    if slug not in COMPOSED:
        return rendered(slug)
    original, truth, regions = COMPOSED[slug]()
    # Both were saved by the camera: a fill that was not would have more grain than its surroundings.
    saved = lambda pixels: read(encode(pixels, QUALITY)[0]).pixels
    return Scene(saved(original), saved(truth), tuple(regions))


def file_of(slug: str) -> bytes:
    """The original, as it is brought in."""
    if slug in COMPOSED:
        return encode(COMPOSED[slug]()[0], QUALITY)[0]
    return (PICTURES / f"{slug}.jpg").read_bytes()


def lay(
    under: np.ndarray,
    fill: np.ndarray,
    mask: np.ndarray,
    feather: float = 0.0,
    together: np.ndarray | None = None,
) -> np.ndarray:
    """The fill inside the mask; its edge fades inside over `feather` pixels, but not where it meets
    others worked `together` with it.
    """
    worked = mask if together is None else together
    alpha = (
        mask.astype(np.float32)
        if feather <= 0
        else np.clip(cv2.distanceTransform(worked.astype(np.uint8), cv2.DIST_L2, 5) / feather, 0, 1)
    )
    mixed = under * (1 - alpha[..., None]) + fill.astype(np.float32) * alpha[..., None]
    return np.where(mask[..., None], np.clip(mixed, 0, 255).round(), under).astype(np.uint8)


def really_there(it: Scene) -> np.ndarray:
    """What was behind the thing, as another exposure saw it, brought to the tone of the original
    around the region: a thing
    darkens its surroundings a little far beyond its outline, and a careful retoucher matches that.
    """
    eighth = (it.original.shape[1] // 8, it.original.shape[0] // 8)
    outside = cv2.resize(
        (~np.any(it.regions, axis=0)).astype(np.float32), eighth, interpolation=cv2.INTER_AREA
    )
    outside = np.where(outside > 0.99, 1, 0).astype(np.float32)
    difference = (
        cv2.resize(it.original.astype(np.float32) - it.truth, eighth, interpolation=cv2.INTER_AREA)
        * outside[..., None]
    )
    tone, known = np.zeros_like(difference), np.zeros_like(outside)
    for sigma in (1.2, 3, 8, 20):
        weight = cv2.GaussianBlur(outside, (0, 0), sigma)
        here = np.clip(weight * 4, 0, 1) * (1 - known)
        tone += (
            here[..., None]
            * cv2.GaussianBlur(difference, (0, 0), sigma)
            / np.maximum(weight, 1e-4)[..., None]
        )
        known += here
    return it.truth + cv2.resize(tone, it.original.shape[1::-1], interpolation=cv2.INTER_CUBIC)


def by_truth(under: np.ndarray, it: Scene, region: int) -> np.ndarray:
    """The attempt that holds: what was really there, as another exposure saw it."""
    return lay(under, really_there(it), it.regions[region], 5, np.any(it.regions, axis=0))


def tight(under: np.ndarray, it: Scene, region: int) -> np.ndarray:
    """An outline too tight: it follows the thing and its shadow, but a pixel or three inside them,
    so that their rim stays.
    """
    mask, wanted = it.regions[region], really_there(it)
    apart = cv2.GaussianBlur(np.abs(it.original - wanted).max(axis=2), (0, 0), 1.5)
    thing = cv2.morphologyEx(
        ((apart > 22) & mask).astype(np.uint8), cv2.MORPH_OPEN, np.ones((5, 5), np.uint8)
    )
    thing = cv2.morphologyEx(
        thing, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (61, 61))
    )
    alpha = np.clip((cv2.distanceTransform(thing, cv2.DIST_L2, 5) - 3.0) / 4.0, 0, 1)[..., None]
    return np.clip(under * (1 - alpha) + wanted * alpha, 0, 255).round().astype(np.uint8)


def too_bright(under: np.ndarray, it: Scene, region: int, levels: float = 24) -> np.ndarray:
    """Laid in from another light and not blended."""
    return lay(
        under,
        really_there(it) + np.array([levels, levels * 0.92, levels * 0.8]),
        it.regions[region],
    )


def exemplar_fill(it: Scene) -> np.ndarray:
    out = it.original
    for number, region in enumerate(it.regions):
        others = np.zeros_like(region)
        for other in it.regions[number + 1 :]:
            others |= other
        out = methods.exemplar(out, region, seed=7, scale=0.5, margin=150, keep_out=others)
    return out


def warehouse_straight_copy(it: Scene) -> np.ndarray:
    return methods.straight_copy(by_truth(it.original, it, 1), it.regions[0], (-372, 4))


def warehouse_service(it: Scene) -> np.ndarray:
    return too_bright(tight(it.original, it, 0), it, 1)


def hand(it: Scene) -> np.ndarray:
    out = it.original
    for number in range(len(it.regions)):
        out = by_truth(out, it, number)
    return out


def boatshed_blended(it: Scene) -> np.ndarray:
    return methods.blended_copy(by_truth(it.original, it, 0), it.regions[0], (348, 0))


def boatshed_tight(it: Scene) -> np.ndarray:
    return tight(it.original, it, 0)


def beside(under: np.ndarray, it: Scene, region: int, dx: int, dy: int) -> np.ndarray:
    """What was there, laid in a few pixels beside its place: every line jumps."""
    return lay(under, np.roll(really_there(it), (dy, dx), (0, 1)), it.regions[region], 3)


def diffused(it: Scene) -> np.ndarray:
    out = it.original
    for region in it.regions:
        out = methods.diffusion(out, region, radius=4)
    return out


def market_beside(it: Scene) -> np.ndarray:
    return beside(by_truth(it.original, it, 0), it, 1, 3, 5)


def market_service(it: Scene) -> np.ndarray:
    return tight(it.original, it, 1)  # the lettering was not worked at all


def quay_beside(it: Scene) -> np.ndarray:
    return beside(by_truth(it.original, it, 0), it, 1, 0, 6)


def quay_service(it: Scene) -> np.ndarray:
    return too_bright(it.original, it, 1)  # the pole still stands


def jetty_copy(it: Scene) -> np.ndarray:
    return too_bright(by_truth(it.original, it, 0), it, 1, 16)


def _soft_edge(mask: np.ndarray, over: float) -> np.ndarray:
    return np.clip(cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5) / over, 0, 1)[
        ..., None
    ]


def _right_of(mask: np.ndarray, share: float) -> np.ndarray:
    """The part of a region to the right of this share of its width: where the sun stands to the
    right, the thing without its shadow.
    """
    x, _, w, _ = cv2.boundingRect(mask.astype(np.uint8))
    part = mask.copy()
    part[:, : x + int(share * w)] = False
    return part


def market_second_take(it: Scene) -> np.ndarray:
    """The lettering's place is softer than its wall; something grew by the reel that belongs to
    nothing there; a step of export left a stain elsewhere.
    """
    wanted = cv2.GaussianBlur(really_there(it).astype(np.float32), (0, 0), 0.9)
    soft = lay(
        it.original,
        wanted + np.random.default_rng(5).normal(0, 1.0, wanted.shape),
        it.regions[0],
        3,
    )
    out = by_truth(soft, it, 1).astype(np.float32)
    inside = cv2.distanceTransform(it.regions[1].astype(np.uint8), cv2.DIST_L2, 5)
    y0, x0 = np.unravel_index(int(np.argmax(inside)), inside.shape)
    y, x = np.mgrid[: out.shape[0], : out.shape[1]]
    growth = cv2.GaussianBlur(
        (((x - x0) / 64.0) ** 2 + ((y - y0) / 48.0) ** 2 <= 1).astype(np.float32), (0, 0), 1.5
    )[..., None]
    rng = np.random.default_rng(17)
    blots = [
        cv2.GaussianBlur(rng.normal(0, 1, inside.shape).astype(np.float32), (0, 0), sigma)
        for sigma in (1.6, 3.0)
    ]
    leaves = (
        sum(blot / blot.std() for blot in blots)[..., None] * np.array([16.0, 30.0, 10.0])
        + np.array([70.0, 118.0, 44.0])
        + rng.normal(0, 2, out.shape)
    )
    out = out * (1 - growth) + leaves * growth
    away = cv2.GaussianBlur(
        (np.hypot(x - 0.2 * out.shape[1], y - 0.2 * out.shape[0]) < 70).astype(np.float32),
        (0, 0),
        12,
    )[..., None]
    return np.clip(out + 7 * away, 0, 255).round().astype(np.uint8)


def market_missed(it: Scene) -> np.ndarray:
    """Bits of the lettering were missed by an automatic outline."""
    result = hand(it).copy()
    letters = it.regions[0] & (np.abs(it.original.astype(int) - it.truth).max(axis=2) > 60)
    ys, xs = np.nonzero(cv2.erode(letters.astype(np.uint8), np.ones((3, 3), np.uint8)))
    y, x = np.mgrid[: result.shape[0], : result.shape[1]]
    for at in np.random.default_rng(11).integers(0, len(ys), 4):
        bit = np.hypot(x - xs[at], y - ys[at]) <= 4
        result[bit & it.regions[0]] = it.original[bit & it.regions[0]]
    return result


def market_grained(it: Scene) -> np.ndarray:
    """Grain laid on twice."""
    wanted = really_there(it)
    return lay(
        by_truth(it.original, it, 1),
        wanted + np.random.default_rng(6).normal(0, 3.2, wanted.shape),
        it.regions[0],
        2,
    )


def boatshed_shadow(it: Scene) -> np.ndarray:
    """The sign gone, its shadow left where it lay."""
    return lay(it.original, really_there(it), _right_of(it.regions[0], 0.47), 3)


def jetty_first(it: Scene) -> np.ndarray:
    """The barrel washed out; the buoy's place in another light, softly."""
    out = by_truth(methods.diffusion(it.original, it.regions[0], radius=4), it, 1).astype(
        np.float32
    )
    return (
        np.clip(out + _soft_edge(it.regions[1], 25) * np.array([13.0, -5.0, -11.0]), 0, 255)
        .round()
        .astype(np.uint8)
    )


JOB = "Harbour Year"
CLIENT = "Town archive of Quellmuende"
SIZES = (("wall calendar, A2", "594x420mm@150dpi@700mm"), ("phone, 1080 px", "1080px@430dpi@350mm"))
LADDER = PictureOf(
    "warehouse",
    "Warehouse row",
    ("ladder", "barrel"),
    (
        Made(
            "exemplar fill",
            "built in",
            "Zweiblick",
            24.0,
            None,
            exemplar_fill,
            settings={"scale": 0.5, "margin": 150, "seed": 7},
        ),
        Made(
            "straight copy",
            "by hand",
            "Mona Reetz",
            540.0,
            "9.00",
            warehouse_straight_copy,
            settings={"offset": [-372, 4], "feather": 0},
        ),
        Made(
            "Fortnimm",
            "outside service",
            "Fortnimm",
            6.2,
            "0.12",
            warehouse_service,
            quality=95,
            settings={"margin": 0},
        ),
        Made(
            "retouched by hand",
            "by hand",
            "Mona Reetz",
            2700.0,
            "45.00",
            hand,
            settings={"feather": 5},
        ),
    ),
)
SIGN = PictureOf(
    "boatshed",
    "Boat shed",
    ("folding sign",),
    (
        Made(
            "exemplar fill",
            "built in",
            "Zweiblick",
            31.0,
            None,
            exemplar_fill,
            settings={"scale": 0.5, "margin": 150, "seed": 7},
        ),
        Made(
            "blended copy",
            "built in",
            "Zweiblick",
            1.1,
            None,
            boatshed_blended,
            settings={"offset": [348, 0]},
        ),
        Made(
            "Fortnimm",
            "outside service",
            "Fortnimm",
            5.8,
            "0.12",
            boatshed_tight,
            quality=95,
            settings={"margin": 0},
        ),
        Made(
            "retouched by hand",
            "by hand",
            "Mona Reetz",
            1500.0,
            "25.00",
            hand,
            settings={"feather": 5},
        ),
        Made(
            "Fortnimm",
            "outside service",
            "Fortnimm",
            6.1,
            "0.12",
            boatshed_shadow,
            settings={"margin": 3, "take": 2},
        ),
    ),
)
REEL = PictureOf(
    "market",
    "Market hall",
    ("lettering", "hose reel"),
    (
        Made(
            "marching diffusion",
            "built in",
            "Zweiblick",
            0.3,
            None,
            diffused,
            settings={"radius": 4},
        ),
        Made(
            "retouched by hand",
            "by hand",
            "Mona Reetz",
            1900.0,
            "31.00",
            market_beside,
            settings={"feather": 3},
        ),
        Made(
            "Fortnimm",
            "outside service",
            "Fortnimm",
            6.9,
            "0.12",
            market_service,
            quality=95,
            settings={"margin": 0},
        ),
        Made(
            "retouched by hand",
            "by hand",
            "Mona Reetz",
            3300.0,
            "55.00",
            hand,
            settings={"feather": 5},
        ),
        Made(
            "Fortnimm",
            "outside service",
            "Fortnimm",
            7.1,
            "0.12",
            market_second_take,
            settings={"margin": 8, "take": 2},
        ),
        Made(
            "Fortnimm",
            "outside service",
            "Fortnimm",
            3.3,
            "0.04",
            market_missed,
            settings={"margin": 8, "size limit": 900},
        ),
        Made(
            "retouched by hand",
            "by hand",
            "Mona Reetz",
            900.0,
            "15.00",
            market_grained,
            settings={"feather": 2, "grain": 2},
        ),
    ),
)
CART = PictureOf(
    "quay",
    "Quay railing",
    ("scaffold pole", "hand-cart"),
    (
        Made(
            "marching diffusion",
            "built in",
            "Zweiblick",
            0.6,
            None,
            diffused,
            settings={"radius": 4},
        ),
        Made(
            "retouched by hand",
            "by hand",
            "Mona Reetz",
            4100.0,
            "68.00",
            quay_beside,
            settings={"feather": 3},
        ),
        Made(
            "Fortnimm",
            "outside service",
            "Fortnimm",
            7.4,
            "0.12",
            quay_service,
            quality=95,
            settings={"margin": 0},
        ),
        Made(
            "retouched by hand",
            "by hand",
            "Mona Reetz",
            5200.0,
            "87.00",
            hand,
            settings={"feather": 5},
        ),
    ),
)
BUOY = PictureOf(
    "jetty",
    "Jetty",
    ("barrel", "buoy"),
    (
        Made(
            "marching diffusion",
            "built in",
            "Zweiblick",
            0.4,
            None,
            jetty_first,
            settings={"radius": 4},
        ),
        Made(
            "straight copy",
            "by hand",
            "Mona Reetz",
            700.0,
            "12.00",
            jetty_copy,
            settings={"feather": 0},
        ),
        Made(
            "retouched by hand",
            "by hand",
            "Mona Reetz",
            2400.0,
            "40.00",
            hand,
            settings={"feather": 5},
        ),
    ),
)


def wall_ghost(it: Scene) -> np.ndarray:
    """The translucent words are weaker, and still there to be read."""
    out = by_truth(it.original, it, 0)
    return lay(out, 0.3 * it.original + 0.7 * really_there(it), it.regions[1], 2)


def corner_sliver(it: Scene) -> np.ndarray:
    """The outline stops short of the frame: a sliver of the cart is left there."""
    mask = it.regions[0].copy()
    mask[:, :5] = False
    return lay(it.original, really_there(it), mask, 3, it.regions[0])


def deck_invented(it: Scene) -> np.ndarray:
    """Beside a buoy, an automatic fill makes another bit of buoy."""
    out = by_truth(by_truth(it.original, it, 0), it, 2)
    grown = methods.straight_copy(it.original, it.regions[1], (-300, -90))
    return lay(out, grown, it.regions[1], 4)


def deck_bright(it: Scene) -> np.ndarray:
    return too_bright(by_truth(by_truth(it.original, it, 0), it, 2), it, 1)


def _diffused(seconds: float) -> Made:
    return Made(
        "marching diffusion",
        "built in",
        "Zweiblick",
        seconds,
        None,
        diffused,
        settings={"radius": 4},
    )


def _service(seconds: float, make: Callable[[Scene], np.ndarray], **settings: object) -> Made:
    return Made(
        "Fortnimm",
        "outside service",
        "Fortnimm",
        seconds,
        "0.12",
        make,
        quality=95,
        settings={"margin": 0, **settings},
    )


def _by_hand(seconds: float, cost: str, make: Callable[[Scene], np.ndarray] = hand) -> Made:
    return Made(
        "retouched by hand",
        "by hand",
        "Mona Reetz",
        seconds,
        cost,
        make,
        settings={"feather": 5},
    )


WORDS = PictureOf(
    "wall",
    "Harbour wall",
    ("painted lettering", "translucent words"),
    (_diffused(0.3), _service(5.1, wall_ghost), _by_hand(2100.0, "35.00")),
)
CORNER = PictureOf(
    "corner",
    "Quay corner",
    ("cut-off cart",),
    (_service(6.4, corner_sliver), _by_hand(3900.0, "65.00")),
)
DECK = PictureOf(
    "deck",
    "Crowded deck",
    ("barrel", "small buoy", "large buoy"),
    (
        _service(7.7, deck_invented),
        _by_hand(1700.0, "28.00", deck_bright),
        _by_hand(2900.0, "48.00"),
    ),
)
SHOTS = tuple(
    PictureOf(
        f"door-{number}",
        f"Shed door, {words} shot",
        ("folding sign",),
        (_service(5.2 + number / 10, boatshed_tight), _by_hand(1300.0, "22.00")),
    )
    for number, words in enumerate(("first", "second", "third"), 1)
)
PICTURES_OF_JOB = (LADDER, SIGN, REEL, CART, BUOY, WORDS, CORNER, DECK, *SHOTS)

#: Where each kind is meant to be: picture, attempt, region.
MEANT = (
    ("repeat", LADDER, 2, "barrel"),
    ("seam", LADDER, 3, "barrel"),
    ("repeat", SIGN, 2, "folding sign"),
    ("halo", SIGN, 3, "folding sign"),
    ("smear", REEL, 1, "lettering"),
    ("line", REEL, 2, "hose reel"),
    ("untouched", REEL, 3, "lettering"),
    ("line", CART, 2, "hand-cart"),
    ("untouched", CART, 3, "scaffold pole"),
    ("smear", BUOY, 1, "barrel"),
    ("seam", BUOY, 2, "buoy"),
    ("tone", BUOY, 1, "buoy"),
    ("invented", REEL, 5, "hose reel"),
    ("residue", REEL, 6, "lettering"),
    ("soft", REEL, 5, "lettering"),
    ("grain", REEL, 7, "lettering"),
    ("shadow", SIGN, 5, "folding sign"),
    ("residue", WORDS, 2, "translucent words"),
    ("residue", CORNER, 1, "cut-off cart"),
    ("invented", DECK, 1, "small buoy"),
    ("halo", SHOTS[0], 1, "folding sign"),
)


@dataclass(frozen=True)
class Ruled:
    """A ruling that the demo starts with: picture, attempt and region by number."""

    picture: str
    attempt: int
    region: int
    ruling: str


@dataclass(frozen=True)
class Trip:
    """A slip that the demo starts with. `state`: how far it is; `to`: a retoucher's username, or
    None for the desk; `due`: in so many days; `words`: what the retoucher says on it.
    """

    picture: str
    attempt: int
    state: str
    to: str | None
    note: str = ""
    due: int | None = None
    words: str = ""


#: One picture came back and is nearly done, two are out, two nobody has ruled on yet.
RULED = (
    Ruled("jetty", 2, 1, "passes"),
    Ruled("jetty", 2, 2, "rework"),
    Ruled("quay", 3, 1, "rework"),
    Ruled("quay", 2, 2, "rework"),
    Ruled("market", 2, 2, "rework"),
    Ruled("market", 3, 1, "rework"),
    Ruled("market", 1, 2, "rework"),
    Ruled("wall", 2, 2, "rework"),
    Ruled("corner", 1, 1, "rework"),
    Ruled("deck", 2, 2, "rework"),
)
TRIPS = (
    Trip("jetty", 2, "returned", "mona", "The deck is a shade darker there than you laid it in."),
    Trip("quay", 3, "working", "mona", due=2),
    Trip("quay", 2, "sent", "mona", "Mind the lower rail: it has to run through.", due=1),
    Trip("market", 2, "withdrawn", None),
    Trip("market", 3, "failed", None),
    Trip("market", 1, "written", None),
    Trip("wall", 2, "question", "mona", words="Does the chalk below the words stay?"),
    Trip("corner", 1, "declined", "mona", words="The railing behind it is seen in no other shot."),
    Trip("deck", 2, "settled", "mona", "It stands in another light than its neighbours."),
)


@dataclass(frozen=True)
class Trial:
    """Methods that the demo tries on a region, by number, of a picture."""

    picture: str
    region: int
    methods: tuple[str, ...]


TRIAL = Trial(
    "wall",
    1,
    ("gradient fill", "flow diffusion", "frequency-selective fill", "copy that fits its rim"),
)


def answer_to_slip(it: Scene, given: np.ndarray) -> np.ndarray:
    """What came back on the first slip: the second region really mended, the rest untouched."""
    out = given.copy()
    place = it.regions[1]
    # A second go by the same hand: no two are the same to the pixel.
    grain = np.random.default_rng(len(it.regions)).integers(-1, 2, out[place].shape)
    out[place] = np.clip(hand(it)[place].astype(int) + grain, 0, 255).astype(np.uint8)
    return out


PEOPLE = (
    ("vera", "Vera Lund", "supervisor"),
    ("ines", "Ines Dorn", "supervisor"),
    ("mona", "Mona Reetz", "retoucher"),
    ("archive", "Town archive", "guest"),
)


def encode(pixels: np.ndarray, quality: int) -> tuple[bytes, str]:
    """File bytes and ending."""
    ending = "jpg" if quality else "png"
    options = (
        [
            cv2.IMWRITE_JPEG_QUALITY,
            quality,
            cv2.IMWRITE_JPEG_SAMPLING_FACTOR,
            cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444,
        ]
        if quality
        else [cv2.IMWRITE_PNG_COMPRESSION, 4]
    )
    ok, data = cv2.imencode(f".{ending}", np.ascontiguousarray(pixels[..., ::-1]), options)
    assert ok
    return data.tobytes(), ending
