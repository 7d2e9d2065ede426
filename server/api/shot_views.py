"""Shots: footage that waits, making shots of it, playing, drawing and ruling them."""

from __future__ import annotations

import json

from django.db import transaction
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound, PermissionDenied
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from shots.checking import ask_check
from shots.making import Brought, add_attempt, forget_footage, make_shot
from shots.models import Footage, Shot, ShotAttempt, ShotRegion
from shots.proxies import ask_proxies, proxies_of
from shots.redrawing import draw, forget_outline
from shots.ruling import Stale, rule
from shots.singles import ask_single, name_of, single_of

from images.derivation import folder_name, stands_whole
from jobs.models import Membership
from people.sessions import person_of
from store.durable import Damaged
from store.places import derived

from . import shot_serializers as shape
from .asking import validated
from .intake_views import BY_PROGRAM, supervised
from .serializers import Failure
from .shot_shapes import shot_of, shots_of
from .tile_views import file_of


class ShotsView(APIView):
    """A job's shots and the footage that waits; making a shot of it."""

    authentication_classes = BY_PROGRAM

    @extend_schema(responses=shape.ShotsOfJob, operation_id="shots")
    def get(self, request: Request, pk: int) -> Response:
        return Response(shots_of(supervised(person_of(request), pk)))

    @extend_schema(
        request=shape.ShotAsked,
        responses={201: shape.ShotOf, 400: Failure},
        operation_id="make_shot",
    )
    def post(self, request: Request, pk: int) -> Response:
        person = person_of(request)
        job = supervised(person, pk)
        given = validated(shape.ShotAsked, request)
        shot = make_shot(
            job,
            given["name"],
            given["original"],
            [Brought(**one) for one in given["attempts"]],
            given["masks"],
            person,
        )
        return Response(shot_of(whole_shot(shot.pk, request), person), 201)


def whole_shot(pk: int, request: Request) -> Shot:
    """A shot that the person may see."""
    return get_object_or_404(
        Shot.objects.visible_to(person_of(request))
        .select_related("job", "original")
        .prefetch_related("regions"),
        pk=pk,
    )


def ruled_shot(pk: int, request: Request) -> Shot:
    """A shot of a job that the person supervises.

    Raises:
        PermissionDenied: they only work on it.
    """
    shot = whole_shot(pk, request)
    if shot.job.role_of(person_of(request)) != Membership.Role.SUPERVISOR:
        raise PermissionDenied("Only a supervisor of this job may do that.")
    return shot


def shot_said(pk: int, request: Request, status: int = 200) -> Response:
    return Response(shot_of(whole_shot(pk, request), person_of(request)), status)


class ShotView(APIView):
    """A shot's page."""

    @extend_schema(responses=shape.ShotOf, operation_id="shot")
    def get(self, request: Request, pk: int) -> Response:
        return shot_said(pk, request)


class ShotAttemptsView(APIView):
    """Bring a further attempt at a shot in."""

    authentication_classes = BY_PROGRAM

    @extend_schema(
        request=shape.BroughtAttempt,
        responses={201: shape.ShotOf, 400: Failure},
        operation_id="add_shot_attempt",
    )
    def post(self, request: Request, pk: int) -> Response:
        shot = ruled_shot(pk, request)
        given = validated(shape.BroughtAttempt, request)
        add_attempt(shot, Brought(**given), person_of(request))
        return shot_said(pk, request, 201)


def _attempt(pk: int, request: Request) -> ShotAttempt:
    attempt = get_object_or_404(
        ShotAttempt.objects.visible_to(person_of(request)).select_related(
            "shot__job", "shot__original", "footage"
        ),
        pk=pk,
    )
    ruled_shot(attempt.shot_id, request)
    return attempt


class ShotCheckView(APIView):
    """Ask again for a check that failed."""

    @extend_schema(request=None, responses=shape.ShotOf, operation_id="check_shot")
    def post(self, request: Request, pk: int) -> Response:
        attempt = _attempt(pk, request)
        ask_check(attempt)
        return shot_said(attempt.shot_id, request)


class ShotVerdictsView(APIView):
    """Rule some frames of a region in an attempt."""

    @extend_schema(
        request=shape.ShotRulingAsked,
        responses={200: shape.ShotOf, 400: Failure, 409: Failure},
        operation_id="rule_shot",
    )
    def post(self, request: Request, pk: int) -> Response:
        attempt = _attempt(pk, request)
        given = validated(shape.ShotRulingAsked, request)
        region = get_object_or_404(ShotRegion, shot=attempt.shot_id, pk=given["region"])
        try:
            rule(
                attempt,
                region,
                (given["first"], given["last"]),
                given["ruling"],
                given["words"],
                given["revision"],
                person_of(request),
            )
        except Stale:
            return Response(
                {"error": "Somebody ruled here meanwhile. Look at what stands now."}, 409
            )
        return shot_said(attempt.shot_id, request)


class ShotOutlinesView(APIView):
    """Draw a region of a shot in one frame, or correct it there."""

    @extend_schema(
        request=shape.ShotOutlineAsked,
        responses={200: shape.ShotOf, 400: Failure},
        operation_id="draw_in_shot",
    )
    def post(self, request: Request, pk: int) -> Response:
        shot = ruled_shot(pk, request)
        given = validated(shape.ShotOutlineAsked, request)
        region = (
            get_object_or_404(ShotRegion, shot=shot, pk=given["region"])
            if given["region"] is not None
            else None
        )
        draw(shot, region, given["frame"], given["outlines"], person_of(request))
        return shot_said(pk, request)


class ShotOutlineView(APIView):
    """Take back what was drawn of a region in one frame."""

    @extend_schema(responses={200: shape.ShotOf, 400: Failure}, operation_id="forget_in_shot")
    def delete(self, request: Request, pk: int, region: int, frame: int) -> Response:
        shot = ruled_shot(pk, request)
        row = get_object_or_404(ShotRegion, shot=shot, pk=region)
        forget_outline(shot, row, frame, person_of(request))
        return shot_said(pk, request)


class FootageView(APIView):
    """Forget footage that is part of no shot."""

    @extend_schema(responses={204: None, 400: Failure}, operation_id="forget_footage")
    def delete(self, request: Request, pk: int) -> Response:
        person = person_of(request)
        row = get_object_or_404(Footage.objects.visible_to(person), pk=pk)
        if row.person_id != person.pk:
            supervised(person, row.job_id)
        forget_footage(row)
        return Response(status=204)


class _Played(APIView):
    def folder(self, request: Request, pk: int) -> str | None:
        """Where footage's proxies are; None while they are being made."""
        row = get_object_or_404(Footage.objects.visible_to(person_of(request)), pk=pk)
        found = proxies_of(row)
        return folder_name(found) if stands_whole(found) else None


_MAKING = "The frames of this footage are being drawn."


class ProxiesView(_Played):
    """Where each frame is in the segments; asking for them to be made again."""

    @extend_schema(responses={200: shape.ProxyIndex, 503: Failure}, operation_id="proxies")
    def get(self, request: Request, pk: int) -> Response:
        folder = self.folder(request, pk)
        if folder is None:
            return Response({"error": _MAKING}, 503, headers={"Retry-After": "1"})
        try:
            return Response(json.loads(derived().bytes_of(f"{folder}/index.json")))
        except Damaged as error:
            raise NotFound("The frames are not there any more.") from error

    @extend_schema(request=None, responses={204: None}, operation_id="draw_proxies")
    @transaction.atomic
    def post(self, request: Request, pk: int) -> Response:
        row = get_object_or_404(Footage.objects.visible_to(person_of(request)), pk=pk)
        if row.holds == "frames" and row.state == "ready":
            ask_proxies(row)
        return Response(status=204)


class SingleFrameView(APIView):
    """One frame at full size, without loss."""

    def footage(self, request: Request, pk: int, frame: int) -> Footage:
        row = get_object_or_404(Footage.objects.visible_to(person_of(request)), pk=pk)
        if row.holds != "frames" or row.state != "ready" or frame >= row.frames:
            raise NotFound("There is no such frame.")
        return row

    @extend_schema(
        responses={(200, "image/png"): OpenApiTypes.BINARY, 503: Failure},
        operation_id="single_frame",
    )
    def get(self, request: Request, pk: int, frame: int) -> HttpResponseBase:
        name = name_of(single_of(self.footage(request, pk, frame), frame))
        if name is None:
            return Response({"error": _MAKING}, 503, headers={"Retry-After": "1"})
        try:
            return file_of(name, "image/png")
        except OSError as error:
            raise NotFound("The frame is not there any more.") from error

    @extend_schema(request=None, responses={204: None}, operation_id="draw_single_frame")
    def post(self, request: Request, pk: int, frame: int) -> Response:
        ask_single(self.footage(request, pk, frame), frame)
        return Response(status=204)


class SegmentView(_Played):
    """One segment: JPEG files of consecutive frames, one after another."""

    @extend_schema(
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY, 503: Failure},
        operation_id="segment",
    )
    def get(self, request: Request, pk: int, number: int) -> HttpResponseBase:
        folder = self.folder(request, pk)
        if folder is None:
            return Response({"error": _MAKING}, 503, headers={"Retry-After": "1"})
        try:
            return file_of(f"{folder}/{number}.jpgs", "application/octet-stream")
        except OSError as error:
            raise NotFound("There is no such segment.") from error
