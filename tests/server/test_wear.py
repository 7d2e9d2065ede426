"""Texture that was worn by repeated passes is known from the attempts it was made from, and advised
to be rebuilt.
"""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from builders import filled, png, textured
from house import MASKS, TRUTH, do_all_work, post

pytestmark = pytest.mark.django_db


@pytest.fixture
def chain(checked, people):
    """Three attempts, each made from the one before and resampled in the second region."""
    from attempts.intake import Facts, add_attempt
    from attempts.models import AttemptSource

    pixels = filled(TRUTH, MASKS[1], textured(300, 400, seed=77))
    made = []
    for number in range(3):
        attempt = add_attempt(
            checked, f"pass-{number}.png", png(pixels), Facts("pass", "by hand"), people["vera"]
        )
        if made:
            AttemptSource.objects.create(attempt=attempt, source=made[-1])
        made.append(attempt)
        moved = cv2.warpAffine(pixels, np.array([[1, 0, 0.4], [0, 1, 0.4]], np.float32), (400, 300))
        pixels = filled(pixels, MASKS[1], moved)
    do_all_work()
    return made


def worn(attempt):
    return {
        row.region_version.region.number: row.wear
        for row in attempt.checks.last().regions.select_related("region_version__region")
    }


def test_only_what_was_worked_again_and_again_is_worn(chain):
    first, second, third = map(worn, chain)
    assert first == {1: None, 2: None}
    assert second[1] is None and len(second[2]["contrast"]) == 2
    assert third[1] is None and third[2]["worn"]
    assert "over 3 passes" in third[2]["words"]


def test_a_slip_advises_to_rebuild_it_by_hand_with_the_numbers(signed_in, people, chain):
    from verdicts.models import Cell
    from verdicts.ruling import rule

    attempt = chain[-1]
    cell = Cell.objects.get(attempt=attempt, region__number=2)
    rule(cell.pk, people["vera"], "rework", None, None)
    vera = signed_in("vera")
    slip = post(vera, f"/api/attempts/{attempt.pk}/slips/").json()
    changes = {one["what"]: one["why"] for one in slip["regions"][0]["changes"]}
    # Nothing may be found there but the wear: then nothing is advised but what was seen.
    found = [flaw["kind"] for flaw in slip["regions"][0]["flaws"]]
    assert found and "over 3 passes" in changes["rebuild by hand"]
    post(vera, f"/api/slips/{slip['id']}/send/")
    bench = vera.get(f"/api/pictures/{attempt.picture_id}/bench/").json()
    spent = {one["number"]: one.get("spent") for one in bench["regions"]}
    assert "over 3 passes" in str(spent[2])
