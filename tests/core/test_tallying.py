"""What held, with the uncertainty that few cases leave."""

import pytest

from zweiblick_core.rules.tallying import Ruled, firsts, rounds, share, together


def test_a_share_has_wilsons_interval_and_few_are_said_to_be_few():
    four = share(4, 9)
    assert (four.low, four.high) == (pytest.approx(0.189, abs=2e-3), pytest.approx(0.733, abs=2e-3))
    assert not four.few and share(3, 4).few
    assert share(0, 0).high == 1.0 and share(0, 0).low == 0.0
    assert share(0, 10).low == 0.0 and 0.2 < share(0, 10).high < 0.35


@pytest.mark.parametrize("count, of", [(3, 2), (-1, 4)])
def test_no_more_hold_than_there_are(count, of):
    with pytest.raises(ValueError, match="of"):
        share(count, of)


def ruled(name, region, order, held, backdrop="water"):
    return Ruled(name, backdrop, region, order, held)


def test_only_the_first_attempt_of_a_method_at_a_region_counts():
    rows = [
        ruled("copy", 1, 3, True),
        ruled("copy", 1, 1, False),
        ruled("copy", 2, 1, True),
        ruled("hand", 1, 2, True),
    ]
    found = firsts(rows)
    assert (found["copy", "water"].count, found["copy", "water"].of) == (1, 2)
    assert (found["hand", "water"].count, found["hand", "water"].of) == (1, 1)


def test_backdrops_are_reported_apart_and_summed_up():
    rows = [
        ruled("copy", 1, 1, True),
        ruled("copy", 2, 1, False, "brick"),
        ruled("copy", 3, 1, True, "brick"),
    ]
    found = firsts(rows)
    assert {key: one.count for key, one in found.items()} == {
        ("copy", "brick"): 1,
        ("copy", "water"): 1,
    }
    assert (together(found)["copy"].count, together(found)["copy"].of) == (2, 3)


def test_rounds_are_counted_until_one_holds_and_never_where_none_did():
    rows = [
        ruled("copy", 1, 1, False),
        ruled("copy", 1, 4, True),
        ruled("copy", 2, 1, True),
        ruled("copy", 3, 1, False),
        ruled("hand", 3, 2, False),
    ]
    assert rounds(rows) == {"copy": 1.5}
