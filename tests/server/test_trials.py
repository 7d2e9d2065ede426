"""Trials: methods run from within; each run that is finished is an attempt like any other."""

from __future__ import annotations

import numpy as np
import pytest
from house import MASKS, TRUTH, do_all_work

pytestmark = pytest.mark.django_db
JSON = "application/json"


@pytest.fixture
def vera(signed_in):
    return signed_in("vera")


@pytest.fixture
def ask(vera, checked):
    def asked(*runs, base=None, **more):
        body = {"region": checked.regions.first().pk, "base": base, "runs": list(runs), **more}
        return vera.post(f"/api/pictures/{checked.pk}/trials/", body, JSON)

    return asked


def trials(client, picture):
    return client.get(f"/api/pictures/{picture.pk}/trials/").json()


def pixels_of(attempt):
    from images.decoding import blob_bytes
    from zweiblick_core.io import read

    return read(blob_bytes(attempt.image.blob)).pixels


def test_methods_are_described_with_what_they_ask(vera):
    from zweiblick_core.methods import METHODS

    found = vera.get("/api/methods/").json()
    assert {one["name"] for one in found} == set(METHODS)
    exemplar = next(one for one in found if one["name"] == "exemplar fill")
    assert exemplar["takes"] and {ask["name"] for ask in exemplar["asks"]} == {"scale", "margin"}


def test_each_run_becomes_an_attempt_that_is_examined_with_what_it_took(vera, ask, checked):
    number = checked.attempts.count()
    answer = ask(
        {"method": "marching diffusion", "settings": {"radius": 3}, "grow": 2},
        {"method": "exemplar fill", "settings": {"margin": 40}, "takes": 2, "grain": True},
    )
    assert answer.status_code == 202
    assert [one["state"] for one in answer.json()] == ["waiting"] * 3
    do_all_work()
    done = trials(vera, checked)
    assert [one["state"] for one in done] == ["done"] * 3
    assert sorted(one["attempt"] for one in done) == [number + 1, number + 2, number + 3]
    bench = vera.get(f"/api/pictures/{checked.pk}/bench/").json()
    made = {one["number"]: one for one in bench["attempts"]}
    first = made[number + 1]
    assert (first["method"], first["kind"]) == ("marching diffusion", "built in")
    assert first["settings"]["grow"] == 2 and first["seconds"] is not None
    assert all(made[number + n]["check_of"]["state"] == "done" for n in (1, 2, 3))
    seeds = {made[number + n]["settings"]["seed"] for n in (2, 3)}
    assert seeds == {1, 2}


def test_on_the_original_only_the_region_changes_and_nothing_comes_from_what_must_go(ask, checked):
    from attempts.models import Attempt

    ask({"method": "copy that fits its rim"})
    do_all_work()
    made = pixels_of(Attempt.objects.filter(picture=checked).last())
    from images.decoding import blob_bytes
    from zweiblick_core.io import read

    original = read(blob_bytes(checked.original.blob)).pixels
    assert np.array_equal(made[~MASKS[0]], original[~MASKS[0]])
    assert np.abs(made[MASKS[0]].astype(int) - original[MASKS[0]]).mean() > 5


def test_made_from_an_attempt_it_says_so_and_keeps_the_rest_of_it(vera, ask, checked):
    base = checked.attempts.get(number=3)
    ask({"method": "marching diffusion"}, base=base.pk)
    do_all_work()
    attempt = checked.attempts.last()
    assert [row.source_id for row in attempt.sources.all()] == [base.pk]
    assert np.array_equal(pixels_of(attempt)[~MASKS[0]], pixels_of(base)[~MASKS[0]])


@pytest.mark.parametrize(
    ("runs", "words"),
    [
        ([{"method": "magic"}], "no built-in method"),
        ([{"method": "straight copy"}], "needs to know"),
        ([{"method": "gradient fill", "takes": 3}], "would be the same"),
        ([{"method": "gradient fill", "settings": {"scale": 1}}], "knows no setting"),
        ([{"method": "gradient fill", "grow": 9999}], "grow"),
        ([{"method": "gradient fill"}] * 13, "12"),
        ([], "runs"),
    ],
)
def test_what_cannot_be_run_is_refused_whole(vera, ask, checked, runs, words):
    answer = ask(*runs)
    assert answer.status_code == 400 and words in answer.json()["error"]
    assert trials(vera, checked) == []


def test_a_trial_is_taken_from_marked_places_only_and_laid_over_as_much_as_wanted(
    vera, ask, checked
):
    run = {"method": "copy that fits its rim", "grow": 2}
    x, y, w, h = checked.regions.first().drawn.bbox
    room = [x + 60, y, 2 * w, 2 * h]
    assert ask(run, {**run, "opacity": 0.5}, take_from=[room]).status_code == 202
    do_all_work()
    whole, half = (pixels_of(one).astype(int) for one in list(checked.attempts.all())[-2:])
    original = pixels_of_original(checked).astype(int)
    mask = np.any(MASKS, axis=0) & (whole != original).any(axis=2)
    assert np.abs(half[mask] - (whole[mask] + original[mask]) / 2).max() <= 1
    settings = [one.run.settings for one in list(checked.attempts.all())[-2:]]
    assert settings[0]["take from"] == [room] and settings[1]["opacity"] == 0.5
    assert ask({**run, "opacity": 0}).status_code == 400
    # Where nothing fits into the marked places, it says so.
    ask(run, take_from=[[0, 0, 8, 8]])
    do_all_work()
    assert trials(vera, checked)[0]["state"] == "failed"


def test_a_method_that_cannot_do_it_fails_with_its_reason_and_leaves_no_attempt(vera, ask, checked):
    number = checked.attempts.count()
    ask({"method": "straight copy", "settings": {"offset": [9000, 0]}})
    do_all_work()
    (failed,) = trials(vera, checked)
    assert failed["state"] == "failed" and "outside the picture" in failed["reason"]
    assert checked.attempts.count() == number


def test_a_run_that_is_cancelled_leaves_no_attempt(vera, ask, checked):
    from history.models import Entry

    number = checked.attempts.count()
    (waiting,) = ask({"method": "marching diffusion"}).json()
    assert vera.delete(f"/api/trials/{waiting['id']}/").json()["state"] == "cancelled"
    do_all_work()
    assert trials(vera, checked)[0]["state"] == "cancelled"
    assert checked.attempts.count() == number
    assert vera.delete(f"/api/trials/{waiting['id']}/").status_code == 409
    assert Entry.objects.filter(what="trial cancelled").count() == 1


def test_a_run_that_is_cancelled_while_it_runs_is_not_stored(vera, ask, checked, monkeypatch):
    from zweiblick_core import methods

    number = checked.attempts.count()
    (waiting,) = ask({"method": "marching diffusion"}).json()
    remove = methods.remove

    def cancelled_meanwhile(*given, **more):
        assert vera.delete(f"/api/trials/{waiting['id']}/").status_code == 200
        return remove(*given, **more)

    monkeypatch.setattr("trials.running.methods.remove", cancelled_meanwhile)
    do_all_work()
    assert trials(vera, checked)[0]["state"] == "cancelled"
    assert checked.attempts.count() == number


def test_only_so_many_runs_wait_for_a_picture(vera, ask):
    for _ in range(2):
        assert ask(*[{"method": "gradient fill", "grow": n} for n in range(12)]).status_code == 202
    answer = ask({"method": "gradient fill"})
    assert answer.status_code == 400 and "24 runs wait already" in answer.json()["error"]


def test_the_original_is_put_back_outside_the_regions(vera, checked):
    from builders import png

    from attempts.intake import Facts, add_attempt

    vera_person = checked.job.memberships.first().person
    result = np.clip(TRUTH.astype(int) + 3, 0, 255).astype(np.uint8)
    result[250:290, 180:220] = 0
    attempt = add_attempt(
        checked, "over.png", png(result), Facts("by an intern", "by hand"), vera_person
    )
    do_all_work()
    answer = vera.post(f"/api/attempts/{attempt.pk}/put-back/", {"margin": 4}, JSON)
    assert answer.status_code == 202
    do_all_work()
    made = checked.attempts.last()
    assert made.run.method.name == "original put back outside"
    from images.decoding import blob_bytes
    from zweiblick_core.io import read

    original = read(blob_bytes(checked.original.blob)).pixels
    both = np.any(MASKS, axis=0)
    assert np.array_equal(pixels_of(made)[both], result[both])
    assert np.array_equal(pixels_of(made)[250:290, 180:220], original[250:290, 180:220])
    assert made.checks.last().outside == []


def test_the_original_is_put_back_in_an_attempt_that_was_cropped_and_made_smaller(vera, checked):
    import cv2
    from builders import png

    from attempts.intake import Facts, add_attempt

    original = pixels_of_original(checked)
    whole = original.copy()
    whole[200:290, 300:390] = 0
    both = np.any(MASKS, axis=0)
    whole[both] = TRUTH[both]
    small = cv2.resize(whole[:, 20:], (304, 240), interpolation=cv2.INTER_AREA)
    attempt = add_attempt(
        checked,
        "small.png",
        png(small),
        Facts("by an intern", "by hand"),
        checked.job.memberships.first().person,
    )
    do_all_work()
    answer = vera.post(f"/api/attempts/{attempt.pk}/put-back/", {"margin": 4}, JSON)
    assert answer.status_code == 202
    do_all_work()
    made = pixels_of(checked.attempts.last()).astype(int)
    assert made.shape == small.shape
    wanted = cv2.resize(original[:, 20:], (304, 240), interpolation=cv2.INTER_AREA).astype(int)
    hole = np.s_[165:228, 228:292]
    assert np.abs(small[hole].astype(int) - wanted[hole]).mean() > 60
    assert np.abs(made[hole] - wanted[hole]).mean() < 3
    inside = cv2.resize(both[:, 20:].astype(np.uint8), (304, 240)) == 1
    inside = cv2.erode(inside.astype(np.uint8), np.ones((5, 5))) > 0
    assert np.array_equal(made[inside], small[inside])


def pixels_of_original(picture):
    from images.decoding import blob_bytes
    from zweiblick_core.io import read

    return read(blob_bytes(picture.original.blob)).pixels


def test_a_killed_worker_doubles_no_attempt(ask, checked):
    from work.models import Work
    from work.tasks import do_work

    number = checked.attempts.count()
    ask({"method": "marching diffusion"})
    work = Work.objects.get(kind="trial")
    do_work(work.pk)
    # The message comes twice, and the row is taken for lost.
    Work.objects.filter(pk=work.pk).update(state="waiting")
    do_all_work()
    assert checked.attempts.count() == number + 1


def test_a_plan_works_several_regions_in_one_attempt_small_distinctive_things_first(
    vera, ask, checked
):
    first, second = checked.regions.order_by("number")[:2]
    number = checked.attempts.count()
    answer = ask({"method": "marching diffusion", "settings": {}}, also=[second.pk])
    assert answer.status_code == 202
    do_all_work()
    (run,) = trials(vera, checked)
    assert run["state"] == "done" and run["attempt"] == number + 1 and run["regions"] == 2
    assert len(run["settings"]["order"]) == 2 and "stands out" in run["settings"]["order"][0]
    made = pixels_of(checked.attempts.get(number=number + 1)).astype(int)
    changed = (made != pixels_of_original(checked)).any(axis=2)
    for region in (first, second):
        assert changed[region.drawn.core.full(changed.shape)].mean() > 0.5
    # Its own facts say in which order; the history names both regions.
    bench = vera.get(f"/api/pictures/{checked.pk}/bench/").json()
    facts = next(one for one in bench["attempts"] if one["number"] == number + 1)
    assert facts["settings"]["order"] == run["settings"]["order"]
    said = checked.history.filter(what="trial asked for").latest("pk")
    assert said.after["regions"] == [first.name, second.name]


def test_a_plan_cannot_copy_several_regions_from_one_place(vera, ask, checked):
    second = checked.regions.order_by("number")[1]
    answer = ask({"method": "straight copy", "settings": {"offset": [40, 0]}}, also=[second.pk])
    assert answer.status_code == 400 and "one region only" in str(answer.json())
    assert checked.trials.count() == 0
