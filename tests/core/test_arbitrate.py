"""What explains what: rules by which one flaw gets one name."""

import numpy as np
import pytest
from evidences import shown

from zweiblick_core.evidence import Island
from zweiblick_core.explaining.arbitrate import arbitrate
from zweiblick_core.report import Measure, Natural, Reading, Signal

BOX = [0.0, 0.0, 50.0, 40.0]
OFFSETS = np.arange(-30, 31)


def reading(kind, score=0.9, value=3.0, **evidence):
    return Reading(
        kind,
        score,
        list(BOX),
        [],
        Signal(((0.25, 1.0, 0.0),), 10, 100),
        Measure("m", value, "u", Natural(0.0, 1.0, 12, "outline")),
        shown(evidence.pop("how", kind), **evidence),
    )


def across(lightness, a=0.0, b=0.0):
    """A profile across a rim, from inside to outside."""
    whole = lambda values: np.broadcast_to(values, OFFSETS.shape).astype(float)
    return {"lightness": whole(lightness), "a": whole(a), "b": whole(b)}


def halo(profile, ring, likeness, **more):
    return reading(
        "halo",
        profile=profile,
        ring=dict(zip(("lightness", "a", "b"), ring, strict=True)),
        likeness_to_removed=likeness,
        **more,
    )


def names(*readings, untold=()):
    return [(r.kind, r.runner_up) for r in arbitrate(list(readings), untold)]


NEAR = np.exp(-(((OFFSETS + 2) / 2.0) ** 2))
WITHIN = np.where(OFFSETS < -4, 1.0, 0.0)


def test_a_ring_opposite_to_the_thing_with_the_things_colour_behind_it_is_its_ghost():
    trace = across(-6.0 * WITHIN + 4.0 * NEAR)
    assert names(halo(trace, (4.0, 0.0, 0.0), -0.97)) == [("residue", "halo")]
    # A glow has nothing behind it, and a fringe has the thing's own colour.
    assert names(halo(across(4.0 * NEAR), (4.0, 0.0, 0.0), -0.97)) == [("halo", None)]
    assert names(halo(across(-6.0 * WITHIN + 4.0 * NEAR), (4.0, 0.0, 0.0), 0.97)) == [
        ("halo", None)
    ]


def test_in_a_colour_the_ring_alone_says_so():
    assert names(halo(across(0.0, a=-4.0 * NEAR), (0.5, -4.0, 1.0), -0.97)) == [("residue", "halo")]


@pytest.mark.parametrize("kind", ["repeat", "invented"])
def test_the_edge_of_what_was_pasted_in_says_nothing_of_the_thing(kind):
    trace = halo(across(-6.0 * WITHIN + 4.0 * NEAR), (4.0, 0.0, 0.0), -0.97)
    assert "residue" not in [r.kind for r in arbitrate([trace, reading(kind, 0.98, value=0.9)])]


PASSING = across(60.0 - 16.0 / (1 + np.exp(-(OFFSETS + 3) / 1.5)))
SHADOW = {"neutral": 0.95}


def test_a_rim_that_passes_into_a_dark_place_is_its_shadow():
    step = reading("seam", profile=PASSING, what="step")
    (kept,) = arbitrate([step], [reading("shadow", 0.2, **SHADOW)])
    assert (kept.kind, kept.runner_up, kept.score) == ("shadow", "seam", 0.9)


@pytest.mark.parametrize(
    ("profile", "shadow"),
    [
        (across(np.where(OFFSETS < 0, 60.0, 44.0)), {"neutral": 0.95}),
        (PASSING, {"neutral": 0.2}),
        (across(60.0 + 16.0 / (1 + np.exp(-(OFFSETS + 3) / 1.5))), {"neutral": 0.95}),
    ],
    ids=[
        "a step that ends at once",
        "a dark place of another colour",
        "a fill darker than what lies outside",
    ],
)
def test_other_steps_beside_a_dark_place_stay_seams(profile, shadow):
    assert names(
        reading("seam", profile=profile, what="step"), untold=[reading("shadow", 0.2, **shadow)]
    ) == [("seam", None)]


def test_without_a_dark_place_a_soft_step_is_a_seam():
    assert names(
        reading("seam", profile=PASSING, what="step"), untold=[reading("shadow", 0.05, **SHADOW)]
    ) == [("seam", None)]


def test_grain_that_went_while_edges_stand_was_denoised_and_is_no_smear():
    lack = {"missing_by_size": [1.8, 2.9, 2.6, 2.3], "sparser": 0.8}
    assert (
        names(reading("smear", **lack), reading("soft", 0.8, value=-0.6, what="soft", **lack))[0][0]
        == "grain"
    )
    lack["sparser"] = -0.8
    assert (
        names(reading("smear", **lack), reading("soft", 0.8, value=-0.6, what="soft", **lack))[0][0]
        == "smear"
    )


def test_grain_that_went_with_the_edges_was_blurred_though_only_flat_places_show_it():
    lack = {"what": "less grain", "texture_over_grain": 2.0}
    assert names(
        reading("grain", value=0.2, missing_by_size=[1.7, 1.8, 1.5, 0.9], sparser=-0.5, **lack)
    ) == [("smear", "grain")]
    assert names(
        reading("grain", value=0.2, missing_by_size=[1.7, 0.3, 0.1, 0.0], sparser=0.0, **lack)
    ) == [("grain", None)]


def test_a_strong_fringe_makes_cells_foreign_and_something_foreign_makes_a_weak_edge():
    profile = across(10.0 * NEAR)
    fringe = halo(profile, (10.0, 0.0, 0.0), 0.98)
    fringe.measure = Measure("m", 60.0, "u", Natural(0.0, 1.0, 12, "outline"))
    assert names(fringe, reading("invented", 0.99, value=4.0)) == [("halo", "invented")]
    assert names(halo(profile, (10.0, 0.0, 0.0), -0.3), reading("invented", 0.99, value=7.0)) == [
        ("invented", "halo")
    ]


def test_what_stands_off_from_its_surroundings_is_no_wash_out_no_light_and_no_fringe():
    island = lambda: reading(
        "invented", 0.98, value=3.0, how=Island, hardness=1.0, stands_off={"delta_e": 60.0}
    )
    foreign = lambda: reading(
        "invented",
        0.98,
        value=3.0,
        shares={"colour": 0.3, "detail": 0.3, "structure": 0.3},
    )
    fringe = halo(across(10.0 * NEAR), (10.0, 0.0, 0.0), 0.98)
    fringe.measure = Measure("m", 60.0, "u", Natural(0.0, 1.0, 12, "outline"))
    for other in (lambda: reading("smear", 0.95), lambda: reading("tone", 0.95), lambda: fringe):
        assert names(other(), island())[0][0] == "invented"
        assert names(other(), foreign())[0][0] != "invented"


def test_what_is_foreign_by_its_colour_and_structure_alone_was_not_washed_out():
    foreign = lambda detail: reading(
        "invented",
        0.98,
        value=4.8,
        shares={"colour": 0.59, "detail": detail, "structure": 0.4},
    )
    assert names(reading("smear", 0.98), foreign(0.01)) == [("invented", "smear")]
    # What a wash-out makes foreign lacks detail.
    assert names(reading("smear", 0.98), foreign(0.2)) == [("smear", "invented")]


def test_more_grain_makes_nothing_foreign_but_what_stands_off_is_not_made_by_it():
    foreign = lambda **more: reading(
        "invented",
        1.0,
        value=30.0,
        shares={"colour": 0.08, "detail": 0.32, "structure": 0.6},
        **more,
    )
    grainy = lambda: reading("grain", 0.99, what="more grain")
    assert names(grainy(), foreign()) == [("grain", "invented")]
    assert names(grainy(), foreign(stands_off={"delta_e": 71.0})) == [("invented", "grain")]


def test_a_piece_of_the_thing_that_stands_off_explains_nothing_else_for_that():
    island = reading(
        "invented", 0.98, value=3.0, how=Island, hardness=1.0, stands_off={"delta_e": 60.0}
    )
    assert sorted(
        names(reading("residue", 0.99, what="sliver"), island, reading("smear", 0.95))
    ) == [("residue", "invented"), ("smear", None)]


def in_colour(what, ratio, grain=0.5, share=1.0, sparser=-0.1, **more):
    return reading(
        "grain",
        0.99,
        ratio,
        what=what,
        seen_in="colour",
        ratio=ratio,
        share_of_fill=share,
        missing_by_size=[grain, 0.6, 0.5, 0.4],
        sparser=sparser,
        **more,
    )


def test_a_part_that_lost_all_its_grain_was_washed_out_and_all_of_it_was_denoised():
    assert names(in_colour("less grain", 0.4, grain=1.6, share=0.2, sparser=0.0)) == [
        ("smear", "grain")
    ]
    # As much of it all over, with detail that stands, is what a denoiser leaves; and so is less of
    # it in a part.
    smooth = lambda: reading("smear", 0.98, missing_by_size=[0.6, 1.9, 0.8, 0.4], sparser=0.0)
    assert names(in_colour("less grain", 0.35), smooth()) == [("grain", "smear")]
    assert names(in_colour("less grain", 0.35, sparser=-0.6), smooth()) == [("smear", "grain")]
    assert names(in_colour("less grain", 0.6, grain=0.5, share=0.2)) == [("grain", None)]


@pytest.mark.parametrize(
    "what, how", [("more grain", "sharp"), ("more grain", "soft"), ("less grain", "soft")]
)
def test_grain_that_only_colour_shows_is_explained_by_what_is_sharper_or_softer(what, how):
    soft = lambda score: reading(
        "soft", score, 0.6, what=how, missing_by_size=[0.3, 0.4, 0.4, 0.4], sparser=-0.3
    )
    assert names(in_colour(what, 1.5, sparser=-0.3), soft(0.6))[0][0] == "soft"
    plain = reading(
        "grain",
        0.99,
        1.5,
        what="more grain",
        ratio=1.5,
        missing_by_size=[0.1, 0.2, 0.2, 0.2],
        sparser=-0.3,
    )
    # Grain that luma shows too stands as such, whatever the sharpness says.
    assert names(plain, soft(0.6))[0][0] == "grain"


def test_places_alike_in_what_a_blur_left_are_no_copies_but_those_that_share_their_grain_are():
    assert names(reading("smear"), reading("repeat", value=0.4, patches=4))[0][0] == "smear"
    assert names(reading("smear"), reading("repeat", value=0.93, patches=4)) == [
        ("repeat", "smear")
    ]


def test_a_copy_keeps_what_else_is_seen_of_it_its_step_where_it_was_not_blended_and_another_light():
    copy = lambda: reading("repeat", 0.99, value=0.95, patches=9)
    step = {"lightness": 8.0, "a": 0.0, "b": 0.0}
    rim = lambda what: reading(
        "seam", what=what, step=step, profile=across(np.where(OFFSETS < 0, 8.0, 0.0))
    )
    assert {name for name, _ in names(copy(), rim("step"))} == {"repeat", "seam"}
    # That its texture ends there is no more than that it was laid in.
    assert names(copy(), rim("cut")) == [("repeat", "seam")]
    # Blended, its light is seen and not its rim, which would have explained the light.
    soft = halo(across(4.0 * NEAR), (4.0, 0.0, 0.0), 0.1)
    assert {
        name for name, _ in names(copy(), soft, reading("tone", delta_e=8.0, difference=step))
    } == {"repeat", "tone"}


def test_a_tone_that_departs_as_the_thing_did_is_its_ghost_and_another_light_is_none():
    assert names(
        reading(
            "tone",
            likeness_to_removed=0.97,
            pattern_of_removed=0.7,
            delta_e=4.0,
            difference={"lightness": 3.0, "a": 2.0, "b": 0.0},
        )
    ) == [("residue", "tone")]
    assert names(
        reading(
            "tone",
            likeness_to_removed=0.97,
            pattern_of_removed=0.0,
            delta_e=4.0,
            difference={"lightness": 4.0, "a": 0.1, "b": 0.0},
        )
    ) == [("tone", None)]


def test_beside_a_shadow_a_fill_as_it_should_be_looks_light_and_is_no_tone():
    step, light = (
        reading("seam", profile=PASSING, what="step"),
        reading("tone", delta_e=6.0, difference={"lightness": 6.0, "a": 0.0, "b": 0.0}),
    )
    assert names(step, light, untold=[reading("shadow", 0.2, **SHADOW)]) == [("shadow", "seam")]


def test_a_hard_step_that_is_gone_farther_in_is_a_ring_and_one_that_may_be_is_a_step():
    hard = lambda odds: reading(
        "seam",
        profile=across(0.0),
        what="step",
        step={"lightness": 2.0, "a": 0.0, "b": 0.0},
        fades={"odds": odds, "centre_px": 3.0, "width_px": 4.0},
    )
    assert (
        names(hard(4.0)) == [("halo", "seam")]
        and names(hard(0.3)) == [("seam", None)]
        and names(hard(-6.0)) == [("seam", None)]
    )


@pytest.mark.parametrize(
    ("lacks", "sparser", "name"),
    [
        ((0.6, 1.9, 1.4, 0.9), -0.05, "grain"),
        ((0.6, 0.7, 0.4, 0.4), -0.3, "soft"),
        ((1.4, 2.5, 1.7, 1.0), -0.3, "smear"),
        ((0.7, 3.4, 2.4, 1.2), 0.04, "smear"),
    ],
    ids=["denoised", "softened", "blurred", "diffused"],
)
def test_what_is_missing_is_called_by_how_it_went(lacks, sparser, name):
    found = [
        reading(
            kind,
            missing_by_size=lacks,
            sparser=sparser,
            what=what,
            missing_by_scale=(1.0, 0.8, 0.6),
            texture_over_grain=4.0,
        )
        for kind, what in (("soft", "soft"), ("grain", "less grain"))
    ]
    found[0].measure = Measure("m", -0.6, "u", Natural(-0.2, 0.2, 12, "outline"))
    assert names(*found)[0][0] == name


def test_less_grain_alone_is_soft_where_edges_went_with_it():
    grain = lambda sparser: reading(
        "grain",
        what="less grain",
        missing_by_size=(0.5, 0.5, 0.4, 0.4),
        sparser=sparser,
        texture_over_grain=4.0,
    )
    assert names(grain(-0.3)) == [("soft", "grain")] and names(grain(-0.1)) == [("grain", None)]


def test_a_step_all_round_explains_light_that_falls_off_and_one_just_there_does_not():
    crossing = reading("shadow", 0.7, neutral=0.9, crossing=3.0, across_rim=True)
    assert names(reading("seam", what="step", profile=across(0.0)), crossing) == [
        ("seam", None),
        ("shadow", None),
    ]
    crossing.bbox = [0.0, 0.0, 20.0, 20.0]
    assert names(reading("seam", what="step", profile=across(0.0)), crossing) == [
        ("seam", "shadow")
    ]


@pytest.mark.parametrize("winner", ["smear", "halo"])
def test_what_is_left_of_washed_out_texture_undulates_and_is_no_line(winner):
    waved = lambda **more: reading("line", what="wave", **more)
    assert names(reading(winner), waved(whole=True)) == [(winner, "line")]
    # A line that was followed and swings is one.
    assert sorted(names(reading(winner), waved())) == sorted([(winner, None), ("line", None)])


@pytest.mark.parametrize(
    ("inside", "what"),
    [
        ([6.6, 4.2, 3.7], "sharp"),
        ([3.4, 2.2, 2.6], "more grain"),
        ([3.2, 2.1, 3.0], "more grain"),
        ([1.5, 1.7, 2.2], "soft"),
    ],
    ids=["sharpened", "more grain", "more grain on more structure", "enlarged"],
)
def test_more_grain_on_what_was_sharpened_or_enlarged_is_called_by_that(inside, what):
    grain = reading(
        "grain",
        0.99,
        2.0,
        what="more grain",
        seen_in="colour",
        inside=inside,
        around=[2.6, 2.1, 2.5],
    )
    (only,) = arbitrate(
        [grain], [reading("soft", 0.15, 0.5, what="sharp"), reading("soft", 0.1, -0.5, what="soft")]
    )
    assert only.score == 0.99 and only.evidence.what == what
    assert (only.kind, only.runner_up) == (
        ("grain", None) if what == "more grain" else ("soft", "grain")
    )


@pytest.mark.parametrize(("departs", "kinds"), [(14.0, ["tone", "halo"]), (5.0, ["halo"])])
def test_a_ring_explains_no_tone_that_departs_by_more_than_the_ring(departs, kinds):
    ring = reading("halo", score=0.98, what="ring", ring={"lightness": -7.6, "a": 0.1, "b": 0.2})
    assert sorted(
        kind for kind, _ in names(ring, reading("tone", score=0.97, delta_e=departs))
    ) == sorted(kinds)
