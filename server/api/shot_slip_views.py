"""Slips of shots: sending, working, talking, handing in."""

from __future__ import annotations

from django.http import FileResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import NotFound, PermissionDenied
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from shots.models import Footage, ShotAttempt, ShotRegion, ShotSlip
from shots.packages import ask_package, is_kept, stored_name
from shots.sending import Wanted, hand_in, send, step
from shots.talking import BY_SUPERVISOR, BY_WORKER, hand_over, say

from jobs.models import Membership
from people.models import Person
from people.sessions import person_of
from store.places import blobs, deliveries

from . import shot_serializers as shape
from . import shot_slip_serializers as slips
from .asking import asked_whole, validated
from .serializers import Failure
from .shot_slip_shapes import listed
from .shot_views import ruled_shot, shot_said, whole_shot

#: A list has so many.
A_PAGE = 50


class ShotSlipsOfAllView(APIView):
    """Slips of shots that one supervises or works on, the newest first."""

    @extend_schema(
        parameters=[OpenApiParameter("before", int, description="a slip; older ones than it")],
        responses=slips.ShotSlipInList(many=True),
        operation_id="shot_slips",
    )
    def get(self, request: Request) -> Response:
        person = person_of(request)
        rows = ShotSlip.objects.visible_to(person)
        before = asked_whole(request, "before")
        if before is not None:
            rows = rows.filter(pk__lt=before)
        return Response(listed(rows, person, A_PAGE))


class ShotSlipsView(APIView):
    """Send frames of regions back to be worked again, or have them mended."""

    @extend_schema(
        request=slips.ShotSlipAsked,
        responses={201: shape.ShotOf, 400: Failure},
        operation_id="send_shot_slip",
    )
    def post(self, request: Request, pk: int) -> Response:
        shot = ruled_shot(pk, request)
        given = validated(slips.ShotSlipAsked, request)
        attempts = ShotAttempt.objects.filter(shot=shot).select_related("footage")

        def named(row: int) -> ShotAttempt:
            return get_object_or_404(attempts, pk=row)

        workers = Person.objects.filter(memberships__job=shot.job)
        repaired = given["repaired"]
        wanted = Wanted(
            None if given["attempt"] is None else named(given["attempt"]),
            [
                (
                    get_object_or_404(ShotRegion, shot=shot, pk=part["region"]),
                    [(one["first"], one["last"]) for one in part["ranges"]],
                )
                for part in given["parts"]
            ],
            None if given["worker"] is None else get_object_or_404(workers, pk=given["worker"]),
            given["method"],
            None if repaired is None else (named(repaired["attempt"]), repaired["frames"]),
            given["note"],
            given["due"],
        )
        send(shot, wanted, person_of(request))
        return shot_said(pk, request, 201)


def _slip(pk: int, request: Request) -> ShotSlip:
    """A slip of a shot that the person supervises, or works on themselves."""
    rows = ShotSlip.objects.visible_to(person_of(request))
    return get_object_or_404(rows.select_related("shot__job", "worker"), pk=pk)


def _is_supervisor(slip: ShotSlip, request: Request) -> bool:
    return slip.shot.job.role_of(person_of(request)) == Membership.Role.SUPERVISOR


class ShotSlipView(APIView):
    """Take a slip up, ask and answer, decline, hand over, withdraw or settle it, send it again after it
    failed.
    """

    @extend_schema(
        request=slips.ShotSlipStep,
        responses={200: shape.ShotOf, 400: Failure, 409: Failure},
        operation_id="step_shot_slip",
    )
    def post(self, request: Request, pk: int) -> Response:
        slip, person = _slip(pk, request), person_of(request)
        whole_shot(slip.shot_id, request)
        given = validated(slips.ShotSlipStep, request)
        event = given["event"]
        if event in BY_WORKER and slip.worker_id != person.pk:
            raise PermissionDenied("Only whoever this slip went to may say that.")
        if event not in (*BY_WORKER, "taken up") and not _is_supervisor(slip, request):
            raise PermissionDenied("Only a supervisor of this job may do that.")
        if event in (*BY_WORKER, *BY_SUPERVISOR):
            say(slip, person, event, given["words"])
        elif event == "handed over":
            workers = Person.objects.filter(memberships__job=slip.shot.job)
            worker = get_object_or_404(workers, pk=given["worker"])
            hand_over(slip, person, worker, given["words"])
        else:
            step(slip, event, person)
        return shot_said(slip.shot_id, request)


class ShotAnswerView(APIView):
    """Hand footage in as a slip's answer: a retoucher their own, a supervisor any of the job."""

    @extend_schema(
        request=slips.ShotAnswerAsked,
        responses={201: shape.ShotOf, 400: Failure, 409: Failure},
        operation_id="answer_shot_slip",
    )
    def post(self, request: Request, pk: int) -> Response:
        slip, person = _slip(pk, request), person_of(request)
        given = validated(slips.ShotAnswerAsked, request)
        footage = Footage.objects.filter(job=slip.shot.job_id)
        if not _is_supervisor(slip, request):
            footage = footage.filter(person=person)
        hand_in(slip, get_object_or_404(footage, pk=given["footage"]), person)
        return shot_said(slip.shot_id, request, 201)


class ShotPackageView(APIView):
    """What is asked, and the masks; the footage itself is had as it came."""

    @extend_schema(
        responses={(200, "application/zip"): OpenApiTypes.BINARY}, operation_id="shot_package"
    )
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        slip = _slip(pk, request)
        if not is_kept(slip):
            raise NotFound("The package is not built yet; ask for it.")
        return FileResponse(
            deliveries().opened(stored_name(slip)),
            as_attachment=True,
            filename=f"shot-{slip.shot.number:02}-slip-{slip.round}.zip",
            content_type="application/zip",
            headers={"Cache-Control": "private, no-store"},
        )

    @extend_schema(
        request=None, responses={202: shape.ShotOf, 400: Failure}, operation_id="build_shot_package"
    )
    def post(self, request: Request, pk: int) -> Response:
        """Have it built as the slip stands."""
        slip = _slip(pk, request)
        ask_package(slip)
        return shot_said(slip.shot_id, request, 202)


class FootageFileView(APIView):
    """Footage as it came."""

    @extend_schema(
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY},
        operation_id="footage_file",
    )
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        row = get_object_or_404(
            Footage.objects.visible_to(person_of(request)).select_related("blob"), pk=pk
        )
        return FileResponse(
            blobs().opened(row.blob.path),
            as_attachment=True,
            filename=row.name,
            content_type=row.blob.media_type,
            headers={"Cache-Control": "private, no-store"},
        )
