"""Reading what is asked for in addresses and headers: one place, one rule."""

from __future__ import annotations

import re
from typing import Any

from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.serializers import Serializer

from jobs.models import DeliverySize, Picture
from people.models import Person


def validated(shape: type[Serializer[Any]], request: Request) -> dict[str, Any]:
    """What a body says, by its shape.

    Raises:
        ValidationError: it does not have that shape.
    """
    asked = shape(data=request.data)
    asked.is_valid(raise_exception=True)
    given: dict[str, Any] = asked.validated_data
    return given


_WHOLE = re.compile(r"[0-9]{1,18}")


def whole(text: str | None) -> int | None:
    """A whole number of at most 18 plain digits; None for anything else."""
    return int(text) if text is not None and _WHOLE.fullmatch(text) else None


def asked_whole(request: Request, name: str) -> int | None:
    """A whole number of the query, None if it is not given.

    Raises:
        ValidationError: it is given and is none.
    """
    given = request.query_params.get(name)
    if given is None or given == "":
        return None
    found = whole(given)
    if found is None:
        raise ValidationError({name: ["A whole number is needed."]})
    return found


def size_asked(request: Request, picture: Picture) -> DeliverySize | None:
    """The delivery size of the query, or None for the job's first.

    Raises:
        ValidationError: the job has no such size.
    """
    wanted = asked_whole(request, "size")
    if wanted is None:
        return None
    size = picture.job.sizes.filter(pk=wanted).first()
    if size is None:
        raise ValidationError("This job has no such delivery size.")
    return size


def revision_asked(request: Request) -> int | None:
    """The revision in If-Match; None if there is none that could be ours."""
    found = re.fullmatch(r'(?:W/)?"?([^"]*)"?', request.headers.get("If-Match", ""))
    return whole(found[1]) if found else None


def person_named(pk: int | None) -> Person | None:
    """The person of a number; None for none. Raises: ValidationError: there is no such person."""
    if pk is None:
        return None
    found: Person | None = Person.objects.filter(pk=pk).first()
    if found is None:
        raise ValidationError("There is no such person.")
    return found
