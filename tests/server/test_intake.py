"""Bringing in: whole or not at all, originals never altered, bytes stored once."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from builders import png
from house import MASKS, TRUTH

from zweiblick_core.errors import Refused

pytestmark = pytest.mark.django_db


def counts():
    from attempts.models import Attempt, MethodRun
    from images.models import Image
    from jobs.models import Picture
    from regions.models import Region

    return [model.objects.count() for model in (Picture, Image, Region, Attempt, MethodRun)]


@pytest.mark.parametrize("data", [b"", b"not a picture", png(TRUTH)[:2000]])
def test_a_file_that_cannot_be_read_leaves_nothing_behind(picture, people, data):
    from attempts.intake import Facts, add_attempt, add_picture

    before = counts()
    with pytest.raises(Refused):
        add_picture(picture.job, "Reeds", "reeds.png", data, [], people["vera"])
    with pytest.raises(Refused):
        add_attempt(picture, "reeds.png", data, Facts("new method", "by hand"), people["vera"])
    assert counts() == before


def test_a_mask_of_another_size_is_refused_whole(job, people):
    from attempts.intake import add_picture

    before = counts()
    with pytest.raises(Refused, match="10x10"):
        add_picture(
            job,
            "Reeds",
            "reeds.png",
            png(TRUTH),
            [("buoy", MASKS[0]), ("rope", np.ones((10, 10), bool))],
            people["vera"],
        )
    assert counts() == before


def test_too_many_pixels_are_refused_by_the_setting(job, people, settings):
    from attempts.intake import add_picture

    settings.MOST_PIXELS = 1000
    with pytest.raises(Refused, match="limit"):
        add_picture(job, "Reeds", "reeds.png", png(TRUTH), [], people["vera"])


def test_the_same_bytes_are_stored_once_and_are_never_altered(picture):
    from django.core.files.storage import default_storage

    from images.blobs import put_blob
    from images.decoding import blob_bytes
    from images.models import Blob

    blob = picture.original.blob
    data = blob_bytes(blob)
    before = Blob.objects.count()
    assert put_blob(data, "image/png") == blob and Blob.objects.count() == before
    stored = default_storage.path(blob.path)
    assert blob_bytes(blob) == data and Path(stored).stat().st_mode & 0o777 == 0o444


def test_a_regions_mask_comes_back_as_it_was_drawn(picture):
    region = picture.regions.first()
    whole = np.zeros(TRUTH.shape[:2], bool)
    x, y, w, h = region.current.bbox
    whole[y : y + h, x : x + w] = region.current.mask
    assert np.array_equal(whole, MASKS[0])
    (ring,) = region.current.outlines
    assert abs(np.array(ring)[:, 0].min() - x) < 1.5


def test_every_region_has_a_cell_in_every_attempt(picture):
    from verdicts.models import Cell

    assert Cell.objects.filter(attempt__picture=picture).count() == 6


def test_derived_pictures_can_be_deleted_and_are_rebuilt(picture):
    import shutil

    from images.crops import crop_of
    from images.derivation import folder_of
    from images.pyramids import ask_pyramid, build_pyramid, pyramid_of
    from work.models import Work

    build_pyramid(picture.original)
    assert ask_pyramid(picture.original)
    shutil.rmtree(folder_of(pyramid_of(picture.original)))
    assert (
        not ask_pyramid(picture.original)
        and Work.objects.filter(
            kind="pyramid", subject=str(picture.original.pk), state="waiting"
        ).exists()
    )
    build_pyramid(picture.original)
    assert (folder_of(pyramid_of(picture.original)) / "info.json").exists()
    first = crop_of(picture.original, picture.regions.first().current.bbox)
    assert (
        first == crop_of(picture.original, picture.regions.first().current.bbox)
        and first[:2] == b"\xff\xd8"
    )


def test_bringing_in_is_in_the_history(picture):
    told = list(picture.history.order_by("id").values_list("what", "about"))
    assert (
        told[0] == ("picture brought in", "Slipway") and ("attempt brought in", "attempt 3") in told
    )
