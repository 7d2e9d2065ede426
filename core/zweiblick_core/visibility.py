"""How visible a flaw is at one stated size: signal + delivery size -> severity.

The eye's contrast sensitivity is Mannos and Sakrison's (1974) for lightness and the low-pass
chromatic curve of Mullen
(1985) for colour. Below its peak the lightness curve is held level: above threshold, contrast looks
the same at all
coarse scales (Georgeson and Sullivan 1975), and a flaw that grows must never be called less
visible.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache

from .errors import Refused
from .report import Signal

WORDS = ("not visible at this size", "faint", "clear", "glaring")
#: Severity from which each word counts.
STEPS = (0.0, 0.15, 0.40, 0.70)
#: A sine grating of this Michelson contrast is at threshold at the curve's peak (Campbell and
#: Robson 1968).
_THRESHOLD = 0.005
_PEAK_CPD = 7.9


@dataclass(frozen=True)
class Size:
    """The use a picture must hold up for.

    Attributes:
        text: as it was written, for instance "420x594mm@150dpi@700mm".
        width, height: pixels or millimetres (0: the picture's own pixels); one number bounds the
            longer side.
        unit: "px", "mm" or "native".
        dpi: output pixels an inch.
        distance: from eye to picture, millimetres.
    """

    text: str
    width: float
    height: float
    unit: str
    dpi: float
    distance: float

    def scale(self, picture_width: int, picture_height: int) -> float:
        """Output pixels for one pixel of the original, the picture fitted inside the size (a print
        may be hung either way).
        """
        if self.unit == "native":
            return 1.0
        factor = self.dpi / 25.4 if self.unit == "mm" else 1.0
        if not self.height:
            return self.width * factor / max(picture_width, picture_height)
        long_side, short_side = (
            max(self.width, self.height) * factor,
            min(self.width, self.height) * factor,
        )
        return min(
            long_side / max(picture_width, picture_height),
            short_side / min(picture_width, picture_height),
        )

    def millimetres(self, picture_width: int, picture_height: int) -> float | None:
        """Millimetres on paper for one pixel of the original; None for sizes given in pixels."""
        return (
            self.scale(picture_width, picture_height) / self.dpi * 25.4
            if self.unit == "mm"
            else None
        )

    @property
    def pixels_per_degree(self) -> float:
        """How many pixels of the output a degree of the viewer's sight spans."""
        return 2 * self.distance * math.tan(math.radians(0.5)) * self.dpi / 25.4


NATIVE = Size("100 %", 0, 0, "native", 96.0, 600.0)
_PATTERN = re.compile(
    r"^(\d+(?:\.\d+)?)(?:x(\d+(?:\.\d+)?))?(px|mm)(?:@(\d+(?:\.\d+)?)dpi)?(?:@(\d+(?:\.\d+)?)mm)?$"
)


@lru_cache(maxsize=256)
def parse_size(text: str | None) -> Size:
    """A size from its text: `1080px`, `1920x1080px`, `420x594mm@150dpi@700mm`; None or `100%` is
    100 % at 96 dpi from 600 mm.

    Raises:
        Refused: another form, or a number that is zero or beyond sense.
    """
    if text is None or text.replace(" ", "") in ("100%", "native"):
        return NATIVE
    found = _PATTERN.match(text.strip().lower())
    if not found:
        raise Refused(f"size “{text}” is not understood; write 1080px or 420x594mm@150dpi@700mm")
    width, height = float(found[1]), float(found[2] or 0)
    dpi, distance = float(found[4] or (150 if found[3] == "mm" else 96)), float(found[5] or 600)
    if not (
        0 < width <= 100_000
        and height <= 100_000
        and 20 <= dpi <= 2400
        and 50 <= distance <= 100_000
    ) or (found[2] and height == 0):
        raise Refused(f"size “{text}” is out of range")
    return Size(text.strip(), width, height, found[3], dpi, distance)


def lightness_sensitivity(cycles_per_degree: float) -> float:
    """Mannos and Sakrison 1974, normalised to 1 at its peak and held there below it."""
    f = max(cycles_per_degree, _PEAK_CPD)
    curve = lambda x: 2.6 * (0.0192 + 0.114 * x) * math.exp(-((0.114 * x) ** 1.1))
    return curve(f) / curve(_PEAK_CPD)


def chroma_sensitivity(cycles_per_degree: float) -> float:
    """Low-pass, falling to a tenth near 5 cycles a degree (fit to Mullen 1985, red-green)."""
    return math.exp(-0.46 * max(cycles_per_degree, 0.0))


def just_noticeable(signal: Signal, scale: float, pixels_per_degree: float) -> float:
    """The signal in multiples of the threshold, pooled over bands (Quick 1974, exponent 3.5) and
    area.

    Args:
        signal: the flaw's signal.
        scale: output pixels for one original pixel.
        pixels_per_degree: of the output.
    """
    pooled = 0.0
    for frequency, lightness, chroma in signal.bands:
        output = frequency / scale
        if output > 0.5:
            continue
        # The band fades out towards the output's Nyquist rather than vanishing at it.
        passed = min(1.0, (0.5 / output) ** 2 - 1.0) if output > 0.3536 else 1.0
        cpd = output * pixels_per_degree
        contrast = max(0.0, lightness) / 100 * lightness_sensitivity(cpd)
        colour = max(0.0, chroma) / 250 * chroma_sensitivity(cpd)
        pooled += (passed * (contrast + colour) / _THRESHOLD) ** 3.5
    geometric = signal.offset * scale / pixels_per_degree * 3600 / 30 if signal.offset else 0.0
    # Summation over area: fourth root, complete at about 4 square degrees (Rovamo and others 1993).
    degrees = signal.area * (scale / pixels_per_degree) ** 2
    gain = (min(degrees, 4.0) / 0.25) ** 0.25 if degrees > 0 else 0.0
    return (pooled ** (1 / 3.5)) * gain + geometric * min(1.0, pooled ** (1 / 3.5) / 2)


def visibility(signal: Signal, size: Size, picture: tuple[int, int]) -> float:
    """Severity 0..1 at a size; monotone in the signal's strength and in the size.

    Args:
        signal: the flaw's signal.
        size: the delivery size.
        picture: (width, height) of the original.
    """
    threshold_units = just_noticeable(signal, size.scale(*picture), size.pixels_per_degree)
    return 1.0 - math.exp(-max(0.0, threshold_units - 0.7) / 5.0)


def word(severity: float) -> str:
    """The word for a severity."""
    return WORDS[sum(severity >= step for step in STEPS) - 1]
