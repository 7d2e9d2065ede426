"""What is known of how an attempt came to be, as it is asked for."""

from __future__ import annotations

import math
from typing import Any

from rest_framework import serializers as s

from attempts.models import CROPPED, Method
from zweiblick_core.rules.rights import TERMS

from .serializers import ArrivalOf, Bounded, Finite, GroupSuggested, JobOf, Plain, Whole

#: So many settings can be named; each as long as this.
_MOST, _NAME, _VALUE = 40, 60, 200


class NamedValues(s.DictField):
    """Settings: words, numbers and truth values by name, or short lists of them."""

    def to_internal_value(self, data: Any) -> Any:
        found = super().to_internal_value(data)
        if len(found) > _MOST:
            raise s.ValidationError(f"At most {_MOST} settings are taken.")
        for name, value in found.items():
            if not name.strip() or len(name) > _NAME:
                raise s.ValidationError(f"A setting's name has 1 to {_NAME} characters.")
            values = value if isinstance(value, list) else [value]
            if len(values) > _MOST or not all(_plain(one) for one in values):
                raise s.ValidationError(f"{name}: a word, a number, yes or no is needed.")
        return {name.strip(): value for name, value in found.items()}


def _plain(value: Any) -> bool:
    if isinstance(value, str):
        return len(value) <= _VALUE
    return isinstance(value, bool | int) or (isinstance(value, float) and math.isfinite(value))


class FactsAsked(Plain):
    method = s.CharField(max_length=120)
    kind = s.ChoiceField(choices=Method.Kind.choices)
    maker = s.CharField(max_length=120, allow_blank=True, required=False, default="")
    seconds = Finite(min_value=0, max_value=1e8, allow_null=True, required=False, default=None)
    cost = s.DecimalField(
        max_digits=9, decimal_places=2, min_value=0, allow_null=True, required=False, default=None
    )
    settings = NamedValues(required=False, default=dict, help_text="by name")
    terms = s.ChoiceField(
        choices=("", *TERMS),
        allow_blank=True,
        required=False,
        default="",
        help_text="under which it was had; empty: nobody said",
    )
    left_house = s.BooleanField(
        allow_null=True, required=False, default=None, help_text="null: nobody said"
    )
    cropped_when = s.ChoiceField(
        choices=("", *dict(CROPPED)),
        allow_blank=True,
        required=False,
        default="",
        help_text="before or after it was worked on; empty: nobody said, or it was not cropped",
    )
    made_from = Bounded(
        child=Whole(),
        max_length=20,
        required=False,
        default=list,
        help_text="numbers of the picture's attempts that came before it",
    )


class FactsOf(Plain):
    """What an attempt of the method was said to be last, to begin from."""

    name = s.CharField()
    kind = s.ChoiceField(choices=Method.Kind.choices)
    maker = s.CharField()
    settings = s.DictField()
    terms = s.CharField()
    left_house = s.BooleanField(allow_null=True)


class MethodsOf(Plain):
    methods = FactsOf(many=True)
    terms = s.ListField(child=s.CharField(), help_text="what terms of use there are")


class Intake(Plain):
    job = JobOf()
    arrivals = ArrivalOf(many=True)
    groups = GroupSuggested(many=True)
    methods = FactsOf(many=True)
    terms = s.ListField(child=s.CharField(), help_text="what terms of use there are")


class ResultAsked(FactsAsked):
    arrival = Whole()
    mask = Whole(
        allow_null=True,
        required=False,
        default=None,
        help_text="the outline it was made with, as a mask of the result's or the original's size",
    )


class BringIn(Plain):
    name = s.CharField(max_length=160)
    original = Whole()
    mask = Whole(allow_null=True, required=False, default=None)
    results = ResultAsked(many=True)


class PictureNamed(Plain):
    name = s.CharField(max_length=160)
