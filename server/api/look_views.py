"""Comparing many attempts of one region: the Spread, picks, blind pairs. What a person found, and
what a client lets pass.
"""

from __future__ import annotations

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import PermissionDenied, ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from attempts.assembling import ask_assembly
from attempts.models import Attempt
from history.models import record_job
from images.pyramids import standing
from jobs.models import STAFF, Job, Membership, Picture, jobs_of
from ledger.changes import changes_between
from ledger.spread import choose, pair_for, pick, spread_of, unchoose
from looks.cold import keep_look, to_look_at, uncovered
from looks.models import OwnFinding
from looks.own import add_own, withdraw_own
from people.models import Person
from people.sessions import person_of
from regions.models import Region
from verdicts.models import Cell
from zweiblick_core.rules.bar import checked
from zweiblick_core.rules.kinds import ALL_KINDS, PERSONS, SEEN_AS

from . import serializers as shape
from .asking import asked_whole, size_asked
from .permissions import Rules
from .shapes import assembly_of, cell_detail, image_of


def _region(request: Request, pk: int) -> Region:
    found: Region = get_object_or_404(
        Region.objects.visible_to(person_of(request)).select_related("picture__job", "current"),
        pk=pk,
    )
    return found


class SpreadView(APIView):
    """One region across all attempts: order by machine and by people, and the settings of each."""

    @extend_schema(
        responses=shape.Spread,
        operation_id="spread",
        parameters=[OpenApiParameter("size", int, description="a delivery size of the job")],
    )
    def get(self, request: Request, pk: int) -> Response:
        region = _region(request, pk)
        return Response(spread_of(region, size_asked(request, region.picture)))


class PickView(APIView):
    """Pick the attempt that holds best in a region."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.PickAsked,
        responses=shape.Spread,
        operation_id="pick",
        parameters=[OpenApiParameter("size", int)],
    )
    def post(self, request: Request, pk: int) -> Response:
        region = _region(request, pk)
        self.check_object_permissions(request, region)
        asked = shape.PickAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        attempt = region.picture.attempts.filter(pk=asked.validated_data["attempt"]).first()
        if attempt is None:
            raise ValidationError("This picture has no such attempt.")
        size = size_asked(request, region.picture)
        pick(region, attempt, person_of(request))
        return Response(spread_of(region, size))


class PairView(APIView):
    """Blind pairs of a region: the next one, with names hidden; a choice; the last choice taken
    back.
    """

    permission_classes = [IsAuthenticated, Rules]

    def _next(self, region: Region, person: Person) -> Response:
        pair = pair_for(region, person)
        hidden = (
            [
                {**image_of(attempt.image), "name": side, "facts": ""}
                for attempt, side in zip(pair, ("left", "right"), strict=True)
            ]
            if pair
            else [None, None]
        )
        return Response(
            {
                "region": region.pk,
                "left": hidden[0],
                "right": hidden[1],
                "pairs": region.pairs.filter(withdrawn_at=None).count(),
                "mine": region.pairs.filter(withdrawn_at=None, person=person).count(),
            }
        )

    @extend_schema(responses=shape.PairOf, operation_id="pair")
    def get(self, request: Request, pk: int) -> Response:
        region = _region(request, pk)
        self.check_object_permissions(request, region)
        return self._next(region, person_of(request))

    @extend_schema(request=shape.PairAsked, responses=shape.PairOf, operation_id="choose")
    def post(self, request: Request, pk: int) -> Response:
        region = _region(request, pk)
        self.check_object_permissions(request, region)
        asked = shape.PairAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        left, right = (
            region.picture.attempts.filter(image=given[side]).first() for side in ("left", "right")
        )
        if left is None or right is None or left == right:
            raise ValidationError("These are not two attempts of this picture.")
        choose(
            region,
            person_of(request),
            left,
            right,
            {"left": left, "right": right}.get(given["better"]),
        )
        return self._next(region, person_of(request))

    @extend_schema(responses={200: shape.PairOf}, operation_id="unchoose")
    def delete(self, request: Request, pk: int) -> Response:
        region = _region(request, pk)
        self.check_object_permissions(request, region)
        if not unchoose(region, person_of(request)):
            raise ValidationError("You have chosen no pair here yet.")
        return self._next(region, person_of(request))


class OwnFindingsView(APIView):
    """Outline a flaw in a cell; answers with the cell."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.OwnFindingAsked, responses={201: shape.CellDetail}, operation_id="mark_flaw"
    )
    def post(self, request: Request, pk: int) -> Response:
        cell = get_object_or_404(
            Cell.objects.visible_to(person_of(request)).select_related(
                "attempt__picture__job", "region__current"
            ),
            pk=pk,
        )
        self.check_object_permissions(request, cell)
        asked = shape.OwnFindingAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        size = None
        if given["size"] is not None:
            size = cell.attempt.picture.job.sizes.filter(pk=given["size"]).first()
            if size is None:
                raise ValidationError("This job has no such delivery size.")
        add_own(
            cell,
            person_of(request),
            given["kind"],
            given["severity"],
            size,
            given["words"],
            given["polygon"],
        )
        return Response(cell_detail(cell), 201)


class OwnFindingView(APIView):
    """Take a flaw that was outlined back."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(responses={204: None}, operation_id="unmark_flaw")
    def delete(self, request: Request, pk: int) -> Response:
        row = get_object_or_404(
            OwnFinding.objects.visible_to(person_of(request)).select_related(
                "attempt__picture__job"
            ),
            pk=pk,
        )
        self.check_object_permissions(request, row)
        withdraw_own(row, person_of(request))
        return Response(status=204)


class ChangesView(APIView):
    """What changed from another attempt of the picture to this one."""

    @extend_schema(
        responses=shape.ChangesOf,
        operation_id="changes",
        parameters=[
            OpenApiParameter(
                "before", int, required=True, description="another attempt of the picture"
            )
        ],
    )
    def get(self, request: Request, pk: int) -> Response:
        staff = Attempt.objects.filter(
            picture__in=Picture.objects.worked_by(person_of(request))
        ).select_related("picture__job", "run")
        after = get_object_or_404(staff, pk=pk)
        before = staff.filter(picture=after.picture, pk=asked_whole(request, "before") or 0).first()
        if before is None:
            raise ValidationError("This picture has no such attempt.")
        return Response(changes_between(before, after))


class AssembliesView(APIView):
    """Ask for an attempt that takes each region from an attempt of its own; answers with how far it
    is, which the Bench tells too.
    """

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.AssemblyAsked, responses={202: shape.AssemblyOf}, operation_id="assemble"
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = get_object_or_404(
            Picture.objects.worked_by(person_of(request)).select_related("job"), pk=pk
        )
        self.check_object_permissions(request, picture)
        asked = shape.AssemblyAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        made = ask_assembly(
            picture,
            {part["region"]: part["attempt"] for part in asked.validated_data["parts"]},
            person_of(request),
        )
        return Response(assembly_of(made), 202)


class ColdQueueView(APIView):
    """What one could look at cold: of each picture the attempt that holds best, without any name."""

    @extend_schema(responses=shape.ColdOne(many=True), operation_id="cold_queue")
    def get(self, request: Request) -> Response:
        rows = to_look_at(person_of(request))
        ready = standing([attempt.image for attempt, _ in rows])
        return Response(
            [
                {
                    "attempt": attempt.pk,
                    "cold": cold,
                    "image": {
                        **image_of(attempt.image, attempt.image_id in ready),
                        "name": "",
                        "facts": "",
                    },
                }
                for attempt, cold in rows
            ]
        )


class ColdLooksView(APIView):
    """Keep where the eye stopped in an attempt seen alone; answers with what lies under it."""

    @extend_schema(
        request=shape.ColdAsked, responses={201: shape.Uncovered}, operation_id="look_cold"
    )
    def post(self, request: Request, pk: int) -> Response:
        attempt = get_object_or_404(
            Attempt.objects.filter(
                picture__in=Picture.objects.worked_by(person_of(request))
            ).select_related("picture__job"),
            pk=pk,
        )
        asked = shape.ColdAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        return Response(
            uncovered(
                keep_look(
                    attempt, person_of(request), given["clicks"], given["flipped"], given["seconds"]
                )
            ),
            201,
        )


class KindsView(APIView):
    """The kinds of flaw, with what a person sees."""

    @extend_schema(responses=shape.KindOf(many=True), operation_id="kinds")
    def get(self, request: Request) -> Response:
        return Response(
            [
                {"name": kind, "says": SEEN_AS[kind], "machine": kind not in PERSONS}
                for kind in ALL_KINDS
            ]
        )


class BarView(APIView):
    """The client's bar of a job."""

    @extend_schema(request=shape.BarAsked, responses=shape.BarAsked, operation_id="set_bar")
    def put(self, request: Request, pk: int) -> Response:
        job = get_object_or_404(
            Job.objects.filter(jobs_of(person_of(request), *STAFF)).distinct(), pk=pk
        )
        if job.role_of(person_of(request)) != Membership.Role.SUPERVISOR:
            raise PermissionDenied(Rules.message)
        asked = shape.BarAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        bar = checked(asked.validated_data["bar"])
        with transaction.atomic():
            held = Job.objects.select_for_update().get(pk=job.pk)
            before, held.bar = held.bar, bar
            held.save(update_fields=["bar"])
            record_job(held, person_of(request), "client's bar", "", before=before, after=bar)
        job.bar = bar
        return Response({"bar": job.bar})
