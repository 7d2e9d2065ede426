"""Which files belong together by their names, as tests that read like the rules."""

import pytest

from zweiblick_core.rules.pairing import pair


def groups(names, pictures=()):
    return {group.name: group for group in pair(names, pictures)}


def test_a_result_that_says_more_than_a_known_picture_s_name_is_one_of_its():
    found = groups(["quay-hand.png", "Quay_fortnimm 2.jpg"], ["Quay"])
    assert list(found) == ["Quay"] and found["Quay"].known == "Quay"
    assert sorted(found["Quay"].results) == ["Quay_fortnimm 2.jpg", "quay-hand.png"]
    assert found["Quay"].original is None


def test_the_longest_name_of_a_known_picture_counts():
    found = groups(["quay-railing-hand.png"], ["Quay", "Quay railing"])
    assert [group.known for group in found.values()] == ["Quay railing"]


@pytest.mark.parametrize("name", ["quay.png", "quay-original.png", "quay-mask.png", "reeds-1.png"])
def test_what_is_named_as_the_picture_alone_or_is_no_result_is_none_of_its(name):
    assert all(group.known is None for group in pair([name], ["Quay"]))


def test_a_name_that_says_result_needs_no_more_words():
    assert [group.known for group in pair(["quay-result.png"], ["Quay"])] == ["Quay"]


def test_where_a_new_original_came_along_its_results_are_its_own():
    found = pair(["quay.png", "quay-hand.png"], ["Quay"])
    assert [(one.known, one.original, one.results) for one in found] == [
        (None, "quay.png", ["quay-hand.png"])
    ]


def test_exports_that_are_sorted_into_folders_pair_by_what_the_folders_say():
    found = groups(["quay-originals.jpg", "quay-results.png", "quay-masks.png"])
    assert found["Quay"].original == "quay-originals.jpg"
    assert found["Quay"].results == ["quay-results.png"]
    assert found["Quay"].mask == "quay-masks.png"


@pytest.mark.parametrize(
    "names",
    [
        ["BoatShedOriginal.jpg", "BoatShedResult.jpg", "BoatShedMask.png"],
        ["Brücke vorher.jpg", "Brücke nachher.jpg", "Brücke Maske.png"],
        ["hall_v1_orig.tif", "hall_v2_retouched.tif", "hall_mask.png"],
        ["reeds.tif", "reeds.tif.fortnimm.png", "reeds.tif.mask.png"],
    ],
)
def test_words_are_reported_apart_in_any_of_a_studio_s_ways(names):
    (group,) = pair(names)
    assert (group.original, group.results, group.mask) == (names[0], [names[1]], names[2])


def test_a_name_that_others_say_more_than_is_a_picture_of_its_own_if_it_is_a_file_of_that_kind():
    found = {
        group.original: group.results
        for group in pair(["jetty.jpg", "jetty-hand.png", "jetty-rope.jpg", "jetty-rope-hand.png"])
    }
    assert found == {"jetty.jpg": ["jetty-hand.png"], "jetty-rope.jpg": ["jetty-rope-hand.png"]}
    # A result with a mask of its own, or one in another form, stays a result.
    for names in (
        ["quay.jpg", "quay-ada.jpg", "quay-ada-mask.png", "quay-mask.png"],
        ["quay.jpg", "quay-hand.png", "quay-hand-grain.png"],
    ):
        assert [group.original for group in pair(names)] == ["quay.jpg"]
