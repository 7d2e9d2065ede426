"""Signing off, reopening, releasing and delivering; what leaves is read back and compared. Each test
reads like its rule.
"""

from __future__ import annotations

import copy
import csv
import hashlib
import io
import json
import zipfile
from functools import cache
from pathlib import Path
from xml.etree import ElementTree

import cv2
import jsonschema
import numpy as np
import pytest
import tifffile
from builders import holding, textured
from django.test import Client
from house import MASKS, TRUTH, do_all_work, overreaching, pixels_of, post, rule_all, say
from PIL import Image, ImageCms

from zweiblick_core.io import read

pytestmark = pytest.mark.django_db

DOCS = Path(__file__).parents[2] / "docs"


@pytest.fixture
def done(checked, people):
    """The third attempt holds everywhere."""
    rule_all(checked, 3, people)
    return checked


def signing(client, picture):
    return client.get(f"/api/pictures/{picture.pk}/sign-off/").json()


def sign(client, picture, **more):
    attempt = signing(client, picture)["attempt"]
    return post(client, f"/api/pictures/{picture.pk}/sign-off/", {"attempt": attempt, **more})


@pytest.fixture
def signed(done, signed_in):
    answer = sign(signed_in("vera"), done)
    assert answer.status_code == 201, answer.json()
    return done


def deliver(client, picture, **options):
    asked = {"pictures": [picture.pk], **options}
    answer = post(client, f"/api/jobs/{picture.job_id}/deliveries/", asked)
    assert answer.status_code == 202, answer.json()
    do_all_work()
    return client.get(f"/api/jobs/{picture.job_id}/deliveries/").json()["deliveries"][0]


def fetched(client, delivery):
    answer = client.get(delivery["file"])
    return b"".join(answer.streaming_content)


def unpacked(client, delivery):
    with zipfile.ZipFile(io.BytesIO(fetched(client, delivery))) as files:
        return {name: files.read(name) for name in files.namelist()}


# -- signing


def test_before_one_attempt_holds_everywhere_nothing_can_be_signed(signed_in, checked):
    vera = signed_in("vera")
    said = signing(vera, checked)
    assert said["attempt"] is None and said["reasons"] == ["No attempt holds in every region yet."]
    third = checked.attempts.get(number=3)
    answer = post(vera, f"/api/pictures/{checked.pk}/sign-off/", {"attempt": third.pk})
    assert answer.status_code == 400 and "Not every region holds" in answer.json()["error"]


def test_what_holds_everywhere_is_signed_with_what_is_to_be_known_of_it(signed_in, done):
    vera = signed_in("vera")
    said = signing(vera, done)
    assert said["attempt_number"] == 3 and said["reasons"] == [] and said["signed"] is None
    assert [(one["name"], one["width"], one["height"]) for one in said["sizes"]] == [
        ("wall", 400, 300),
        ("phone", 400, 300),
    ]
    assert [one["person"] for one in said["regions"]] == ["Vera", "Vera"]
    after = sign(vera, done).json()
    assert after["signed"]["person"] == "Vera" and after["signed"]["attempt"] == 3
    history = vera.get(f"/api/pictures/{done.pk}/history/").json()["entries"]
    assert "signed off" in [one["what"] for one in history]


def test_a_pass_at_a_small_size_does_not_sign_for_a_larger_one(signed_in, checked, people):
    phone = checked.job.sizes.get(name="phone")
    rule_all(checked, 3, people, "passes at size", phone)
    third = checked.attempts.get(number=3)
    answer = post(signed_in("vera"), f"/api/pictures/{checked.pk}/sign-off/", {"attempt": third.pk})
    assert answer.status_code == 400 and "at wall" in answer.json()["error"]


def test_what_was_had_for_private_use_only_is_not_signed_for_a_paying_client(signed_in, done):
    run = done.attempts.get(number=3).run
    run.settings = {"terms": "private use only"}
    run.save()
    vera = signed_in("vera")
    answer = sign(vera, done)
    assert answer.status_code == 400 and "private use only" in answer.json()["error"]
    done.job.use = "private"
    done.job.save()
    assert sign(vera, done).status_code == 201


def test_terms_of_what_it_was_made_from_count_too(signed_in, done):
    from attempts.models import AttemptSource

    first, third = done.attempts.get(number=1), done.attempts.get(number=3)
    first.run.settings = {"terms": "private use only"}
    first.run.save()
    AttemptSource.objects.create(attempt=third, source=first)
    assert "attempt 1" in sign(signed_in("vera"), done).json()["error"]


def test_while_a_slip_is_out_nothing_is_signed(signed_in, failed, people, sent):
    rule_all(failed.picture, 3, people)
    answer = sign(signed_in("vera"), failed.picture)
    assert answer.status_code == 400 and "still out" in answer.json()["error"]


def test_changes_outside_every_region_are_signed_only_where_they_are_let_stand(
    signed_in, people, job
):
    picture = overreaching(job, people)
    third = picture.attempts.get(number=2)
    rule_all(picture, 2, people)
    vera = signed_in("vera")
    assert signing(vera, picture)["attempt"] is None
    at = f"/api/pictures/{picture.pk}/sign-off/"
    assert "outside every region" in post(vera, at, {"attempt": third.pk}).json()["error"]
    say(vera, third, "acceptable")
    after = post(vera, at, {"attempt": third.pk}).json()
    assert after["signed"]["outside"] == 1
    assert {"region": None, "kind": "overreach", "person": "Vera"} in after["accepted"]
    # Signed: nothing is said of it any more.
    assert "signed off by Vera" in say(vera, third, "confirmed").json()["error"]


def test_what_is_signed_is_frozen_until_it_is_reopened_with_a_reason(signed_in, signed, people):
    vera = signed_in("vera")
    cell = signed.attempts.get(number=3).cells.get(region__number=1)
    verdict = f"/api/cells/{cell.pk}/verdict/"
    refused = post(vera, verdict, {"ruling": "rework"})
    assert refused.status_code == 400 and "signed off by Vera" in refused.json()["error"]
    assert vera.delete(verdict).status_code == 400
    region = signed.regions.get(number=1)
    assert vera.delete(f"/api/regions/{region.pk}/").status_code == 400
    again = sign(vera, signed)
    assert again.status_code == 400 and "already" in again.json()["error"]
    reopen = f"/api/pictures/{signed.pk}/reopen/"
    assert post(vera, reopen, {"reason": " "}).status_code == 400
    after = post(vera, reopen, {"reason": "the client saw a seam"}).json()
    assert after["signed"] is None and after["past"][0]["reason"] == "the client saw a seam"
    assert post(vera, reopen, {"reason": "again"}).status_code == 409
    assert post(vera, verdict, {"ruling": "rework"}).status_code in (200, 201)


def test_only_a_supervisor_signs_and_only_what_is_signed_is_released(signed_in, done, people):
    mona, vera = signed_in("mona"), signed_in("vera")
    assert mona.get(f"/api/pictures/{done.pk}/sign-off/").status_code == 403
    release = f"/api/pictures/{done.pk}/release/"
    guest = people["archive"].pk
    early = post(vera, release, {"people": [guest]})
    assert early.status_code == 400 and "signed off" in early.json()["error"]
    sign(vera, done)
    assert post(vera, release, {"people": [people["mona"].pk]}).status_code == 400
    after = post(vera, release, {"people": [guest]}).json()
    assert after["guests"] == [{"id": guest, "name": "Archive", "released": True}]
    seen = signed_in("archive").get("/api/released/").json()
    assert len(seen) == 1 and post(vera, release, {"people": [guest]}).status_code == 200
    assert len(signed_in("archive").get("/api/released/").json()) == 1


# -- delivering


def test_only_what_is_signed_is_delivered_and_only_what_there_is(signed_in, done):
    vera = signed_in("vera")
    url = f"/api/jobs/{done.job_id}/deliveries/"
    assert post(vera, url, {"pictures": [done.pk], "finals": ["png"]}).status_code == 400
    sign(vera, done)
    for wrong in (
        {"finals": ["bmp"]},
        {"sizes": ["billboard"]},
        {"finals": ["jpeg"], "quality": 10},
        {},
    ):
        assert post(vera, url, {"pictures": [done.pk], **wrong}).status_code == 400, wrong
    assert post(signed_in("mona"), url, {"pictures": [done.pk]}).status_code == 404
    assert vera.get(url).json()["deliveries"] == []


def test_a_delivery_holds_what_was_asked_for_and_every_hash_is_right(signed_in, signed):
    vera = signed_in("vera")
    made = deliver(
        vera,
        signed,
        finals=["tiff", "png", "jpeg"],
        sizes=["phone"],
        layered=True,
        masks=True,
        sheets=True,
    )
    assert made["state"] == "ready" and made["pictures"] == ["01 Slipway"], made["reason"]
    files = unpacked(vera, made)
    own = {name.removeprefix("01-slipway/") for name in files if name.startswith("01-slipway/")}
    assert own == {
        "final.tif",
        "final.png",
        "final.jpg",
        "for-phone.jpg",
        "layers.ora",
        "masks/region-1.png",
        "masks/region-2.png",
        "masks/regions.geojson",
        "masks/annotations.jsonld",
    }
    sums = dict(line.split("  ")[::-1] for line in files["SHA256SUMS"].decode().splitlines())
    assert set(sums) == set(files) - {"SHA256SUMS", "files.csv"}
    for name, digest in sums.items():
        assert hashlib.sha256(files[name]).hexdigest() == digest
    assert files["before-and-after.pdf"].startswith(b"%PDF")
    assert files["contact-sheet.pdf"].startswith(b"%PDF")
    data = fetched(vera, made)
    assert (hashlib.sha256(data).hexdigest(), len(data)) == (made["sha256"], made["bytes"])


def test_the_finals_are_the_result_to_the_bit(signed_in, signed):
    vera = signed_in("vera")
    files = unpacked(vera, deliver(vera, signed, finals=["tiff", "png"]))
    wanted = pixels_of(signed.attempts.get(number=3))
    assert np.array_equal(tifffile.imread(io.BytesIO(files["01-slipway/final.tif"])), wanted)
    assert np.array_equal(read(files["01-slipway/final.png"]).pixels, wanted)


def test_masks_geojson_and_annotations_give_the_regions_to_the_pixel(signed_in, signed):
    from zweiblick_core.regions import from_annotations, from_geojson

    vera = signed_in("vera")
    files = unpacked(vera, deliver(vera, signed, masks=True))
    frame = TRUTH.shape[:2]
    plain = lambda name: json.loads(files[f"01-slipway/masks/{name}"])
    areas = {one.id: one for one in from_geojson(plain("regions.geojson"), frame)}
    notes = from_annotations(plain("annotations.jsonld"), frame)
    for number, mask in enumerate(MASKS, 1):
        png = read(files[f"01-slipway/masks/region-{number}.png"]).pixels[..., 0] > 127
        assert np.array_equal(png, mask)
        assert np.array_equal(areas[f"region-{number}"].full(frame), mask)
        assert np.array_equal(notes[number - 1].area.full(frame), mask)
    assert [note.words for note in notes] == [("buoy",), ("hose reel",)]


def test_the_layered_file_opens_with_the_result_over_the_original_and_the_regions_hidden(
    signed_in, signed
):
    vera = signed_in("vera")
    files = unpacked(vera, deliver(vera, signed, layered=True))
    with zipfile.ZipFile(io.BytesIO(files["01-slipway/layers.ora"])) as layers:
        first = layers.infolist()[0]
        assert (first.filename, first.compress_type) == ("mimetype", zipfile.ZIP_STORED)
        assert layers.read("mimetype") == b"image/openraster"
        stack = ElementTree.fromstring(layers.read("stack.xml"))
        assert (stack.get("w"), stack.get("h")) == ("400", "300")
        named = {one.get("name"): one for one in stack.iter("layer")}
        assert list(named) == ["region 1, buoy", "region 2, hose reel", "attempt 3", "original"]
        pixels = lambda name: cv2.imdecode(
            np.frombuffer(layers.read(named[name].get("src")), np.uint8), cv2.IMREAD_UNCHANGED
        )
        result = pixels_of(signed.attempts.get(number=3))
        assert np.array_equal(pixels("attempt 3")[..., ::-1], result)
        assert np.array_equal(pixels("region 1, buoy")[..., 3] > 0, MASKS[0])
        assert named["region 1, buoy"].get("visibility") == "hidden"
        merged = cv2.imdecode(np.frombuffer(layers.read("mergedimage.png"), np.uint8), 1)
        assert np.array_equal(merged[..., ::-1], result)


def test_the_record_says_every_ruling_who_when_and_on_what_evidence(signed_in, signed, people):
    vera = signed_in("vera")
    files = unpacked(vera, deliver(vera, signed, finals=["png"]))
    record = json.loads(files["record.json"])
    assert record["schema"] == "zweiblick.record/1" and record["use"] == "paying client"
    (picture,) = record["pictures"]
    assert picture["signed"]["person"] == "Vera" and picture["attempt"] == 3
    assert [one["number"] for one in picture["attempts"]] == [1, 2, 3]
    for region in picture["regions"]:
        (ruling,) = region["rulings"]
        assert (ruling["ruling"], ruling["person"], ruling["attempt"]) == ("passes", "Vera", 3)
        assert ruling["check"] and region["core_version"]
    rows = list(csv.DictReader(io.StringIO(files["rulings.csv"].decode("utf-8-sig"))))
    assert [(row["picture"], row["region"], row["ruling"]) for row in rows] == [
        ("Slipway", "buoy", "passes"),
        ("Slipway", "hose reel", "passes"),
    ]


def test_the_record_is_as_its_published_schema_says(signed_in, checked, people):
    vera = signed_in("vera")
    rule_all(checked, 1, people, "rework")
    rule_all(checked, 3, people)
    assert sign(vera, checked).status_code == 201
    record = json.loads(unpacked(vera, deliver(vera, checked, finals=["png"]))["record.json"])
    schema = json.loads((DOCS / "record-1.schema.json").read_text())
    jsonschema.Draft202012Validator.check_schema(schema)
    validator = jsonschema.Draft202012Validator(
        schema, format_checker=jsonschema.Draft202012Validator.FORMAT_CHECKER
    )
    assert [error.message for error in validator.iter_errors(record)] == []
    assert {one["ruling"] for one in record["pictures"][0]["regions"][0]["rulings"]} == {
        "passes",
        "rework",
    }
    # It describes what is there and nothing else: a record that holds more or less is none.
    more, less = copy.deepcopy(record), copy.deepcopy(record)
    more["pictures"][0]["regions"][0]["rulings"][0]["mood"] = "fine"
    del less["pictures"][0]["signed"]["person"]
    assert not validator.is_valid(more) and not validator.is_valid(less)


def test_two_sizes_whose_names_come_out_the_same_take_no_file_from_each_other():
    from signing.names import plain_name, told_apart

    plain = [plain_name(name, "size") for name in ("Wall, A2", "wall a2", "Ö", "phone")]
    assert told_apart(plain) == ["wall-a2-1", "wall-a2-2", "size-3", "phone-4"]
    assert told_apart(plain[1:]) == ["wall-a2", "size", "phone"]
    assert len(set(told_apart(["a", "a", "a-1"]))) == 3


def test_no_cell_of_a_table_begins_a_formula():
    from signing.records import table

    made = table(("a", "b"), [{"a": "=1+1", "b": 3}, {"a": "plain", "b": -2}])
    rows = list(csv.reader(io.StringIO(made.decode("utf-8-sig"))))
    assert rows == [["a", "b"], ["'=1+1", "3"], ["plain", "-2"]]


def test_a_delivery_of_what_was_signed_is_the_same_after_it_was_reopened_and_ruled_anew(
    signed_in, signed, people, settings
):
    from signing.keeping import forget_deliveries

    vera = signed_in("vera")
    made = deliver(vera, signed, finals=["png"], masks=True)
    before = unpacked(vera, made)
    settings.DELIVERIES_KEPT = -1.0
    forget_deliveries()
    assert vera.get(f"/api/deliveries/{made['id']}/file/").status_code == 404
    post(vera, f"/api/pictures/{signed.pk}/reopen/", {"reason": "another look"})
    rule_all(signed, 3, people, "rework")
    assert post(vera, f"/api/deliveries/{made['id']}/").status_code == 202
    do_all_work()
    again = vera.get(f"/api/jobs/{signed.job_id}/deliveries/").json()["deliveries"][0]
    assert unpacked(vera, again) == before
    assert post(vera, f"/api/deliveries/{made['id']}/").status_code == 409


def test_a_delivery_whose_file_is_gone_though_nobody_removed_it_is_built_again(signed_in, signed):
    from signing.keeping import stored_name
    from signing.models import Delivery
    from store.places import deliveries

    vera = signed_in("vera")
    made = deliver(vera, signed, finals=["png"])
    deliveries().remove(stored_name(Delivery.objects.get()))
    (row,) = vera.get(f"/api/jobs/{signed.job_id}/deliveries/").json()["deliveries"]
    assert (row["state"], row["file"]) == ("forgotten", None)
    assert vera.get(made["file"]).status_code == 404
    assert post(vera, f"/api/deliveries/{made['id']}/").status_code == 202
    do_all_work()
    (row,) = vera.get(f"/api/jobs/{signed.job_id}/deliveries/").json()["deliveries"]
    assert row["sha256"] == made["sha256"] and len(fetched(vera, row)) == made["bytes"]


def test_a_download_that_broke_off_goes_on_where_it_was(signed_in, signed):
    vera = signed_in("vera")
    made = deliver(vera, signed, finals=["png"])
    whole = fetched(vera, made)
    half = len(whole) // 2
    rest = vera.get(made["file"], headers={"Range": f"bytes={half}-"})
    assert rest.status_code == 206 and b"".join(rest.streaming_content) == whole[half:]
    assert rest["Content-Range"] == f"bytes {half}-{len(whole) - 1}/{len(whole)}"
    beyond = vera.get(made["file"], headers={"Range": f"bytes={len(whole)}-"})
    assert beyond.status_code == 416
    other = vera.get(made["file"], headers={"Range": "bytes=5-", "If-Range": '"another"'})
    assert other.status_code == 200
    assert Client().get(made["file"]).status_code == 401


def test_a_builder_that_dies_leaves_nothing_half_and_the_next_builds_it(
    signed_in, signed, monkeypatch
):
    from signing.models import Delivery
    from store.places import deliveries
    from work.models import Work

    vera = signed_in("vera")

    def dies(*_):
        raise SystemExit

    asked = {"pictures": [signed.pk], "finals": ["png"]}
    post(vera, f"/api/jobs/{signed.job_id}/deliveries/", asked)
    with monkeypatch.context() as patched:
        patched.setattr("signing.building.record_of", dies)
        with pytest.raises(SystemExit):
            do_all_work()
    assert list(deliveries().names()) == [] and Delivery.objects.get().state == "building"
    Work.objects.filter(kind="delivery").update(leased_until="2000-01-01T00:00Z", state="waiting")
    do_all_work()
    assert Delivery.objects.get().state == "ready"


# -- finals of other originals


@cache
def profile():
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def jpeg(pixels, **more):
    data = io.BytesIO()
    Image.fromarray(pixels).save(data, "JPEG", quality=95, subsampling=0, **more)
    return data.getvalue()


def finals(original, result, alignment=None):
    """What leaves, of two files that are stored nowhere."""
    from types import SimpleNamespace

    from signing import finals as module
    from zweiblick_core.align import register

    found = alignment or register(read(original), read(result))
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(module, "blob_bytes", lambda blob: blob)
        patched.setattr(module, "decoded", lambda blob: read(blob))
        return module.final_of(SimpleNamespace(blob=original), SimpleNamespace(blob=result), found)


def test_exif_xmp_profile_and_resolution_of_the_original_are_kept():
    from signing.finals import as_jpeg, as_png, as_tiff

    exif = Image.Exif()
    exif[271], exif[315] = "Camera maker", "A. Photographer"
    xmp = b"<x:xmpmeta xmlns:x='urn:x'><a>kept</a></x:xmpmeta>"
    pixels = textured(120, 160, seed=3)
    original = jpeg(pixels, exif=exif, xmp=xmp, icc_profile=profile(), dpi=(300, 300))
    changed = read(original).pixels.copy()
    changed[40:60, 40:60] = 90
    result = io.BytesIO()
    Image.fromarray(changed).save(result, "PNG", icc_profile=profile())
    final = finals(original, result.getvalue())
    for made in (as_jpeg(final, 90), as_png(final)):
        opened = Image.open(io.BytesIO(made))
        tags = opened.getexif()
        assert (tags[271], tags[315]) == ("Camera maker", "A. Photographer")
        assert tags[305].startswith("Zweiblick") and tags.get(274, 1) == 1
        assert opened.info["icc_profile"] == profile()
        assert round(opened.info["dpi"][0]) == 300
        packet = next(held for name, held in opened.info.items() if "xmp" in name.lower())
        assert b"kept" in (packet if isinstance(packet, bytes) else packet.encode())
    with tifffile.TiffFile(io.BytesIO(as_tiff(final))) as tiff:
        tags = tiff.pages[0].tags
        assert tags[271].value == "Camera maker" and tags[315].value == "A. Photographer"
        assert tags[34675].value == profile() and b"kept" in bytes(tags[700].value)
        assert tags[282].value[0] / tags[282].value[1] == pytest.approx(300, abs=0.5)
        assert tags[305].value.startswith("Zweiblick")
        assert np.array_equal(tiff.asarray(), changed)


def camera_exif():
    """What a camera writes: exposure, lens, moment, place, and a note only its maker reads."""
    from PIL.TiffImagePlugin import IFDRational

    exif = Image.Exif()
    exif[271], exif[272] = "Camera maker", "Model 3"
    folder = exif.get_ifd(0x8769)
    folder[0x829A] = IFDRational(1, 250)
    folder[0x8827] = 400
    folder[0x9003] = "2026:03:02 07:41:05"
    folder[0xA434] = "50 mm lens"
    folder[0x9286] = b"ASCII\0\0\0at the quay"
    folder[0x927C] = b"only the maker knows" * 3
    place = exif.get_ifd(0x8825)
    place[1], place[2] = "N", (IFDRational(54), IFDRational(19), IFDRational(30))
    return exif


@pytest.mark.parametrize("byteorder", ["<", ">"])
def test_a_tiff_gets_the_exif_folder_and_keeps_all_that_it_had(byteorder):
    from signing.exif_folder import with_exif

    pixels = textured(50, 70, seed=3).astype(np.uint16) * 200
    plain = io.BytesIO()
    tifffile.imwrite(
        plain, pixels, photometric="rgb", compression="zlib", byteorder=byteorder, software="s"
    )
    made = with_exif(plain.getvalue(), camera_exif().tobytes())
    with (
        tifffile.TiffFile(io.BytesIO(made)) as tiff,
        tifffile.TiffFile(io.BytesIO(plain.getvalue())) as before,
    ):
        assert np.array_equal(tiff.asarray(), pixels)
        was = {tag.code: tag.value for tag in before.pages[0].tags}
        now = {tag.code: tag.value for tag in tiff.pages[0].tags}
        assert {code: now[code] for code in was} == was
        assert set(now) - set(was) == {0x8769, 0x8825}
    folders = Image.open(io.BytesIO(made)).getexif()
    shot, place = folders.get_ifd(0x8769), folders.get_ifd(0x8825)
    assert float(shot[0x829A]) == 1 / 250 and shot[0x8827] == 400
    assert shot[0x9003] == "2026:03:02 07:41:05" and shot[0xA434] == "50 mm lens"
    assert shot[0x9286].endswith(b"at the quay") and 0x927C not in shot
    assert place[1] == "N" and [float(part) for part in place[2]] == [54, 19, 30]


@pytest.mark.parametrize("exif", [b"", b"Exif\0\0nonsense", b"II*\0\x08\0\0\0\xff\xff"])
def test_a_tiff_stays_as_it_is_where_there_is_no_exif_to_be_read(exif):
    from signing.exif_folder import with_exif

    plain = io.BytesIO()
    tifffile.imwrite(plain, textured(20, 20), photometric="rgb")
    assert with_exif(plain.getvalue(), exif) == plain.getvalue()


def test_a_final_tiff_says_how_and_where_it_was_taken():
    from signing.finals import as_tiff

    pixels = textured(120, 160, seed=3)
    original = jpeg(pixels, exif=camera_exif(), dpi=(300, 300))
    result = io.BytesIO()
    Image.fromarray(read(original).pixels).save(result, "PNG")
    folders = Image.open(io.BytesIO(as_tiff(finals(original, result.getvalue())))).getexif()
    assert folders[272] == "Model 3" and folders.get_ifd(0x8769)[0x8827] == 400
    assert folders.get_ifd(0x8825)[1] == "N"


def test_an_original_of_sixteen_bits_leaves_with_sixteen():
    from signing.finals import as_png, as_tiff

    deep = textured(120, 160, seed=3).astype(np.uint16) * 257 + 19
    original, same = io.BytesIO(), io.BytesIO()
    tifffile.imwrite(original, deep, photometric="rgb")
    worked = deep.copy()
    worked[40:60, 40:60] = 30_000
    tifffile.imwrite(same, worked, photometric="rgb")
    final = finals(original.getvalue(), same.getvalue())
    assert final.done == ()
    assert np.array_equal(tifffile.imread(io.BytesIO(as_tiff(final))), worked)
    assert np.array_equal(read(as_png(final)).pixels, worked)
    shallow = io.BytesIO()
    Image.fromarray((worked // 257).astype(np.uint8)).save(shallow, "PNG")
    given = finals(original.getvalue(), shallow.getvalue())
    assert "16 bits" in given.done[0]
    assert tifffile.imread(io.BytesIO(as_tiff(given))).dtype == np.uint16


def test_a_result_in_another_frame_is_brought_into_the_originals():
    pixels = holding(TRUTH, MASKS[0])
    original, result = io.BytesIO(), io.BytesIO()
    Image.fromarray(TRUTH).save(original, "PNG")
    Image.fromarray(pixels[20:280, 30:380]).save(result, "PNG")
    final = finals(original.getvalue(), result.getvalue())
    assert final.pixels.shape == TRUTH.shape and "frame" in final.done[0]
    apart = np.abs(final.pixels[40:260, 60:360].astype(int) - pixels[40:260, 60:360])
    assert apart.mean() < 1.0


def test_a_delivery_size_is_resampled_in_linear_light():
    import pyvips

    from signing.finals import Final, resized

    # Black and white lines of one pixel: half the light is 188 in sRGB, not 128.
    lines = np.zeros((64, 64, 3), np.uint8)
    lines[:, ::2] = 255
    image = pyvips.Image.new_from_array(lines).copy(interpretation="srgb")
    made = resized(Final(image, ()), 0.25, 150.0)
    assert (made.width, made.height) == (16, 16)
    assert abs(float(made.numpy()[4:12, 4:12].mean()) - 188) < 4
    assert made.xres * 25.4 == pytest.approx(150)
    assert resized(Final(image, ()), 3.0, 0.0).width == 64


def test_what_is_built_again_later_has_the_same_bytes(monkeypatch):
    import io
    import time

    from images.zips import Zip

    def packed():
        made = io.BytesIO()
        with Zip(made, "w") as files:
            files.writestr("record.json", "{}")
        return made.getvalue()

    first = packed()
    monkeypatch.setattr(time, "time", lambda: 2_000_000_000.0)
    monkeypatch.setattr(time, "localtime", lambda *_: time.gmtime(2_000_000_000))
    assert packed() == first
