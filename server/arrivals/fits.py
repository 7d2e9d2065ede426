"""Whether an arrival belongs to an original: registered by a worker before anything is stored."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from attempts.fitting import refuse_unmatched
from images.decoding import decoded, read_bounded
from jobs.models import Picture
from work.leases import Lease, ask
from work.models import Work
from zweiblick_core.align import Alignment, register
from zweiblick_core.compare import same_elsewhere
from zweiblick_core.errors import Refused
from zweiblick_core.io import Picture as CorePicture
from zweiblick_core.regions import Region as Area
from zweiblick_core.regions import proposed

from .models import Arrival
from .receiving import bytes_of


def key_of(original: Arrival | Picture) -> str:
    """What an original is called among an arrival's fits."""
    return f"picture {original.pk}" if isinstance(original, Picture) else str(original.pk)


def fit_of(original: Arrival | Picture, arrival: Arrival) -> dict[str, Any]:
    """Whether an arrival belongs to an original, and how many regions what changed would give:
    {state, fits, reason, regions, cropped, words}; asked of a worker if it is not known yet.
    """
    key = key_of(original)
    found = arrival.fits.get(key)
    if found is None:
        work = ask("fit", f"{key}|{arrival.pk}")
        if work.state == "failed":
            return {"state": "failed", **_NOTHING, "reason": work.error}
        return {"state": "working", **_NOTHING}
    return {"state": "done", **{name: found.get(name, _NOTHING[name]) for name in _NOTHING}}


_NOTHING: dict[str, Any] = {
    "fits": False,
    "reason": "",
    "regions": 0,
    "cropped": False,
    "words": [],
}


def _otherwise_saved(first: CorePicture, second: CorePicture, areas: list[Area]) -> list[str]:
    """What of a result's saving is another than the original's, where nothing was to change."""
    words = []
    if second.profile != first.profile:
        words.append(f"profile {second.profile} instead of {first.profile}")
    if second.depth != first.depth:
        words.append(f"{second.depth} bits instead of {first.depth}")
    if second.pixels.shape == first.pixels.shape and second.saving is not None:
        elsewhere = same_elsewhere(first, second, areas).proof
        if elsewhere.saved_anew:
            words.append(f"saved anew as JPEG, quality about {second.jpeg_quality}")
    return words


def pixels_behind(original: Arrival | Picture) -> CorePicture:
    """The decoded picture of an original, stored or not."""
    if isinstance(original, Picture):
        return decoded(original.original.blob)
    return read_bounded(bytes_of(original))


def known_alignment(original: Arrival | Picture, arrival: Arrival) -> Alignment | None:
    """The alignment that a fit found."""
    found = arrival.fits.get(key_of(original))
    return Alignment.from_dict(found["alignment"]) if found else None


def _behind(key: str) -> Arrival | Picture | None:
    kind, _, pk = key.rpartition(" ")
    if kind == "picture":
        found: Picture | None = Picture.objects.filter(pk=pk).first()
        return found
    return Arrival.objects.filter(pk=pk).first()


def run_fit(lease: Lease) -> None:
    """Register an arrival with an original, and keep what came of it."""
    key, _, pk = lease.work.subject.partition("|")
    arrival, original = Arrival.objects.filter(pk=pk).first(), _behind(key)
    if arrival is None or original is None or key in arrival.fits:
        with lease.writing():
            return
    lease.progress(0.1, "reading")
    first, second = pixels_behind(original), read_bounded(bytes_of(arrival))
    alignment = register(first, second)
    found: dict[str, Any] = {"fits": True, "reason": "", "alignment": alignment.to_dict()}
    try:
        refuse_unmatched(alignment, arrival.name)
        areas = proposed(first, second, alignment)
        found |= {
            "regions": len(areas),
            "cropped": alignment.cropped,
            "words": [*alignment.done, *_otherwise_saved(first, second, list(areas))],
        }
    except Refused as error:
        found |= {"fits": False, "reason": str(error), "regions": 0}
    with lease.writing(), transaction.atomic():
        row = Arrival.objects.select_for_update().filter(pk=arrival.pk).first()
        if row is not None:
            row.fits = {**row.fits, key: found}
            row.save(update_fields=["fits"])


def fit_failed(work: Work) -> None:
    """A file could not be read: that is what there is to say of the pair."""
