"""Sending back: the slip, the trip, the return, what was locked, what carried over."""

from __future__ import annotations

import io
import json
import zipfile

import cv2
import numpy as np
import pytest
from builders import filled, textured
from django.core.files.uploadedfile import SimpleUploadedFile
from house import MASKS, TRUTH, do_all_work, package_of, pixels_of, post, returned

from zweiblick_core.io import read

pytestmark = pytest.mark.django_db


def test_a_slip_holds_the_failed_regions_only_with_what_is_wrong_and_what_to_change(
    signed_in, failed
):
    slip = post(signed_in("vera"), f"/api/attempts/{failed.pk}/slips/").json()
    assert slip["state"] == "written" and [region["number"] for region in slip["regions"]] == [2]
    (region,) = slip["regions"]
    assert "seam" in [flaw["kind"] for flaw in region["flaws"]]
    assert (
        "match tone" in [change["what"] for change in region["changes"]]
        and region["flaws"][0]["high"] < region["flaws"][0]["value"]
    )


def test_only_confirmed_findings_are_sent_where_some_are_confirmed(signed_in, failed):
    client = signed_in("vera")
    findings = [
        f
        for f in client.get(f"/api/cells/{failed.cells.get(region__number=2).pk}/").json()[
            "findings"
        ]
    ]
    post(client, f"/api/findings/{findings[0]['id']}/answer/", {"answer": "confirmed"})
    for other in findings[1:]:
        post(client, f"/api/findings/{other['id']}/answer/", {"answer": "not there"})
    slip = post(client, f"/api/attempts/{failed.pk}/slips/").json()
    assert [flaw["kind"] for flaw in slip["regions"][0]["flaws"]] == [findings[0]["kind"]]


def test_suggested_changes_and_notes_can_be_edited_until_it_is_sent(signed_in, failed):
    client = signed_in("vera")
    slip = post(client, f"/api/attempts/{failed.pk}/slips/").json()
    region = slip["regions"][0]["region"]
    edit = lambda **body: client.patch(
        f"/api/slips/{slip['id']}/", body, content_type="application/json"
    )
    changed = edit(
        note="before Friday",
        regions=[
            {
                "region": region,
                "note": "mind the rope",
                "changes": [{"what": "looser outline", "values": {"pixels": 9}}],
            }
        ],
    ).json()
    assert (
        changed["note"] == "before Friday"
        and changed["regions"][0]["changes"][0]["values"] == {"pixels": 9}
        and changed["regions"][0]["note"] == "mind the rope"
    )
    wrong = edit(regions=[{"region": region, "changes": [{"what": "do magic"}]}])
    assert wrong.status_code == 400 and "no change" in wrong.json()["error"]
    assert edit(worker=99999).status_code == 400
    post(client, f"/api/slips/{slip['id']}/send/")
    late = edit(note="too late")
    assert late.status_code == 400 and "not sent yet" in late.json()["error"]


def test_a_region_is_on_one_open_slip_only_and_nothing_failed_is_nothing_to_send(
    signed_in, failed, sent
):
    client = signed_in("vera")
    again = post(client, f"/api/attempts/{failed.pk}/slips/")
    assert again.status_code == 400 and "already" in again.json()["error"]
    nothing = post(client, f"/api/attempts/{failed.picture.attempts.get(number=3).pk}/slips/")
    assert nothing.status_code == 400 and "nothing to send" in nothing.json()["error"]
    assert post(client, f"/api/slips/{sent}/withdraw/").json()["state"] == "withdrawn"
    assert post(client, f"/api/attempts/{failed.pk}/slips/").status_code == 201


def test_the_package_has_pictures_masks_ready_to_use_and_evidence(signed_in, sent, failed):
    data = package_of(signed_in("mona"), sent)
    with zipfile.ZipFile(io.BytesIO(data)) as files:
        slip = json.loads(files.read("slip.json"))
        mask = read(files.read(slip["regions"][0]["mask"])).pixels[..., 0] > 127
        assert np.array_equal(mask, MASKS[1]) and slip["schema"] == "zweiblick.slip/1"
        assert files.read(slip["files"]["original"]) and np.array_equal(
            read(files.read(slip["files"]["attempt"])).pixels, pixels_of(failed)
        )
        assert (
            len(slip["locked"]) == 1
            and read(files.read(slip["regions"][0]["flaws"][0]["crop"])).width > 10
        )


def test_the_package_has_a_layered_file_and_the_slip_on_paper(signed_in, sent, failed):
    # Sent to a person, it is built by itself.
    do_all_work()
    mona = signed_in("mona")
    assert mona.get(f"/api/slips/{sent}/").json()["package"] == {"ready": True, "progress": None}
    data = b"".join(mona.get(f"/api/slips/{sent}/package/").streaming_content)
    with zipfile.ZipFile(io.BytesIO(data)) as files:
        paper = files.read("slip.pdf")
        assert paper.startswith(b"%PDF-") and len(paper) > 5000
        with zipfile.ZipFile(io.BytesIO(files.read("layers.ora"))) as layers:
            assert layers.read("mimetype") == b"image/openraster"
            stack = layers.read("stack.xml").decode()
            assert 'name="region 2, hose reel"' in stack and 'name="original"' in stack
            marked, attempt, original = (
                cv2.imdecode(
                    np.frombuffer(layers.read(f"data/layer{number}.png"), np.uint8),
                    cv2.IMREAD_UNCHANGED,
                )
                for number in range(3)
            )
    assert np.array_equal(marked[..., 3] > 0, MASKS[1])
    assert np.array_equal(attempt[..., ::-1], pixels_of(failed))
    moved = (attempt != original).any(axis=2)
    assert moved[MASKS[1]].mean() > 0.5 and not moved[~np.logical_or(*MASKS)].any()


def test_a_package_is_built_anew_after_the_slip_was_changed_or_handed_over(signed_in, sent, people):
    vera = signed_in("vera")
    do_all_work()
    first = vera.get(f"/api/slips/{sent}/").json()
    assert first["package"]["ready"]
    answer = post(vera, f"/api/slips/{sent}/hand-over/", {"worker": None})
    assert answer.status_code == 200 and not answer.json()["package"]["ready"]
    assert vera.get(f"/api/slips/{sent}/package/").status_code == 404


def test_the_packages_outlines_give_its_masks_and_the_mask_of_all_is_as_large_as_asked(
    signed_in, failed
):
    from zweiblick_core.regions import from_annotations, from_geojson, grown
    from zweiblick_core.regions.masks import cropped

    vera = signed_in("vera")
    slip = post(vera, f"/api/attempts/{failed.pk}/slips/").json()
    looser = [{"what": "looser outline", "values": {"pixels": 5}, "because": []}]
    vera.patch(
        f"/api/slips/{slip['id']}/",
        {"regions": [{"region": slip["regions"][0]["region"], "changes": looser, "note": "mind"}]},
        "application/json",
    )
    data = package_of(vera, slip["id"])
    with zipfile.ZipFile(io.BytesIO(data)) as files:
        mask = lambda name: read(files.read(f"masks/{name}.png")).pixels[..., 0] > 127
        frame = mask("sent").shape
        areas = {
            one.id: one for one in from_geojson(json.loads(files.read("regions.geojson")), frame)
        }
        assert set(areas) == {"region-2", "locked-1"}
        for name, area in areas.items():
            assert np.array_equal(area.full(frame), mask(name))
        wider = grown(cropped(MASKS[1], "1"), 5, frame)
        assert np.array_equal(mask("sent"), wider.full(frame))
        (note,) = from_annotations(json.loads(files.read("annotations.jsonld")), frame)
        assert np.array_equal(note.area.full(frame), MASKS[1])
        assert note.words[0] == "hose reel" and note.words[-1] == "mind"
        assert "draw the outline looser" in note.words


def test_a_mended_region_comes_back_fixed_and_the_pass_beside_it_carries_over(
    signed_in, sent, failed
):
    mended = filled(
        pixels_of(failed), MASKS[1], TRUTH + np.random.default_rng(8).normal(0, 0.8, TRUTH.shape)
    )
    mona, vera = signed_in("mona"), signed_in("vera")
    assert post(mona, f"/api/slips/{sent}/take-up/").json()["state"] == "working"
    answer = returned(mona, sent, mended)
    assert answer.status_code == 202 and answer.json()["returning"]["state"] == "working"
    do_all_work()
    slip = vera.get(f"/api/slips/{sent}/").json()
    assert (
        slip["state"] == "rechecked"
        and slip["regions"][0]["outcome"] == "fixed"
        and slip["locks"]
        == [
            {
                "number": 1,
                "same": True,
                "saved_anew": False,
                "compared": slip["locks"][0]["compared"],
                "differing": 0,
            }
        ]
    )
    bench = vera.get(f"/api/pictures/{failed.picture_id}/bench/").json()
    new = bench["attempts"][-1]
    assert (
        len(bench["attempts"]) == 4
        and new["made_from"] == [failed.pk]
        and new["maker"] == "Mona"
        and new["seconds"] == 300
    )
    cells = {cell["region"]: cell for cell in bench["cells"] if cell["attempt"] == new["id"]}
    first, second = (cells[region["id"]] for region in bench["regions"])
    assert (
        first["verdict"]["ruling"] == "passes"
        and first["verdict"]["carried"]
        and second["verdict"] is None
        and second["outcome"] == "fixed"
    )
    # One more pass and ONE attempt holds everywhere.
    done = vera.post(
        f"/api/cells/{second['id']}/verdict/", {"ruling": "passes"}, content_type="application/json"
    ).json()
    assert done["state"] == "done" and done["done"] == new["id"]


def test_a_locked_region_that_was_touched_is_named_and_its_pass_does_not_carry(
    signed_in, sent, failed
):
    touched = filled(pixels_of(failed), MASKS[1], TRUTH.astype(float) + 1)
    touched[150, 110] = 255 - touched[150, 110]
    returned(signed_in("mona"), sent, touched)
    do_all_work()
    client = signed_in("vera")
    slip = client.get(f"/api/slips/{sent}/").json()
    assert slip["locks"][0]["same"] is False and slip["locks"][0]["differing"] == 1
    bench = client.get(f"/api/pictures/{failed.picture_id}/bench/").json()
    new = bench["attempts"][-1]["id"]
    assert all(cell["verdict"] is None for cell in bench["cells"] if cell["attempt"] == new)


def test_a_jpeg_that_comes_back_is_proven_untouched_but_its_passes_want_a_look(
    signed_in, sent, failed
):
    import cv2

    pixels = filled(pixels_of(failed), MASKS[1], TRUTH.astype(float))
    data = cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 95])[1].tobytes()
    answer = signed_in("mona").post(
        f"/api/slips/{sent}/result/", {"file": SimpleUploadedFile("back.jpg", data)}
    )
    assert answer.status_code in (201, 202)
    do_all_work()
    vera = signed_in("vera")
    (lock,) = vera.get(f"/api/slips/{sent}/").json()["locks"]
    assert lock["same"] and lock["saved_anew"] and lock["compared"] > 1000
    bench = vera.get(f"/api/pictures/{failed.picture_id}/bench/").json()
    new = bench["attempts"][-1]["id"]
    first = next(
        cell
        for cell in bench["cells"]
        if cell["attempt"] == new and cell["region"] == bench["regions"][0]["id"]
    )
    # Compression may show: what passed before is not taken to pass now.
    assert first["verdict"] is None


def test_an_unchanged_region_is_still_there_and_a_spoilt_one_is_worse(signed_in, sent, failed):
    worse = filled(pixels_of(failed), MASKS[1], TRUTH.astype(float) + 60)
    returned(signed_in("mona"), sent, worse)
    do_all_work()
    assert signed_in("vera").get(f"/api/slips/{sent}/").json()["regions"][0]["outcome"] == "worse"


def test_the_same_file_and_a_stranger_picture_are_refused_and_nothing_is_stored(
    signed_in, sent, failed
):
    mona = signed_in("mona")
    same = returned(mona, sent, pixels_of(failed))
    assert same.status_code == 400 and "already" in same.json()["error"]
    for pixels, words in (
        (TRUTH[:200], "cropped"),
        (textured(220, 300, seed=404), "not show the same"),
    ):
        assert returned(mona, sent, pixels).status_code == 202
        twice = returned(mona, sent, np.flipud(pixels).copy())
        assert twice.status_code == 400 and "just being looked at" in twice.json()["error"]
        do_all_work()
        found = mona.get(f"/api/slips/{sent}/").json()["returning"]
        assert found["state"] == "refused" and words in found["reason"]
    assert (
        mona.post(
            f"/api/slips/{sent}/result/", {"file": SimpleUploadedFile("x.png", b"no picture")}
        ).status_code
        == 400
    )
    assert (
        failed.picture.attempts.count() == 3
        and mona.get(f"/api/slips/{sent}/").json()["state"] == "sent"
    )


def test_a_slip_is_answered_once_its_answer_was_looked_at(signed_in, sent, failed):
    mona = signed_in("mona")
    assert (
        returned(
            mona, sent, filled(pixels_of(failed), MASKS[1], TRUTH.astype(float) + 3)
        ).status_code
        == 202
    )
    do_all_work()
    signed_in("vera").post(f"/api/pictures/{failed.picture_id}/seen/")
    second = returned(
        mona, sent, filled(pixels_of(failed), MASKS[1], TRUTH.astype(float) + 4), "again.png"
    )
    assert second.status_code == 409 and failed.picture.attempts.count() == 4


# -- the desk, in this process but over HTTP


@pytest.fixture
def desk(tmp_path, settings):
    import threading
    from http.server import ThreadingHTTPServer

    from standins.desk import Desk, handler_for

    made = Desk(tmp_path)
    served = ThreadingHTTPServer(("127.0.0.1", 0), handler_for(made, "secret"))
    threading.Thread(target=served.serve_forever, daemon=True).start()
    settings.DESK_URL, settings.DESK_KEY = f"http://127.0.0.1:{served.server_port}", "secret"
    yield made
    served.shutdown()
    served.server_close()


def to_desk(client, failed):
    slip = post(client, f"/api/attempts/{failed.pk}/slips/").json()["id"]
    assert post(client, f"/api/slips/{slip}/send/").json()["worker"]["id"] is None
    return slip


def test_the_desk_works_on_the_sent_region_only_and_the_result_is_rechecked(
    signed_in, failed, desk
):
    client = signed_in("vera")
    slip = to_desk(client, failed)
    do_all_work()
    do_all_work()
    after = client.get(f"/api/slips/{slip}/").json()
    assert (
        after["state"] == "rechecked"
        and after["regions"][0]["outcome"] in ("fixed", "still there", "new flaw")
        and after["locks"][0]["same"]
    )
    new = failed.picture.attempts.get(number=4)
    apart = (pixels_of(new) != pixels_of(failed)).any(axis=2)
    assert apart[MASKS[1]].mean() > 0.5 and not apart[:, :200].any()


def test_the_desk_asks_is_answered_and_goes_on(signed_in, failed, desk):
    desk.asks = 1.0
    client = signed_in("vera")
    slip = to_desk(client, failed)
    do_all_work()
    said = client.get(f"/api/slips/{slip}/").json()
    assert said["state"] == "question"
    (asked,) = said["words"]
    assert asked["what"] == "asked" and asked["person"] == "retoucher's desk"
    assert "right beside the outline" in asked["words"]
    # Nothing moves until it is answered.
    do_all_work()
    assert client.get(f"/api/slips/{slip}/").json()["state"] == "question"
    answer = post(client, f"/api/slips/{slip}/say/", {"what": "answered", "words": "Yes."})
    assert answer.json()["state"] == "working"
    do_all_work()
    said = client.get(f"/api/slips/{slip}/").json()
    assert said["state"] == "rechecked" and said["returned_number"]
    key = key_of(slip)
    assert (desk.folder / f"{key}.answer").read_text() == "Yes."


def key_of(pk):
    from slips.models import Slip

    return Slip.objects.get(pk=pk).key


def test_a_careless_desk_is_found_out_by_the_locks(signed_in, failed, desk):
    desk.careless = 1.0
    client = signed_in("vera")
    slip = to_desk(client, failed)
    do_all_work()
    said = client.get(f"/api/slips/{slip}/").json()
    assert said["state"] == "rechecked"
    (lock,) = said["locks"]
    assert not lock["same"] and lock["differing"] > 50


def test_bringing_the_same_slip_to_the_desk_twice_gives_one_attempt(signed_in, failed, desk):
    from work.models import Work
    from work.tasks import do_work

    slip = to_desk(signed_in("vera"), failed)
    work = Work.objects.get(kind="slip", subject=str(slip))
    do_work(work.pk)
    Work.objects.filter(pk=work.pk).update(state="waiting")
    do_work(work.pk)
    assert failed.picture.attempts.count() == 4


def test_a_desk_that_is_not_there_is_waited_for(signed_in, failed, settings):
    from work.models import Work

    settings.DESK_URL, settings.DESK_KEY = "http://127.0.0.1:9", "secret"
    client = signed_in("vera")
    slip = to_desk(client, failed)
    do_all_work()
    work = Work.objects.get(kind="slip", subject=str(slip))
    assert (work.state, work.tries) == ("waiting", 0) and "does not answer" in work.words
    assert client.get(f"/api/slips/{slip}/").json()["state"] == "sent"


def test_a_desk_that_cannot_do_it_says_why_and_it_can_be_sent_again(
    signed_in, failed, desk, monkeypatch
):
    from zweiblick_core.errors import Refused

    def broken(package, told, careless):
        raise Refused("the mask does not fit")

    monkeypatch.setattr("standins.desk.work_slip", broken)
    client = signed_in("vera")
    slip = to_desk(client, failed)
    do_all_work()
    after = client.get(f"/api/slips/{slip}/").json()
    assert (
        after["state"] == "failed"
        and "does not fit" in after["reason"]
        and failed.picture.attempts.count() == 3
    )
    assert post(client, f"/api/slips/{slip}/send/").json()["state"] == "sent"


def test_a_wrong_key_gets_nothing_from_the_desk(desk, settings):
    import requests

    url = f"{settings.DESK_URL}/slips/{'0' * 32}"
    assert (
        requests.get(url, timeout=5).status_code == 403
        and requests.get(url, headers={"X-Desk-Key": "secret"}, timeout=5).status_code == 404
    )


@pytest.mark.parametrize("kills", [1, 2])
def test_a_desk_that_is_killed_in_the_middle_goes_on_and_answers_once(
    signed_in, failed, settings, tmp_path, monkeypatch, kills
):
    import os
    import signal
    import socket
    import subprocess
    import sys
    import time

    import requests

    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    settings.DESK_URL, settings.DESK_KEY = f"http://127.0.0.1:{port}", "secret"
    monkeypatch.setattr("slips.desk.PATIENCE", 0.5)

    def start():
        process = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "standins.desk",
                "--port",
                str(port),
                "--folder",
                str(tmp_path),
                "--pace",
                "1.5",
            ],
            cwd=settings.REPO,
            env={**os.environ, "PYTHONPATH": str(settings.REPO), "ZWEIBLICK_DESK_KEY": "secret"},
            start_new_session=True,
        )
        deadline = time.monotonic() + 30
        while time.monotonic() < deadline:
            try:
                requests.get(settings.DESK_URL, timeout=1)
                return process
            except requests.RequestException:
                time.sleep(0.1)
        raise AssertionError("the desk did not start")

    process = start()
    client = signed_in("vera")
    slip = to_desk(client, failed)
    for _ in range(kills):
        do_all_work()
        assert client.get(f"/api/slips/{slip}/").json()["state"] == "working"
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()
        do_all_work()  # nobody there: the work waits and costs no try
        process = start()
    try:
        deadline = time.monotonic() + 60
        while (
            client.get(f"/api/slips/{slip}/").json()["state"] != "rechecked"
            and time.monotonic() < deadline
        ):
            do_all_work()
        assert (
            client.get(f"/api/slips/{slip}/").json()["state"] == "rechecked"
            and failed.picture.attempts.count() == 4
        )
        history = [
            entry["what"]
            for entry in client.get(f"/api/pictures/{failed.picture_id}/history/").json()["entries"]
        ]
        assert [
            history.count(what)
            for what in ("slip sent", "slip taken up", "slip returned", "slip rechecked")
        ] == [1, 1, 1, 1]
    finally:
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()


def test_a_slip_says_how_long_its_recipient_usually_takes_and_whether_that_is_too_long(
    signed_in, failed, people, sent
):
    from datetime import timedelta

    from slips.models import Slip
    from work.clock import now

    vera = signed_in("vera")
    shown = lambda: vera.get(f"/api/slips/{sent}/").json()
    assert shown()["usual"] is None and not shown()["late"]
    slip = Slip.objects.get(pk=sent)
    for number, hours in enumerate((2, 4, 30), 10):
        done = Slip.objects.create(
            picture=failed.picture,
            attempt=failed,
            round=number,
            worker=people["mona"],
            written_by=people["vera"],
            state="settled",
            sent_at=now() - timedelta(hours=hours),
        )
        Slip.objects.filter(pk=done.pk).update(returned_at=now())
    found = shown()["usual"]
    assert found["of"] == 3 and abs(found["seconds"] - 4 * 3600) < 60
    assert found["low"] < found["seconds"] < found["high"]
    # Nobody else's rounds count for the desk, and none was said until when.
    assert shown()["workers"][-1]["usual"]["of"] == 3 and not shown()["late"]
    slip.picture.job.deadline = now() + timedelta(hours=1)
    slip.picture.job.save()
    assert shown()["late"]
    Slip.objects.filter(pk=sent).update(sent_at=now() - timedelta(hours=3, minutes=30))
    assert not shown()["late"]
