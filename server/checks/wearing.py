"""How texture fared over the attempts that one was made from."""

from __future__ import annotations

from attempts.assembling import sources_by_region
from attempts.models import Attempt
from images.aligning import image_alignment
from images.decoding import decoded
from regions.models import RegionVersion
from zweiblick_core.compare import Wear, wear

#: So many generations are followed back.
_MOST = 6


def worn_in(attempt: Attempt, versions: list[RegionVersion]) -> dict[int, Wear]:
    """By region, how its finest detail fared over the attempt's ancestry; what was worked only once
    is missing. It decodes the ancestors.
    """
    frame = (attempt.image.height, attempt.image.width)
    alignment = image_alignment(attempt.image)
    placed = {
        version.region_id: area
        for version in versions
        if (area := alignment.placed(version.core, frame)) is not None
    }
    found = {}
    for region, area in placed.items():
        generations = _ancestry(attempt, region)
        if len(generations) < 2:
            continue
        pixels = [decoded(one.image.blob).pixels for one in generations]
        others = [other for key, other in placed.items() if key != region]
        result = wear(pixels, area, others)
        if result is not None:
            found[region] = result
    return found


def _ancestry(attempt: Attempt, region: int) -> list[Attempt]:
    """The attempts that a region came through, the oldest first, as far as they lie in the same
    frame; at most six.
    """
    found, here = [attempt], attempt
    while len(found) < _MOST:
        source = _source(here, region)
        if source is None or source in found or _size(source) != _size(attempt):
            break
        found.insert(0, source)
        here = source
    return found


def _source(attempt: Attempt, region: int) -> Attempt | None:
    whole = attempt.sources.filter(region=None).select_related("source__image__blob").first()
    return whole.source if whole is not None else sources_by_region(attempt).get(region)


def _size(attempt: Attempt) -> tuple[int, int]:
    return attempt.image.width, attempt.image.height
