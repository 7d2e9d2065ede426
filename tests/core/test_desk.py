"""The desk's stand-in: it acts on what a slip says, works on the slip's regions only, and survives
being killed.
"""

import io
import json
import zipfile

import numpy as np
import pytest
from builders import disc, png, textured, with_thing

from standins.desk import Desk
from standins.retoucher import plan_of, work_slip
from zweiblick_core.errors import Refused
from zweiblick_core.io import read

TRUTH = textured(260, 340, seed=15)
MASKS = (disc(TRUTH.shape[:2], 100, 130, 24), disc(TRUTH.shape[:2], 240, 130, 24))
ORIGINAL = with_thing(TRUTH, MASKS[0] | MASKS[1])


def package(changes, attempt=ORIGINAL, round_=1):
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as files:
        files.writestr(
            "slip.json",
            json.dumps(
                {
                    "files": {"original": "o.png", "attempt": "a.png"},
                    "locked": ["l.png"],
                    "round": round_,
                    "regions": [{"number": 1, "mask": "m.png", "changes": changes}],
                }
            ),
        )
        for name, pixels in (
            ("o.png", ORIGINAL),
            ("a.png", attempt),
            ("m.png", MASKS[0].astype(np.uint8) * 255),
            ("l.png", MASKS[1].astype(np.uint8) * 255),
        ):
            files.writestr(name, png(pixels))
    return packed.getvalue()


def worked(changes, attempt=ORIGINAL, round_=1):
    return read(work_slip(package(changes, attempt, round_))).pixels


def test_only_the_regions_on_the_slip_are_worked_and_a_locked_one_never():
    changed = (worked([{"what": "looser outline", "values": {"pixels": 12}}]) != ORIGINAL).any(
        axis=2
    )
    assert changed[MASKS[0]].mean() > 0.9 and not changed[:, 170:].any()


def test_the_same_place_worked_by_habit_again_is_not_the_very_same_file():
    first = worked([])
    again, third = worked([], first, 2), worked([], first, 3)
    assert not np.array_equal(again, first) and not np.array_equal(again, third)
    assert np.array_equal(worked([]), first)


def test_each_change_alters_how_the_region_is_worked():
    habit = plan_of([])
    assert (habit.grow, habit.blend, habit.farther) == (-2, False, False)
    assert plan_of([{"what": "looser outline", "values": {"pixels": 9}}]).grow == 9
    assert (
        plan_of([{"what": "use another source"}]).farther
        and plan_of([{"what": "match tone"}]).blend
    )
    assert plan_of(
        [{"what": "keep sources out", "values": {"boxes": [[1, 2, 3, 4]]}}]
    ).keep_out == [[1, 2, 3, 4]]
    assert (
        plan_of([{"what": "start from the original"}]).from_original
        and plan_of([{"what": "match grain"}]).grain
    )
    assert (
        plan_of([{"what": "another method", "values": {"method": "exemplar fill"}}]).method
        == "exemplar fill"
    )
    assert (
        plan_of([{"what": "another method", "values": {"method": "unheard of"}}]).method
        == "copy that fits its rim"
    )


def test_a_looser_outline_is_worked_beyond_the_region_and_habit_stays_inside_it():
    ring = disc(TRUTH.shape[:2], 100, 130, 30) & ~MASKS[0]
    changed = lambda changes: (worked(changes) != ORIGINAL).any(axis=2)
    assert changed([{"what": "looser outline", "values": {"pixels": 8}}])[ring].mean() > 0.5
    assert not changed([])[ring].any() and changed([])[MASKS[0]].mean() > 0.6


def test_a_rebuild_begins_with_what_the_camera_saw():
    spoilt = ORIGINAL.copy()
    spoilt[130, 60:70] = 255
    assert (worked([{"what": "start from the original"}], spoilt)[130, 60:70] != 255).any()
    assert (worked([], spoilt)[130, 60:70] == 255).all()


def test_what_is_no_package_is_refused():
    with pytest.raises(Refused, match="no slip package"):
        work_slip(b"nothing")


def test_a_slip_is_taken_up_once_and_a_desk_that_was_killed_goes_on(tmp_path):
    import time

    (tmp_path / ("1" * 32 + ".zip")).write_bytes(package([]))  # as a killed desk leaves it
    desk = Desk(tmp_path)
    assert not desk.take("1" * 32, b"again")
    deadline = time.monotonic() + 30
    while desk.state("1" * 32)["state"] == "working" and time.monotonic() < deadline:
        time.sleep(0.05)
    assert (
        desk.state("1" * 32)["state"] == "done"
        and read(desk.result("1" * 32)).pixels.shape == ORIGINAL.shape
    )
    assert desk.state("2" * 32) is None
