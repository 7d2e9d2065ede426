"""An attempt in another frame (cropped, turned, made smaller) is sent back like any other: masks,
crops, locks and what comes back lie where they belong.
"""

from __future__ import annotations

import io
import json
import zipfile

import cv2
import numpy as np
import pytest
from builders import filled, holding, png
from house import MASKS, TRUTH, do_all_work, package_of, pixels_of, post, returned

from zweiblick_core.io import read

pytestmark = pytest.mark.django_db


def cropped(pixels: np.ndarray) -> np.ndarray:
    return pixels[14:290, 22:380].copy()


def turned(pixels: np.ndarray) -> np.ndarray:
    height, width = pixels.shape[:2]
    by = cv2.getRotationMatrix2D((width / 2, height / 2), 1.5, 1.0)
    return cv2.warpAffine(
        pixels, by, (width, height), flags=cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REFLECT_101
    )


def made_smaller(pixels: np.ndarray) -> np.ndarray:
    return cv2.resize(pixels, (320, 240), interpolation=cv2.INTER_AREA)


FRAMES = [cropped, turned, made_smaller]


def inside(done, mask: np.ndarray) -> np.ndarray:
    return done(mask.astype(np.uint8) * 255) > 127


@pytest.fixture(params=FRAMES, ids=lambda done: done.__name__)
def done(request):
    """What was done to the attempt's frame."""
    return request.param


@pytest.fixture
def elsewhere(checked, people, done):
    """An attempt in another frame: its first region passes, its second failed."""
    from attempts.intake import Facts, add_attempt
    from verdicts.ruling import rule

    pixels = filled(holding(TRUTH, MASKS[0]), MASKS[1], TRUTH.astype(float) + 26)
    made = Facts("by an intern", "by hand", "us", 2.0)
    attempt = add_attempt(checked, "other.png", png(done(pixels)), made, people["vera"])
    do_all_work()
    for cell, ruling in zip(
        attempt.cells.order_by("region__number"), ("passes", "rework"), strict=True
    ):
        rule(cell.pk, people["vera"], ruling, None, None)
    return attempt


@pytest.fixture
def out(signed_in, elsewhere, people):
    """Its slip, sent to Mona."""
    vera = signed_in("vera")
    slip = post(vera, f"/api/attempts/{elsewhere.pk}/slips/").json()["id"]
    answer = vera.patch(
        f"/api/slips/{slip}/", {"worker": people["mona"].pk}, content_type="application/json"
    )
    assert answer.status_code == 200, answer.json()
    assert post(vera, f"/api/slips/{slip}/send/").status_code == 200
    do_all_work()
    return slip


def unpacked(client, slip) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(package_of(client, slip))) as files:
        return {name: files.read(name) for name in files.namelist()}


def likeness(one: np.ndarray, other: np.ndarray) -> float:
    return float((one & other).sum() / (one | other).sum())


def test_its_package_lies_in_the_attempts_own_frame(signed_in, elsewhere, out, done):
    files = unpacked(signed_in("mona"), out)
    slip = json.loads(files["slip.json"])
    own = read(files[slip["files"]["attempt"]]).pixels
    assert np.array_equal(own, pixels_of(elsewhere))
    for name, mask in ((slip["regions"][0]["mask"], MASKS[1]), (slip["locked"][0], MASKS[0])):
        found = read(files[name]).pixels[..., 0] > 127
        assert found.shape == own.shape[:2]
        assert likeness(found, inside(done, mask)) > 0.96
    with zipfile.ZipFile(io.BytesIO(files["layers.ora"])) as layers:
        sizes = {
            cv2.imdecode(np.frombuffer(layers.read(name), np.uint8), -1).shape[:2]
            for name in layers.namelist()
            if name.startswith("data/")
        }
    assert sizes == {own.shape[:2]}


def test_its_evidence_is_cut_from_where_the_flaw_is(signed_in, out):
    files = unpacked(signed_in("mona"), out)
    (region,) = json.loads(files["slip.json"])["regions"]
    flaw = region["flaws"][0]
    x, y, w, h = (round(value) for value in flaw["bbox"])
    crop = read(files[flaw["crop"]]).pixels.astype(float)
    # The crop has a margin of surroundings; what failed there is 26 levels too bright.
    left, top = min(24, x), min(24, y)
    place = crop[top : top + h, left : left + w]
    assert place.shape[:2] == (h, w)
    middle = np.s_[h // 2 - 6 : h // 2 + 6, w // 2 - 6 : w // 2 + 6]
    true = TRUTH[y : y + h, x : x + w].astype(float)
    assert (place[middle] - true[middle]).mean() == pytest.approx(26, abs=4)


def test_a_mended_region_comes_back_fixed_and_all_else_is_proven_the_same(
    signed_in, elsewhere, out, done
):
    own = pixels_of(elsewhere)
    # Pixels that the bright place has a part in are worked too, as one would.
    mask = done(MASKS[1].astype(np.uint8) * 255) > 0
    mended = filled(own, mask, done(holding(TRUTH, MASKS[1])).astype(float))
    assert returned(signed_in("mona"), out, mended).status_code == 202
    do_all_work()
    vera = signed_in("vera")
    slip = vera.get(f"/api/slips/{out}/").json()
    assert slip["state"] == "rechecked", slip["returning"]
    assert slip["regions"][0]["outcome"] == "fixed"
    assert [lock["same"] for lock in slip["locks"]] == [True]
    assert slip["elsewhere"]["same"]
    bench = vera.get(f"/api/pictures/{elsewhere.picture_id}/bench/").json()
    new = bench["attempts"][-1]
    kept = {cell["region"]: cell for cell in bench["cells"] if cell["attempt"] == new["id"]}
    first = kept[bench["regions"][0]["id"]]["verdict"]
    assert first["ruling"] == "passes" and first["carried"]


def test_what_was_touched_besides_is_named_and_put_back(signed_in, elsewhere, out, done):
    own = pixels_of(elsewhere)
    mask = inside(done, MASKS[1])
    sent_back = filled(own, mask, done(holding(TRUTH, MASKS[1])).astype(float))
    lock = np.argwhere(inside(done, MASKS[0])).mean(axis=0).round().astype(int)
    sent_back[lock[0], lock[1]] = 255 - own[lock[0], lock[1]]
    sent_back[20:30, 200:210] = 250
    assert returned(signed_in("mona"), out, sent_back).status_code == 202
    do_all_work()
    vera = signed_in("vera")
    slip = vera.get(f"/api/slips/{out}/").json()
    (told,) = slip["locks"]
    assert not told["same"] and told["differing"] == 1
    assert not slip["elsewhere"]["same"]
    # The place is named in the original's frame, as everything on the stage is.
    here = np.zeros(TRUTH.shape[:2], np.uint8)
    for place in slip["elsewhere"]["places"]:
        x, y, w, h = (round(value) for value in place["bbox"])
        here[max(0, y) : y + h, max(0, x) : x + w] = 255
    assert (done(here)[22:28, 202:208] > 0).mean() > 0.8
    assert post(vera, f"/api/slips/{out}/put-back/").status_code == 202
    do_all_work()
    repaired = pixels_of(elsewhere.picture.attempts.order_by("number").last())
    assert np.array_equal(repaired[20:30, 200:210], own[20:30, 200:210])
    assert np.array_equal(repaired[lock[0], lock[1]], own[lock[0], lock[1]])
    worked = cv2.erode(mask.astype(np.uint8), np.ones((5, 5))) > 0
    assert np.array_equal(repaired[worked], sent_back[worked])
