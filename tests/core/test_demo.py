"""The demo's pictures and attempts: flaws are where they are meant to be, and one attempt holds
everywhere.
"""

import numpy as np
import pytest

from demo import scenario
from zweiblick_core.check import check
from zweiblick_core.reading import read
from zweiblick_core.regions.masks import cropped
from zweiblick_core.visibility import parse_size

SIZE = parse_size(scenario.SIZES[0][1])


def examined(picture, number):
    it = scenario.scene(picture.slug)
    attempt = picture.attempts[number - 1]
    pixels = attempt.make(it)
    data, _ = scenario.encode(pixels, attempt.quality)
    regions = [cropped(mask, name) for name, mask in zip(picture.regions, it.regions, strict=True)]
    report = check(read(scenario.PICTURES / f"{picture.slug}.jpg"), read(data), regions, SIZE)
    return (
        it,
        pixels,
        {region.id: region for region in report.regions},
        report.overreach["findings"],
    )


@pytest.mark.parametrize("picture", scenario.PICTURES_OF_JOB, ids=lambda picture: picture.slug)
def test_pictures_truths_and_masks_fit_together(picture):
    it = scenario.scene(picture.slug)
    assert it.original.shape == it.truth.shape and len(it.regions) == len(picture.regions)
    outside = ~np.any(it.regions, axis=0)
    inside = np.any(it.regions, axis=0)
    difference = np.abs(it.original.astype(int) - it.truth).mean(axis=2)
    assert difference[outside].mean() < 6 < 15 < difference[inside].mean()


@pytest.mark.parametrize("picture", scenario.PICTURES_OF_JOB, ids=lambda picture: picture.slug)
def test_the_attempt_by_hand_holds_everywhere_and_touches_nothing_else(picture):
    it, pixels, regions, outside_of = examined(
        picture,
        1 + next(k for k, made in enumerate(picture.attempts) if made.make is scenario.hand),
    )
    assert all(region.findings == [] for region in regions.values()) and outside_of == []
    outside = ~np.any(it.regions, axis=0)
    assert np.array_equal(pixels[outside], it.original[outside])


#: Where each kind is meant to be: picture, attempt, region.
MEANT = (
    ("repeat", scenario.LADDER, 2, "barrel"),
    ("seam", scenario.LADDER, 3, "barrel"),
    ("repeat", scenario.SIGN, 2, "folding sign"),
    ("halo", scenario.SIGN, 3, "folding sign"),
    ("smear", scenario.REEL, 1, "lettering"),
    ("line", scenario.REEL, 2, "hose reel"),
    ("untouched", scenario.REEL, 3, "lettering"),
    ("line", scenario.CART, 2, "hand-cart"),
    ("untouched", scenario.CART, 3, "scaffold pole"),
    ("smear", scenario.BUOY, 1, "barrel"),
    ("seam", scenario.BUOY, 2, "buoy"),
    ("tone", scenario.BUOY, 1, "buoy"),
    ("invented", scenario.REEL, 5, "hose reel"),
    ("residue", scenario.REEL, 6, "lettering"),
    ("soft", scenario.REEL, 5, "lettering"),
    ("grain", scenario.REEL, 7, "lettering"),
    ("shadow", scenario.SIGN, 5, "folding sign"),
)


@pytest.mark.parametrize(("picture", "number"), sorted({(one[1].slug, one[2]) for one in MEANT}))
def test_each_kind_occurs_where_it_is_meant_to_be(picture, number):
    spec = next(one for one in scenario.PICTURES_OF_JOB if one.slug == picture)
    _, _, regions, outside_of = examined(spec, number)
    assert bool(outside_of) == ((picture, number) == ("market", 5))
    for kind, of, attempt, region in MEANT:
        if of is spec and attempt == number:
            assert kind in [finding.kind for finding in regions[region].findings], (kind, region)
    if (picture, number) == ("boatshed", 2):
        repeat = next(f for f in regions["folding sign"].findings if f.kind == "repeat")
        assert repeat.evidence["offset_px"] == pytest.approx([348, 0], abs=2)


def test_all_kinds_that_are_examined_occur():
    from zweiblick_core.kinds import REGISTRY

    # Overreach is no region's; `test_each_kind_occurs_where_it_is_meant_to_be` looks for it in its
    # attempt.
    assert {kind for kind, *_ in MEANT} == set(REGISTRY)


def test_slips_stand_in_each_state_and_only_ruled_regions_are_on_them():
    assert {trip.state for trip in scenario.TRIPS} == {
        "written",
        "sent",
        "working",
        "returned",
        "failed",
        "withdrawn",
    }
    for trip in scenario.TRIPS:
        assert any(
            (ruled.picture, ruled.attempt, ruled.ruling) == (trip.picture, trip.attempt, "rework")
            for ruled in scenario.RULED
        )


def test_people_and_attempts_are_complete():
    assert {role for _, _, role in scenario.PEOPLE} == {"supervisor", "retoucher", "guest"}
    assert all(3 <= len(picture.attempts) <= 7 for picture in scenario.PICTURES_OF_JOB)
