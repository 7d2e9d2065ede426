"""Areas as W3C Web Annotations (Recommendation of 2017): words about a part of a picture."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ..errors import Refused
from .masks import Region, cropped, from_geojson
from .outlines import outlined

_CONTEXT = "http://www.w3.org/ns/anno.jsonld"
_SVG = "http://www.w3.org/2000/svg"


@dataclass(frozen=True)
class Note:
    """Words about an area."""

    area: Region
    words: tuple[str, ...]


def to_annotations(notes: Sequence[Note], source: str) -> dict[str, Any]:
    """An AnnotationPage: one annotation for each note, its area as an SVG path with the even-odd
    rule, in pixels of the picture.

    Args:
        source: names the picture: a file beside the page, or an address.
    """
    return {
        "@context": _CONTEXT,
        "type": "AnnotationPage",
        "items": [
            {
                "id": f"#{note.area.id}",
                "type": "Annotation",
                "motivation": "commenting",
                "body": [
                    {"type": "TextualBody", "value": words, "format": "text/plain"}
                    for words in note.words
                ],
                "target": {
                    "source": source,
                    "selector": {"type": "SvgSelector", "value": _svg(note.area)},
                },
            }
            for note in notes
        ],
    }


def _svg(area: Region) -> str:
    rings = [ring for part in outlined(area) for ring in (part.outer, *part.holes)]
    path = " ".join("M" + " L".join(f"{x:g},{y:g}" for x, y in ring) + " Z" for ring in rings)
    return f'<svg xmlns="{_SVG}"><path fill-rule="evenodd" d="{path}"/></svg>'


def from_annotations(page: Any, frame: tuple[int, int]) -> list[Note]:
    """The areas and words of a page that `to_annotations` made.

    Args:
        frame: (height, width) of the picture.

    Raises:
        Refused: it is no such page.
    """
    items = page.get("items") if isinstance(page, dict) else None
    if not isinstance(items, list):
        raise Refused("the file is no page of annotations")
    notes = []
    for number, item in enumerate(items, 1):
        try:
            path = re.search(r' d="([^"]*)"', item["target"]["selector"]["value"])
            name = str(item["id"]).lstrip("#")
            words = tuple(str(body["value"]) for body in item["body"])
        except (KeyError, TypeError) as error:
            raise Refused(f"annotation {number} has no area that can be read") from error
        if path is None:
            raise Refused(f"annotation {number} has no area that can be read")
        notes.append(Note(_area(path[1], name, frame), words))
    return notes


def _area(path: str, name: str, frame: tuple[int, int]) -> Region:
    """Even-odd: a ring inside another is its hole."""
    rings = [
        [[float(value) for value in point.split(",")] for point in ring.split(" L")]
        for ring in re.findall(r"M([^MZ]*?) ?Z", path)
    ]
    polygons = [{"type": "Polygon", "coordinates": [[*ring, ring[0]]]} for ring in rings]
    features = [
        {"type": "Feature", "id": str(number), "geometry": one}
        for number, one in enumerate(polygons)
    ]
    areas = from_geojson({"type": "FeatureCollection", "features": features}, frame)
    mask = areas[0].full(frame)
    for other in areas[1:]:
        mask ^= other.full(frame)
    return cropped(mask, name)
