"""Files that arrive in parts, and the tokens that programs bring them with."""

from __future__ import annotations

from typing import Any

from django.http import Http404
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers as s
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from shots.holding import works_on

from arrivals.models import Arrival, Upload
from arrivals.uploading import OutOfStep, begin, finish, forget_upload, take_part
from jobs.models import Job
from people.models import Person, Token
from people.sessions import person_of
from people.tokens import MOST, TooMany, make_token

from . import serializers as shape
from .asking import validated
from .intake_views import BY_PROGRAM, arrival_of, supervised
from .parsers import Part


class UploadAsked(shape.Plain):
    name = s.CharField(max_length=200)
    size = shape.Whole()
    sha256 = s.CharField(max_length=64, required=False, default="", allow_blank=True)
    what = s.ChoiceField(choices=["picture", "footage"], required=False, default="picture")


class UploadOf(shape.Plain):
    key = s.CharField()
    received = s.IntegerField(help_text="bytes; the next part begins there")
    size = s.IntegerField()
    arrival = shape.ArrivalOf(allow_null=True, help_text="what arrived, once all parts are there")
    footage = s.IntegerField(allow_null=True, help_text="the same, of footage")


def _said(row: Upload, arrived: int | None = None) -> dict[str, Any]:
    """Args: arrived: what came of it, once all parts are there."""
    picture = row.what == "picture"
    return {
        "key": row.key,
        "received": row.received,
        "size": row.size,
        "arrival": arrival_of(Arrival.objects.get(pk=arrived))
        if picture and arrived is not None
        else None,
        "footage": None if picture else arrived,
    }


def _taking(what: str, person: Person, pk: int) -> Job:
    """The job that takes such a file of a person: their own, or footage that answers a slip of a shot."""
    if what == "footage":
        job = Job.objects.filter(memberships__person=person, pk=pk).distinct().first()
        if job is not None and works_on(job, person):
            return job
    return supervised(person, pk)


class UploadsView(APIView):
    """Begin a file, or go on with one that broke off."""

    authentication_classes = BY_PROGRAM

    @extend_schema(
        request=UploadAsked,
        responses={201: UploadOf, 400: shape.Failure},
        operation_id="begin_upload",
    )
    def post(self, request: Request, pk: int) -> Response:
        person = person_of(request)
        asked = validated(UploadAsked, request)
        job = _taking(asked["what"], person, pk)
        row = begin(job, asked["name"], asked["size"], asked["sha256"], person, asked["what"])
        return Response(_said(row), 201)


class _OfUpload(APIView):
    authentication_classes = BY_PROGRAM

    def upload(self, request: Request, key: str) -> Upload:
        return get_object_or_404(Upload.objects.of(person_of(request)), key=key)


class UploadView(_OfUpload):
    """How far a file is; giving it up."""

    @extend_schema(responses=UploadOf, operation_id="upload")
    def get(self, request: Request, key: str) -> Response:
        return Response(_said(self.upload(request, key)))

    @extend_schema(responses={204: None}, operation_id="give_upload_up")
    def delete(self, request: Request, key: str) -> Response:
        forget_upload(self.upload(request, key))
        return Response(status=204)


class UploadPartView(_OfUpload):
    """The next part of a file. Once the last is there the file arrives."""

    parser_classes = [Part]

    @extend_schema(
        request={"application/octet-stream": OpenApiTypes.BINARY},
        responses={200: UploadOf, 400: shape.Failure, 409: UploadOf},
        operation_id="upload_part",
    )
    def put(self, request: Request, key: str, offset: str) -> Response:
        upload = self.upload(request, key)
        if upload.received == upload.size:
            # All of it is there; it could not be taken when its last part came.
            return Response(_said(upload, finish(upload)))
        # The one parser gives one thing.
        data: bytes = dict(request.data).get("bytes", b"")
        try:
            row = take_part(upload, int(offset), data)
        except OutOfStep:
            return Response(_said(self.upload(request, key)), 409)
        if row.received < row.size:
            return Response(_said(row))
        return Response(_said(row, finish(row)))


class TokenOf(shape.Plain):
    id = s.IntegerField()
    name = s.CharField()
    made_at = s.DateTimeField()
    used_at = s.DateTimeField(allow_null=True)


class TokensOf(shape.Plain):
    tokens = TokenOf(many=True)
    secret = s.CharField(allow_null=True, help_text="of the token just made: shown once")


class TokenAsked(shape.Plain):
    name = s.CharField(max_length=80)


def _tokens(request: Request, secret: str | None = None) -> Response:
    rows = person_of(request).tokens.all()
    found = [
        {"id": row.pk, "name": row.name, "made_at": row.made_at, "used_at": row.used_at}
        for row in rows
    ]
    return Response({"tokens": found, "secret": secret}, 201 if secret else 200)


class TokensView(APIView):
    """One's own tokens; making one. Only whoever signed in by password."""

    @extend_schema(responses=TokensOf, operation_id="tokens")
    def get(self, request: Request) -> Response:
        return _tokens(request)

    @extend_schema(
        request=TokenAsked,
        responses={201: TokensOf, 400: shape.Failure},
        operation_id="make_token",
    )
    def post(self, request: Request) -> Response:
        given = validated(TokenAsked, request)
        try:
            _, secret = make_token(person_of(request), given["name"])
        except TooMany as error:
            raise ValidationError(f"One has {MOST} tokens at most; revoke one first.") from error
        return _tokens(request, secret)


class TokenView(APIView):
    """Revoke a token."""

    @extend_schema(responses={200: TokensOf}, operation_id="revoke_token")
    def delete(self, request: Request, pk: int) -> Response:
        if not Token.objects.filter(pk=pk, person=person_of(request)).delete()[0]:
            raise Http404
        return _tokens(request)
