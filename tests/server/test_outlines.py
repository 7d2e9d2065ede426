"""Drawing regions: acts that store nothing, edits that are versions, and what they leave of checks
and rulings.
"""

from __future__ import annotations

import numpy as np
import pytest
from house import MASKS, do_all_work

pytestmark = pytest.mark.django_db
JSON = "application/json"
SQUARE = [[20, 30], [60, 30], [60, 70], [20, 70]]


@pytest.fixture
def vera(signed_in):
    return signed_in("vera")


@pytest.fixture
def draw(vera, checked):
    def act(**given):
        return vera.post(f"/api/pictures/{checked.pk}/outlines/act/", given, JSON)

    return act


def mask_of(text, shape=MASKS[0].shape):
    from regions.drafts import read_draft

    return read_draft(text, shape).full(shape)


def outlines(client, picture):
    return client.get(f"/api/pictures/{picture.pk}/outlines/").json()


def draft_of(mask):
    from regions.drafts import written
    from zweiblick_core.regions.masks import cropped

    return written(cropped(mask, "draft"))


def cell_of(picture, attempt, region):
    from verdicts.models import Cell

    return Cell.objects.get(
        attempt__number=attempt, region__number=region, attempt__picture=picture
    )


def ruled(client, cell, ruling):
    answer = client.post(f"/api/cells/{cell.pk}/verdict/", {"ruling": ruling}, JSON)
    assert answer.status_code == 200, answer.content


def standing(picture, attempt, region):
    verdict = cell_of(picture, attempt, region).current
    return verdict.ruling if verdict else None


# Acts


def test_an_outline_is_drawn_painted_and_taken_from_and_nothing_is_stored(draw, checked):
    from history.models import Entry

    before = Entry.objects.count(), checked.regions.count()
    one = draw(what="outline", rings=[SQUARE]).json()
    assert one["pixels"] == 1600 and one["bbox"] == [20, 30, 40, 40]
    two = draw(
        mask=one["mask"], what="stroke", how="subtract", rings=[[[40, 20], [40, 80]]], radius=5
    ).json()
    assert two["pixels"] == 1600 - 40 * 10 and len(two["parts"]) == 2
    three = draw(mask=two["mask"], what="grow", pixels=5).json()
    assert len(three["parts"]) == 1
    four = draw(mask=three["mask"], what="outline", how="intersect", rings=[SQUARE]).json()
    assert four["pixels"] == 1600 and np.array_equal(mask_of(four["mask"]), mask_of(one["mask"]))
    assert (Entry.objects.count(), checked.regions.count()) == before


def test_rings_with_holes_give_the_area_they_enclose(draw):
    hole = [[30, 40], [50, 40], [50, 60], [30, 60]]
    found = draw(what="outline", rings=[SQUARE, hole]).json()
    assert found["pixels"] == 1600 - 400 and len(found["parts"][0]["holes"]) == 1


def test_what_is_of_one_colour_is_picked_from_the_tiles_inside_an_outline(draw, checked):
    x, y = 110, 150
    around = [[x - 60, y - 60], [x + 60, y - 60], [x + 60, y + 60], [x - 60, y + 60]]
    base = draw(what="outline", rings=[around]).json()["mask"]
    found = draw(
        mask=base, what="colour", how="intersect", spots=[[x, y]], tolerance=14, inside=True
    ).json()
    mask = mask_of(found["mask"])
    thing = MASKS[0]
    assert (mask & thing).sum() > 0.6 * thing.sum() and (mask & ~thing).sum() < 0.1 * thing.sum()


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"what": "grow", "pixels": 4}, "nothing is outlined yet"),
        ({"what": "outline", "rings": []}, "three points"),
        (
            {"what": "outline", "rings": [[[900, 900], [950, 900], [920, 950]]]},
            "outside the picture",
        ),
        ({"what": "colour", "spots": []}, "pick a spot"),
        ({"what": "laid over", "spots": [[5, 5]]}, "draw around the lettering first"),
        ({"what": "colour", "spots": [[5, 5]], "mask": "1,2;nonsense"}, "cannot be read"),
        ({"what": "colour", "spots": [[5, 5]], "mask": "9999,2;" + "A" * 40}, "cannot be read"),
        ({"what": "outline", "rings": [[[1, 1]]], "mask": "x" * 2_000_000}, "mask"),
        ({"what": "outline", "rings": [[[1e9, 1], [1, 2], [2, 2]]]}, "rings"),
        ({"what": "nothing"}, "what"),
        ({"what": "colour", "spots": [[5, 5]], "image": 10**9}, "no such image"),
    ],
)
def test_what_cannot_be_drawn_is_said_in_one_sentence(draw, given, words):
    answer = draw(**given)
    assert answer.status_code == 400 and words in answer.json()["error"]


def test_a_draft_that_lies_beyond_the_picture_is_refused(draw):
    from regions.drafts import written
    from zweiblick_core.regions import Region

    text = written(Region("1", np.ones((10, 10), bool), (395, 5, 10, 10)))
    assert "does not lie in the picture" in draw(what="smooth", mask=text).json()["error"]


# Edits


def test_a_region_that_is_drawn_is_examined_in_every_attempt_and_undecided(vera, checked):
    from checks.models import CheckedRegion

    mask = draft_of(np.pad(np.ones((30, 30), bool), ((220, 50), (180, 190))))
    answer = vera.post(
        f"/api/pictures/{checked.pk}/outlines/", {"name": "bollard", "mask": mask}, JSON
    )
    assert answer.status_code == 201
    made = answer.json()["regions"][-1]
    assert (made["number"], made["name"], made["version"], made["rulings"]) == (3, "bollard", 1, 0)
    do_all_work()
    attempts = checked.attempts.count()
    assert CheckedRegion.objects.filter(region_version__region=made["id"]).count() == attempts
    bench = vera.get(f"/api/pictures/{checked.pk}/bench/").json()
    assert made["id"] in bench["undecided"]
    assert sum(cell["region"] == made["id"] for cell in bench["cells"]) == attempts


def test_an_edit_is_a_new_version_and_earlier_checks_keep_theirs(vera, checked):
    from checks.models import Check

    region = checked.regions.first()
    before = list(Check.objects.filter(attempt__picture=checked).values("pk", "report"))
    grown = draft_of(MASKS[0] | np.roll(MASKS[0], 3, 0))
    answer = vera.post(f"/api/regions/{region.pk}/outline/", {"mask": grown, "version": 1}, JSON)
    assert answer.status_code == 200
    assert [one["version"] for one in answer.json()["regions"][0]["versions"]] == [2, 1]
    do_all_work()
    for row in before:
        assert Check.objects.get(pk=row["pk"]).report == row["report"]
    newest = Check.objects.filter(attempt__picture=checked).order_by("-id").first()
    region.refresh_from_db()
    assert newest.state == "done" and region.current_id in newest.options["regions"]
    old = vera.get(f"/api/regions/{region.pk}/versions/1/").json()
    assert np.array_equal(mask_of(old["mask"]), MASKS[0])


def test_who_began_from_an_outline_that_somebody_changed_meanwhile_is_told_so(vera, checked):
    region = checked.regions.first()
    path = f"/api/regions/{region.pk}/outline/"
    assert vera.post(path, {"mask": draft_of(MASKS[0]), "version": 1}, JSON).status_code == 200
    answer = vera.post(path, {"mask": draft_of(MASKS[1]), "version": 1}, JSON)
    assert answer.status_code == 412 and "Somebody else drew" in answer.json()["error"]
    assert region.versions.count() == 2


def test_outlines_that_change_while_they_are_examined_have_one_check_that_counts(vera, checked):
    from attempts.models import Attempt
    from checks.models import Check

    region = checked.regions.first()
    path = f"/api/regions/{region.pk}/outline/"
    for version in (1, 2, 3):
        shifted = draft_of(np.roll(MASKS[0], version, 0))
        vera.post(path, {"mask": shifted, "version": version}, JSON)
    do_all_work()
    for attempt in Attempt.objects.filter(picture=checked):
        assert attempt.state == "checked"
        states = list(attempt.checks.order_by("id").values_list("state", flat=True))
        assert states == ["done", "overtaken", "overtaken", "done"]
    assert Check.objects.filter(attempt__picture=checked, state="failed").count() == 0


def test_a_pass_stands_for_less_of_what_it_was_given_to_and_lapses_for_more(vera, checked):
    region = checked.regions.first()
    ruled(vera, cell_of(checked, 3, 1), "passes")
    path = f"/api/regions/{region.pk}/outline/"
    tighter = MASKS[0] & np.roll(MASKS[0], 8, 1)
    vera.post(path, {"mask": draft_of(tighter), "version": 1}, JSON)
    assert standing(checked, 3, 1) == "passes"
    verdict = cell_of(checked, 3, 1).current
    assert verdict.region_version.version == 2 and verdict.carried_from.region_version.version == 1
    looser = MASKS[0] | np.roll(MASKS[0], 12, 1)
    answer = vera.post(path, {"mask": draft_of(looser), "version": 2}, JSON)
    assert standing(checked, 3, 1) == "taken back"
    assert answer.json()["regions"][0]["rulings"] == 0
    said = [
        entry["what"]
        for entry in vera.get(f"/api/pictures/{checked.pk}/history/").json()["entries"]
    ]
    assert "ruling lapsed" in said and said.count("region redrawn") == 2


def test_a_failing_ruling_stands_while_the_flaws_it_rests_on_are_inside(vera, checked):
    region = checked.regions.first()
    cell = cell_of(checked, 1, 1)
    ruled(vera, cell, "rework")
    flaw = [[90, 140], [105, 140], [105, 160], [90, 160]]
    vera.post(
        f"/api/cells/{cell.pk}/own-findings/",
        {"kind": "lost", "severity": "clear", "size": None, "words": "", "polygon": flaw},
        JSON,
    )
    path = f"/api/regions/{region.pk}/outline/"
    left = MASKS[0].copy()
    left[:, 110:] = False
    vera.post(path, {"mask": draft_of(left), "version": 1}, JSON)
    assert standing(checked, 1, 1) == "rework"
    right = MASKS[0].copy()
    right[:, :110] = False
    vera.post(path, {"mask": draft_of(right), "version": 2}, JSON)
    assert standing(checked, 1, 1) == "taken back"


def test_a_region_is_withdrawn_never_erased_and_can_be_taken_in_again(vera, checked):
    region = checked.regions.first()
    ruled(vera, cell_of(checked, 3, 1), "passes")
    found = vera.delete(f"/api/regions/{region.pk}/").json()
    assert [one["number"] for one in found["regions"]] == [2]
    assert [one["id"] for one in found["withdrawn"]] == [region.pk]
    bench = vera.get(f"/api/pictures/{checked.pk}/bench/").json()
    assert {cell["region"] for cell in bench["cells"]} == {bench["regions"][0]["id"]}
    do_all_work()
    assert standing(checked, 3, 1) == "passes"
    again = vera.post(f"/api/regions/{region.pk}/again/").json()
    assert [one["number"] for one in again["regions"]] == [1, 2] and again["withdrawn"] == []
    do_all_work()
    bench = vera.get(f"/api/pictures/{checked.pk}/bench/").json()
    cell = next(one for one in bench["cells"] if one["id"] == cell_of(checked, 3, 1).pk)
    assert cell["state"] == "passes" and cell["overall"] is not None


def test_a_region_that_is_out_on_a_slip_is_not_withdrawn(vera, checked):
    from attempts.models import Attempt

    attempt = Attempt.objects.get(picture=checked, number=1)
    ruled(vera, cell_of(checked, 1, 1), "rework")
    assert vera.post(f"/api/attempts/{attempt.pk}/slips/", {}, JSON).status_code == 201
    answer = vera.delete(f"/api/regions/{checked.regions.first().pk}/")
    assert answer.status_code == 400 and "out on slip 1" in answer.json()["error"]
    assert checked.regions.count() == 2


def test_a_region_of_two_parts_is_split_and_two_are_merged(vera, checked):
    first, second = checked.regions.order_by("number")
    merged = vera.post(
        f"/api/pictures/{checked.pk}/outlines/merge/", {"regions": [first.pk, second.pk]}, JSON
    ).json()
    assert [one["number"] for one in merged["regions"]] == [1]
    assert np.array_equal(mask_of(merged["regions"][0]["area"]["mask"]), MASKS[0] | MASKS[1])
    split = vera.post(f"/api/regions/{first.pk}/split/").json()
    assert [one["number"] for one in split["regions"]] == [1, 3]
    total = sum(mask_of(one["area"]["mask"]).astype(int) for one in split["regions"])
    assert np.array_equal(total, (MASKS[0] | MASKS[1]).astype(int))
    answer = vera.post(f"/api/regions/{first.pk}/split/")
    assert answer.status_code == 400 and "one part only" in answer.json()["error"]
    alone = {"regions": [first.pk, second.pk]}  # the second one is withdrawn
    answer = vera.post(f"/api/pictures/{checked.pk}/outlines/merge/", alone, JSON)
    assert answer.status_code == 400 and "two regions" in answer.json()["error"]


def test_name_and_backdrop_are_corrected_with_history(vera, checked):
    region = checked.regions.first()
    path = f"/api/regions/{region.pk}/"
    found = vera.patch(path, {"name": "old barrel", "backdrop": "water"}, JSON).json()
    assert (found["regions"][0]["name"], found["regions"][0]["backdrop"]) == ("old barrel", "water")
    assert vera.patch(path, {"backdrop": "moon"}, JSON).status_code == 400
    bench = vera.get(f"/api/pictures/{checked.pk}/bench/").json()
    assert bench["regions"][0]["backdrop"] == "water"
    vera.patch(path, {"backdrop": ""}, JSON)
    found = outlines(vera, checked)["regions"][0]
    assert found["backdrop"] == "" and found["proposed_backdrop"]
    said = vera.get(f"/api/pictures/{checked.pk}/history/").json()["entries"]
    assert sum(entry["what"] == "region corrected" for entry in said) == 2


def test_each_attempt_proposes_what_it_changed_and_says_what_is_known_of_it(vera, checked):
    for attempt in outlines(vera, checked)["attempts"]:
        assert attempt["examined"]
        for proposal in attempt["proposals"]:
            box = proposal["bbox"]
            # One for each place, never one box around both.
            assert box[2] < 200
        assert all(proposal["known"] > 0.8 for proposal in attempt["proposals"])


def test_how_an_attempts_own_outline_lies_to_the_regions_is_recorded(checked):
    from checks.models import CheckedRegion

    rows = CheckedRegion.objects.filter(check_run__attempt__picture=checked)
    worked = [row.worked for row in rows if row.worked]
    assert worked and all(0 <= one["iou"] <= 1 for one in worked)
    assert {one["word"] for one in worked} <= {"the same", "looser", "tighter", "elsewhere in part"}


def test_the_outlines_of_six_regions_take_as_many_queries_as_of_two(vera, checked):
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    def counted():
        with CaptureQueriesContext(
            connection,
        ) as seen:
            outlines(vera, checked)
        return len(seen)

    two = counted()
    for left in (10, 60, 200, 350):
        mask = np.zeros(MASKS[0].shape, bool)
        mask[250:280, left : left + 30] = True
        path = f"/api/pictures/{checked.pk}/outlines/"
        assert vera.post(path, {"mask": draft_of(mask)}, JSON).status_code == 201
    assert checked.regions.count() == 6 and counted() == two
