"""What the API says is what its description says, field by field: nothing missing, nothing more."""

from __future__ import annotations

import pytest
import yaml
from django.conf import settings

pytestmark = pytest.mark.django_db

_DESCRIBED = yaml.safe_load((settings.REPO / "docs" / "openapi.yaml").read_text())
_PLAIN = {
    "string": str,
    "integer": int,
    "number": (int, float),
    "boolean": bool,
    "object": dict,
    "array": list,
}


def differences(said: object, schema: dict, at: str = "") -> list[str]:
    """Where an answer is not as described, a line each."""
    if "$ref" in schema:
        named = schema["$ref"].split("/")[-1]
        return differences(said, _DESCRIBED["components"]["schemas"][named], at)
    for several in ("allOf", "oneOf", "anyOf"):
        if several in schema and said is not None:
            found = [differences(said, one, at) for one in schema[several]]
            return [] if not all(found) else min(found, key=len)
    if said is None:
        nullable = schema.get("nullable") or not schema.get("type")
        return [] if nullable or "oneOf" in schema else [f"{at}: is null"]
    wanted = _PLAIN.get(schema.get("type", ""))
    if wanted and (not isinstance(said, wanted) or (isinstance(said, bool) and wanted is not bool)):
        return [f"{at}: {type(said).__name__} instead of {schema['type']}"]
    if "enum" in schema and said not in schema["enum"]:
        return [f"{at}: {said!r} is none of {schema['enum']}"]
    if isinstance(said, list):
        return [
            line
            for number, one in enumerate(said)
            for line in differences(one, schema.get("items", {}), f"{at}[{number}]")
        ]
    if not isinstance(said, dict):
        return []
    known = schema.get("properties")
    if known is None:
        values = schema.get("additionalProperties") or {}
        more = values if isinstance(values, dict) else {}
        return [
            line for name, one in said.items() for line in differences(one, more, f"{at}.{name}")
        ]
    lines = [f"{at}.{name}: missing" for name in schema.get("required", []) if name not in said]
    lines += [f"{at}.{name}: not described" for name in said if name not in known]
    return lines + [
        line
        for name in said
        if name in known
        for line in differences(said[name], known[name], f"{at}.{name}")
    ]


def described(method: str, path: str, status: int) -> dict:
    answers = _DESCRIBED["paths"][path][method]["responses"]
    return answers[str(status)]["content"]["application/json"]["schema"]


@pytest.fixture
def numbers(checked, people):
    """What addresses name, with every sort of row behind it: a slip that came back, marks, pairs."""
    from builders import png, textured
    from house import do_all_work

    from arrivals.receiving import receive
    from checks.models import Finding
    from jobs.models import Release
    from ledger.spread import choose, pick
    from looks.own import add_own
    from slips.sending import send_slip
    from slips.writing import Edit, Recipient, edit_slip, write_slip
    from verdicts.models import Cell
    from verdicts.ruling import rule

    vera = people["vera"]
    first, _, third = checked.attempts.all()
    region = checked.regions.first()
    cell = Cell.objects.get(attempt=first, region=region)
    rule(cell.pk, vera, "rework", None, None)
    add_own(cell, vera, "lost", "clear", None, "a ring", [[5, 5], [40, 5], [40, 40]])
    slip = edit_slip(write_slip(first, vera), vera, Edit("soon", to=Recipient(people["mona"])))
    send_slip(slip, vera)
    choose(region, vera, first, third, third)
    pick(region, third, vera)
    Release.objects.create(
        picture=checked, attempt=third, person=people["archive"], released_by=vera
    )
    data = png(textured(60, 70, seed=3))
    receive(checked.job, "new.png", [data], len(data), vera)
    do_all_work()
    return {
        "picture": checked.pk,
        "region": region.pk,
        "cell": cell.pk,
        "attempt": third.pk,
        "before": first.pk,
        "slip": slip.pk,
        "job": checked.job_id,
        "image": third.image_id,
        "finding": Finding.objects.first().pk,
    }


@pytest.mark.parametrize(
    "path, number",
    [
        ("/api/session/", None),
        ("/api/desk/", None),
        ("/api/pictures/{id}/bench/", "picture"),
        ("/api/pictures/{id}/history/", "picture"),
        ("/api/cells/{id}/", "cell"),
        ("/api/findings/{id}/picture/", "finding"),
        ("/api/regions/{id}/spread/", "region"),
        ("/api/regions/{id}/pairs/", "region"),
        ("/api/attempts/{id}/changes/", "attempt"),
        ("/api/cold/", None),
        ("/api/kinds/", None),
        ("/api/aids/", None),
        ("/api/slips/", None),
        ("/api/slips/{id}/", "slip"),
        ("/api/jobs/", None),
        ("/api/jobs/{id}/intake/", "job"),
        ("/api/colleagues/", None),
        ("/api/released/", None),
    ],
)
def test_an_answer_is_what_its_description_says(signed_in, numbers, path, number):
    query = {"before": numbers["before"]} if path.endswith("changes/") else {}
    who = "archive" if path == "/api/released/" else "vera"
    asked = path.replace("{id}", str(numbers[number])) if number else path
    answer = signed_in(who).get(asked, query)
    assert answer.status_code == 200
    assert differences(answer.json(), described("get", path, 200)) == []


def test_the_comparison_finds_what_is_missing_what_is_more_and_what_is_of_another_sort():
    schema = described("get", "/api/colleagues/", 200)
    good = {"id": 1, "name": "Mona", "role": "retoucher"}
    assert differences([good], schema) == []
    assert differences([{"id": 1, "name": "Mona"}], schema) == ["[0].role: missing"]
    assert differences([{**good, "age": 4}], schema) == ["[0].age: not described"]
    assert differences([{**good, "id": "1"}], schema) == ["[0].id: str instead of integer"]
