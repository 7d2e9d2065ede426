"""What a person found goes wherever the machine's findings go; what the client lets pass holds
nothing up.
"""

from __future__ import annotations

import pytest
from builders import filled, png
from django.core.files.uploadedfile import SimpleUploadedFile
from house import MASKS, TRUTH, do_all_work, package_of, post

pytestmark = pytest.mark.django_db
RING = [[100, 140], [130, 140], [130, 170], [100, 170]]


@pytest.fixture
def good(checked):
    """The cell of the first region in the attempt that holds."""
    from verdicts.models import Cell

    return Cell.objects.get(attempt=checked.attempts.get(number=3), region=checked.regions.first())


def marked(client, cell, **change):
    return client.post(
        f"/api/cells/{cell.pk}/own-findings/",
        {
            "kind": "lost",
            "severity": "clear",
            "size": None,
            "words": "the mooring ring is gone",
            "polygon": RING,
            **change,
        },
        "application/json",
    )


def bench(client, picture, size=None):
    return client.get(f"/api/pictures/{picture.pk}/bench/", {"size": size} if size else {}).json()


def cell_in(found, cell):
    return next(one for one in found["cells"] if one["id"] == cell.pk)


def test_a_mark_counts_as_the_cells_worst_at_the_size_it_was_given_for(signed_in, checked, good):
    client = signed_in("vera")
    wall, phone = checked.job.sizes.all()
    before = cell_in(bench(client, checked), good)
    assert before["worst_kind"] is None and before["passes_at"] == [wall.pk, phone.pk]
    answer = marked(client, good, size=wall.pk)
    assert answer.status_code == 201
    (own,) = answer.json()["own"]
    assert (own["kind"], own["word"], own["size"], own["person"], own["bbox"]) == (
        "lost",
        "clear",
        "wall",
        "Vera",
        [100, 140, 30, 30],
    )
    after = cell_in(bench(client, checked), good)
    assert (after["worst_kind"], after["worst_word"], after["findings"]) == (
        "lost",
        "clear",
        before["findings"] + 1,
    )
    # At the phone's size nobody said anything.
    assert (
        after["passes_at"] == [phone.pk]
        and cell_in(bench(client, checked, phone.pk), good)["worst_kind"] is None
    )
    assert (
        client.get(f"/api/pictures/{checked.pk}/history/").json()["entries"][0]["what"]
        == "flaw marked"
    )


def test_a_mark_taken_back_counts_no_more_and_stays_on_record(signed_in, checked, good):
    from looks.models import OwnFinding

    client = signed_in("vera")
    (own,) = marked(client, good, size=checked.job.sizes.first().pk).json()["own"]
    assert client.delete(f"/api/own-findings/{own['id']}/").status_code == 204
    assert (
        cell_in(bench(client, checked), good)["worst_kind"] is None
        and OwnFinding.objects.count() == 1
    )
    assert (
        client.get(f"/api/pictures/{checked.pk}/history/").json()["entries"][0]["what"]
        == "flaw taken back"
    )


@pytest.mark.parametrize(
    "change",
    [
        {"kind": "sparkle"},
        {"severity": "huge"},
        {"polygon": [[1, 1], [2, 2]]},
        {"polygon": [[900, 900], [950, 900], [950, 950]]},
        {"size": 999_999},
    ],
)
def test_a_mark_that_makes_no_sense_is_refused_and_nothing_is_stored(signed_in, good, change):
    from looks.models import OwnFinding

    answer = marked(signed_in("vera"), good, **change)
    assert answer.status_code == 400 and answer.json()["error"] and not OwnFinding.objects.exists()


def test_a_mark_goes_on_the_slip_and_only_a_person_can_call_it_fixed(signed_in, checked, good):
    import io
    import json
    import zipfile

    client = signed_in("vera")
    marked(client, good)
    client.post(f"/api/cells/{good.pk}/verdict/", {"ruling": "rework"}, "application/json")
    slip = client.post(f"/api/attempts/{good.attempt_id}/slips/").json()
    flaws = slip["regions"][0]["flaws"]
    assert (
        flaws[0]["kind"] == "lost" and flaws[0]["group"] == "seen by Vera: the mooring ring is gone"
    )
    client.patch(
        f"/api/slips/{slip['id']}/", {"worker": slip["workers"][-1]["id"]}, "application/json"
    )
    post(client, f"/api/slips/{slip['id']}/send/")
    mona = signed_in("mona")
    package = package_of(mona, slip["id"])
    with zipfile.ZipFile(io.BytesIO(package)) as files:
        assert json.loads(files.read("slip.json"))["regions"][0]["flaws"][0]["kind"] == "lost"
    again = filled(TRUTH, MASKS[0], TRUTH.astype(float) + 0.5)
    again[150, 290] = 9
    mona.post(
        f"/api/slips/{slip['id']}/result/", {"file": SimpleUploadedFile("again.png", png(again))}
    )
    do_all_work()
    region = client.get(f"/api/slips/{slip['id']}/").json()["regions"][0]
    assert region["flaws"][0]["outcome"] == "to be looked at" and region["outcome"] in (
        "to be looked at",
        "new flaw",
    )


def test_what_lies_under_the_clients_bar_holds_nothing_up(signed_in, checked):
    from verdicts.models import Cell

    client = signed_in("vera")
    bad = Cell.objects.get(attempt=checked.attempts.get(number=1), region=checked.regions.first())
    before = cell_in(bench(client, checked), bad)
    kinds = {one["kind"] for one in client.get(f"/api/cells/{bad.pk}/").json()["findings"]}
    assert before["worst_kind"] in kinds and checked.job.sizes.first().pk not in before["passes_at"]
    answer = client.put(
        f"/api/jobs/{checked.job_id}/bar/", {"bar": dict.fromkeys(kinds, 1.01)}, "application/json"
    )
    assert answer.status_code == 200
    found = bench(client, checked)
    after = cell_in(found, bad)
    assert all(
        one["under_bar"]
        for finding in client.get(f"/api/cells/{bad.pk}/").json()["findings"]
        for one in finding["severities"].values()
    )
    assert (
        after["worst_kind"] is None
        and len(after["passes_at"]) == 2
        and after["findings"] == before["findings"]
        and found["bar"] == dict.fromkeys(kinds, 1.01)
    )
    assert (
        client.put(
            f"/api/jobs/{checked.job_id}/bar/", {"bar": {"sparkle": 0.5}}, "application/json"
        ).status_code
        == 400
    )
    assert bench(client, checked)["bar"] == dict.fromkeys(kinds, 1.01)


def test_answers_change_the_sizes_that_a_cell_passes_at(signed_in, checked):
    from verdicts.models import Cell

    client = signed_in("vera")
    bad = Cell.objects.get(attempt=checked.attempts.get(number=1), region=checked.regions.first())
    for finding in client.get(f"/api/cells/{bad.pk}/").json()["findings"]:
        client.post(
            f"/api/findings/{finding['id']}/answer/", {"answer": "acceptable"}, "application/json"
        )
    assert len(cell_in(bench(client, checked), bad)["passes_at"]) == 2


def test_every_kind_is_told_in_a_persons_words(signed_in, people):
    from zweiblick_core.rules.kinds import ALL_KINDS

    found = signed_in("vera").get("/api/kinds/").json()
    assert (
        [one["name"] for one in found] == list(ALL_KINDS)
        and all(one["says"] for one in found)
        and sum(not one["machine"] for one in found) == 4
    )
