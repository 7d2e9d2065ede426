"""`manage.py recalibrate`: opt-in, versioned, undoable; stored reports never change."""

from __future__ import annotations

from io import StringIO

import pytest
from django.core.management import CommandError, call_command
from house import do_all_work

pytestmark = pytest.mark.django_db


def command(*given):
    out = StringIO()
    call_command("recalibrate", *given, stdout=out)
    return out.getvalue()


def answered(checked, people, there, not_there):
    """Findings of one check that people answered."""
    from checks.models import Finding, FindingRuling

    one = Finding.objects.filter(checked__check_run__attempt__picture=checked).first()
    rows = []
    for number in range(there + not_there):
        values = {
            field.name: getattr(one, field.name)
            for field in Finding._meta.concrete_fields
            if field.name != "id"
        }
        values |= {"position": 1000 + number, "confidence": 0.9}
        finding = Finding.objects.create(**values)
        answer = "confirmed" if number < there else "not there"
        rows.append(
            FindingRuling.objects.create(finding=finding, answer=answer, person=people["vera"])
        )
    return rows


def confidences(check):
    from checks.models import Finding

    return list(
        Finding.objects.filter(checked__check_run=check, position__lt=1000)
        .order_by("checked__region_version", "kind", "score")
        .values_list("confidence", flat=True)
    )


def test_with_too_few_answers_nothing_is_fitted(checked, people):
    answered(checked, people, 10, 10)
    for given in ((), ("--keep",)):
        with pytest.raises(CommandError, match="20 findings were answered, 10 of them confirmed"):
            command(*given)
    with pytest.raises(CommandError, match="no recalibration is in force"):
        command("--undo")
    assert "none is in force" in command("--list")


def test_it_is_looked_at_first_kept_by_a_word_and_checks_asked_for_later_use_it(checked, people):
    from checks.models import Check, Recalibration
    from checks.running import ask_check

    answered(checked, people, 40, 60)
    said = command()
    assert "100 answers" in said and "0.90  0.40  100" in said and "nothing was changed" in said
    assert not Recalibration.objects.exists()
    attempt = checked.attempts.get(number=1)
    before = Check.objects.get(attempt=attempt)
    was = confidences(before)
    command("--keep")
    again = ask_check(attempt)
    assert again.pk != before.pk and again.options["recalibrated"] == Recalibration.objects.get().pk
    do_all_work()
    now = confidences(again)
    assert was and len(now) == len(was)
    assert all(after < then for after, then in zip(now, was, strict=True) if then > 0.5)
    again.refresh_from_db()
    assert again.overall > before.overall
    # What was stored stays.
    assert confidences(before) == was


def test_undone_the_one_before_is_in_force_again_and_then_the_models_own(checked, people):
    from checks.recalibrating import in_force

    answered(checked, people, 40, 60)
    command("--keep")
    first = in_force()
    answered_more = answered(checked, people, 0, 0)
    assert answered_more == []
    command("--keep")
    assert in_force().pk != first.pk
    assert f"number {first.pk}" in command("--undo")
    assert in_force() == first
    assert "none is in force" in command("--undo") and in_force() is None
    listed = command("--list")
    assert listed.count(": undone") == 2 and "the model's own" in listed


def test_only_what_a_person_said_of_the_models_own_probability_counts(checked, people):
    from checks.models import Check, FindingRuling
    from checks.recalibrating import answers

    rows = answered(checked, people, 2, 1)
    assert sorted(answers()) == [(0.9, False), (0.9, True), (0.9, True)]
    # Carried over from another check, taken back, of a model that is no more: none of them.
    FindingRuling.objects.create(finding=rows[0].finding, answer="unread", person=people["vera"])
    FindingRuling.objects.create(
        finding=rows[1].finding,
        answer="not there",
        person=people["vera"],
        carried_from=rows[2],
    )
    assert sorted(answers()) == [(0.9, False), (0.9, True)]
    for check in Check.objects.all():
        check.options = {**check.options, "model": "v0"}
        check.save()
    assert answers() == []


def test_what_was_said_by_an_earlier_curve_counts_as_the_model_had_it(checked, people):
    from checks.models import Check, Finding
    from checks.recalibrating import answers, curve_in, in_force
    from zweiblick_core.scoring.house import mapped

    answered(checked, people, 40, 60)
    command("--keep")
    house = in_force()
    check = Check.objects.filter(regions__findings__position=1000).distinct().get()
    check.options = {**check.options, "recalibrated": house.pk}
    check.save()
    Finding.objects.filter(position__gte=1000).update(confidence=mapped(curve_in(house), 0.8))
    assert {round(said, 6) for said, _ in answers()} == {0.8}
