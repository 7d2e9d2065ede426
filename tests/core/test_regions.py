import numpy as np
import pytest
from builders import disc, filled, jpeg, png, textured, with_thing
from hypothesis import given, settings
from hypothesis import strategies as st

from zweiblick_core.errors import Refused
from zweiblick_core.io import read
from zweiblick_core.regions import changed_area, from_geojson, from_mask, outline, proposed
from zweiblick_core.scene.planes import apart_of, luma_of


def test_each_connected_part_is_a_region_in_reading_order():
    mask = (
        disc((200, 300), 240, 40, 20)
        | disc((200, 300), 60, 50, 20)
        | disc((200, 300), 150, 150, 25)
    )
    regions = from_mask(mask)
    assert [region.id for region in regions] == ["1", "2", "3"]
    assert [region.bbox[0] for region in regions] == [40, 220, 125]
    assert np.array_equal(np.any([region.full(mask.shape) for region in regions], axis=0), mask)


def test_parts_nearer_than_eight_pixels_are_one_region():
    mask = np.zeros((60, 100), bool)
    mask[20:40, 10:40] = mask[20:40, 46:70] = True
    assert len(from_mask(mask)) == 1
    mask[20:40, 46:52] = False
    assert len(from_mask(mask)) == 2


@settings(deadline=None, max_examples=60)
@given(st.integers(0, 10_000), st.integers(1, 40), st.integers(1, 40))
def test_any_mask_is_split_without_loss(seed, height, width):
    mask = np.random.default_rng(seed).random((height, width)) > 0.7
    regions = from_mask(mask)
    total = sum(
        (region.full(mask.shape).astype(int) for region in regions), np.zeros(mask.shape, int)
    )
    assert np.array_equal(total, mask.astype(int))


def test_an_outline_encloses_its_pixels_to_the_edge():
    mask = np.zeros((10, 10), bool)
    mask[2:5, 3:7] = True
    (ring,) = outline(mask, (100, 200))
    points = np.array(ring)
    assert points.min(0) == pytest.approx([103, 202], abs=0.3) and points.max(0) == pytest.approx(
        [107, 205], abs=0.3
    )
    assert len(outline(np.ones((1, 1), bool))[0]) >= 3


def test_geojson_polygons_become_masks():
    square = {
        "type": "Polygon",
        "coordinates": [[[10, 10], [30, 10], [30, 20], [10, 20], [10, 10]]],
    }
    (region,) = from_geojson(
        {
            "type": "FeatureCollection",
            "features": [{"type": "Feature", "id": "hose", "geometry": square}],
        },
        (50, 50),
    )
    assert region.id == "hose" and region.bbox == (10, 10, 20, 10) and region.mask.all()


@pytest.mark.parametrize(
    "document",
    [
        None,
        {},
        {"features": 3},
        {"features": [{"geometry": None}]},
        {"features": [{"geometry": {"type": "Point", "coordinates": [1, 1]}}]},
        {
            "features": [
                {
                    "geometry": {
                        "type": "Polygon",
                        "coordinates": [[[90, 90], [99, 90], [99, 99], [90, 90]]],
                    }
                }
            ]
        },
    ],
)
def test_bad_geojson_is_refused(document):
    with pytest.raises(Refused):
        from_geojson(document, (50, 50))


def test_what_changed_is_found_without_loss_and_through_jpeg():
    truth, mask = textured(), disc((420, 520), 250, 200, 60)
    original, result = with_thing(truth, mask), filled(truth, mask, truth.astype(float))
    really = np.abs(original.astype(int) - result).max(2) > 0
    same = changed_area(luma_of(original), apart_of(original, result), lossy=False)
    assert (same & really).sum() / (same | really).sum() > 0.97
    decoded = read(jpeg(result, 90)).pixels
    lossy = changed_area(luma_of(original), apart_of(original, decoded), lossy=True)
    assert (lossy & really).sum() / (lossy | really).sum() > 0.9


def test_regions_are_proposed_from_what_changed():
    truth, mask = textured(), disc((420, 520), 250, 200, 60)
    found = proposed(read(png(with_thing(truth, mask))), read(png(truth)))
    assert len(found) == 1 and abs(found[0].bbox[0] - 192) < 6
    assert proposed(read(png(truth)), read(png(truth))) == []


def test_what_polygons_cover_of_a_region_is_counted_once_and_only_inside_it():
    region = from_mask(disc((100, 120), 60, 50, 30))[0]
    left, right = [[0, 0], [60, 0], [60, 100], [0, 100]], [[60, 0], [120, 0], [120, 100], [60, 100]]
    assert region.covered([left]) == pytest.approx(0.5, abs=0.03) and region.covered(
        [left, left]
    ) == region.covered([left])
    assert region.covered([left, right]) == pytest.approx(1.0, abs=0.01)
    assert (
        region.covered([])
        == region.covered([[[0, 0], [9, 9]]])
        == region.covered([[[0, 0], [9, 0], [9, 9]]])
        == 0.0
    )
