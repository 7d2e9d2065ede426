"""Cold looks: a click means what is near it, and looks are counted by region."""

from zweiblick_core.rules.cold import Hit, matched, noticed

REGIONS = {1: (100, 100, 50, 40), 2: (400, 100, 30, 30)}
FINDINGS = {7: (120, 110, 10, 10), 8: (405, 120, 20, 10)}


def test_a_click_meets_the_region_and_the_findings_near_it():
    assert matched([(125, 115)], REGIONS, FINDINGS, (600, 400)) == [Hit((1,), (7,))]
    assert matched([(145, 145)], REGIONS, FINDINGS, (600, 400)) == [Hit((1,), ())]
    assert matched([(300, 300), (410, 128)], REGIONS, FINDINGS, (600, 400)) == [
        Hit((), ()),
        Hit((2,), (8,)),
    ]


def test_in_a_large_picture_a_click_reaches_farther_as_the_hand_does():
    assert matched([(170, 120)], REGIONS, {}, (600, 400)) == [Hit((), ())]
    assert matched([(170, 120)], REGIONS, {}, (6000, 4000)) == [Hit((1,), ())]


def test_a_region_is_noticed_once_a_look_however_often_it_was_clicked():
    looks = [[Hit((1,), ()), Hit((1,), (7,))], [], [Hit((2,), ())]]
    assert noticed(looks, 1) == (1, 3) and noticed(looks, 2) == (1, 3) and noticed([], 1) == (0, 0)
