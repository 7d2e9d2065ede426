"""Whatever is sent, the answer is one clear sentence and nothing is half-stored."""

from __future__ import annotations

import io
import json

import numpy as np
import pytest
from builders import jpeg, png, textured
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from house import do_all_work
from PIL import Image as PillowImage

pytestmark = pytest.mark.django_db


@pytest.fixture
def vera(signed_in):
    client = signed_in("vera")
    client.raise_request_exception = False
    return client


@pytest.mark.parametrize("size", ["²", "9" * 4400, "-1", "1.5", "x", "99999999"])
def test_a_size_that_is_none_is_refused_before_anything_is_stored(vera, checked, size):
    from verdicts.models import Cell, Verdict

    cell, region = Cell.objects.first(), checked.regions.first()
    attempt = checked.attempts.first()
    query = {"size": size}
    asked = [
        vera.get(f"/api/pictures/{checked.pk}/bench/", query),
        vera.get(f"/api/regions/{region.pk}/spread/", query),
        vera.post(
            f"/api/regions/{region.pk}/picks/?size={size}",
            {"attempt": attempt.pk},
            content_type="application/json",
        ),
        vera.post(
            f"/api/cells/{cell.pk}/verdict/?size={size}",
            {"ruling": "passes"},
            content_type="application/json",
        ),
        vera.delete(f"/api/cells/{cell.pk}/verdict/?size={size}"),
    ]
    assert [answer.status_code for answer in asked] == [400] * 5
    assert Verdict.objects.count() == 0 and region.picks.count() == 0


@pytest.mark.parametrize("before", ["²", "9" * 4400, "x", ""])
def test_changes_from_an_attempt_that_is_none_are_refused(vera, checked, before):
    attempt = checked.attempts.first()
    answer = vera.get(f"/api/attempts/{attempt.pk}/changes/", {"before": before})
    assert answer.status_code == 400


@pytest.mark.parametrize("revision", ['"²"', "9" * 4400, '""', "W/x", "*"])
def test_an_if_match_that_is_no_revision_of_ours_counts_as_none(vera, checked, revision):
    from verdicts.models import Cell

    answer = vera.post(
        f"/api/cells/{Cell.objects.first().pk}/verdict/",
        {"ruling": "passes"},
        content_type="application/json",
        HTTP_IF_MATCH=revision,
    )
    assert answer.status_code == 200


@pytest.mark.parametrize("signed", [True, False])
@pytest.mark.parametrize(
    "body",
    [
        "[" * 100_000,
        '{"a":' * 100_000,
        "9" * 5000,
        "NaN",
        "\ud800".encode("utf-16", "surrogatepass"),
    ],
)
def test_json_that_is_made_to_do_harm_is_refused(vera, signed, body):
    client = vera if signed else Client(raise_request_exception=False)
    answer = client.post("/api/session/", body, content_type="application/json")
    assert answer.status_code == 400, answer.content[:200]


def test_addresses_with_numbers_beyond_reason_name_nothing(vera, checked):
    image = checked.original.pk
    for path in (
        f"/api/images/{image}/tiles/{'9' * 3000},0,512,512/512,512/0/default.png",
        f"/api/images/{image}/aids/grain/tiles/{'9' * 3000},0,512,512/512,512/0/default.png",
        f"/api/images/{'9' * 25}/tiles/info.json",
        f"/api/pictures/{'9' * 5000}/bench/",
        f"/api/cells/{2**63}/",
    ):
        assert vera.get(path).status_code == 404, path[:60]


@pytest.mark.parametrize(
    "seconds, cost", [("nan", ""), ("inf", ""), ("-1", ""), ("1", "1e30"), ("1", "x"), ("1e99", "")]
)
def test_a_result_with_numbers_that_are_none_is_refused(signed_in, checked, people, seconds, cost):
    from slips.models import Return
    from slips.sending import send_slip
    from slips.writing import Edit, Recipient, edit_slip, write_slip
    from verdicts.models import Cell
    from verdicts.ruling import rule

    vera, attempt = people["vera"], checked.attempts.get(number=1)
    rule(Cell.objects.filter(attempt=attempt).first().pk, vera, "rework", None, None)
    slip = edit_slip(write_slip(attempt, vera), vera, Edit(to=Recipient(people["mona"])))
    slip = send_slip(slip, vera)
    mona = signed_in("mona")
    mona.raise_request_exception = False
    file = lambda: SimpleUploadedFile("back.png", png(textured(300, 400, seed=5)))
    answer = mona.post(
        f"/api/slips/{slip.pk}/result/", {"file": file(), "seconds": seconds, "cost": cost}
    )
    assert answer.status_code == 400 and Return.objects.count() == 0
    long = SimpleUploadedFile(f"{'x' * 240}.png", png(textured(300, 400, seed=5)))
    assert mona.post(f"/api/slips/{slip.pk}/result/", {"file": long}).status_code == 202


def test_two_sizes_that_the_database_takes_for_one_are_refused_and_no_job_is_made(vera, people):
    from jobs.models import Job

    people["vera"].makes_jobs = True
    people["vera"].save()
    before = Job.objects.count()
    answer = vera.post(
        "/api/jobs/",
        {
            "name": "Spring",
            "sizes": [{"name": "wall", "spec": "1080px"}, {"name": "Wäll", "spec": "1080px"}],
        },
        content_type="application/json",
    )
    assert answer.status_code == 400 and "same name" in answer.json()["error"]
    assert Job.objects.count() == before


def test_an_outline_of_a_million_points_is_counted_before_it_is_read(vera, checked):
    from verdicts.models import Cell

    body = {"kind": "lost", "severity": "clear", "polygon": [[1, 1]] * 100_000}
    answer = vera.post(
        f"/api/cells/{Cell.objects.first().pk}/own-findings/", body, content_type="application/json"
    )
    assert answer.status_code == 400 and "2000" in answer.json()["error"]


def with_orientation(value: bytes) -> bytes:
    """A JPEG whose EXIF says an orientation that is a rational: value is its eight bytes."""
    tiff = b"II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x05\x00\x01\x00\x00\x00\x1a\x00\x00\x00\x00\x00\x00\x00"
    exif = b"Exif\x00\x00" + tiff + value
    data = jpeg(textured(80, 100, seed=2))
    return data[:2] + b"\xff\xe1" + (len(exif) + 2).to_bytes(2, "big") + exif + data[2:]


def test_an_orientation_of_infinity_is_none(job, people, vera):
    data = with_orientation((1).to_bytes(4, "little") + (0).to_bytes(4, "little"))
    answer = vera.post(f"/api/jobs/{job.pk}/arrivals/", {"file": SimpleUploadedFile("a.jpg", data)})
    assert answer.status_code == 201
    do_all_work()
    assert job.arrivals.get().state == "ready"


def test_a_picture_of_many_pages_says_that_only_the_first_was_read(job, vera):
    pages = [PillowImage.fromarray(textured(60, 80, seed=seed)) for seed in (1, 2, 3)]
    buffer = io.BytesIO()
    pages[0].save(buffer, "TIFF", save_all=True, append_images=pages[1:])
    vera.post(
        f"/api/jobs/{job.pk}/arrivals/",
        {"file": SimpleUploadedFile("a.tif", buffer.getvalue())},
    )
    do_all_work()
    (row,) = vera.get(f"/api/jobs/{job.pk}/intake/").json()["arrivals"]
    assert "the first of 3 pages" in row["facts"]


def test_a_small_file_of_many_pixels_is_never_unpacked_in_the_web(job, vera, monkeypatch):
    """840 kB that unpack to 144 million pixels of 16 bits: the request looks at the header alone."""
    import cv2

    ok, data = cv2.imencode(".png", np.zeros((3000, 3000, 3), np.uint16))
    assert ok

    def unpacked(*_, **__):
        raise AssertionError("pixels were unpacked in a request")

    monkeypatch.setattr("images.decoding.read", unpacked)
    answer = vera.post(
        f"/api/jobs/{job.pk}/arrivals/", {"file": SimpleUploadedFile("a.png", data.tobytes())}
    )
    assert answer.status_code == 201


def test_the_limit_on_pixels_is_the_one_that_is_said(settings):
    from zweiblick_core.errors import Refused
    from zweiblick_core.io import read_header

    buffer = io.BytesIO()
    PillowImage.new("1", (14_000, 14_000)).save(buffer, "PNG")
    # 196 million pixels lie under a limit of 250 million.
    assert read_header(buffer.getvalue(), settings.MOST_PIXELS).width == 14_000
    with pytest.raises(Refused, match="196 million pixels; the limit is 100 million"):
        read_header(buffer.getvalue(), 100_000_000)


def mutated(rng, data: bytes) -> bytes:
    """A picture file with some bytes changed, cut out or doubled."""
    out = bytearray(data)
    for _ in range(int(rng.integers(1, 8))):
        at = int(rng.integers(0, max(1, min(len(out), 4000 if rng.random() < 0.7 else len(out)))))
        way = rng.integers(4)
        if way == 0:
            out[at : at + 1] = bytes([int(rng.integers(256))])
        elif way == 1:
            del out[at : at + int(rng.integers(1, 200))]
        elif way == 2:
            out[at:at] = out[at : at + int(rng.integers(1, 60))]
        else:
            out = out[: max(8, at)]
    return bytes(out)


def originals() -> list[bytes]:
    picture = textured(48, 64, seed=7)
    kinds = [png(picture), jpeg(picture), with_orientation(b"\x06\0\0\0\x01\0\0\0")]
    for mode, form in (("RGB", "TIFF"), ("L", "PNG"), ("RGBA", "PNG"), ("CMYK", "JPEG")):
        buffer = io.BytesIO()
        PillowImage.fromarray(picture).convert(mode).save(buffer, form)
        kinds.append(buffer.getvalue())
    return kinds


@pytest.mark.slow
def test_two_thousand_damaged_pictures_are_read_or_refused_and_nothing_else():
    from zweiblick_core.errors import Refused
    from zweiblick_core.io import read, read_header

    rng = np.random.default_rng(20)
    kinds = originals()
    refused = 0
    for number in range(2000):
        data = mutated(rng, kinds[number % len(kinds)])
        try:
            read_header(data, 1_000_000)
            picture = read(data, 1_000_000)
            assert picture.pixels.ndim == 3 and picture.pixels.dtype in (np.uint8, np.uint16)
        except Refused as error:
            refused += 1
            assert "\n" not in str(error)
    assert 200 < refused < 2000


@pytest.mark.slow
def test_damaged_pictures_that_arrive_are_refused_in_words(job, vera):
    rng = np.random.default_rng(21)
    kinds = originals()
    for number in range(60):
        data = mutated(rng, kinds[number % len(kinds)])
        answer = vera.post(
            f"/api/jobs/{job.pk}/arrivals/", {"file": SimpleUploadedFile(f"{number}.png", data)}
        )
        assert answer.status_code in (201, 400), answer.content[:200]
        json.loads(answer.content)
    do_all_work()
    assert not job.arrivals.filter(state="reading").exists()
    assert not job.arrivals.filter(reason__contains="an error in the program").exists()
