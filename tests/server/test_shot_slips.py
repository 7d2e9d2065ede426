"""Frames of a shot are sent back or mended; the answer is proven the same elsewhere. Each test reads like its
rule.
"""

from __future__ import annotations

import numpy as np
import pytest
from filming import FRAMES, quay, shot_fixtures
from house import do_all_work, post

from people.models import Person
from zweiblick_core.shots.mending.compositing import MARGIN

pytestmark = pytest.mark.django_db
globals().update(shot_fixtures())


@pytest.fixture
def page(vera, examined):
    return lambda: vera.get(f"/api/shots/{examined.pk}/").json()


@pytest.fixture
def send(vera, examined):
    """Send frames of the first attempt's region."""

    def ask(*ranges, **more):
        body = {
            "attempt": examined.attempts.get(number=1).pk,
            "parts": [
                {
                    "region": examined.regions.get().pk,
                    "ranges": [{"first": first, "last": last} for first, last in ranges],
                }
            ],
        }
        return post(vera, f"/api/shots/{examined.pk}/slips/", {**body, **more})

    return ask


@pytest.fixture
def mona():
    return Person.objects.get(username="mona")


def frames_of(attempt):
    from shots.opening import opened

    return list(opened(attempt.footage))


def test_a_method_mends_the_frames_that_were_asked_for_and_nothing_else(send, page, examined):
    answer = send((6, 15), method="ground-tracked fill")
    assert answer.status_code == 201, answer.content
    assert answer.json()["busy"] and answer.json()["slips"][0]["state"] == "sent"
    do_all_work()
    (slip,) = page()["slips"]
    assert (slip["state"], slip["returned"], slip["attempt"]) == ("rechecked", 3, 1)
    assert slip["rest"]["differing"] == [] and slip["rest"]["margin"] > MARGIN
    assert slip["rest"]["same"] == [{"first": 0, "last": FRAMES - 1}]
    before, after = (frames_of(examined.attempts.get(number=number)) for number in (1, 3))
    changed = [number for number in range(FRAMES) if (before[number] != after[number]).any()]
    assert changed == list(range(6, 16))
    mended = page()["attempts"][2]
    assert (mended["method"], mended["maker"]) == ("ground-tracked fill", "built in")
    assert mended["footage"]["ready"] and mended["check"]["state"] == "done"


def test_what_passed_and_is_the_same_to_the_bit_passes_in_the_answer(ruling, send, page):
    ruling(0, FRAMES - 1, "passes", 0)
    ruling(6, 15, "rework", 1)
    send((6, 15), method="ground-tracked fill")
    do_all_work()
    (cell,) = page()["attempts"][2]["cells"]
    assert cell["stands"] == [
        {"first": 0, "last": 5, "ruling": "passes"},
        {"first": 16, "last": FRAMES - 1, "ruling": "passes"},
    ]
    assert cell["given"][0]["words"] == "the same to the bit as in attempt 1"


def test_a_repaired_frame_is_carried_to_the_others(send, page, examined):
    repaired = examined.attempts.get(number=2)
    answer = send(
        (0, FRAMES - 1),
        method="repaired frames carried",
        repaired={"attempt": repaired.pk, "frames": [12]},
    )
    assert answer.json()["slips"][0]["repaired"] == {"number": 2, "frames": [12]}
    do_all_work()
    (part,) = page()["slips"][0]["parts"]
    assert "flicker" in [flaw["kind"] for flaw in part["flaws"]]
    assert ["flicker", "fixed"] in part["kinds"]
    truth, made = quay(), frames_of(examined.attempts.get(number=3))
    mask = truth.masks[2]
    off = np.abs(made[2].astype(float) - truth.result[2])[mask].mean()
    assert off < 4


def test_a_retoucher_is_sent_only_what_was_ruled_rework(ruling, send, mona):
    ruling(4, 9, "rework", 0)
    refused = send((4, 12), worker=mona.pk)
    assert refused.status_code == 400 and "not all ruled rework" in refused.json()["error"]
    answer = send((4, 9), worker=mona.pk, note="the fill jumps")
    assert answer.status_code == 201, answer.content
    (slip,) = answer.json()["slips"]
    assert slip["recipient"] == mona.called and slip["note"] == "the fill jumps"
    again = send((4, 9), worker=mona.pk)
    assert again.status_code == 400 and "is out on slip 1" in again.json()["error"]


def test_an_answer_is_examined_compared_and_says_what_became_of_it(
    vera,
    ruling,
    send,
    page,
    kept,
    video,
    mona,
    examined,
):
    ruling(0, FRAMES - 1, "rework", 0)
    slip = send((0, FRAMES - 1), worker=mona.pk).json()["slips"][0]
    answer = [frame.copy() for frame in quay().result]
    answer[3][2:6, 2:6] = 0  # far from every outline
    late = kept("quay-mona.mkv", video(answer))
    back = post(vera, f"/api/shot-slips/{slip['id']}/answer/", {"footage": late.pk})
    assert back.status_code == 201, back.content
    assert back.json()["slips"][0]["state"] == "returned"
    do_all_work()
    (slip,) = page()["slips"]
    assert slip["state"] == "rechecked" and ["flicker", "fixed"] in slip["parts"][0]["kinds"]
    assert {"first": 3, "last": 3} in slip["rest"]["differing"]
    assert slip["rest"]["places"][0]["frame"] == 3
    twice = post(vera, f"/api/shot-slips/{slip['id']}/answer/", {"footage": late.pk})
    assert twice.status_code in (400, 409)


def test_an_answer_of_other_frames_is_refused_and_the_slip_stays_out(
    vera,
    ruling,
    send,
    page,
    kept,
    video,
    mona,
):
    ruling(0, 3, "rework", 0)
    slip = send((0, 3), worker=mona.pk).json()["slips"][0]
    short = kept("quay-short.mkv", video(quay().result[:20]))
    back = post(vera, f"/api/shot-slips/{slip['id']}/answer/", {"footage": short.pk})
    assert back.status_code == 400 and "has 20 frames of 260 x 200" in back.json()["error"]
    assert page()["slips"][0]["state"] == "sent" and len(page()["attempts"]) == 2


def test_what_cannot_be_mended_says_why_and_can_be_withdrawn(vera, send, page, examined):
    from shots.models import ShotAttempt

    from images.models import Blob
    from store.places import blobs

    send((0, 3), method="ground-tracked fill")
    blob = Blob.objects.get(pk=ShotAttempt.objects.get(number=1).footage.blob_id)
    blobs().remove(blob.path)
    do_all_work()
    (slip,) = page()["slips"]
    assert slip["state"] == "failed" and slip["reason"]
    gone = post(vera, f"/api/shot-slips/{slip['id']}/", {"event": "withdrawn"})
    assert gone.json()["slips"][0]["state"] == "withdrawn" and not gone.json()["busy"]


def test_a_mending_that_was_withdrawn_stores_nothing(vera, send, page):
    slip = send((0, 3), method="ground-tracked fill").json()["slips"][0]
    post(vera, f"/api/shot-slips/{slip['id']}/", {"event": "withdrawn"})
    do_all_work()
    assert page()["slips"][0]["state"] == "withdrawn" and len(page()["attempts"]) == 2


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"method": "by magic"}, "who or what"),
        ({"method": "repaired frames carried"}, "which frames were repaired"),
    ],
)
def test_what_asks_of_nobody_is_refused_and_nothing_is_stored(send, page, more, words):
    answer = send((0, 3), **more)
    assert answer.status_code == 400 and words in answer.json()["error"]
    assert send((0, 99), method="ground-tracked fill").status_code == 400
    assert page()["slips"] == []
