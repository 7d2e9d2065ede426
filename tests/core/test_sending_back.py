"""Rules of sending back: advice, outcomes, locks, pairing; each test reads like its rule."""

import numpy as np
import pytest
from builders import disc, textured
from evidences import shown

from zweiblick_core.compare import same_pixels
from zweiblick_core.regions.masks import cropped
from zweiblick_core.rules import advice, slips, states
from zweiblick_core.rules.pairing import own_words, pair


def flaw(kind, **evidence):
    return advice.Flaw(kind, [0, 0, 10, 10], shown(kind, **evidence))


def whats(changes):
    return [change.what for change in changes]


def advised(*flaws, **case):
    return advice.advise(advice.Case(flaws, **case))


def test_a_rim_of_what_was_removed_asks_for_an_outline_looser_by_what_was_measured():
    (change,) = advised(flaw("halo", likeness_to_removed=0.9, ring={"width_px": 7}))
    assert change.what == "looser outline" and change.values["pixels"] == 14
    assert change.why == "a rim in the removed thing's colour 7 px wide was left"


def test_bits_that_were_missed_ask_for_an_outline_that_takes_the_largest_in():
    bits = [advice.Flaw("residue", [0, 0, size, 40]) for size in (3, 11)]
    (change,) = advised(*bits)
    assert change.values["pixels"] == 15 and "11 px across" in change.why


def test_a_sliver_at_the_frame_asks_to_go_past_it_without_feather_and_to_copy_from_beside():
    sliver = advice.Flaw(
        "residue", [0, 40, 3, 200], shown("residue", what="sliver at the frame's edge")
    )
    changes = advised(sliver)
    assert whats(changes) == [
        "outline past the frame",
        "no feather at the frame",
        "copy from beside",
    ]
    assert all("3 px wide" in change.why for change in changes)


def test_a_copy_asks_for_another_source_keeps_the_old_one_out_and_small_things_first():
    changes = advised(flaw("repeat", source=[40, 50, 20, 20], offset_px=[348, 0]))
    assert whats(changes) == ["keep sources out", "use another source", "small things first"]
    assert changes[0].values["boxes"] == [[40, 50, 20, 20]]
    assert "348, 0 px away" in changes[0].why


def test_a_broken_line_asks_to_follow_it_at_its_angle():
    (change,) = advised(flaw("line", lines=[{"angle": 1.52}, {"angle": 1.49}]))
    assert change.what == "follow the line" and change.values["degrees"] == [1.5]


def test_something_invented_beside_a_neighbour_asks_to_keep_off_it_and_for_the_full_picture():
    changes = advised(flaw("invented"), neighbour="2 barrel")
    assert whats(changes) == [
        "off the neighbour",
        "one thing at a time",
        "full picture",
        "another method",
    ]
    assert changes[0].why == "2 barrel lies right beside it"
    assert whats(advised(flaw("invented"))) == ["another method"]


def test_a_patch_of_another_tone_asks_for_a_nearer_source_in_the_same_light():
    changes = advised(flaw("tone", delta_e=6.24))
    assert whats(changes) == ["match tone", "nearer source", "another method"]
    assert "6.2 CIELAB" in changes[1].why
    assert changes[2].values == {"method": "copy that fits its rim"}


def test_what_is_a_blended_copy_already_is_advised_no_other_for_its_tone():
    made = "copy that fits its rim"
    changes = advised(flaw("tone", delta_e=6.24), method=made)
    assert whats(changes) == ["match tone", "nearer source"]


def test_missing_grain_asks_for_as_much_as_its_surroundings_have():
    (change,) = advised(flaw("grain", ratio=0.42))
    assert change.what == "match grain" and change.values == {"ratio": 0.42}
    assert "0.42 of its surroundings' grain" in change.why
    (change,) = advised(flaw("grain", ratio=0.42, sigma_around=2.31))
    assert change.values == {"ratio": 0.42, "sigma": 2.31}
    assert "standard deviation is 2.3 levels" in change.why


def test_softness_asks_for_smaller_parts_and_sharpness_does_not():
    assert whats(advised(flaw("soft", what="soft"))) == ["smaller parts", "match grain"]
    assert "smaller parts" not in whats(advised(flaw("soft", what="sharp")))


def test_a_shadow_that_stayed_is_to_be_taken_in():
    (change,) = advised(flaw("shadow", darker=0.31))
    assert change.what == "take the shadow in" and "31%" in change.why


def test_what_changed_outside_asks_for_the_original_there():
    assert whats(advised(flaw("overreach"))) == ["original outside", "tighter outline"]


def test_a_seam_asks_for_tone_and_feather_but_not_at_the_frames_edge():
    assert whats(advised(flaw("seam"))) == ["match tone", "feather"]
    assert whats(advised(flaw("seam"), at_frame=True))[-1] == "no feather at the frame"


def test_washed_out_texture_asks_for_another_method_and_grain():
    assert whats(advised(flaw("smear"))) == ["another method", "match grain"]


def test_the_same_kind_failing_twice_with_one_method_asks_for_another():
    tried = (advice.Tried("Fortnimm", ("line",)), advice.Tried("by hand", ("seam",)))
    changes = advised(flaw("line", lines=[{"angle": 2}]), method="Fortnimm", tried=tried)
    other = next(change for change in changes if change.what == "another method")
    assert other.why == "line is there again: Fortnimm left it in 2 tries"
    assert "another method" not in whats(
        advised(flaw("line", lines=[{"angle": 2}]), method="by hand", tried=tried)
    )


def test_a_rebuild_starts_from_the_original():
    assert whats(advised(flaw("seam"), ruling="rebuild"))[0] == "start from the original"
    assert advised() == []


def test_after_three_rounds_it_is_to_be_rebuilt_by_hand():
    changes = advised(flaw("seam"), rounds=3)
    assert whats(changes)[:2] == ["rebuild by hand", "start from the original"]
    assert "sent back 3 times" in changes[0].why
    assert "rebuild by hand" not in whats(advised(flaw("seam"), rounds=2))


def test_advice_says_the_number_it_rests_on_with_its_natural_range():
    measure = {"name": "step", "value": 3.94, "unit": "", "natural": {"low": 0.8, "high": 1.4}}
    seam = advice.Flaw("seam", [0, 0, 10, 10], measure=measure)
    assert advised(seam)[0].why == "step: 3.94, natural here 0.8 to 1.4"


def test_every_change_that_is_advised_can_be_asked_for():
    kinds = ("halo", "residue", "repeat", "line", "invented", "tone", "seam", "grain", "soft")
    case = [flaw(kind) for kind in (*kinds, "smear", "shadow", "overreach", "untouched")]
    changes = advised(*case, at_frame=True, neighbour="1 sign", rounds=5)
    assert set(whats(changes)) <= set(advice.CHANGES) and len(set(whats(changes))) == len(changes)


@pytest.mark.parametrize(
    "changes, words",
    [
        ([{"what": "magic"}], "no change"),
        ([{"what": "feather", "values": {"pixels": -3}}], "between 0 and 500"),
        ([{"what": "feather", "values": 3}], "not understood"),
        ([{"what": "keep sources out", "values": {"boxes": [[1, 2]]}}], "a box"),
        (["x"], "no change"),
    ],
)
def test_changes_that_make_no_sense_are_reported(changes, words):
    assert words in advice.refuse_unknown(changes)
    assert advice.refuse_unknown([{"what": "feather", "values": {"pixels": 4}}]) is None


def seen(kind="seam", at=0, value=4.0, high=1.4, severity=0.5):
    return slips.Seen(kind, [at, 0, 20, 20], value, 0.6, high, severity)


def test_a_flaw_that_is_gone_is_fixed():
    assert slips.outcome([seen()], []).word == "fixed"


def test_a_flaw_at_the_same_place_is_still_there_even_if_it_reads_a_little_differently():
    found = slips.outcome([seen(value=4.0)], [seen(value=4.3)])
    assert found.word == "still there" and found.kinds == (("seam", "still there"),)


def test_worse_means_worse_beyond_the_natural_spread():
    assert slips.compared(seen(value=4.0), seen(value=4.5)) == "still there"  # the spread is 0.8
    assert slips.compared(seen(value=4.0), seen(value=6.5, severity=0.7)) == "worse"


def test_a_flaw_that_was_not_there_is_new_and_one_that_had_been_denied_is_not():
    assert slips.outcome([seen()], [seen("smear", at=4)]).word == "new flaw"
    assert slips.outcome([seen()], [seen("smear", at=4)], [seen("smear", at=2)]).word == "fixed"


def test_the_same_kind_elsewhere_is_new():
    assert slips.outcome([seen(at=0)], [seen(at=200)]).kinds == (
        ("seam", "fixed"),
        ("seam", "new flaw"),
    )


def test_a_region_is_as_bad_as_its_worst_flaw():
    found = slips.outcome(
        [seen(), seen("halo")], [seen("halo", value=9.0, severity=0.9), seen("repeat")]
    )
    assert found.word == "worse" and dict(found.kinds) == {
        "seam": "fixed",
        "halo": "worse",
        "repeat": "new flaw",
    }


def test_only_what_was_ruled_rework_or_rebuild_is_sent():
    assert slips.may_send({1: "passes", 2: "rework", 3: "rebuild", 4: "passes at size"}) == [2, 3]


def test_passes_carry_over_only_where_the_pixels_are_the_same():
    assert slips.carries("passes", True) and slips.carries("passes at size", True)
    assert (
        not slips.carries("passes", False)
        and not slips.carries("rework", True)
        and not slips.carries(None, True)
    )


def test_after_three_rounds_the_advice_is_to_stop():
    assert slips.stop_words(2) is None and "rebuild by hand" in slips.stop_words(3)


PICTURE = textured(120, 160)
REGION = cropped(disc(PICTURE.shape[:2], 80, 60, 20), "one")


def test_one_pixel_of_the_region_or_its_rim_breaks_the_lock():
    assert same_pixels(PICTURE, PICTURE.copy(), REGION).same
    for x, y, same in ((80, 60, False), (80, 60 + 28, False), (80, 60 + 40, True)):
        other = PICTURE.copy()
        other[y, x, 1] ^= 1
        proof = same_pixels(PICTURE, other, REGION)
        assert (
            proof.same is same and proof.differing == (0 if same else 1) and proof.compared > 1200
        )


def test_a_neighbours_pixels_are_left_to_the_neighbours_own_proof():
    neighbour = cropped(disc(PICTURE.shape[:2], 108, 60, 9), "two")
    other = PICTURE.copy()
    other[60, 103, 1] ^= 1
    assert not same_pixels(PICTURE, other, REGION).same
    assert (
        same_pixels(PICTURE, other, REGION, others=[REGION, neighbour]).same
        and not same_pixels(PICTURE, other, neighbour, others=[REGION, neighbour]).same
    )


def test_nothing_is_proven_between_pictures_of_another_size_or_depth():
    assert not same_pixels(PICTURE, PICTURE[:100], REGION).same
    assert not same_pixels(PICTURE, PICTURE.astype(np.uint16), REGION).same


def test_a_slip_takes_its_steps_in_order_and_is_answered_once():
    assert [
        states.advance("slip", *step)
        for step in (
            ("written", "sent"),
            ("sent", "taken up"),
            ("working", "returned"),
            ("returned", "rechecked"),
        )
    ] == ["sent", "working", "returned", "rechecked"]
    for state, event in (
        ("written", "returned"),
        ("returned", "returned"),
        ("rechecked", "withdrawn"),
        ("withdrawn", "sent"),
    ):
        with pytest.raises(states.NotAllowed):
            states.advance("slip", state, event)


@pytest.mark.parametrize(
    "names, wanted",
    [
        (
            ["quay.jpg", "quay-fortnimm.png", "quay_mask.png"],
            [("Quay", "quay.jpg", ["quay-fortnimm.png"], "quay_mask.png")],
        ),
        (
            [
                "IMG 12 original.tif",
                "IMG 12 result.tif",
                "IMG 13 original.tif",
                "IMG 13 result.tif",
            ],
            [
                ("Img 12", "IMG 12 original.tif", ["IMG 12 result.tif"], None),
                ("Img 13", "IMG 13 original.tif", ["IMG 13 result.tif"], None),
            ],
        ),
        (
            ["a-take01.png", "a-take02.png", "a.png"],
            [("A", "a.png", ["a-take01.png", "a-take02.png"], None)],
        ),
        (
            ["b-mask.png", "b.png", "b2.png"],
            [("B", "b.png", [], "b-mask.png"), ("B2", "b2.png", [], None)],
        ),
        (["c-final.jpg"], [("C", None, ["c-final.jpg"], None)]),
    ],
)
def test_files_are_paired_by_their_names(names, wanted):
    assert [
        (group.name, group.original, group.results, group.mask) for group in pair(names)
    ] == wanted


def test_a_mask_with_a_results_own_words_is_what_that_result_was_made_with():
    (group,) = pair(
        ["quay.jpg", "quay-ada.png", "quay-bob.png", "quay_mask.png", "quay-ada-mask.png"]
    )
    assert group.mask == "quay_mask.png" and group.outlines == {"quay-ada.png": "quay-ada-mask.png"}
    assert group.results == ["quay-ada.png", "quay-bob.png"]


def test_no_file_is_left_out_or_used_twice():
    names = [
        f"{stem}{part}.png"
        for stem in ("pier", "pier-2", "shed")
        for part in ("", "-mask", "-masks", "-result", "_after", " copy")
    ]
    placed = [
        name
        for group in pair(names)
        for name in [group.original, group.mask, *group.results, *group.outlines.values()]
        if name
    ]
    assert sorted(placed) == sorted(names)


@pytest.mark.parametrize(
    "name, words",
    [
        ("quay-fortnimm.png", ["quay", "fortnimm"]),
        ("Quay railing by hand 02.tif", ["Quay", "railing", "by", "hand"]),
        ("quay-result2.png", ["quay"]),
        ("Kai_Maske.png", ["Kai"]),
        ("Hafenstraße take03.tif", ["Hafenstraße"]),
    ],
)
def test_what_a_name_says_beyond_part_and_number_is_the_picture_and_how_it_was_made(name, words):
    assert own_words(name) == words


def test_of_each_region_the_failed_cell_that_ranks_best_is_sent_back_and_of_equals_the_newest():
    from zweiblick_core.rules.slips import Failed, to_send_back, worked_attempt

    failed = [
        Failed(1, 10, 1, 0.4),
        Failed(2, 10, 2, 0.6),
        Failed(3, 10, 3, None),
        Failed(4, 11, 1, 0.5),
        Failed(5, 11, 2, 0.5),
        Failed(6, 12, 1, None),
    ]
    chosen = to_send_back(failed)
    assert [one.cell for one in chosen] == [2, 5, 6]
    # It works on the attempt that most of them come from.
    assert worked_attempt(chosen) == 2
    assert worked_attempt([Failed(1, 1, 4, None), Failed(2, 2, 7, None)]) == 7


def test_what_was_cropped_before_it_was_worked_on_is_worked_again_on_the_full_picture():
    from zweiblick_core.rules.advice import Case, Flaw, advise

    said = lambda kind, first: {
        change.what: change
        for change in advise(Case((Flaw(kind, [0, 0, 9, 9]),), cropped_first=first))
    }
    assert "cropped before" in said("repeat", True)["full picture"].why
    assert said("repeat", True)["full picture"].because == ("repeat",)
    assert "full picture" not in said("repeat", False)
    # What a crop does not explain is no reason.
    assert "full picture" not in said("tone", True)
