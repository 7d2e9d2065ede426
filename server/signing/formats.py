"""What a delivery can hold."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from zweiblick_core.errors import Refused

FINALS = ("tiff", "png", "jpeg")


@dataclass(frozen=True)
class Options:
    """What goes in besides the record and the hashes.

    Attributes:
        finals: formats of the final picture in its own size.
        quality: of JPEGs, 60..100.
        sizes: names of delivery sizes, each as a JPEG in sRGB.
        layered: an OpenRaster file with original, result and regions.
        masks: a PNG for each region, GeoJSON and Web Annotations.
        sheets: a PDF with a page for each picture, and a contact sheet of all.
    """

    finals: tuple[str, ...] = ("tiff",)
    quality: int = 92
    sizes: tuple[str, ...] = ()
    layered: bool = True
    masks: bool = True
    sheets: bool = True

    def to_dict(self) -> dict[str, Any]:
        """As JSON holds it."""
        return asdict(self)

    @classmethod
    def from_dict(cls, plain: Mapping[str, Any]) -> Options:
        """From `to_dict`, also after a trip through JSON."""
        return cls(
            **{
                **plain,
                "finals": tuple(plain["finals"]),
                "sizes": tuple(plain["sizes"]),
            }
        )


def refuse_options(options: Options, sizes: list[str]) -> None:
    """Raises: Refused: a format or size that there is not, or nothing to deliver."""
    unknown = set(options.finals) - set(FINALS)
    if unknown:
        raise Refused(f"there is no format “{sorted(unknown)[0]}”")
    missing = [name for name in options.sizes if name not in sizes]
    if missing:
        raise Refused(f"the job has no delivery size “{missing[0]}”")
    if not 60 <= options.quality <= 100:
        raise Refused("JPEG quality lies between 60 and 100")
    if not (options.finals or options.sizes or options.layered or options.masks):
        raise Refused("choose at least one thing to deliver")
