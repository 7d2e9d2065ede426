"""Jobs, and bringing pictures in."""

from __future__ import annotations

from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import Count, Prefetch, QuerySet
from django.http import HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound, PermissionDenied, ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from arrivals.answering import answers_of, hand_in_arrival
from arrivals.bringing import ask_incoming, incoming_state
from arrivals.fits import fit_of
from arrivals.models import Arrival, Incoming
from arrivals.receiving import forget, kept_until, receive, small_of
from history.models import record_job
from jobs.models import STAFF, DeliverySize, Job, Membership, Picture
from people.authentication import SessionSignIn
from people.models import Person, Token
from people.sessions import person_of
from people.tokens import PersonalToken
from slips.matching import called
from zweiblick_core.rules.pairing import own_words, pair, part_of
from zweiblick_core.rules.rights import TERMS
from zweiblick_core.visibility import parse_size

from . import fact_serializers as facts
from . import serializers as shape
from .fact_shapes import methods_of
from .parsers import Files
from .permissions import Rules

#: What a program may do with a token: look at jobs, and bring files in.
BY_PROGRAM = [PersonalToken, SessionSignIn]


def supervised(person: Person, pk: int) -> Job:
    return get_object_or_404(
        Job.objects.filter(
            memberships__person=person, memberships__role=Membership.Role.SUPERVISOR
        ).distinct(),
        pk=pk,
    )


def jobs_of(jobs: QuerySet[Job], person: Person) -> list[dict[str, Any]]:
    """Jobs as the API says them, all with the same few queries."""
    rows = jobs.prefetch_related(
        "sizes",
        Prefetch(
            "memberships",
            Membership.objects.select_related("person").order_by("person__name"),
        ),
        Prefetch("pictures", Picture.objects.order_by("number")),
    ).annotate(waiting=Count("arrivals", distinct=True))
    return [_job(job, person, job.waiting) for job in rows]


def job_of(job: Job, person: Person) -> dict[str, Any]:
    return jobs_of(Job.objects.filter(pk=job.pk), person)[0]


def _job(job: Job, person: Person, waiting: int) -> dict[str, Any]:
    members = list(job.memberships.all())
    return {
        "id": job.pk,
        "name": job.name,
        "client": job.client,
        "use": job.use,
        "deadline": job.deadline,
        "role": next((one.role for one in members if one.person_id == person.pk), None),
        "sizes": [
            {"id": size.pk, "name": size.name, "spec": size.spec} for size in job.sizes.all()
        ],
        "people": [
            {"id": member.person_id, "name": member.person.called, "role": member.role}
            for member in members
        ],
        "pictures": [
            {"id": picture.pk, "number": picture.number, "name": picture.name}
            for picture in job.pictures.all()
        ],
        "waiting": waiting,
    }


def arrival_of(arrival: Arrival, answers: dict[str, Any] | None = None) -> dict[str, Any]:
    ready = arrival.state == "ready"
    profile = arrival.facts.get("profile", "none")
    pages = arrival.facts.get("pages", 1)
    said = [f"{arrival.format.upper()}", f"{arrival.depth} bit"]
    said += [] if profile == "none" else [profile]
    # Only the first page or frame of a file is judged, which people should know.
    said += [] if pages == 1 else [f"the first of {pages} pages"]
    part = part_of(arrival.name)[1]
    marks = arrival.facts.get("two_valued") and arrival.format == "png"
    return {
        "id": arrival.pk,
        "name": arrival.name,
        "state": arrival.state,
        "reason": arrival.reason,
        "size": arrival.size,
        "width": arrival.width,
        "height": arrival.height,
        "small": f"/api/arrivals/{arrival.pk}/small/" if ready else None,
        "facts": ", ".join(said) if ready else "",
        "part": "mask" if marks and part in ("mask", None) else part,
        "words": own_words(arrival.name),
        "answers": answers,
        "kept_until": kept_until(arrival),
    }


class JobsView(APIView):
    """The jobs one takes part in; making one."""

    authentication_classes = BY_PROGRAM

    @extend_schema(responses=shape.JobOf(many=True), operation_id="jobs")
    def get(self, request: Request) -> Response:
        jobs = Job.objects.filter(
            memberships__person=person_of(request), memberships__role__in=STAFF
        ).distinct()
        return Response(jobs_of(jobs.order_by("deadline", "id"), person_of(request)))

    @extend_schema(
        request=shape.JobAsked,
        responses={201: shape.JobOf, 400: shape.Failure},
        operation_id="make_job",
    )
    def post(self, request: Request) -> Response:
        if isinstance(request.auth, Token):
            raise PermissionDenied("A program brings files in; it makes no jobs.")
        if not person_of(request).makes_jobs:
            raise PermissionDenied("Only somebody who may make jobs can do that.")
        asked = shape.JobAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        for size in given["sizes"]:
            parse_size(size["spec"])
        names = [size["name"] for size in given["sizes"]]
        if len(set(names)) < len(names):
            raise ValidationError("Two delivery sizes have the same name.")
        # Only people one works with already can be taken in by their number.
        known = (
            Person.objects.filter(memberships__job__memberships__person=person_of(request))
            .exclude(pk=person_of(request).pk)
            .distinct()
        )
        people = {
            person.pk: person
            for person in known.filter(pk__in=[one["person"] for one in given["people"]])
        }
        if len(people) < len({one["person"] for one in given["people"]}):
            raise ValidationError("There is no such person.")
        try:
            job = self._made(person_of(request), given, people)
        except IntegrityError as error:
            # The database knows better than we which names are written differently and are one.
            raise ValidationError("Two delivery sizes have the same name.") from error
        return Response(job_of(job, person_of(request)), status=201)

    @transaction.atomic
    def _made(self, person: Person, given: dict[str, Any], people: dict[int, Person]) -> Job:
        job = Job.objects.create(
            name=given["name"],
            client=given["client"],
            deadline=given["deadline"],
            use=given["use"],
        )
        Membership.objects.create(job=job, person=person, role=Membership.Role.SUPERVISOR)
        for one in given["people"]:
            Membership.objects.get_or_create(
                job=job, person=people[one["person"]], defaults={"role": one["role"]}
            )
        for position, size in enumerate(given["sizes"]):
            DeliverySize.objects.create(
                job=job, name=size["name"], spec=size["spec"], position=position
            )
        record_job(
            job, person, "job made", "", after={"sizes": [size["spec"] for size in given["sizes"]]}
        )
        return job


class ColleaguesView(APIView):
    """People one shares a job with, to be taken into another."""

    @extend_schema(responses=shape.PersonOf(many=True), operation_id="colleagues")
    def get(self, request: Request) -> Response:
        mine = Job.objects.filter(
            memberships__person=person_of(request), memberships__role=Membership.Role.SUPERVISOR
        )
        rows = (
            Membership.objects.filter(job__in=mine)
            .exclude(person=person_of(request))
            .select_related("person")
            .order_by("person__name")
        )
        found = {
            row.person_id: {"id": row.person_id, "name": row.person.called, "role": row.role}
            for row in rows
        }
        return Response(list(found.values()))


class IntakeView(APIView):
    """A job with what arrived for it, and the pairing that the names suggest."""

    authentication_classes = BY_PROGRAM

    @extend_schema(responses=facts.Intake, operation_id="intake")
    def get(self, request: Request, pk: int) -> Response:
        job = supervised(person_of(request), pk)
        arrivals = list(job.arrivals.filter(taken_by=None))
        answers = answers_of(job, arrivals)
        by_name = {
            arrival.name: arrival.pk
            for arrival in arrivals
            if arrival.state != "refused" and arrival.pk not in answers
        }
        by_picture = {picture.name: picture.pk for picture in job.pictures.all()}
        groups = [
            {
                "name": group.name,
                "picture": by_picture.get(group.known) if group.known else None,
                "original": by_name.get(group.original) if group.original else None,
                "mask": by_name.get(group.mask) if group.mask else None,
                "results": [by_name[name] for name in group.results],
                "outlines": [
                    {"result": by_name[result], "mask": by_name[mask]}
                    for result, mask in group.outlines.items()
                ],
            }
            for group in pair(by_name, by_picture)
        ]
        return Response(
            {
                "job": job_of(job, person_of(request)),
                "arrivals": [arrival_of(arrival, answers.get(arrival.pk)) for arrival in arrivals],
                "groups": groups,
                "methods": methods_of(job),
                "terms": list(TERMS),
            }
        )


class ArrivalsView(APIView):
    """A file arrives. What cannot be used by its header is refused at once; the rest is read by a
    worker, and refused then with its reason.
    """

    parser_classes = [Files]

    @extend_schema(
        request={"multipart/form-data": shape.Upload},
        responses={201: shape.ArrivalOf, 400: shape.Failure},
        operation_id="arrive",
    )
    def post(self, request: Request, pk: int) -> Response:
        job = supervised(person_of(request), pk)
        asked = shape.Upload(data=request.data)
        asked.is_valid(raise_exception=True)
        file = asked.validated_data["file"]
        arrival = receive(job, file.name, file.chunks(), file.size, person_of(request))
        return Response(arrival_of(arrival), status=201)


class ArrivalView(APIView):
    """Forget an arrival."""

    @extend_schema(responses={204: None, 400: shape.Failure}, operation_id="forget_arrival")
    def delete(self, request: Request, pk: int) -> Response:
        arrival = get_object_or_404(Arrival.objects.visible_to(person_of(request)), pk=pk)
        if arrival.taken_by_id is not None:
            raise ValidationError("This file is just being brought in.")
        forget(arrival)
        return Response(status=204)


class HandInArrivalView(APIView):
    """Hand a file in as the answer to the slip that it was found to answer."""

    @extend_schema(
        request=None,
        responses={202: shape.AnsweredOf, 400: shape.Failure, 409: shape.Failure},
        operation_id="hand_in_arrival",
    )
    def post(self, request: Request, pk: int) -> Response:
        arrival = get_object_or_404(Arrival.objects.visible_to(person_of(request)), pk=pk)
        slip = hand_in_arrival(arrival, person_of(request))
        return Response(
            {
                "id": slip.pk,
                "words": called(slip),
                "worker": slip.worker.called if slip.worker else "",
            },
            202,
        )


class ArrivalSmallView(APIView):
    """An arrival, small."""

    @extend_schema(
        responses={(200, "image/jpeg"): OpenApiTypes.BINARY}, operation_id="arrival_small"
    )
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        data = small_of(get_object_or_404(Arrival.objects.visible_to(person_of(request)), pk=pk))
        if data is None:
            raise NotFound("This file is not read yet.")
        return HttpResponse(
            data, content_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"}
        )


def _arrival(job: Job, pk: int) -> Arrival:
    found = job.arrivals.filter(pk=pk).first()
    if found is None:
        raise ValidationError("One of these files is not here any more; drop it again.")
    return found


class FitView(APIView):
    """Whether a result belongs to an original, before anything is stored."""

    authentication_classes = BY_PROGRAM

    @extend_schema(request=shape.FitAsked, responses=shape.FitOf, operation_id="fit")
    def post(self, request: Request, pk: int) -> Response:
        job = supervised(person_of(request), pk)
        asked = shape.FitAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        original: Arrival | Picture
        if given.get("picture"):
            original = get_object_or_404(job.pictures, pk=given["picture"])
        elif given.get("original"):
            original = _arrival(job, given["original"])
        else:
            raise ValidationError("An original is needed.")
        return Response(fit_of(original, _arrival(job, given["result"])))


def _plain(given: dict[str, Any]) -> dict[str, Any]:
    """What was asked for, as JSON keeps it."""
    cost = given["cost"]
    return {**given, "cost": None if cost is None else str(cost)}


class BringInView(APIView):
    """Bring one picture in with its results: all of it or nothing. A worker does it; ask how far it
    is.
    """

    authentication_classes = BY_PROGRAM

    @extend_schema(
        request=facts.BringIn,
        responses={202: shape.BroughtIn, 400: shape.Failure},
        operation_id="bring_in",
    )
    def post(self, request: Request, pk: int) -> Response:
        job = supervised(person_of(request), pk)
        asked = facts.BringIn(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        files = [
            given["original"],
            *([given["mask"]] if given["mask"] else []),
            *(one["arrival"] for one in given["results"]),
            *(one["mask"] for one in given["results"] if one["mask"]),
        ]
        if len(set(files)) < len(files):
            raise ValidationError("The same file stands in two places.")
        if not given["results"] and not given["mask"]:
            raise ValidationError("A picture needs a result or a mask.")
        wanted = {**given, "results": [_plain(one) for one in given["results"]]}
        return Response(incoming_state(ask_incoming(job, person_of(request), wanted)), status=202)


class BringResultView(APIView):
    """Bring in a further result for a picture that is there already."""

    authentication_classes = BY_PROGRAM

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=facts.ResultAsked,
        responses={202: shape.BroughtIn, 400: shape.Failure},
        operation_id="bring_result",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = get_object_or_404(
            Picture.objects.worked_by(person_of(request)).select_related("job"), pk=pk
        )
        self.check_object_permissions(request, picture)
        asked = facts.ResultAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        wanted = {"results": [_plain(asked.validated_data)]}
        made = ask_incoming(picture.job, person_of(request), wanted, picture)
        return Response(incoming_state(made), status=202)


class IncomingView(APIView):
    """How far something that is being brought in is."""

    authentication_classes = BY_PROGRAM

    @extend_schema(responses=shape.BroughtIn, operation_id="incoming")
    def get(self, request: Request, pk: int) -> Response:
        row = get_object_or_404(
            Incoming.objects.visible_to(person_of(request)).select_related("picture"), pk=pk
        )
        return Response(incoming_state(row))
