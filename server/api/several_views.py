"""Slips of many pictures: what waits to be sent back, writing and sending several at once."""

from __future__ import annotations

from django.http import Http404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers as s
from rest_framework.exceptions import PermissionDenied
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from jobs.models import Membership, Picture
from people.models import Person
from people.sessions import person_of
from slips.models import Slip
from slips.several import MOST, send_slips, supervised, waiting, write_slips
from slips.writing import Recipient

from . import slip_serializers as shape
from .asking import person_named, validated
from .permissions import Rules
from .serializers import Bounded, Failure, Plain, Whole
from .slip_shapes import slips_of
from .slip_views import PARTS, ROWS


class WaitingOf(Plain):
    picture = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    job = s.CharField()
    regions = s.IntegerField(help_text="that failed, hold in no attempt and are on no slip")


class SlipsWritten(Plain):
    pictures = Bounded(child=Whole(), min_length=1, max_length=MOST)


class SlipsSent(Plain):
    slips = Bounded(child=Whole(), min_length=1, max_length=MOST)
    worker = Whole(
        allow_null=True, required=False, default=None, help_text="null: the desk, or a method"
    )
    method = s.CharField(max_length=120, required=False, default="", allow_blank=True)
    due = s.DateField(allow_null=True, required=False, default=None)
    note = s.CharField(
        max_length=4000,
        allow_null=True,
        allow_blank=True,
        required=False,
        default=None,
        help_text="words on each; null: each keeps its own",
    )


def _refuse_others(person: Person, jobs: set[int]) -> None:
    """Raises: PermissionDenied: the person does not supervise all of these jobs."""
    rules = Membership.objects.filter(
        person=person, job__in=jobs, role=Membership.Role.SUPERVISOR
    ).values_list("job_id", flat=True)
    if jobs - set(rules):
        raise PermissionDenied(Rules.message)


def _answer(slips: list[Slip], person: Person) -> Response:
    rows = Slip.objects.filter(pk__in=[slip.pk for slip in slips])
    rows = rows.select_related(*ROWS).prefetch_related(*PARTS)
    return Response(slips_of(list(rows), person))


class WaitingView(APIView):
    """Pictures of which something waits to be sent back; writing their slips, all or none."""

    @extend_schema(responses=WaitingOf(many=True), operation_id="waiting_to_send_back")
    def get(self, request: Request) -> Response:
        return Response(
            [
                {
                    "picture": one.picture.pk,
                    "number": one.picture.number,
                    "name": one.picture.name,
                    "job": one.picture.job.name,
                    "regions": len(one.cells),
                }
                for one in waiting(supervised(person_of(request)))
            ]
        )

    @extend_schema(
        request=SlipsWritten,
        responses={200: shape.SlipOf(many=True), 400: Failure},
        operation_id="write_slips",
    )
    def post(self, request: Request) -> Response:
        person = person_of(request)
        wanted = set(validated(SlipsWritten, request)["pictures"])
        pictures = list(
            Picture.objects.worked_by(person).filter(pk__in=wanted).select_related("job")
        )
        if {picture.pk for picture in pictures} != wanted:
            raise Http404
        _refuse_others(person, {picture.job_id for picture in pictures})
        return _answer(write_slips(pictures, person), person)


class SendSlipsView(APIView):
    """Send several slips to one recipient, all or none."""

    @extend_schema(
        request=SlipsSent,
        responses={200: shape.SlipOf(many=True), 400: Failure, 409: Failure},
        operation_id="send_slips",
    )
    def post(self, request: Request) -> Response:
        person, given = person_of(request), validated(SlipsSent, request)
        wanted = set(given["slips"])
        slips = list(
            Slip.objects.visible_to(person).filter(pk__in=wanted).select_related("picture__job")
        )
        if {slip.pk for slip in slips} != wanted:
            raise Http404
        _refuse_others(person, {slip.picture.job_id for slip in slips})
        to = Recipient(person_named(given["worker"]), given["method"])
        return _answer(send_slips(slips, person, to, given["due"], given["note"]), person)
