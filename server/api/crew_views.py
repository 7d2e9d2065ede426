"""A job's page: what was entered of it, who takes part, who is invited; joining by a link."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import login
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import BaseThrottle, ScopedRateThrottle
from rest_framework.views import APIView

from attempts.correcting import withdrawn_pictures
from crew.editing import JobEdit, SizeEdit, edit_job, remove, set_role
from crew.inviting import accept_anew, accept_as, found, invite, open_of, withdraw
from crew.models import Invitation
from jobs.models import Job
from ledger.models import PictureState
from ledger.standing import states_of
from people.authentication import SessionSignIn
from people.models import Person
from people.sessions import person_of
from signing.models import SignOff
from zweiblick_core.errors import Refused
from zweiblick_core.rules.rights import USES

from . import crew_serializers as shape
from .asking import validated
from .intake_views import job_of, supervised
from .serializers import Failure


def sheet_of(job: Job, person: Person, link: str | None = None) -> dict[str, Any]:
    """A job's page."""
    states = PictureState.objects.filter(picture__job=job, picture__withdrawn_at=None)
    signed = set(SignOff.objects.filter(standing__job=job).values_list("standing_id", flat=True))
    return {
        "job": job_of(job, person),
        "uses": list(USES),
        "bar": job.bar,
        "standing": states_of(job),
        "signed": len(signed),
        "pictures": [
            {
                "id": row.picture_id,
                "number": row.picture.number,
                "name": row.picture.name,
                "state": row.state,
                "regions": row.regions,
                "undecided": row.undecided,
                "attempts": row.attempts,
                "signed": row.picture_id in signed,
            }
            for row in states.select_related("picture").order_by("picture__number")
        ],
        "withdrawn": [
            {"id": row.pk, "number": row.number, "name": row.name}
            for row in withdrawn_pictures(job)
        ],
        "invitations": [
            {
                "id": row.pk,
                "name": row.name,
                "role": row.role,
                "made_by": row.made_by.called,
                "expires_at": row.expires_at,
            }
            for row in open_of(job).select_related("made_by")
        ],
        "link": link,
    }


class JobSheetView(APIView):
    """A job's page; correcting what was entered of it."""

    @extend_schema(responses=shape.JobSheet, operation_id="job_sheet")
    def get(self, request: Request, pk: int) -> Response:
        return Response(sheet_of(supervised(person_of(request), pk), person_of(request)))

    @extend_schema(
        request=shape.JobEdited,
        responses={200: shape.JobSheet, 400: Failure},
        operation_id="edit_job",
    )
    def patch(self, request: Request, pk: int) -> Response:
        job = supervised(person_of(request), pk)
        given = validated(shape.JobEdited, request)
        sizes = given.get("sizes")
        edit = JobEdit(
            given.get("name"),
            given.get("client"),
            given.get("use"),
            given.get("deadline"),
            "deadline" in given,
            None if sizes is None else [SizeEdit(**size) for size in sizes],
        )
        edit_job(job, edit, person_of(request))
        return Response(sheet_of(job, person_of(request)))


class MemberView(APIView):
    """Give somebody another role in a job; take them out of it."""

    def member(self, pk: int, person: int) -> Person:
        return get_object_or_404(Person, memberships__job=pk, pk=person)

    @extend_schema(
        request=shape.RoleAsked,
        responses={200: shape.JobSheet, 400: Failure},
        operation_id="set_role",
    )
    def put(self, request: Request, pk: int, person: int) -> Response:
        job = supervised(person_of(request), pk)
        given = validated(shape.RoleAsked, request)
        set_role(job, self.member(pk, person), given["role"], person_of(request))
        return _left_orsheet_of(job, request)

    @extend_schema(
        responses={200: shape.JobSheet, 204: None, 400: Failure}, operation_id="remove_member"
    )
    def delete(self, request: Request, pk: int, person: int) -> Response:
        job = supervised(person_of(request), pk)
        remove(job, self.member(pk, person), person_of(request))
        return _left_orsheet_of(job, request)


def _left_orsheet_of(job: Job, request: Request) -> Response:
    """The sheet; nothing for whoever took themselves out."""
    if job.role_of(person_of(request)) != "supervisor":
        return Response(status=204)
    return Response(sheet_of(job, person_of(request)))


class InvitationsView(APIView):
    """Invite somebody into a job. The link is in the answer, and nowhere else."""

    @extend_schema(
        request=shape.InvitationAsked,
        responses={201: shape.JobSheet, 400: Failure},
        operation_id="invite",
    )
    def post(self, request: Request, pk: int) -> Response:
        job = supervised(person_of(request), pk)
        given = validated(shape.InvitationAsked, request)
        _, token = invite(job, given["role"], given["name"], person_of(request))
        link = request.build_absolute_uri(f"/join/{token}")
        return Response(sheet_of(job, person_of(request), link), status=201)


class InvitationView(APIView):
    """Take an invitation back."""

    @extend_schema(responses=shape.JobSheet, operation_id="withdraw_invitation")
    def delete(self, request: Request, pk: int) -> Response:
        row = get_object_or_404(Invitation.objects.select_related("job"), pk=pk)
        job = supervised(person_of(request), row.job_id)
        withdraw(row, person_of(request))
        return Response(sheet_of(job, person_of(request)))


class JoinView(APIView):
    """What a link invites to; joining with the account one is signed in with, or with a new one."""

    permission_classes = [AllowAny]
    throttle_scope = "sign-in"

    def get_throttles(self) -> list[BaseThrottle]:
        # A link cannot be guessed, but nobody should try all day.
        return [ScopedRateThrottle()]

    @extend_schema(responses={200: shape.InvitedTo, 400: Failure}, operation_id="invited_to")
    def get(self, request: Request, token: str) -> Response:
        row = found(token)
        return Response(
            {
                "job": row.job.name,
                "role": row.role,
                "name": row.name,
                "by": row.made_by.called,
                "expires_at": row.expires_at,
            }
        )

    @extend_schema(request=shape.Joining, responses={204: None, 400: Failure}, operation_id="join")
    def post(self, request: Request, token: str) -> Response:
        SessionSignIn().enforce_csrf(request)
        given = validated(shape.Joining, request)
        if isinstance(request.user, Person):
            accept_as(token, request.user)
            return Response(status=204)
        if not given["username"].strip():
            raise Refused("Choose a name to sign in with.")
        made = accept_anew(token, given["username"], given["name"], given["password"])
        login(request._request, made, "django.contrib.auth.backends.ModelBackend")
        return Response(status=204)
