"""Sign-in, Desk, Bench, cells, findings, history."""

from __future__ import annotations

import base64
from dataclasses import asdict
from typing import Any

import cv2
import numpy as np
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError as Unfit
from django.db import transaction
from django.http import HttpResponse
from django.http.response import HttpResponseBase
from django.middleware.csrf import get_token
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import AuthenticationFailed, Throttled, ValidationError
from rest_framework.permissions import AllowAny, IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import BaseThrottle, ScopedRateThrottle
from rest_framework.views import APIView

from attempts.models import Attempt
from checks.models import Finding
from checks.running import ask_check
from checks.showing import evidence_picture
from history.models import Entry
from images.crops import crop_of
from images.models import Image
from images.originals import know_originals
from images.pyramids import ask_pyramid, tiles_stand
from images.tiles import patch_at
from jobs.models import Membership, Picture, Release
from looks.models import saw
from people.authentication import SessionSignIn
from people.models import Person
from people.sessions import person_of
from runs.going import reopen_stops, ruled_in, ruled_outside, seen_again
from runs.models import Run
from slips.looking import looked_at
from verdicts.models import Cell
from verdicts.ruling import answer, answer_outside, say_of_verdict
from verdicts.seconds import rule_or_answer, take_back_or_reopen
from zweiblick_core.compare import AROUND, apart, spot

from . import serializers as shape
from .asking import asked_whole, revision_asked, size_asked, validated
from .permissions import Rules
from .remark_shapes import remarks_by_picture
from .second_shapes import hidden_entries, questions_by_attempt
from .shapes import bench_of, cell_detail, image_of

_ORDER = ("supervisor", "retoucher", "guest")


def widest_role(person: Person) -> str | None:
    roles = set(Membership.objects.filter(person=person).values_list("role", flat=True))
    return next((role for role in _ORDER if role in roles), None)


class SessionView(APIView):
    """Who is signed in; signing in and out."""

    permission_classes = [AllowAny]
    throttle_scope = "sign-in"

    def get_throttles(self) -> list[BaseThrottle]:
        return [ScopedRateThrottle()] if self.request.method == "POST" else []

    def _session(self, request: Request) -> dict[str, Any]:
        person = request.user if request.user.is_authenticated else None
        return {
            "signed_in": person is not None,
            "id": person.pk if person else None,
            "name": person.called if person else None,
            "username": person.username if person else None,
            "role": widest_role(person) if person else None,
            "makes_jobs": bool(person and person.makes_jobs),
            "csrf": get_token(request),
        }

    @extend_schema(responses=shape.Session, operation_id="session")
    def get(self, request: Request) -> Response:
        return Response(self._session(request))

    @extend_schema(
        request=shape.Credentials,
        responses={200: shape.Session, 401: shape.Failure},
        operation_id="sign_in",
    )
    def post(self, request: Request) -> Response:
        SessionSignIn().enforce_csrf(request)
        asked = shape.Credentials(data=request.data)
        asked.is_valid(raise_exception=True)
        person = authenticate(request._request, **asked.validated_data)
        if person is None:
            if getattr(request._request, "axes_locked_out", False):
                raise Throttled(detail="Too many wrong passwords for this name; wait five minutes.")
            raise AuthenticationFailed("That name and password do not go together.")
        login(request._request, person)
        request.user = person
        return Response(self._session(request))

    @extend_schema(responses={204: None}, operation_id="sign_out")
    def delete(self, request: Request) -> Response:
        logout(request._request)
        return Response(status=204)


class PasswordView(APIView):
    """Change one's own password. Other sessions of the person end with it."""

    @extend_schema(
        request=shape.PasswordAsked,
        responses={204: None, 400: shape.Failure},
        operation_id="change_password",
    )
    def post(self, request: Request) -> Response:
        asked = shape.PasswordAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        person = person_of(request)
        if not person.check_password(asked.validated_data["old"]):
            raise ValidationError("The old password is another one.")
        try:
            validate_password(asked.validated_data["new"], person)
        except Unfit as error:
            raise ValidationError(" ".join(error.messages)) from error
        person.set_password(asked.validated_data["new"])
        person.save(update_fields=["password"])
        update_session_auth_hash(request._request, person)
        return Response(status=204)


class BenchView(APIView):
    """Everything the Bench needs of a picture, at once."""

    @extend_schema(
        responses=shape.Bench,
        operation_id="bench",
        parameters=[OpenApiParameter("size", int, description="a delivery size of the job")],
    )
    def get(self, request: Request, pk: int) -> Response:
        picture = get_object_or_404(
            Picture.objects.worked_by(person_of(request)).select_related("job"), pk=pk
        )
        return Response(bench_of(picture, person_of(request), size_asked(request, picture)))


class SeenView(APIView):
    """Say that the picture was drawn on the person's screen: no look at it is cold from then on."""

    @extend_schema(request=None, responses={204: None}, operation_id="seen")
    def post(self, request: Request, pk: int) -> Response:
        picture = get_object_or_404(
            Picture.objects.worked_by(person_of(request)).select_related("job"), pk=pk
        )
        saw(picture, person_of(request))
        looked_at(picture, person_of(request))
        return Response(status=204)


class HistoryView(APIView):
    """What was said and done on a picture, newest first, by pages."""

    page = 100

    @extend_schema(
        responses=shape.HistoryPage,
        operation_id="history",
        parameters=[OpenApiParameter("before", int, description="an entry: what came earlier")],
    )
    def get(self, request: Request, pk: int) -> Response:
        picture = get_object_or_404(Picture.objects.worked_by(person_of(request)), pk=pk)
        entries = (
            Entry.objects.filter(picture=picture)
            .exclude(hidden_entries(picture, person_of(request)))
            .select_related("person")
        )
        before = asked_whole(request, "before")
        if before is not None:
            entries = entries.filter(pk__lt=before)
        rows = list(entries[: self.page + 1])
        return Response(
            {
                "entries": [entry_of(row) for row in rows[: self.page]],
                "more": rows[self.page - 1].pk if len(rows) > self.page else None,
            }
        )


def entry_of(row: Entry) -> dict[str, Any]:
    return {
        "id": row.pk,
        "at": row.made_at,
        "person": row.person.called if row.person else None,
        "what": row.what,
        "about": row.about,
        "before": row.before,
        "after": row.after,
    }


class CellView(APIView):
    """A cell's findings with their evidence."""

    @extend_schema(responses=shape.CellDetail, operation_id="cell")
    def get(self, request: Request, pk: int) -> Response:
        cell = get_object_or_404(
            Cell.objects.visible_to(person_of(request)).select_related(
                "attempt__picture__job", "region__current"
            ),
            pk=pk,
        )
        return Response(cell_detail(cell))


_IF_MATCH = OpenApiParameter(
    "If-Match",
    str,
    OpenApiParameter.HEADER,
    description="the cell's revision that was seen; 412 if it changed since",
)


class VerdictsView(APIView):
    """Rule on a cell, or take the standing ruling back. Answers with the whole Bench, since one
    ruling can fold many cells.
    """

    permission_classes = [IsAuthenticated, Rules]

    def _cell(self, request: Request, pk: int) -> Cell:
        cell = get_object_or_404(
            Cell.objects.visible_to(person_of(request)).select_related(
                "attempt__picture__job", "region"
            ),
            pk=pk,
        )
        self.check_object_permissions(request, cell)
        return cell

    @extend_schema(
        request=shape.RulingAsked,
        responses={200: shape.Bench, 412: shape.Failure},
        parameters=[_IF_MATCH, OpenApiParameter("size", int)],
        operation_id="rule",
    )
    def post(self, request: Request, pk: int) -> Response:
        cell = self._cell(request, pk)
        asked = shape.RulingAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        # Everything is read before anything is stored.
        shown = size_asked(request, cell.attempt.picture)
        size = None
        if asked.validated_data["ruling"] == "passes at size":
            size = cell.attempt.picture.job.sizes.filter(
                pk=asked.validated_data.get("size") or 0
            ).first()
            if size is None:
                raise ValidationError("“Passes at size” needs one of the job's delivery sizes.")
        given = asked.validated_data
        run = None
        if given["run"] is not None:
            run = get_object_or_404(Run.objects.of(person_of(request)), pk=given["run"])
        with transaction.atomic():
            if not seen_again(run, cell):
                rule_or_answer(
                    cell.pk, person_of(request), given["ruling"], revision_asked(request), size
                )
            if run is not None:
                ruled_in(run, cell, given["ruling"], given["seconds"])
            else:
                ruled_outside(cell, person_of(request), given["ruling"])
        return Response(bench_of(cell.attempt.picture, person_of(request), shown))

    @extend_schema(
        responses={200: shape.Bench, 412: shape.Failure},
        parameters=[_IF_MATCH, OpenApiParameter("size", int)],
        operation_id="take_back",
    )
    def delete(self, request: Request, pk: int) -> Response:
        cell = self._cell(request, pk)
        shown = size_asked(request, cell.attempt.picture)
        with transaction.atomic():
            take_back_or_reopen(cell.pk, person_of(request), revision_asked(request))
            reopen_stops(cell, person_of(request))
        return Response(bench_of(cell.attempt.picture, person_of(request), shown))


class VerdictWordsView(APIView):
    """Put words to the verdict that stands in a cell."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.WordsAsked,
        responses={200: shape.Bench, 400: shape.Failure, 412: shape.Failure},
        parameters=[_IF_MATCH, OpenApiParameter("size", int)],
        operation_id="say_of_verdict",
    )
    def put(self, request: Request, pk: int) -> Response:
        cell = get_object_or_404(
            Cell.objects.visible_to(person_of(request)).select_related("attempt__picture__job"),
            pk=pk,
        )
        self.check_object_permissions(request, cell)
        given = validated(shape.WordsAsked, request)
        shown = size_asked(request, cell.attempt.picture)
        say_of_verdict(cell.pk, person_of(request), given["words"], revision_asked(request))
        return Response(bench_of(cell.attempt.picture, person_of(request), shown))


class AnswerView(APIView):
    """Say of a finding: confirmed, not there, acceptable; or unread, to take an answer back; and
    words.
    """

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(request=shape.AnswerAsked, responses=shape.Answered, operation_id="answer")
    def post(self, request: Request, pk: int) -> Response:
        finding = get_object_or_404(Finding.objects.visible_to(person_of(request)), pk=pk)
        self.check_object_permissions(request, finding)
        asked = shape.AnswerAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        made = answer(finding, person_of(request), given["answer"], given["words"])
        return Response({"id": finding.pk, "answer": made.answer, "words": made.words})


class OutsideAnswerView(APIView):
    """Say of what an attempt changed outside every region whether it may stand. Answers with the
    whole Bench, since it can hold up or free the picture.
    """

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.OutsideAsked,
        responses={200: shape.Bench, 400: shape.Failure},
        parameters=[OpenApiParameter("size", int)],
        operation_id="answer_outside",
    )
    def post(self, request: Request, pk: int) -> Response:
        attempt = get_object_or_404(
            Attempt.objects.visible_to(person_of(request)).select_related("picture__job"), pk=pk
        )
        self.check_object_permissions(request, attempt)
        asked = shape.OutsideAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        shown = size_asked(request, attempt.picture)
        given = asked.validated_data
        answer_outside(attempt, given["number"], person_of(request), given["answer"])
        return Response(bench_of(attempt.picture, person_of(request), shown))


class EvidenceView(APIView):
    """A finding's evidence as a small picture, cut from the tiles."""

    @extend_schema(
        responses={200: shape.EvidencePicture, 503: shape.Failure}, operation_id="evidence_picture"
    )
    def get(self, request: Request, pk: int) -> Response:
        finding = get_object_or_404(
            Finding.objects.visible_to(person_of(request)).select_related(
                "checked__region_version",
                "checked__check_run__attempt__image__blob",
                "checked__check_run__attempt__picture",
            ),
            pk=pk,
        )
        attempt = finding.checked.check_run.attempt
        images = (attempt.picture.original, attempt.image)
        if not all(tiles_stand(image) for image in images):
            return Response(
                {"error": "The tiles of this picture are being made."},
                503,
                headers={"Retry-After": "1"},
            )
        shown = evidence_picture(finding, *images)
        ok, data = cv2.imencode(".png", np.ascontiguousarray(shown.pixels[..., ::-1]))
        assert ok
        return Response(
            {
                "says": shown.says,
                "width": shown.pixels.shape[1],
                "height": shown.pixels.shape[0],
                "agreement": shown.agreement,
                "curve": asdict(shown.curve) if shown.curve else None,
                "png": f"data:image/png;base64,{base64.b64encode(data.tobytes()).decode()}",
            }
        )


class CheckView(APIView):
    """Ask for an attempt's check, again if it failed."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(request=None, responses={202: shape.Asked}, operation_id="ask_check")
    def post(self, request: Request, pk: int) -> Response:
        attempt = get_object_or_404(
            Attempt.objects.visible_to(person_of(request)).select_related("picture__job"), pk=pk
        )
        self.check_object_permissions(request, attempt)
        return Response({"state": ask_check(attempt).state}, status=202)


class SpotView(APIView):
    """How one spot reads in two images of a picture, in the original's frame."""

    @extend_schema(
        parameters=[OpenApiParameter(name, int, required=True) for name in ("x", "y", "a", "b")],
        responses=shape.Spots,
        operation_id="spot",
    )
    def get(self, request: Request, pk: int) -> Response:
        picture = get_object_or_404(Picture.objects.worked_by(person_of(request)), pk=pk)
        asked = shape.SpotAsked(data=request.query_params)
        asked.is_valid(raise_exception=True)
        x, y = asked.validated_data["x"], asked.validated_data["y"]
        if picture.original is None or not (
            0 <= x < picture.original.width and 0 <= y < picture.original.height
        ):
            raise ValidationError({"x": ["This lies outside the picture."]})
        spots = []
        for side in ("a", "b"):
            image = get_object_or_404(
                picture.images.select_related("blob", "picture"), pk=asked.validated_data[side]
            )
            if not tiles_stand(image):
                return Response(
                    {"error": "The tiles of this picture are being made."},
                    503,
                    headers={"Retry-After": "1"},
                )
            spots.append(spot(*patch_at(image, x, y, AROUND)))
        return Response(
            {
                "x": x,
                "y": y,
                "a": asdict(spots[0]),
                "b": asdict(spots[1]),
                "ciede2000": apart(*spots),
            }
        )


def _jpeg(data: bytes) -> HttpResponse:
    return HttpResponse(
        data, content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"}
    )


class CropView(APIView):
    """A small picture of a cell's region in its attempt."""

    @extend_schema(
        responses={(200, "image/jpeg"): OpenApiTypes.BINARY, 503: shape.Failure},
        operation_id="cell_crop",
    )
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        cell = get_object_or_404(
            Cell.objects.visible_to(person_of(request)).select_related(
                "attempt__image__blob", "attempt__image__picture", "region__current"
            ),
            pk=pk,
        )
        return _jpeg(crop_of(cell.attempt.image, cell.region.drawn.bbox))


class RegionCropView(APIView):
    """A small picture of a region in the original."""

    @extend_schema(
        responses={(200, "image/jpeg"): OpenApiTypes.BINARY, 503: shape.Failure},
        operation_id="region_crop",
    )
    def get(self, request: Request, pk: int, region: int) -> HttpResponseBase:
        picture = get_object_or_404(Picture.objects.worked_by(person_of(request)), pk=pk)
        found = get_object_or_404(picture.regions.select_related("current"), pk=region)
        return _jpeg(crop_of(picture.original, found.drawn.bbox))


class PictureCropView(APIView):
    """A small picture of the original."""

    @extend_schema(
        responses={(200, "image/jpeg"): OpenApiTypes.BINARY, 503: shape.Failure},
        operation_id="picture_crop",
    )
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        picture = get_object_or_404(Picture.objects.worked_by(person_of(request)), pk=pk)
        return _jpeg(crop_of(picture.original, None))


class AskTilesView(APIView):
    """Ask for an image's tiles, if they were removed; they come by themselves otherwise."""

    @extend_schema(request=None, responses={202: shape.Asked}, operation_id="ask_tiles")
    def post(self, request: Request, pk: int) -> Response:
        image = get_object_or_404(
            Image.objects.visible_to(person_of(request)).select_related("blob", "picture"), pk=pk
        )
        return Response({"state": "done" if ask_pyramid(image) else "waiting"}, status=202)


class ReleasedView(APIView):
    """What was released to the signed-in guest, and nothing else."""

    @extend_schema(responses=shape.ReleasedOf(many=True), operation_id="released")
    def get(self, request: Request) -> Response:
        rows = (
            Release.objects.filter(person=person_of(request))
            .select_related("picture__job", "attempt__image__blob", "attempt__image__picture")
            .order_by("-id")
        )
        know_originals([row.picture for row in rows])
        said = remarks_by_picture([row.picture_id for row in rows], person_of(request))
        asked = questions_by_attempt([row.attempt_id for row in rows], person_of(request))
        return Response(
            [
                {
                    "id": row.pk,
                    "picture": row.picture.name,
                    "job": row.picture.job.name,
                    "original": image_of(row.picture.original),
                    "image": image_of(row.attempt.image),
                    "released_at": row.released_at,
                    "remarks": said.get(row.picture_id, []),
                    "questions": asked.get(row.attempt_id, []),
                }
                for row in rows
            ]
        )
