"""Bringing in: files arrive, are paired by name, fit or are refused, and are stored whole or not at
all.
"""

from __future__ import annotations

import io

import cv2
import numpy as np
import pytest
from builders import disc, filled, holding, jpeg, png, textured, with_thing
from django.core.files.uploadedfile import SimpleUploadedFile
from house import do_all_work
from PIL import Image as PillowImage

pytestmark = pytest.mark.django_db

TRUTH = textured(220, 300, seed=12)
MASK = disc(TRUTH.shape[:2], 150, 110, 30)
ORIGINAL = with_thing(TRUTH, MASK)
RESULT = filled(ORIGINAL, MASK, holding(TRUTH, MASK))


def arrive(client, job, name, data):
    """A file arrives and is read."""
    answer = client.post(f"/api/jobs/{job.pk}/arrivals/", {"file": SimpleUploadedFile(name, data)})
    do_all_work()
    return answer


def waiting(client, job):
    return client.get(f"/api/jobs/{job.pk}/intake/").json()["arrivals"]


def bring(client, job, **body):
    """What became of a picture that was brought in; an answer of 400 if it was refused at once."""
    answer = client.post(
        f"/api/jobs/{job.pk}/pictures/", {"mask": None, **body}, content_type="application/json"
    )
    if answer.status_code != 202:
        return answer
    do_all_work()
    return client.get(f"/api/incoming/{answer.json()['id']}/")


def fit(client, job, **body):
    ask = lambda: client.post(f"/api/jobs/{job.pk}/fit/", body, content_type="application/json")
    assert ask().json()["state"] == "working"
    do_all_work()
    return ask().json()


def one(arrival, **more):
    return {"arrival": arrival, "method": "by hand", "kind": "by hand", **more}


@pytest.fixture
def vera(signed_in):
    return signed_in("vera")


def nothing_kept(job, settings):
    from arrivals.models import Arrival
    from images.models import Blob, Image
    from jobs.models import Picture

    files = [path for path in settings.STORE.rglob("*") if path.is_file()]
    return not (
        Arrival.objects.exists()
        or Picture.objects.exists()
        or Image.objects.exists()
        or Blob.objects.exists()
        or files
    )


def heic_like():
    buffer = io.BytesIO()
    PillowImage.fromarray(TRUTH).save(buffer, "WEBP")
    return buffer.getvalue()


@pytest.mark.parametrize(
    "name, data, words",
    [
        ("notes.txt", b"nothing to see", "not a picture"),
        ("empty.png", b"", "empty"),
        ("cut.png", png(TRUTH)[:4000], "cut short"),
        ("cut.jpg", jpeg(TRUTH)[:5000], "cut short"),
        ("photo.webp", heic_like(), "is a WEBP file; JPEG, PNG and TIFF are read"),
    ],
)
def test_what_cannot_be_used_is_refused_with_one_message_and_nothing_is_kept(
    vera, job, settings, name, data, words
):
    answer = arrive(vera, job, name, data)
    if answer.status_code == 201:
        # Its header was well: what is wrong was found when it was read.
        (row,) = waiting(vera, job)
        said = row["reason"]
        assert row["state"] == "refused"
        assert vera.delete(f"/api/arrivals/{row['id']}/").status_code == 204
    else:
        assert answer.status_code == 400
        said = answer.json()["error"]
    assert words in said and said.startswith(name)
    assert nothing_kept(job, settings)


def test_too_many_pixels_are_refused_before_they_are_unpacked(vera, job, settings):
    settings.MOST_PIXELS = 50_000
    answer = arrive(vera, job, "large.png", png(TRUTH))
    assert (
        answer.status_code == 400
        and "pixels" in answer.json()["error"]
        and nothing_kept(job, settings)
    )
    # A bomb: a few kilobytes that would unpack to 400 million pixels.
    settings.MOST_PIXELS = 250_000_000
    buffer = io.BytesIO()
    PillowImage.new("1", (20_000, 20_000)).save(buffer, "PNG")
    assert len(buffer.getvalue()) < 200_000
    bomb = arrive(vera, job, "bomb.png", buffer.getvalue())
    assert (
        bomb.status_code == 400 and "pixels" in bomb.json()["error"] and nothing_kept(job, settings)
    )


def test_a_file_twice_is_refused_waiting_or_brought_in(vera, job):
    first = arrive(vera, job, "quay.png", png(ORIGINAL)).json()
    again = arrive(vera, job, "quay copy.png", png(ORIGINAL))
    assert again.status_code == 400 and "here already, as quay.png" in again.json()["error"]
    result = arrive(vera, job, "quay-hand.png", png(RESULT)).json()
    made = bring(vera, job, name="Quay", original=first["id"], results=[one(result["id"])])
    assert made.json()["state"] == "done"
    late = arrive(vera, job, "quay.png", png(ORIGINAL))
    assert late.status_code == 400 and "brought in already" in late.json()["error"]


def test_two_files_of_one_name_are_both_there(vera, job):
    first, second = (
        arrive(vera, job, "quay.png", png(ORIGINAL)).json(),
        arrive(vera, job, "quay.png", png(TRUTH)).json(),
    )
    assert (first["name"], second["name"]) == ("quay.png", "quay (2).png")
    placed = [
        i
        for group in vera.get(f"/api/jobs/{job.pk}/intake/").json()["groups"]
        for i in [group["original"], *group["results"]]
        if i
    ]
    assert sorted(placed) == sorted([first["id"], second["id"]])


def test_files_are_paired_by_name_and_the_pairing_is_only_a_proposal(vera, job):
    ids = {
        name: arrive(vera, job, name, data).json()["id"]
        for name, data in (
            ("quay-result-1.png", png(RESULT)),
            ("quay.png", png(ORIGINAL)),
            ("quay_mask.png", png(MASK.astype(np.uint8) * 255)),
            ("rail.png", png(TRUTH)),
        )
    }
    data = vera.get(f"/api/jobs/{job.pk}/intake/").json()
    assert data["groups"] == [
        {
            "name": "Quay",
            "picture": None,
            "original": ids["quay.png"],
            "mask": ids["quay_mask.png"],
            "results": [ids["quay-result-1.png"]],
            "outlines": [],
        },
        {
            "name": "Rail",
            "picture": None,
            "original": ids["rail.png"],
            "mask": None,
            "results": [],
            "outlines": [],
        },
    ]
    assert job.pictures.count() == 0


def test_regions_come_from_the_mask_or_from_what_changed(vera, job):
    two = np.zeros_like(MASK)
    two[20:60, 20:60] = two[150:190, 200:260] = True
    first, result, mask = (
        arrive(vera, job, name, data).json()["id"]
        for name, data in (
            ("a.png", png(ORIGINAL)),
            ("a-1.png", png(RESULT)),
            ("a-mask.png", png(two.astype(np.uint8) * 255)),
        )
    )
    assert (
        bring(vera, job, name="Masked", original=first, mask=mask, results=[one(result)]).json()[
            "regions"
        ]
        == 2
    )
    other = filled(ORIGINAL, MASK, holding(TRUTH, MASK) + 3.0)
    first, result = (
        arrive(vera, job, name, data).json()["id"]
        for name, data in (
            ("b.png", png(with_thing(TRUTH, MASK, (200, 40, 40)))),
            ("b-1.png", png(other)),
        )
    )
    found = fit(vera, job, **{"original": first, "result": result})
    assert found == {
        "state": "done",
        "fits": True,
        "reason": "",
        "regions": 1,
        "cropped": False,
        "words": [],
    }
    made = bring(vera, job, name="Proposed", original=first, results=[one(result)]).json()
    from regions.models import RegionVersion

    x, y, w, h = RegionVersion.objects.get(region__picture_id=made["picture"]).bbox
    assert abs(x + w / 2 - 150) < 6 and abs(y + h / 2 - 110) < 6 and 50 < w < 75


def test_intake_says_how_a_result_lies_and_what_of_its_saving_is_another(vera, job):
    original, cut, saved = (
        arrive(vera, job, name, data).json()["id"]
        for name, data in (
            ("c.png", png(ORIGINAL)),
            ("c-cut.png", png(RESULT[20:, 30:])),
            ("c-saved.jpg", jpeg(RESULT, 92)),
        )
    )
    found = fit(vera, job, original=original, result=cut)
    assert found["fits"] and found["cropped"]
    assert any(words.startswith("cropped to") for words in found["words"])
    found = fit(vera, job, original=original, result=saved)
    assert not found["cropped"] and any("saved anew as JPEG" in one for one in found["words"])


def test_whether_it_was_cropped_first_is_kept_with_the_attempt(vera, job):
    original, cut = (
        arrive(vera, job, name, data).json()["id"]
        for name, data in (("d.png", png(ORIGINAL)), ("d-cut.png", png(RESULT[20:, 30:])))
    )
    asked = {**one(cut), "cropped_when": "before"}
    made = bring(vera, job, name="Cut", original=original, results=[asked]).json()
    bench = vera.get(f"/api/pictures/{made['picture']}/bench/").json()
    assert bench["attempts"][0]["cropped_when"] == "before"


def test_facts_of_an_attempt_are_kept_and_its_check_runs_like_any_other(vera, job):
    first, result = (
        arrive(vera, job, name, data).json()["id"]
        for name, data in (
            ("a.png", png(ORIGINAL)),
            ("a-1.png", png(filled(ORIGINAL, MASK, TRUTH.astype(float) + 30))),
        )
    )
    made = bring(
        vera,
        job,
        name="Quay",
        original=first,
        results=[
            one(
                result,
                method="Fortnimm",
                kind="outside service",
                maker="them",
                seconds=6.5,
                cost="0.12",
            )
        ],
    ).json()
    do_all_work()
    bench = vera.get(f"/api/pictures/{made['picture']}/bench/").json()
    (attempt,) = bench["attempts"]
    assert (
        attempt["method"],
        attempt["kind"],
        attempt["maker"],
        attempt["seconds"],
        attempt["cost"],
    ) == ("Fortnimm", "outside service", "them", 6.5, "0.12")
    assert (
        attempt["check_of"]["state"] == "done"
        and bench["cells"][0]["worst_kind"] == "seam"
        and bench["original"]["ready"]
    )


def test_a_cropped_result_is_taken_shown_in_its_originals_place_and_says_what_was_done(vera, job):
    spread = np.clip(holding(TRUTH, MASK).astype(int), 0, 255).astype(np.uint8)
    spread[20:60, 220:270] += 9  # a stain away from the region
    result = np.ascontiguousarray(spread[10:, 16:])
    first, second, mask = (
        arrive(vera, job, name, png(pixels)).json()["id"]
        for name, pixels in (
            ("a.png", ORIGINAL),
            ("a-1.png", result),
            ("a_mask.png", np.repeat((MASK * 255).astype(np.uint8)[..., None], 3, 2)),
        )
    )
    made = bring(vera, job, name="Quay", original=first, mask=mask, results=[one(second)]).json()
    do_all_work()
    bench = vera.get(f"/api/pictures/{made['picture']}/bench/").json()
    attempt = bench["attempts"][0]
    about = " ".join(attempt["check_of"]["about"])
    assert (
        "cropped to" in about
        and "matched to" in about
        and attempt["image"]["width"] == 300
        and "resampled onto the original" in attempt["image"]["facts"]
    )
    (stain,) = attempt["check_of"]["outside"]
    assert (
        abs(stain["bbox"][0] + stain["bbox"][2] / 2 - 245) < 14
        and stain["kind"] == "overreach"
        and set(stain["severities"]) == {str(size["id"]) for size in bench["sizes"]}
    )
    tile = vera.get(f"{attempt['image']['tiles']}full/300,220/0/default.png")
    shown = np.asarray(PillowImage.open(io.BytesIO(b"".join(tile.streaming_content))))
    assert np.array_equal(shown[10:, 16:], result) and (shown[:9] == 119).all()


@pytest.mark.parametrize("cropped", [False, True])
def test_an_attempt_carries_the_outline_it_was_made_with_and_how_it_differs(vera, job, cropped):
    from checks.models import CheckedRegion

    part = np.s_[10:, 16:] if cropped else np.s_[:, :]
    looser = cv2.dilate(
        MASK.astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (19, 19))
    )
    white = lambda mask: np.ascontiguousarray(np.repeat(mask[..., None] * np.uint8(255), 3, 2))
    names = {
        "quay.png": ORIGINAL,
        "quay-ada.png": np.ascontiguousarray(RESULT[part]),
        "quay-mask.png": white(MASK.astype(np.uint8)),
        "quay-ada-mask.png": white(looser[part]),
    }
    ids = {
        name: arrive(vera, job, name, png(pixels)).json()["id"] for name, pixels in names.items()
    }
    (group,) = vera.get(f"/api/jobs/{job.pk}/intake/").json()["groups"]
    assert group["outlines"] == [{"result": ids["quay-ada.png"], "mask": ids["quay-ada-mask.png"]}]
    assert group["results"] == [ids["quay-ada.png"]] and group["mask"] == ids["quay-mask.png"]
    made = bring(
        vera,
        job,
        name="Quay",
        original=group["original"],
        mask=group["mask"],
        results=[one(ids["quay-ada.png"], mask=ids["quay-ada-mask.png"])],
    ).json()
    assert made["state"] == "done", made
    do_all_work()
    worked = CheckedRegion.objects.get(check_run__attempt__picture=made["picture"]).worked
    assert worked["word"] == "looser" and worked["looser_px"] == pytest.approx(9, abs=1.2)
    assert waiting(vera, job) == []


def test_an_outline_that_is_another_file_too_or_does_not_fit_is_refused_whole(vera, job):
    first, result, small = (
        arrive(vera, job, name, png(pixels)).json()["id"]
        for name, pixels in (
            ("a.png", ORIGINAL),
            ("a-1.png", RESULT),
            ("m.png", ORIGINAL[:50, :50]),
        )
    )
    twice = bring(vera, job, name="Quay", original=first, results=[one(result, mask=first)])
    assert twice.status_code == 400 and "two places" in twice.json()["error"]
    wrong = bring(vera, job, name="Quay", original=first, results=[one(result, mask=small)]).json()
    assert wrong["state"] == "refused" and "50" in wrong["reason"]
    assert len(waiting(vera, job)) == 3


def test_a_result_that_cannot_belong_is_refused_and_everything_stays_where_it_was(vera, job):
    first, good, bad = (
        arrive(vera, job, name, data).json()["id"]
        for name, data in (
            ("a.png", png(ORIGINAL)),
            ("a-1.png", png(RESULT)),
            ("a-2.png", png(textured(220, 300, seed=99))),
        )
    )
    found = fit(vera, job, **{"original": first, "result": bad})
    assert not found["fits"] and "same thing" in found["reason"]
    answer = bring(vera, job, name="Quay", original=first, results=[one(good), one(bad)])
    assert answer.json()["state"] == "refused"
    assert answer.json()["reason"].startswith("a-2.png: cannot belong")
    assert job.pictures.count() == 0 and job.arrivals.count() == 3


def test_a_mask_of_another_size_and_nothing_changed_are_refused(vera, job):
    first, same, mask = (
        arrive(vera, job, name, data).json()["id"]
        for name, data in (
            ("a.png", png(ORIGINAL)),
            ("a-1.jpg", jpeg(ORIGINAL, 100)),
            ("a-mask.png", png(np.full((10, 10), 255, np.uint8))),
        )
    )
    small = bring(vera, job, name="Quay", original=first, mask=mask, results=[one(same)])
    assert small.json()["state"] == "refused" and "10x10" in small.json()["reason"]
    nothing = bring(vera, job, name="Quay", original=first, results=[one(same)])
    assert (
        nothing.json()["state"] == "refused"
        and "no region can be proposed" in nothing.json()["reason"]
        and job.arrivals.filter(taken_by=None).count() == 3
        and job.pictures.count() == 0
    )


def test_a_further_result_joins_a_picture_that_is_there(vera, picture):
    from images.decoding import blob_bytes
    from zweiblick_core.io import read

    pixels = read(blob_bytes(picture.attempts.first().image.blob)).pixels.copy()
    pixels[140:160, 100:120] += 1
    arrival = arrive(vera, picture.job, "late.png", png(pixels)).json()
    answer = vera.post(
        f"/api/pictures/{picture.pk}/attempts/", one(arrival["id"]), content_type="application/json"
    )
    do_all_work()
    found = vera.get(f"/api/incoming/{answer.json()['id']}/").json()
    assert (
        answer.status_code == 202
        and found["state"] == "done"
        and found["attempts"] == 4
        and picture.job.arrivals.count() == 0
    )


@pytest.mark.parametrize("kind", ["grey", "alpha", "sixteen", "cmyk"])
def test_grey_alpha_sixteen_bit_and_cmyk_pictures_are_taken_and_judged(vera, job, kind):
    import cv2

    def encoded(pixels):
        buffer = io.BytesIO()
        if kind == "grey":
            PillowImage.fromarray(pixels).convert("L").save(buffer, "PNG")
        elif kind == "alpha":
            PillowImage.fromarray(
                np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)])
            ).save(buffer, "PNG")
        elif kind == "cmyk":
            PillowImage.fromarray(pixels).convert("CMYK").save(buffer, "JPEG", quality=96)
        else:
            return cv2.imencode(".png", pixels[..., ::-1].astype(np.uint16) * 257)[1].tobytes()
        return buffer.getvalue()

    bright = filled(ORIGINAL, MASK, TRUTH.astype(float) + 40)
    answers = [
        arrive(vera, job, name, encoded(pixels))
        for name, pixels in (
            (f"{kind}.{'jpg' if kind == 'cmyk' else 'png'}", ORIGINAL),
            (f"{kind}-1.{'jpg' if kind == 'cmyk' else 'png'}", bright),
        )
    ]
    assert [answer.status_code for answer in answers] == [201, 201], answers[0].content
    read = {row["id"]: row for row in waiting(vera, job)}
    first, second = (read[answer.json()["id"]] for answer in answers)
    assert (
        first["facts"].split(",")[1].strip().startswith("16 bit" if kind == "sixteen" else "8 bit")
    )
    made = bring(vera, job, name="Quay", original=first["id"], results=[one(second["id"])])
    assert made.json()["state"] == "done", made.content
    cells = vera.get(f"/api/pictures/{made.json()['picture']}/bench/").json()["cells"]
    assert any(cell["worst_kind"] in ("seam", "tone") for cell in cells)


def test_an_arrival_can_be_forgotten_and_old_ones_are(vera, job, settings):
    from arrivals.receiving import forget_old

    first = arrive(vera, job, "a.png", png(ORIGINAL)).json()["id"]
    assert vera.delete(f"/api/arrivals/{first}/").status_code == 204 and job.arrivals.count() == 0
    arrive(vera, job, "a.png", png(ORIGINAL))
    settings.ARRIVALS_KEPT = 0.0
    assert forget_old() == 1 and job.arrivals.count() == 0


def test_a_file_that_no_row_knows_is_forgotten_after_a_day_and_one_that_waits_is_not(vera, job):
    import os
    import time

    from arrivals.receiving import forget_old
    from store.places import arrivals

    arrive(vera, job, "a.png", png(ORIGINAL))
    waiting = set(arrivals().names())
    arrivals().write("zz/zz", [b"its writer died"])
    for name in arrivals().names():
        os.utime(arrivals().folder(name), (time.time() - 2 * 86_400,) * 2)
    forget_old()
    assert set(arrivals().names()) == waiting


def test_a_job_needs_sizes_that_are_understood_and_somebody_who_may_make_jobs(
    vera, people, signed_in
):
    people["vera"].makes_jobs = True
    people["vera"].save()
    ask = lambda client, **body: client.post(
        "/api/jobs/",
        {"name": "Spring", "sizes": [{"name": "wall", "spec": "420x594mm@150dpi@700mm"}], **body},
        content_type="application/json",
    )
    assert ask(signed_in("mona")).status_code == 403
    made = ask(vera, people=[{"person": people["mona"].pk, "role": "retoucher"}]).json()
    assert made["role"] == "supervisor" and {person["name"] for person in made["people"]} == {
        "Vera",
        "Mona",
    }
    assert (
        "not understood"
        in ask(vera, sizes=[{"name": "x", "spec": "as large as it gets"}]).json()["error"]
    )
    assert (
        ask(vera, people=[{"person": people["stranger"].pk, "role": "retoucher"}]).status_code
        == 400
    )


def test_a_file_that_waits_says_until_when_and_is_forgotten_then(vera, job, settings):
    from datetime import datetime, timedelta

    from arrivals.models import Arrival
    from arrivals.receiving import forget_old

    arrive(vera, job, "late.png", png(ORIGINAL))
    (one_,) = waiting(vera, job)
    kept = datetime.fromisoformat(one_["kept_until"])
    row = Arrival.objects.get()
    assert kept - row.made_at == timedelta(hours=settings.ARRIVALS_KEPT)
    forget_old()
    assert len(waiting(vera, job)) == 1
    Arrival.objects.update(made_at=row.made_at - timedelta(hours=settings.ARRIVALS_KEPT + 1))
    forget_old()
    assert waiting(vera, job) == []
