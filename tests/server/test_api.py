"""The Bench's story over the API: look, answer, rule, fold, done, take back; and who may do what."""

from __future__ import annotations

import io

import numpy as np
import pytest
from django.test import Client
from house import PASSWORD, TRUTH, do_all_work
from PIL import Image as PillowImage

pytestmark = pytest.mark.django_db


def bench(client, picture, **query):
    answer = client.get(f"/api/pictures/{picture.pk}/bench/", query)
    assert answer.status_code == 200, answer.content
    return answer.json()


def cell(data, region, attempt):
    r = next(one["id"] for one in data["regions"] if one["number"] == region)
    a = next(one["id"] for one in data["attempts"] if one["number"] == attempt)
    return next(one for one in data["cells"] if one["region"] == r and one["attempt"] == a)


def rule(client, one, ruling, revision=None, **more):
    return client.post(
        f"/api/cells/{one['id']}/verdict/",
        {"ruling": ruling, **more},
        content_type="application/json",
        headers={"If-Match": f'"{one["revision"] if revision is None else revision}"'},
    )


def test_the_desk_lists_what_is_undecided_and_how_bad(signed_in, checked):
    (row,) = signed_in("vera").get("/api/desk/").json()["pictures"]
    assert (
        row["name"],
        row["regions"],
        row["undecided"],
        row["attempts"],
        row["state"],
        row["worst"],
    ) == ("Slipway", 2, 2, 3, "undecided", None)


def test_the_bench_orders_attempts_by_how_well_they_hold(signed_in, checked):
    data = bench(signed_in("vera"), checked)
    number = {one["id"]: one["number"] for one in data["attempts"]}
    assert number[data["regions"][1]["order"][0]] == 3
    assert cell(data, 2, 1)["worst_kind"] == "seam" and cell(data, 2, 3)["findings"] == 0
    assert cell(data, 1, 1)["overall"] < 0.6 < cell(data, 1, 3)["overall"]


def test_findings_carry_evidence_natural_range_and_a_severity_for_each_size(signed_in, checked):
    client = signed_in("vera")
    data = bench(client, checked)
    detail = client.get(f"/api/cells/{cell(data, 1, 1)['id']}/").json()
    finding = detail["findings"][0]
    assert (
        set(finding["severities"]) == {str(size["id"]) for size in data["sizes"]}
        and finding["answer"] == "unread"
    )
    assert (
        finding["measure"]["value"] > finding["measure"]["natural"]["high"]
        and finding["evidence"]["type"] == "rim"
    )
    wall, phone = (finding["severities"][str(size["id"])]["severity"] for size in data["sizes"])
    assert wall >= phone


def test_a_pass_folds_the_regions_other_cells_and_the_next_region_is_left(signed_in, checked):
    client = signed_in("vera")
    answer = rule(client, cell(bench(client, checked), 1, 3), "passes")
    data = answer.json()
    assert answer.status_code == 200
    assert [cell(data, 1, n)["state"] for n in (1, 2, 3)] == ["not needed", "not needed", "passes"]
    assert data["undecided"] == [data["regions"][1]["id"]] and data["done"] is None


def test_one_attempt_that_holds_everywhere_makes_the_picture_done_and_taking_back_undoes_it(
    signed_in, checked
):
    client = signed_in("vera")
    data = rule(client, cell(bench(client, checked), 1, 3), "passes").json()
    data = rule(client, cell(data, 2, 3), "passes").json()
    assert data["state"] == "done" and data["done"] == cell(data, 2, 3)["attempt"]
    one = cell(data, 2, 3)
    data = client.delete(
        f"/api/cells/{one['id']}/verdict/", headers={"If-Match": f'"{one["revision"]}"'}
    ).json()
    assert data["state"] == "undecided" and cell(data, 2, 3)["verdict"] is None
    told = [
        (entry["what"], entry["about"])
        for entry in client.get(f"/api/pictures/{checked.pk}/history/").json()["entries"]
    ]
    assert told[0] == ("verdict taken back", "region 2 in attempt 3") and told[1] == (
        "verdict",
        "region 2 in attempt 3",
    )


def test_taking_back_a_second_verdict_lets_the_first_stand_again(signed_in, checked):
    client = signed_in("vera")
    data = rule(client, cell(bench(client, checked), 1, 3), "rework").json()
    data = rule(client, cell(data, 1, 3), "passes").json()
    one = cell(data, 1, 3)
    data = client.delete(
        f"/api/cells/{one['id']}/verdict/", headers={"If-Match": f'"{one["revision"]}"'}
    ).json()
    assert cell(data, 1, 3)["state"] == "rework"


def test_passing_at_a_small_size_leaves_the_large_one_undecided(signed_in, checked):
    client = signed_in("vera")
    data = bench(client, checked)
    wall, phone = (size["id"] for size in data["sizes"])
    assert rule(client, cell(data, 1, 3), "passes at size").status_code == 400
    rule(client, cell(data, 1, 3), "passes at size", size=phone)
    assert cell(bench(client, checked, size=phone), 1, 3)["state"] == "passes at size"
    assert cell(bench(client, checked, size=wall), 1, 3)["state"] == "undecided"


def test_a_stale_ruling_of_a_second_supervisor_is_refused_and_stores_nothing(signed_in, checked):
    vera, ines = signed_in("vera"), signed_in("ines")
    seen = cell(bench(ines, checked), 1, 3)
    rule(vera, cell(bench(vera, checked), 1, 3), "passes")
    refused = rule(ines, seen, "rework")
    assert refused.status_code == 412 and "look again" in refused.json()["error"]
    assert cell(bench(ines, checked), 1, 3)["verdict"]["ruling"] == "passes"


def test_answers_are_appended_and_can_be_taken_back(signed_in, checked):
    from checks.models import Finding, FindingRuling

    client, finding = signed_in("vera"), Finding.objects.first()
    for said in ("confirmed", "acceptable", "unread"):
        answer = client.post(
            f"/api/findings/{finding.pk}/answer/", {"answer": said}, content_type="application/json"
        )
        assert answer.json() == {"id": finding.pk, "answer": said, "words": ""}
    assert list(FindingRuling.objects.filter(finding=finding).values_list("answer", flat=True)) == [
        "confirmed",
        "acceptable",
        "unread",
    ]


def test_a_finding_that_is_not_there_no_longer_counts_as_worst(signed_in, checked):
    client = signed_in("vera")
    data = bench(client, checked)
    one = cell(data, 1, 1)
    for finding in client.get(f"/api/cells/{one['id']}/").json()["findings"]:
        client.post(
            f"/api/findings/{finding['id']}/answer/",
            {"answer": "not there"},
            content_type="application/json",
        )
    assert cell(bench(client, checked), 1, 1)["worst_kind"] is None


def test_tiles_are_the_pictures_own_pixels(signed_in, checked):
    client = signed_in("vera")
    image = bench(client, checked)["attempts"][2]["image"]
    info = client.get(f"{image['tiles']}info.json").json()
    assert (
        info["width"] == 400
        and info["tiles"][0]["height"] == 512
        and info["preferredFormats"] == ["png"]
    )
    tile = client.get(f"{image['tiles']}full/400,300/0/default.png")
    data = b"".join(tile.streaming_content)
    pixels = np.asarray(PillowImage.open(io.BytesIO(data)))
    untouched = np.ones(TRUTH.shape[:2], bool)
    untouched[110:190] = False
    assert (
        np.array_equal(pixels[untouched], TRUTH[untouched]) and "immutable" in tile["Cache-Control"]
    )
    assert client.get(f"{image['tiles']}../../../secrets").status_code == 404


def test_signing_in_needs_the_right_password_and_a_csrf_token(people):
    client = Client(enforce_csrf_checks=True)
    token = client.get("/api/session/").json()["csrf"]
    sent = {"username": "vera", "password": PASSWORD}
    assert client.post("/api/session/", sent, content_type="application/json").status_code == 403
    wrong = client.post(
        "/api/session/",
        {**sent, "password": "no"},
        content_type="application/json",
        headers={"X-CSRFToken": token},
    )
    assert wrong.status_code == 401 and "do not go together" in wrong.json()["error"]
    right = client.post(
        "/api/session/", sent, content_type="application/json", headers={"X-CSRFToken": token}
    )
    assert right.json()["role"] == "supervisor" and "zweiblick_session" in right.cookies


def test_the_committed_api_description_is_the_servers(settings):
    import yaml
    from drf_spectacular.generators import SchemaGenerator

    made = SchemaGenerator().get_schema(public=True)
    kept = yaml.safe_load((settings.REPO / "docs" / "openapi.yaml").read_text())
    assert (
        kept["paths"].keys() == made["paths"].keys()
        and kept["components"]["schemas"].keys() == made["components"]["schemas"].keys()
    )


def test_a_failed_check_says_why_and_can_be_asked_for_again(signed_in, picture, monkeypatch):
    from zweiblick_core.errors import Refused

    def broken(*args, **more):
        raise Refused("the file is damaged")

    monkeypatch.setattr("checks.running.core_check", broken)
    do_all_work()
    client = signed_in("vera")
    data = bench(client, picture)
    assert (
        data["attempts"][0]["check_of"]["state"] == "failed"
        and "damaged" in data["attempts"][0]["check_of"]["reason"]
    )
    monkeypatch.undo()
    monkeypatch.setattr("work.leases.dispatch", lambda pk: None)
    for attempt in data["attempts"]:
        assert client.post(f"/api/attempts/{attempt['id']}/check/").status_code == 202
    do_all_work()
    assert all(one["check_of"]["state"] == "done" for one in bench(client, picture)["attempts"])


def test_how_much_of_a_region_visible_findings_cover_is_told_by_size_and_an_answer_takes_its_part_away(
    signed_in, checked
):
    client = signed_in("vera")
    bench = client.get(f"/api/pictures/{checked.pk}/bench/").json()
    cell = next(
        one
        for one in bench["cells"]
        if one["attempt"] == bench["attempts"][0]["id"] and one["findings"]
    )
    detail = client.get(f"/api/cells/{cell['id']}/").json()
    sizes = [str(size["id"]) for size in bench["sizes"]]
    assert sorted(detail["covered"]) == sorted(sizes) and all(
        0 <= share <= 1 for share in detail["covered"].values()
    )
    seen = [one for one in detail["findings"] if one["severities"][sizes[0]]["severity"] >= 0.15]
    assert seen and detail["covered"][sizes[0]] > 0
    for one in seen:
        client.post(
            f"/api/findings/{one['id']}/answer/",
            {"answer": "not there"},
            content_type="application/json",
        )
    assert client.get(f"/api/cells/{cell['id']}/").json()["covered"][sizes[0]] == 0
