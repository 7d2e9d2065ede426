"""Every rule of the job, as a test that reads like it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zweiblick_core.rules.outside import Change, held_up, holds_up
from zweiblick_core.rules.states import MACHINES, NotAllowed, advance
from zweiblick_core.rules.verdicts import (
    CellFacts,
    SecondLook,
    Verdict,
    asked_anyway,
    cell_state,
    done_attempt,
    holder,
    holds,
    order_of_attempts,
    picture_state,
    region_state,
)

WALL, PHONE = 2.0, 0.5


def cell(attempt, region, verdict=None, came=0.0, overall=None):
    return CellFacts(attempt, region, came, verdict, overall)


def said(ruling, demand=None, given=10.0):
    return Verdict(ruling, demand, given)


def test_passes_holds_at_every_size():
    assert holds(said("passes"), WALL) and holds(said("passes"), PHONE)


def test_enough_for_a_phone_may_not_be_enough_for_a_wall():
    assert holds(said("passes at size", PHONE), PHONE)
    assert not holds(said("passes at size", PHONE), WALL)


def test_enough_for_a_wall_is_enough_for_a_phone():
    assert holds(said("passes at size", WALL), PHONE)


def test_no_verdict_and_failing_verdicts_do_not_hold():
    assert not any(holds(verdict, PHONE) for verdict in (None, said("rework"), said("rebuild")))


def test_one_passing_cell_decides_for_the_region_and_folds_the_others():
    cells = [cell(1, 1), cell(2, 1, said("passes")), cell(3, 1)]
    assert region_state(cells, WALL) == "holds"
    assert [cell_state(one, cells, WALL) for one in cells] == ["not needed", "passes", "not needed"]


def test_a_failing_verdict_decides_the_region_until_a_newer_attempt_arrives():
    cells = [cell(1, 1, said("rework", given=10)), cell(2, 1, came=5)]
    assert region_state(cells, WALL) == "rework"
    returned = [*cells, cell(3, 1, came=11)]
    assert region_state(returned, WALL) == "undecided"
    assert cell_state(returned[-1], returned, WALL) == "undecided"


def test_the_newest_failing_verdict_is_the_regions():
    assert (
        region_state(
            [cell(1, 1, said("rework", given=10)), cell(2, 1, said("rebuild", given=12))], WALL
        )
        == "rebuild"
    )


def test_a_pass_outweighs_a_later_failure_of_another_attempt():
    assert (
        region_state(
            [cell(1, 1, said("passes", given=1)), cell(2, 1, said("rework", given=2))], WALL
        )
        == "holds"
    )


def test_a_size_that_is_added_later_is_undecided():
    cells = [cell(1, 1, said("passes at size", PHONE))]
    assert cell_state(cells[0], cells, PHONE) == "passes at size"
    assert (
        region_state(cells, WALL) == "undecided"
        and cell_state(cells[0], cells, WALL) == "undecided"
    )


def test_of_several_holders_the_one_that_ranks_best_is_named():
    assert (
        holder(
            [cell(1, 1, said("passes"), overall=0.4), cell(2, 1, said("passes"), overall=0.9)], WALL
        )
        == 2
    )
    assert holder([cell(1, 1)], WALL) is None


def test_done_is_one_attempt_in_which_every_region_passes():
    cells = [
        cell(1, 1, said("passes")),
        cell(1, 2, said("passes")),
        cell(2, 1, said("passes")),
        cell(2, 2),
    ]
    assert done_attempt(cells, [1, 2], WALL) == 1
    assert picture_state(cells, [1, 2], WALL) == "done"


def test_regions_that_hold_in_different_attempts_make_no_picture_done():
    cells = [cell(1, 1, said("passes")), cell(1, 2), cell(2, 1), cell(2, 2, said("passes"))]
    assert done_attempt(cells, [1, 2], WALL) is None
    assert picture_state(cells, [1, 2], WALL) == "to assemble"


def test_a_region_that_somebody_else_was_asked_about_waits_for_them():
    cells = [cell(1, 1, said("passes")), cell(1, 2, said("passes"))]
    waiting = {1: SecondLook(1, None)}
    assert region_state(cells[:1], WALL, waiting[1]) == "asked"
    assert cell_state(cells[0], cells[:1], WALL, waiting[1]) == "asked"
    assert done_attempt(cells, [1, 2], WALL, (), waiting) is None
    assert picture_state(cells, [1, 2], WALL, (), waiting) == "asked"
    # What is undecided besides comes first.
    assert picture_state([cells[0], cell(1, 2)], [1, 2], WALL, (), waiting) == "undecided"


def test_two_who_agree_settle_it_and_two_who_differ_have_it_ruled_on_again():
    mine = cell(1, 1, said("passes", given=10.0))
    agrees = SecondLook(1, 20.0, said("passes", given=20.0))
    differs = SecondLook(1, 20.0, said("rework", given=20.0))
    assert region_state([mine], WALL, agrees) == "holds"
    assert region_state([mine], WALL, differs) == "undecided"
    assert cell_state(mine, [mine], WALL, differs) == "undecided"
    assert done_attempt([mine], [1], WALL, (), {1: differs}) is None
    again = cell(1, 1, said("passes", given=30.0))
    assert region_state([again], WALL, differs) == "holds"
    assert done_attempt([again], [1], WALL, (), {1: differs}) == 1


def test_a_second_look_at_a_smaller_size_settles_nothing_at_a_larger_one():
    mine = cell(1, 1, said("passes", given=10.0))
    small = SecondLook(1, 20.0, said("passes at size", PHONE, given=20.0))
    assert region_state([mine], PHONE, small) == "holds"
    assert region_state([mine], WALL, small) == "undecided"


def test_an_answer_in_words_is_weighed_by_a_ruling_after_it():
    words = SecondLook(1, 20.0)
    assert region_state([cell(1, 1, said("passes", given=10.0))], WALL, words) == "undecided"
    assert region_state([cell(1, 1, said("passes", given=30.0))], WALL, words) == "holds"
    # Nobody ruled before: it is undecided as it was.
    assert region_state([cell(1, 1)], WALL, words) == "undecided"


def test_what_changed_outside_holds_its_attempt_up_until_it_is_let_stand():
    cells = [cell(1, 1, said("passes")), cell(1, 2, said("passes"))]
    assert done_attempt(cells, [1, 2], WALL, held_up={1}) is None
    assert picture_state(cells, [1, 2], WALL, held_up={1}) == "changed outside"
    assert picture_state(cells, [1, 2], WALL, held_up={2}) == "done"


@pytest.mark.parametrize(
    ("answer", "holds"),
    [
        ("unread", True),
        ("confirmed", True),
        ("not there", False),
        ("acceptable", False),
        ("agreed base", False),
    ],
)
def test_a_change_outside_is_let_stand_by_a_person_only(answer, holds):
    assert holds_up(Change(answer, severity=0.5)) is holds


def test_a_change_outside_that_nobody_sees_or_minds_holds_nothing_up():
    assert not holds_up(Change("unread", severity=0.1))
    assert not holds_up(Change("unread", severity=0.3, bar=0.4))
    assert held_up([Change("acceptable", 0.9), Change("unread", 0.5)])


def test_a_picture_is_sent_back_once_all_is_decided_and_something_failed():
    cells = [cell(1, 1, said("passes")), cell(1, 2, said("rework"))]
    assert picture_state(cells, [1, 2], WALL) == "sent back"
    assert picture_state([cell(1, 1), cell(1, 2)], [1, 2], WALL) == "undecided"
    assert picture_state([], [1], WALL) == "empty"


def test_attempts_not_examined_come_last():
    assert order_of_attempts({1: 0.2, 2: None, 3: 0.9}) == [3, 1, 2]


verdicts = st.none() | st.builds(
    Verdict,
    st.sampled_from(["passes", "passes at size", "rework", "rebuild"]),
    st.sampled_from([PHONE, WALL]),
    st.floats(0, 100),
)


@given(
    st.lists(
        st.tuples(st.integers(1, 4), st.integers(1, 3), verdicts, st.floats(0, 100)), max_size=12
    )
)
def test_done_implies_that_every_region_holds_and_that_larger_sizes_ask_more(rows):
    cells = list({(a, r): cell(a, r, v, c) for a, r, v, c in rows}.values())
    regions = [1, 2, 3]
    for demand in (PHONE, WALL):
        if done_attempt(cells, regions, demand) is not None:
            assert all(
                region_state([one for one in cells if one.region == r], demand) == "holds"
                for r in regions
            )
    if done_attempt(cells, regions, WALL) is not None:
        assert done_attempt(cells, regions, PHONE) is not None


STARTS = {
    "arrival": "reading",
    "attempt": "arrived",
    "check": "waiting",
    "delivery": "waiting",
    "order": "waiting",
    "slip": "written",
    "trial": "waiting",
    "work": "waiting",
}


def test_states_change_only_as_their_table_says():
    assert advance("check", "waiting", "started") == "running"
    with pytest.raises(NotAllowed, match="done"):
        advance("check", "done", "finished")
    assert set(MACHINES) == set(STARTS)
    for machine, table in MACHINES.items():
        # From its first state a machine reaches every state that its table names.
        reached, before = {STARTS[machine]}, set()
        while reached != before:
            before = set(reached)
            reached |= {after for (state, _), after in table.items() if state in reached}
        assert reached == {state for state, _ in table} | set(table.values()), machine


EVENTS = sorted({event for table in MACHINES.values() for _, event in table})


@given(st.sampled_from(sorted(STARTS)), st.lists(st.sampled_from(EVENTS), max_size=30))
def test_whatever_happens_in_whatever_order_a_state_moves_by_its_table_or_stays(machine, events):
    table, state = MACHINES[machine], STARTS[machine]
    for event in events:
        try:
            after = advance(machine, state, event)
        except NotAllowed:
            assert (state, event) not in table
            continue
        assert table[state, event] == after
        state = after


@given(st.lists(st.sampled_from(EVENTS), max_size=40))
def test_a_slip_that_was_settled_or_withdrawn_takes_nothing_more_and_none_returns_unsent(events):
    state, happened = STARTS["slip"], []
    for event in events:
        try:
            after = advance("slip", state, event)
        except NotAllowed:
            continue
        assert state not in ("settled", "withdrawn")
        happened.append(event)
        state = after
    if state in ("returned", "rechecked", "settled"):
        assert "sent" in happened and "returned" in happened


def test_one_folded_cell_in_twenty_is_asked_for_all_the_same_and_stays_so():
    asked = [cell for cell in range(1, 8001) if asked_anyway(cell, "not needed")]
    assert 300 < len(asked) < 500 and asked == [
        cell for cell in range(1, 8001) if asked_anyway(cell, "not needed")
    ]
    # Not one in a row of twenty: by lot.
    assert len({cell % 20 for cell in asked}) == 20
    assert not any(
        asked_anyway(cell, state) for cell in asked for state in ("undecided", "passes", "rework")
    )
