"""What a slip asks for as settings, and whether following it helped."""

import pytest

from zweiblick_core.rules.advice import refuse_unknown
from zweiblick_core.rules.following import Asked, Followed, asked_of, followed


def change(what, because=(), **values):
    return {"what": what, "values": values, "because": list(because)}


def test_changes_become_settings_and_what_no_method_can_be_given_is_left_to_people():
    asked = asked_of(
        [
            change("looser outline", pixels=6),
            change("outline past the frame"),
            change("feather", pixels=3),
            change("keep sources out", boxes=[[1, 2, 3, 4]]),
            change("take from here", boxes=[[5, 6, 7, 8]]),
            change("follow the line", degrees=[12.5]),
            change("match grain"),
            change("another method", method="gradient fill"),
            change("one thing at a time"),
        ]
    )
    assert asked == Asked(
        grow=6.0,
        past_frame=True,
        feather=3.0,
        keep_out=((1.0, 2.0, 3.0, 4.0),),
        take_from=((5.0, 6.0, 7.0, 8.0),),
        along=(12.5,),
        grain=True,
        method="gradient fill",
    )
    assert asked_of([]) == Asked()


def test_a_tighter_outline_shrinks():
    assert asked_of([change("tighter outline", pixels=4)]).grow == -4


def test_a_change_helped_where_every_flaw_that_it_answers_is_fixed():
    changes = [
        change("looser outline", ["halo", "residue"]),
        change("match tone", ["tone"]),
        change("use another source", ["repeat"]),
        change("feather"),
    ]
    became = [
        ("halo", "fixed"),
        ("residue", "fixed"),
        ("tone", "still there"),
        ("repeat", "to be looked at"),
        ("smear", "new flaw"),
    ]
    assert followed(changes, ["looser outline", "feather"], became) == [
        Followed("looser outline", True, True),
        Followed("match tone", False, False),
        # What only a person saw, only a person can call fixed.
        Followed("use another source", False, None),
        Followed("feather", True, None),
    ]


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"boxes": [[1, 2, 3]]}, "a box is"),
        ({"boxes": [[0, 0, 1e9, 1]]}, "a box is"),
        ({"boxes": [[0, 0, 1, 1]] * 41}, "at most 40"),
        ({"lines": [[0, 0, 1]]}, "a line is"),
        ({"lines": "here"}, "a line is"),
        ({"degrees": ["steep"]}, "degrees"),
        ({"degrees": [float("nan")]}, "degrees"),
    ],
)
def test_what_is_drawn_on_the_picture_must_be_boxes_lines_and_directions(values, words):
    reason = refuse_unknown([change("follow the line", **values)])
    assert reason is not None and words in reason
    assert refuse_unknown([change("follow the line", lines=[[0, 0, 9, 9]], degrees=[45])]) is None
