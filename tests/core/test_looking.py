"""In which order findings are looked at, and what must be seen before something is said."""

from __future__ import annotations

from zweiblick_core.rules.looking import Weighed, covers, must_be_seen_whole, order_of_findings


def test_findings_come_group_by_group_the_worst_group_first_and_within_it_the_worst_first():
    findings = [
        Weighed(1, "g1", 0.2, 0.8),
        Weighed(2, "g2", 0.9, 0.8),
        Weighed(3, "g2", 0.3, 0.8),
        Weighed(4, "g3", 0.5, 0.8),
        Weighed(5, "g4", 0.1, 0.8),
    ]
    assert order_of_findings(findings) == [2, 3, 4, 1, 5]


def test_what_is_hardly_sure_comes_last_however_much_it_would_show():
    findings = [Weighed(1, "g1", 1.0, 0.1), Weighed(2, "g2", 0.3, 0.9)]
    assert order_of_findings(findings) == [2, 1]


def test_one_ruling_is_offered_where_findings_cover_half():
    assert covers({"1": 0.5, "2": 0.49}) == {"1": True, "2": False}


def test_a_large_size_is_passed_only_after_a_look_at_100_per_cent():
    assert must_be_seen_whole(0.8) and not must_be_seen_whole(0.3)
