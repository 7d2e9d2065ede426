"""Near-identical pictures: found by themselves, their regions side by side, exceptions ticked and the
rest ruled at once. Each test reads like its rule.
"""

from __future__ import annotations

import numpy as np
import pytest
from builders import filled, holding, png, textured, with_thing
from house import bench, do_all_work, post

pytestmark = pytest.mark.django_db

WIDE = textured(420, 620, seed=11)
PLACE = np.zeros(WIDE.shape[:2], bool)
PLACE[160:230, 120:190] = True


def shot(job, people, name, move, ground=WIDE):
    from attempts.intake import Facts, add_attempt, add_picture

    moved = lambda one: np.roll(one, move, (0, 1))
    truth, mask = moved(ground), moved(PLACE)
    original = png(with_thing(truth, mask))
    picture = add_picture(job, name, f"{name}.png", original, [("sign", mask)], people["vera"])
    for number, pixels in enumerate(
        (filled(truth, mask, truth.astype(float) + 26), holding(truth, mask)), 1
    ):
        method = ("Fortnimm", "by hand")[number - 1]
        facts = Facts(method, ("outside service", "by hand")[number - 1])
        add_attempt(picture, f"{name}-{number}.png", png(pixels), facts, people["vera"])
    return picture


@pytest.fixture
def shots(job, people):
    """Two shots of one motif, moved by some pixels, and something else."""
    made = [
        shot(job, people, "first", (0, 0)),
        shot(job, people, "second", (7, -5)),
        shot(job, people, "another", (0, 0), textured(420, 620, seed=77)),
    ]
    do_all_work()
    return made


def at(picture, attempt=1, more=""):
    region = picture.regions.get()
    return f"/api/regions/{region.pk}/siblings/{more}?attempt={attempt}"


def seen(found):
    return [{"cell": one["cell"], "revision": one["revision"]} for one in found["siblings"]]


def test_near_identical_pictures_are_found_and_others_are_not(signed_in, shots):
    vera = signed_in("vera")
    assert [bench(vera, one)["siblings"] for one in shots] == [1, 1, 0]
    found = vera.get(at(shots[0])).json()
    assert [one["name"] for one in found["siblings"]] == ["first", "second"]
    # From the second one looks back at the first.
    back = vera.get(at(shots[1])).json()
    assert [one["name"] for one in back["siblings"]] == ["second", "first"]
    assert [one["name"] for one in vera.get(at(shots[2])).json()["siblings"]] == ["another"]


def test_two_that_come_in_at_once_find_each_other(shots):
    from siblings.models import Sibling
    from work.leases import ask

    # As if both were read before either was compared.
    Sibling.objects.all().delete()
    for picture in shots:
        ask("fingerprint", str(picture.pk), picture)
    do_all_work()
    row = Sibling.objects.get()
    assert (row.first.name, row.second.name) == ("first", "second")


def test_the_same_method_s_attempts_are_laid_side_by_side_at_the_region_s_place(signed_in, shots):
    vera = signed_in("vera")
    for attempt, method in ((1, "Fortnimm"), (2, "by hand")):
        found = vera.get(at(shots[0], attempt)).json()["siblings"]
        assert [one["method"] for one in found] == [method, method]
    first, second = (one["bbox"] for one in found)
    assert (second[0] - first[0], second[1] - first[1]) == (-5, 7)


def test_what_was_shown_and_not_excepted_is_ruled_at_once(signed_in, shots):
    vera = signed_in("vera")
    found = vera.get(at(shots[0], 2)).json()
    after = post(vera, at(shots[0], 2, "rule/"), {"ruling": "passes", "cells": seen(found)})
    assert after.status_code == 200
    assert [one["verdict"]["ruling"] for one in after.json()["siblings"]] == ["passes"] * 2
    assert [bench(vera, one)["state"] for one in shots] == ["done", "done", "undecided"]
    # An exception is not named, and stays as it is.
    rest = [one for one in seen(after.json())][:1]
    post(vera, at(shots[0], 2, "rule/"), {"ruling": "rework", "cells": rest})
    assert bench(vera, shots[1])["state"] == "done"


def test_all_of_them_or_none(signed_in, shots):
    vera = signed_in("vera")
    cells = seen(vera.get(at(shots[0])).json())
    post(vera, f"/api/cells/{cells[1]['cell']}/verdict/", {"ruling": "rework"})
    refused = post(vera, at(shots[0], 1, "rule/"), {"ruling": "passes", "cells": cells})
    assert refused.status_code == 412
    first = bench(vera, shots[0])["cells"]
    assert all(one["verdict"] is None for one in first)


def test_what_is_no_sibling_is_not_ruled_with_them(signed_in, shots):
    vera = signed_in("vera")
    alien = seen(vera.get(at(shots[2])).json())
    refused = post(vera, at(shots[0], 1, "rule/"), {"ruling": "passes", "cells": alien})
    assert refused.status_code == 400 and "siblings" in refused.json()["error"]
    assert (
        post(signed_in("mona"), at(shots[0], 1, "rule/"), {"ruling": "passes"}).status_code == 403
    )


def test_pictures_of_a_former_version_are_caught_up_with(shots):
    from siblings.finding import ask_missing
    from siblings.models import Fingerprint, Sibling

    Sibling.objects.all().delete()
    Fingerprint.objects.all().delete()
    assert ask_missing() == 3
    do_all_work()
    assert Sibling.objects.count() == 1 and ask_missing() == 0


def test_whoever_is_asked_for_a_second_look_sees_no_ruling_here_either(signed_in, shots, people):
    vera, ines = signed_in("vera"), signed_in("ines")
    found = vera.get(at(shots[0], 2)).json()
    post(vera, at(shots[0], 2, "rule/"), {"ruling": "passes", "cells": seen(found)})
    asked = {"person": people["ines"].pk, "words": "Is it straight?"}
    assert post(vera, f"/api/cells/{found['siblings'][0]['cell']}/ask/", asked).status_code == 201
    rulings = [one["verdict"] for one in ines.get(at(shots[0], 2)).json()["siblings"]]
    assert rulings[0] is None and rulings[1]["ruling"] == "passes"
