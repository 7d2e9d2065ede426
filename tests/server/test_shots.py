"""Shots on the server: footage that is uploaded, made a shot of, played, examined, drawn and ruled. Each
test reads like its rule.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile

import cv2
import numpy as np
import pytest
from builders import png
from filming import FRAMES, masks_of, packed, quay, shot_fixtures
from house import do_all_work, post
from PIL import Image

from zweiblick_core.io import read
from zweiblick_core.rules.shots import Ruled, region_state, shot_state, standing

pytestmark = pytest.mark.django_db
globals().update(shot_fixtures())


def test_footage_is_read_and_said_what_it_is(vera, job, kept, video):
    kept("quay-a.mkv", video(quay().result))
    kept("quay.zip", packed(quay().original, first=1001))
    waiting = vera.get(f"/api/jobs/{job.pk}/shots/").json()["waiting"]
    by_name = {one["name"]: one for one in waiting}
    assert by_name["quay.zip"]["facts"].startswith(
        f"numbered pictures, 260 × 200, {FRAMES} frames, 24 a second, 8 bit"
    )
    assert by_name["quay.zip"]["first"] == 1001
    assert by_name["quay-a.mkv"]["facts"].startswith(f"FFV1, 260 × 200, {FRAMES} frames")
    assert all(one["state"] == "ready" and one["ready"] for one in waiting)


def test_footage_is_paired_by_its_names(vera, job, kept, video):
    original = kept("quay.zip", packed(quay().original))
    result = kept("quay-fortnimm.mkv", video(quay().result))
    masks = kept("quay_mask.zip", masks_of(quay()))
    (family,) = vera.get(f"/api/jobs/{job.pk}/shots/").json()["families"]
    assert family == {
        "name": "Quay",
        "original": original.pk,
        "results": [result.pk],
        "masks": masks.pk,
    }


def test_a_shot_that_begins_black_is_no_mask(kept):
    frames = quay().original[:6]
    assert kept("quay.zip", packed([frames[0] * 0, *frames])).holds == "frames"
    assert kept("quay-mask.zip", masks_of(quay(), (0, 3))).holds == "masks"


def test_what_is_no_footage_is_refused_before_it_is_kept(upload):
    from shots.models import Footage

    from images.models import Blob

    answer = upload("list.m3u8", b"#EXTM3U\n#EXTINF:10,\nfile:///etc/passwd\n")
    assert answer.status_code == 400
    assert "list.m3u8: is no footage" in answer.json()["error"]
    assert not Footage.objects.exists() and not Blob.objects.exists()


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("one.zip", lambda: packed(quay().original[:1]), "one.zip: is a single picture"),
        ("empty.zip", lambda: packed([]), "empty.zip: is no footage"),
        (
            "gap.zip",
            lambda: _without(packed(quay().original[:5]), "0003"),
            "gap.zip: lacks frame 3",
        ),
        ("half.zip", lambda: packed(quay().original[:5])[:-400], "half.zip: is a ZIP that cannot"),
        ("broken.mkv", lambda: b"\x1a\x45\xdf\xa3" + bytes(400), "broken.mkv: is no video"),
    ],
)
def test_what_cannot_be_used_says_why_by_its_own_name(upload, name, data, words):
    from shots.models import Footage

    answer = upload(name, data())
    if answer.status_code == 400:
        assert answer.json()["error"].startswith(words)
        return
    do_all_work()
    row = Footage.objects.get()
    assert row.state == "refused" and row.reason.startswith(words), row.reason


def _without(data: bytes, part: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for member in old.infolist():
            if part not in member.filename:
                new.writestr(member, old.read(member))
    return out.getvalue()


def test_a_zip_that_unpacks_to_too_much_is_refused(upload, settings):
    from shots.models import Footage

    settings.MOST_BYTES = 400_000
    noise = np.random.default_rng(1).integers(0, 256, (300, 300, 3), np.uint8)
    answer = upload("bomb.zip", _deflated([noise * 0] * 12, tail=2_000_000))
    assert answer.status_code == 200, answer.content
    do_all_work()
    row = Footage.objects.get()
    assert row.state == "refused" and "unpacks to more than" in row.reason


def _deflated(frames, tail: int) -> bytes:
    """PNGs with so many zeros behind each, which a ZIP makes small."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for number, frame in enumerate(frames):
            file.writestr(f"x.{number:04}.png", png(frame) + bytes(tail))
    return out.getvalue()


def test_the_same_footage_is_taken_once_a_job(upload, kept):
    data = packed(quay().original[:4])
    kept("quay.zip", data)
    answer = upload("again.zip", data)
    assert answer.status_code == 400
    assert answer.json()["error"] == "again.zip: is here already, as quay.zip"


def test_footage_of_a_shot_is_not_forgotten_and_its_bytes_are_kept(vera, shot):
    from datetime import timedelta

    from images.collecting import collect
    from images.models import Blob
    from work.clock import now

    assert vera.delete(f"/api/footage/{shot.original_id}/").status_code == 400
    Blob.objects.update(made_at=now() - timedelta(days=9))
    blobs = Blob.objects.count()
    assert collect()["blobs"] == 0 and Blob.objects.count() == blobs == 4


def test_a_shot_takes_nothing_that_is_not_there_and_is_made_whole_or_not_at_all(vera, job, kept):
    from shots.models import Shot, ShotAttempt

    original = kept("quay.zip", packed(quay().original[:6]))
    asked = {"name": "Quay", "original": original.pk}
    for attempts, masks in (
        ([{"footage": 10**9, "method": "x"}], None),
        ([{"footage": original.pk, "method": "x"}], None),
        ([], original.pk),
    ):
        answer = post(
            vera,
            f"/api/jobs/{job.pk}/shots/",
            {**asked, "attempts": attempts, "masks": masks},
        )
        assert answer.status_code == 400, answer.content
    assert not Shot.objects.exists() and not ShotAttempt.objects.exists()


def test_every_frame_that_is_played_is_that_frame_and_carries_its_number(vera, shot):
    """The proxies hold each frame in its place, whatever was decoded in between."""
    do_all_work()
    pk = shot.original_id
    index = vera.get(f"/api/footage/{pk}/proxies/").json()
    assert (index["width"], index["height"]) == (260, 200)
    number = 0
    for segment, ends in enumerate(index["ends"]):
        answer = vera.get(f"/api/footage/{pk}/proxies/{segment}/")
        data = b"".join(answer.streaming_content)
        for start, end in zip([0, *ends], ends, strict=False):
            with Image.open(io.BytesIO(data[start:end])) as image:
                assert image.info["comment"] == f"frame {number}".encode()
                shown = np.asarray(image.convert("RGB")).astype(float)
            away = [np.abs(shown - frame).mean() for frame in quay("flicker", 2.0).original]
            assert int(np.argmin(away)) == number and away[number] < 3
            number += 1
    assert number == FRAMES
    assert vera.get(f"/api/footage/{pk}/proxies/99/").status_code == 404


def test_an_attempt_is_examined_and_its_findings_name_their_frames(vera, examined):
    page = vera.get(f"/api/shots/{examined.pk}/").json()
    assert not page["busy"] and page["outlining"] is None
    wrong, right = page["attempts"]
    (region,) = wrong["check"]["regions"]
    (flicker,) = [one for one in region["findings"] if one["kind"] == "flicker"]
    assert 0 <= flicker["first"] <= flicker["worst"] <= flicker["last"] < FRAMES
    assert len(flicker["course"]) == FRAMES and max(x or 0 for x in flicker["course"]) == 1
    assert flicker["value"] > flicker["natural"]["high"]
    assert wrong["check"]["key_frames"]
    (clean,) = right["check"]["regions"]
    assert [one for one in clean["findings"] if one["kind"] == "flicker"] == []


def overlap(ring, mask) -> float:
    """Of what a ring encloses and a mask marks, the part that both do."""
    drawn = np.zeros(mask.shape, np.uint8)
    cv2.fillPoly(drawn, [np.round(ring).astype(np.int32)], 1)
    return float((drawn.astype(bool) & mask).sum() / (drawn.astype(bool) | mask).sum())


def test_what_is_drawn_in_one_frame_is_carried_through_all(vera, examined):
    (region,) = vera.get(f"/api/shots/{examined.pk}/").json()["regions"]
    made = quay("flicker", 2.0)
    assert [one["frame"] for one in region["drawn"]] == [0]
    for number in (0, FRAMES // 2, FRAMES - 1):
        (ring,) = region["carried"]["outlines"][number]
        assert overlap(ring, made.masks[number]) > 0.85
    assert len(region["carried"]["motion"]) == FRAMES


def test_without_masks_regions_are_proposed_from_what_changed(vera, job, kept, video):
    made = quay()
    original = kept("quay.zip", packed(made.original))
    result = kept("quay-a.mkv", video(made.result))
    answer = post(
        vera,
        f"/api/jobs/{job.pk}/shots/",
        {
            "name": "Quay",
            "original": original.pk,
            "attempts": [{"footage": result.pk, "method": "by hand"}],
        },
    )
    do_all_work()
    page = vera.get(f"/api/shots/{answer.json()['id']}/").json()
    (region,) = page["regions"]
    (ring,) = region["carried"]["outlines"][0]
    assert overlap(ring, made.masks[0]) > 0.7


def test_a_drawing_is_a_new_version_which_is_examined_anew(vera, examined):
    from shots.models import ShotCheck, ShotOutline

    region = examined.regions.get()
    before = ShotCheck.objects.count()
    ring = [[[60, 60], [120, 60], [120, 120], [60, 120]]]
    answer = post(
        vera,
        f"/api/shots/{examined.pk}/outlines/",
        {"region": region.pk, "frame": 10, "outlines": ring},
    )
    assert answer.status_code == 200, answer.content
    region.refresh_from_db()
    assert region.version == 2 and ShotCheck.objects.count() == before + 2
    assert sorted(ShotOutline.objects.filter(until=None).values_list("frame", flat=True)) == [0, 10]
    undone = vera.delete(f"/api/shots/{examined.pk}/outlines/{region.pk}/10/")
    assert undone.status_code == 200
    # The drawn frame that is left stands; the correction is kept as what once stood.
    assert list(ShotOutline.objects.filter(until=None).values_list("frame", flat=True)) == [0]
    assert ShotOutline.objects.get(frame=10).until == 2
    assert vera.delete(f"/api/shots/{examined.pk}/outlines/{region.pk}/0/").status_code == 400


@pytest.mark.parametrize(
    ("rings", "words"),
    [
        ([[[10, 10], [90, 90], [90, 10], [10, 90]]], "crosses itself"),
        ([[[-50, -50], [-10, -50], [-10, -10]]], "encloses nothing"),
    ],
)
def test_an_outline_that_is_none_is_refused_and_nothing_is_stored(vera, shot, rings, words):
    from shots.models import ShotRegion

    answer = post(vera, f"/api/shots/{shot.pk}/outlines/", {"frame": 0, "outlines": rings})
    assert answer.status_code == 400 and words in answer.json()["error"]
    assert not ShotRegion.objects.exists()


def test_a_range_fails_and_the_rest_passes(ruling):
    assert ruling(0, FRAMES - 1, "passes", 0).json()["attempts"][0]["state"] == "passes"
    page = ruling(8, 11, "rework", 1, "jumps when the mast is over it").json()
    (cell,) = page["attempts"][0]["cells"]
    assert page["attempts"][0]["state"] == cell["state"] == "rework"
    assert cell["stands"] == [
        {"first": 0, "last": 7, "ruling": "passes"},
        {"first": 8, "last": 11, "ruling": "rework"},
        {"first": 12, "last": FRAMES - 1, "ruling": "passes"},
    ]
    assert cell["given"][0]["words"] == "jumps when the mast is over it"
    page = ruling(8, 11, "taken back", 2).json()
    assert page["attempts"][0]["state"] == "undecided"


def test_a_stale_ruling_is_refused(ruling):
    from shots.models import ShotVerdict

    ruling(0, 3, "passes", 0)
    late = ruling(0, 3, "rework", 0)
    assert late.status_code == 409 and "meanwhile" in late.json()["error"]
    assert ShotVerdict.objects.count() == 1


@pytest.mark.parametrize(("first", "last"), [(5, 4), (0, FRAMES), (FRAMES, FRAMES)])
def test_no_frames_are_ruled_that_there_are_not(ruling, first, last):
    answer = ruling(first, last, "passes", 0)
    assert answer.status_code == 400 and "the shot has frames 0 to" in answer.json()["error"]


def test_a_pass_says_nothing_of_another_outline_and_a_failure_does(vera, ruling, examined):
    ruling(0, 11, "passes", 0)
    ruling(12, FRAMES - 1, "rework", 1)
    region = examined.regions.get()
    ring = [[[60, 60], [120, 60], [120, 120], [60, 120]]]
    page = post(
        vera,
        f"/api/shots/{examined.pk}/outlines/",
        {"region": region.pk, "frame": 10, "outlines": ring},
    ).json()
    (cell,) = page["attempts"][0]["cells"]
    assert cell["stands"] == [{"first": 12, "last": FRAMES - 1, "ruling": "rework"}]


def test_only_a_supervisor_rules_and_a_guest_sees_nothing(signed_in, examined):
    attempt, region = examined.attempts.first(), examined.regions.get()
    body = {"region": region.pk, "first": 0, "last": 3, "ruling": "passes", "revision": 0}
    where = f"/api/shot-attempts/{attempt.pk}/verdicts/"
    assert signed_in("mona").get(f"/api/shots/{examined.pk}/").json()["rules"] is False
    assert post(signed_in("mona"), where, body).status_code == 403
    for who in ("archive", "stranger"):
        assert signed_in(who).get(f"/api/shots/{examined.pk}/").status_code == 404
        assert post(signed_in(who), where, body).status_code == 404
        played = signed_in(who).get(f"/api/footage/{examined.original_id}/proxies/0/")
        assert played.status_code == 404


def test_a_shot_that_cannot_be_matched_says_why(vera, job, kept, shot, video):
    other = np.random.default_rng(5).integers(0, 256, (FRAMES, 200, 260, 3), np.uint8)
    late = kept("other.mkv", video(list(other)))
    answer = post(
        vera,
        f"/api/shots/{shot.pk}/attempts/",
        {"footage": late.pk, "method": "by hand"},
    )
    assert answer.status_code == 201, answer.content
    do_all_work()
    page = vera.get(f"/api/shots/{shot.pk}/").json()
    check = page["attempts"][2]["check"]
    assert check["state"] == "done" and check["reason"] and check["regions"] == []


def test_masks_of_another_shot_say_so_and_regions_can_be_drawn(vera, job, kept, video):
    made = quay()
    original = kept("quay.zip", packed(made.original[:10]))
    masks = kept("quay-mask.zip", masks_of(made, (0, 20)))
    answer = post(
        vera,
        f"/api/jobs/{job.pk}/shots/",
        {"name": "Quay", "original": original.pk, "masks": masks.pk, "attempts": []},
    )
    do_all_work()
    page = vera.get(f"/api/shots/{answer.json()['id']}/").json()
    assert page["outlining"]["state"] == "failed"
    assert "the original has no frame 21" in page["outlining"]["error"]
    assert hashlib.sha256(masks_of(made, (0, 20))).hexdigest() not in json.dumps(page)
    ring = [[[60, 60], [120, 60], [120, 120], [60, 120]]]
    drawn = post(vera, f"/api/shots/{page['id']}/outlines/", {"frame": 3, "outlines": ring})
    assert len(drawn.json()["regions"]) == 1


def test_the_page_costs_as_many_queries_for_one_attempt_as_for_three(vera, examined, kept, video):
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    with CaptureQueriesContext(
        connection,
    ) as few:
        vera.get(f"/api/shots/{examined.pk}/")
    for number in range(2):
        late = kept(f"quay-{number}.mkv", video(quay("drift", 1.0 + number).result))
        post(
            vera,
            f"/api/shots/{examined.pk}/attempts/",
            {"footage": late.pk, "method": "by hand"},
        )
    with CaptureQueriesContext(connection) as many:
        vera.get(f"/api/shots/{examined.pk}/")
    assert len(many) <= len(few) + 1  # the work of footage that is being drawn


def test_the_newest_ruling_of_each_frame_stands():
    given = [Ruled(0, 9, "passes"), Ruled(4, 5, "rework"), Ruled(5, 5, "taken back")]
    assert standing(given, 10) == [
        Ruled(0, 3, "passes"),
        Ruled(4, 4, "rework"),
        Ruled(6, 9, "passes"),
    ]
    assert region_state(standing(given, 10), 10) == "rework"
    assert region_state([Ruled(0, 9, "passes")], 10) == "passes"
    assert region_state([Ruled(0, 8, "passes")], 10) == "undecided"
    assert shot_state([]) == "undecided" and shot_state(["passes", "undecided"]) == "undecided"


def test_a_single_frame_is_drawn_by_a_worker_at_full_size_and_without_loss(vera, kept):
    frames = quay().original[:6]
    footage = kept("quay.zip", packed(frames))
    path = f"/api/footage/{footage.pk}/frames/4/"
    assert vera.get(path).status_code == 503
    assert vera.post(path).status_code == 204
    assert vera.get(path).status_code == 503  # by a worker, not in the request
    do_all_work()
    answer = vera.get(path)
    data = b"".join(answer.streaming_content)
    assert answer["Content-Type"] == "image/png" and b"Comment\0frame 4" in data
    assert np.array_equal(read(data).pixels, frames[4])
    # Asked for again it stands already.
    vera.post(path)
    assert vera.get(path).status_code == 200
    for beyond in (6, 10**9):
        assert vera.post(f"/api/footage/{footage.pk}/frames/{beyond}/").status_code == 404


def test_single_frames_are_kept_for_days_and_then_drawn_anew(vera, kept, monkeypatch):
    from images import collecting

    footage = kept("quay.zip", packed(quay().original[:6]))
    path = f"/api/footage/{footage.pk}/frames/0/"
    vera.post(path)
    do_all_work()
    collecting.collect()
    assert vera.get(path).status_code == 200
    monkeypatch.setitem(collecting.KEPT, "single frame", -1.0)
    collecting.collect()
    assert vera.get(path).status_code == 503
