"""Who is in charge of a picture; what happened since one was last at the Desk."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers as s
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from desk.charge import put_in_charge
from desk.visiting import news, visit
from people.sessions import person_of

from . import serializers as shape
from .asking import person_named, validated
from .of_picture import OfPicture


class ChargeAsked(shape.Plain):
    person = shape.Whole(allow_null=True, help_text="a supervisor of the job; null: nobody")
    words = s.CharField(max_length=1000, required=False, default="", allow_blank=True)


class ChargeOf(shape.Plain):
    charge = shape.PersonNamed(allow_null=True)


class NewsOf(shape.Plain):
    entry = s.IntegerField()
    at = s.DateTimeField()
    person = s.CharField(allow_null=True)
    what = s.CharField()
    about = s.CharField()
    words = s.CharField(help_text="what was said with it")
    picture = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField(help_text="the picture's")


class VisitOf(shape.Plain):
    since = s.DateTimeField(allow_null=True, help_text="when the visit before this one ended")
    news = NewsOf(many=True)


class ChargeView(OfPicture):
    """Take a picture over, hand it over with a word, or leave it to whoever comes first."""

    @extend_schema(
        request=ChargeAsked,
        responses={200: ChargeOf, 400: shape.Failure},
        operation_id="put_in_charge",
    )
    def put(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        given = validated(ChargeAsked, request)
        to = person_named(given["person"])
        put_in_charge(picture, to, person_of(request), given["words"])
        return Response({"charge": {"id": to.pk, "name": to.called} if to else None})


class VisitView(APIView):
    """Say that one is at the Desk; answers with what happened since one was there before."""

    @extend_schema(request=None, responses=VisitOf, operation_id="visit_desk")
    def post(self, request: Request) -> Response:
        here = visit(person_of(request))
        return Response(
            {
                "since": here.before,
                "news": [
                    {
                        "entry": one.pk,
                        "at": one.made_at,
                        "person": one.person.called if one.person else None,
                        "what": one.what,
                        "about": one.about,
                        "words": _words(one.after),
                        "picture": one.picture.pk,
                        "number": one.picture.number,
                        "name": one.picture.name,
                    }
                    for one in news(person_of(request), here)
                    if one.picture is not None
                ],
            }
        )


def _words(after: Any) -> str:
    """What was said with an entry; what became of a slip's regions."""
    if not isinstance(after, dict):
        return ""
    if after.get("words"):
        return str(after["words"])
    return ", ".join(
        f"{name}: {became}" for name, became in after.items() if name.startswith("region ")
    )
