import numpy as np
import pytest
from builders import disc, textured

from zweiblick_core import methods
from zweiblick_core.errors import Refused

PICTURE = textured(200, 260)
MASK = disc(PICTURE.shape[:2], 130, 100, 14)

#: Each method with what it needs of its own.
OWN = {
    "straight copy": {"offset": (50, 5)},
    "blended copy": {"offset": (50, 5)},
    "exemplar fill": {"margin": 40},
}


def test_a_fill_is_put_over_what_was_there_as_much_as_is_wanted():
    whole = methods.remove("gradient fill", PICTURE, MASK)
    half = methods.remove("gradient fill", PICTURE, MASK, opacity=0.5)
    wanted = (PICTURE[MASK].astype(float) + whole[MASK]) / 2
    assert np.abs(half[MASK] - wanted).max() <= 0.51
    assert np.array_equal(half[~MASK], whole[~MASK])
    for wrong in (0, 1.2):
        with pytest.raises(Refused, match="opacity"):
            methods.remove("gradient fill", PICTURE, MASK, opacity=wrong)


def test_every_method_of_the_catalogue_is_tried_here():
    assert set(OWN) <= set(methods.METHODS) and set(methods.BY_NAME) == set(methods.METHODS)


@pytest.mark.parametrize("name", methods.METHODS)
def test_a_method_changes_the_mask_and_nothing_else_and_is_the_same_each_time(name):
    before = PICTURE.copy()
    first, second = (
        methods.remove(name, PICTURE, MASK, seed=3, **OWN.get(name, {})) for _ in range(2)
    )
    assert np.array_equal(first, second) and np.array_equal(PICTURE, before)
    assert np.array_equal(first[~MASK], PICTURE[~MASK]) and (first[MASK] != PICTURE[MASK]).any()


def test_an_outline_of_ones_own_takes_the_regions_place_and_can_be_grown_and_shrunk():
    ring = [(40.0, 40.0), (70.0, 40.0), (70.0, 60.0), (40.0, 60.0)]
    area = methods.outline_mask([ring], MASK.shape)
    assert area.sum() == pytest.approx(30 * 20, rel=0.1) and area[50, 55] and not area[50, 75]
    made = methods.remove("flow diffusion", PICTURE, MASK, outline=[ring], grow=3)
    changed = (made != PICTURE).any(axis=2)
    assert (
        not changed[~methods.grown(area, 3)].any() and changed[methods.grown(area, 3)].mean() > 0.8
    )
    assert methods.grown(area, -3).sum() < area.sum() < methods.grown(area, 3).sum()


def test_at_the_frames_edge_there_is_no_feather():
    area = np.zeros_like(MASK)
    area[60:100, :40] = True
    hard, soft = (
        methods.remove("straight copy", PICTURE, area, offset=(80, 5), feather=feather).astype(int)
        for feather in (0, 6)
    )
    apart = np.abs(hard - soft).max(axis=2)
    assert not apart[70:90, :30].any() and apart[70:90, 36:40].any()


def test_a_feather_fades_inside_the_outline_only():
    hard, soft = (
        methods.remove("straight copy", PICTURE, MASK, offset=(50, 5), feather=feather).astype(int)
        for feather in (0, 6)
    )
    rim = MASK & ~methods.grown(MASK, -2)
    assert np.abs(soft - PICTURE)[rim].mean() < 0.5 * np.abs(hard - PICTURE)[rim].mean()
    assert np.array_equal(soft[~MASK], PICTURE[~MASK])


def test_kept_out_places_are_no_source():
    truth = textured(200, 260, seed=6)
    ys, xs = np.nonzero(MASK)
    # The best source there can be: the same patch 60 px to the right.
    twin = truth.copy()
    twin[70:131, 160:221] = truth[70:131, 100:161]
    ring_copy = twin.copy()
    found = methods.best_offset(ring_copy, MASK)
    assert found == (60, 0)
    barred = np.zeros_like(MASK)
    barred[60:140, 150:230] = True
    other = methods.best_offset(ring_copy, MASK, barred)
    assert other != (60, 0) and not barred[ys + other[1], xs + other[0]].any()


def test_sources_along_a_line_stay_on_it():
    for angle in (0.0, 90.0):
        dx, dy = methods.best_offset(PICTURE, MASK, along=(angle,))
        assert abs(dx * np.sin(np.radians(angle)) - dy * np.cos(np.radians(angle))) <= 8


def test_grain_is_given_where_it_falls_short():
    smooth = methods.remove("flow diffusion", PICTURE, MASK)
    grained = methods.remove("flow diffusion", PICTURE, MASK, grain=True, seed=4)
    inner = methods.grown(MASK, -3)
    rough = lambda picture: float(
        np.abs(np.diff(picture.astype(float), axis=1))[:, :, 0][inner[:, 1:]].mean()
    )
    around = methods.grown(MASK, 30) & ~MASK
    natural = float(np.abs(np.diff(PICTURE.astype(float), axis=1))[:, :, 0][around[:, 1:]].mean())
    assert rough(smooth) < 0.5 * natural < rough(grained) < 1.6 * natural


@pytest.mark.parametrize(
    "asked, words",
    [
        (dict(method="straight copy", offset=(500, 0)), "outside"),
        (dict(method="straight copy"), "needs an offset"),
        (dict(method="wishing"), "no built-in method"),
        (dict(method="flow diffusion", mask=np.zeros_like(MASK)), "marks nothing"),
        (dict(method="flow diffusion", mask=MASK[:50]), "the mask is 260x50"),
        (dict(method="flow diffusion", outline=[[(0, 0), (1, 1)]]), "three points"),
        (dict(method="flow diffusion", grow=-40), "marks nothing"),
        (
            dict(method="biharmonic fill", mask=np.pad(np.ones((180, 240), bool), 10)),
            "at most 40 000",
        ),
    ],
)
def test_what_cannot_be_done_is_refused(asked, words):
    given = {"mask": MASK, **asked}
    with pytest.raises(Refused, match=words):
        methods.remove(given.pop("method"), PICTURE, given.pop("mask"), **given)


SKY = np.clip(
    np.dstack([90 + 0.3 * np.mgrid[0:200, 0:260][0] + 0.1 * np.mgrid[0:200, 0:260][1]] * 3)
    + np.array([0, 10, 40]),
    0,
    255,
).astype(np.uint8)


def test_a_gradient_fill_continues_a_sky_to_within_a_level_whatever_stands_in_it():
    with_thing = SKY.copy()
    with_thing[MASK] = (200, 30, 30)
    with_thing[20:60, 20:24] = 0  # something else near, of which a surface must not take notice
    made = methods.gradient(with_thing, MASK)
    assert np.abs(made.astype(int) - SKY)[MASK].max() <= 2


def test_a_gradient_needs_something_around():
    with pytest.raises(Refused, match="too little around"):
        methods.gradient(SKY, np.ones(SKY.shape[:2], bool))


def test_a_frequency_selective_fill_continues_a_regular_texture():
    waves = 120 + 40 * np.sin(np.mgrid[0:200, 0:260][1] * 2 * np.pi / 12)
    picture = np.repeat(waves[..., None], 3, 2).astype(np.uint8)
    holed = picture.copy()
    holed[MASK] = 128
    made = methods.frequency_selective(holed, MASK)
    assert np.abs(made.astype(int) - picture)[MASK].mean() < 6
    assert np.abs(holed.astype(int) - picture)[MASK].mean() > 20


def test_a_fill_of_another_tone_is_brought_to_its_surroundings():
    off = SKY.copy()
    off[MASK] = np.clip(off[MASK].astype(int) + 20, 0, 255)
    made = methods.with_tone(off, MASK)
    assert np.abs(made[MASK].astype(int) - SKY[MASK]).max() <= 3
    assert np.array_equal(made[~MASK], off[~MASK])


def test_the_original_is_put_back_outside_and_nothing_inside_is_touched():
    result = np.clip(PICTURE.astype(int) + 12, 0, 255).astype(np.uint8)
    made = methods.original_outside(PICTURE, result, MASK, margin=6)
    assert np.array_equal(made[MASK], result[MASK])
    beyond = ~methods.grown(MASK, 9)
    assert np.array_equal(made[beyond], PICTURE[beyond])
    with pytest.raises(Refused, match="its own frame"):
        methods.original_outside(PICTURE, result[:-1], MASK)


@pytest.mark.parametrize(
    ("method", "settings", "words"),
    [
        ("magic", {}, "no built-in method"),
        ("gradient fill", {"scale": 0.5}, "knows no setting"),
        ("exemplar fill", {"scale": 7}, "between 0.25 and 1"),
        ("exemplar fill", {"scale": True}, "between"),
        ("straight copy", {}, "needs to know: taken from"),
        ("straight copy", {"offset": [1.5, 2]}, "a value"),
        ("copy that fits its rim", {"blend": 1}, "a value"),
    ],
)
def test_settings_that_a_method_cannot_take_are_refused_in_words(method, settings, words):
    assert words in methods.refuse_settings(method, settings)


def test_each_methods_own_defaults_are_taken():
    for one in methods.DESCRIBED:
        given = {ask.name: ask.default for ask in one.asks if ask.kind != "offset"}
        given |= {ask.name: [40, 3] for ask in one.asks if ask.kind == "offset"}
        assert methods.refuse_settings(one.name, given) is None


def marked(mask, name):
    from zweiblick_core.regions.masks import cropped

    return cropped(mask, name)


def test_small_distinctive_things_go_first():
    picture = textured(300, 400, seed=8)
    large, small, faint = (
        disc(picture.shape[:2], x, 150, radius) for x, radius in ((90, 55), (220, 12), (320, 12))
    )
    for mask, colour in ((large, (40, 60, 170)), (small, (200, 30, 30))):
        picture[mask] = colour
    steps = methods.plan(
        picture, [marked(large, "large"), marked(faint, "faint"), marked(small, "small")]
    )
    assert steps[0].at == 2
    assert steps[0].stands_out > 3 and steps[0].area == int(small.sum())
    # A place like its surroundings stands out no more than they do themselves.
    assert next(step for step in steps if step.at == 1).stands_out < 1.5


def test_what_stands_beside_a_thing_and_must_go_too_is_no_surrounding_of_it():
    picture = textured(300, 400, seed=8)
    one, other = (disc(picture.shape[:2], x, 150, 25) for x in (150, 190))
    picture[one | other] = (200, 30, 30)
    alone = methods.stands_out(picture, marked(one & ~other, "one"), [marked(other, "other")])
    assert alone > methods.stands_out(picture, marked(one & ~other, "one"))
    # Where nothing around is left to compare with, it stands out like anything.
    everything = marked(np.ones(picture.shape[:2], bool), "all")
    assert methods.stands_out(picture, everything) == 1.0
