"""Jobs, and bringing pictures in."""

from __future__ import annotations

from arrivals.models import Arrival
from arrivals.receiving import Coming, bring_in, bring_result, fit_of, forget, receive, small_of
from django.conf import settings
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from looks.models import saw
from rest_framework.exceptions import PermissionDenied, ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.response import Response
from rest_framework.views import APIView

from attempts.intake import Facts
from attempts.models import Method
from jobs.models import STAFF, DeliverySize, Job, Membership, Picture
from people.models import Person
from zweiblick_core.errors import Refused
from zweiblick_core.rules.pairing import pair, part_of
from zweiblick_core.visibility import parse_size

from . import serializers as shape
from .permissions import Rules


def supervised(person, pk: int) -> Job:
    return get_object_or_404(
        Job.objects.filter(
            memberships__person=person, memberships__role=Membership.Role.SUPERVISOR
        ).distinct(),
        pk=pk,
    )


def job_of(job: Job, person) -> dict:
    members = job.memberships.select_related("person").order_by("person__name")
    return {
        "id": job.pk,
        "name": job.name,
        "client": job.client,
        "deadline": job.deadline,
        "role": job.role_of(person),
        "sizes": [
            {"id": size.pk, "name": size.name, "spec": size.spec} for size in job.sizes.all()
        ],
        "people": [
            {"id": member.person_id, "name": member.person.called, "role": member.role}
            for member in members
        ],
        "pictures": [
            {"id": picture.pk, "number": picture.number, "name": picture.name}
            for picture in job.pictures.order_by("number")
        ],
        "waiting": job.arrivals.count(),
    }


def arrival_of(arrival: Arrival) -> dict:
    return {
        "id": arrival.pk,
        "name": arrival.name,
        "size": arrival.size,
        "width": arrival.width,
        "height": arrival.height,
        "small": f"/api/arrivals/{arrival.pk}/small/",
        "facts": f"{arrival.format.upper()}, {arrival.depth} bit"
        + ("" if arrival.facts["profile"] == "none" else f", {arrival.facts['profile']}"),
        "part": "mask"
        if arrival.facts.get("two_valued")
        and part_of(arrival.name)[1] in ("mask", None)
        and arrival.format == "png"
        else part_of(arrival.name)[1],
    }


class JobsView(APIView):
    """The jobs one takes part in; making one."""

    @extend_schema(responses=shape.JobOf(many=True), operation_id="jobs")
    def get(self, request):
        jobs = Job.objects.filter(
            memberships__person=request.user, memberships__role__in=STAFF
        ).distinct()
        return Response([job_of(job, request.user) for job in jobs.order_by("deadline", "id")])

    @extend_schema(
        request=shape.JobAsked,
        responses={201: shape.JobOf, 400: shape.Failure},
        operation_id="make_job",
    )
    def post(self, request):
        if not request.user.makes_jobs:
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
            Person.objects.filter(memberships__job__memberships__person=request.user)
            .exclude(pk=request.user.pk)
            .distinct()
        )
        people = {
            person.pk: person
            for person in known.filter(pk__in=[one["person"] for one in given["people"]])
        }
        if len(people) < len({one["person"] for one in given["people"]}):
            raise ValidationError("There is no such person.")
        with transaction.atomic():
            job = Job.objects.create(
                name=given["name"], client=given["client"], deadline=given["deadline"]
            )
            Membership.objects.create(job=job, person=request.user, role=Membership.Role.SUPERVISOR)
            for one in given["people"]:
                Membership.objects.get_or_create(
                    job=job, person=people[one["person"]], defaults={"role": one["role"]}
                )
            for position, size in enumerate(given["sizes"]):
                DeliverySize.objects.create(
                    job=job, name=size["name"], spec=size["spec"], position=position
                )
        return Response(job_of(job, request.user), status=201)


class ColleaguesView(APIView):
    """People one shares a job with, to be taken into another."""

    @extend_schema(responses=shape.PersonOf(many=True), operation_id="colleagues")
    def get(self, request):
        mine = Job.objects.filter(
            memberships__person=request.user, memberships__role=Membership.Role.SUPERVISOR
        )
        rows = (
            Membership.objects.filter(job__in=mine)
            .exclude(person=request.user)
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

    @extend_schema(responses=shape.Intake, operation_id="intake")
    def get(self, request, pk: int):
        job = supervised(request.user, pk)
        arrivals = list(job.arrivals.all())
        by_name = {arrival.name: arrival.pk for arrival in arrivals}
        groups = [
            {
                "name": group.name,
                "original": by_name.get(group.original) if group.original else None,
                "mask": by_name.get(group.mask) if group.mask else None,
                "results": [by_name[name] for name in group.results],
            }
            for group in pair(by_name)
        ]
        return Response(
            {
                "job": job_of(job, request.user),
                "arrivals": [arrival_of(arrival) for arrival in arrivals],
                "groups": groups,
                "methods": [
                    {"name": method.name, "kind": method.kind}
                    for method in Method.objects.order_by("name")
                ],
            }
        )


class ArrivalsView(APIView):
    """A file arrives. It is read at once: what cannot be used is refused with one message, and
    nothing of it is kept.
    """

    @extend_schema(
        request={"multipart/form-data": shape.Upload},
        responses={201: shape.ArrivalOf, 400: shape.Failure},
        operation_id="arrive",
    )
    def post(self, request, pk: int):
        job = supervised(request.user, pk)
        file = request.FILES.get("file")
        if file is None:
            raise ValidationError("A file is needed.")
        if file.size > settings.MOST_BYTES:
            raise Refused(f"{file.name}: is larger than {settings.MOST_BYTES // 1_000_000} MB")
        try:
            return Response(
                arrival_of(receive(job, file.name, file.read(), request.user)), status=201
            )
        except Refused as error:
            raise Refused(str(error).replace("the file", file.name, 1)) from error


class ArrivalView(APIView):
    """Forget an arrival."""

    @extend_schema(responses={204: None}, operation_id="forget_arrival")
    def delete(self, request, pk: int):
        forget(get_object_or_404(Arrival.objects.visible_to(request.user), pk=pk))
        return Response(status=204)


class ArrivalSmallView(APIView):
    """An arrival, small."""

    @extend_schema(
        responses={(200, "image/jpeg"): OpenApiTypes.BINARY}, operation_id="arrival_small"
    )
    def get(self, request, pk: int):
        arrival = get_object_or_404(Arrival.objects.visible_to(request.user), pk=pk)
        return HttpResponse(
            small_of(arrival),
            content_type="image/jpeg",
            headers={"Cache-Control": "private, max-age=86400"},
        )


def _arrival(job: Job, pk: int) -> Arrival:
    found = job.arrivals.filter(pk=pk).first()
    if found is None:
        raise ValidationError("One of these files is not here any more; drop it again.")
    return found


class FitView(APIView):
    """Whether a result belongs to an original, before anything is stored."""

    @extend_schema(request=shape.FitAsked, responses=shape.FitOf, operation_id="fit")
    def post(self, request, pk: int):
        job = supervised(request.user, pk)
        asked = shape.FitAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        if given.get("picture"):
            original = get_object_or_404(job.pictures, pk=given["picture"])
        elif given.get("original"):
            original = _arrival(job, given["original"])
        else:
            raise ValidationError("An original is needed.")
        return Response(fit_of(original, _arrival(job, given["result"])))


def _coming(job: Job, given: dict) -> Coming:
    return Coming(
        _arrival(job, given["arrival"]),
        Facts(given["method"], given["kind"], given["maker"], given["seconds"], given["cost"], {}),
    )


class BringInView(APIView):
    """Store one picture with its results: all of it or nothing."""

    @extend_schema(
        request=shape.BringIn,
        responses={201: shape.BroughtIn, 400: shape.Failure},
        operation_id="bring_in",
    )
    def post(self, request, pk: int):
        job = supervised(request.user, pk)
        asked = shape.BringIn(data=request.data)
        asked.is_valid(raise_exception=True)
        given = asked.validated_data
        files = [
            given["original"],
            *([given["mask"]] if given["mask"] else []),
            *(one["arrival"] for one in given["results"]),
        ]
        if len(set(files)) < len(files):
            raise ValidationError("The same file stands in two places.")
        if not given["results"] and not given["mask"]:
            raise ValidationError("A picture needs a result or a mask.")
        picture = bring_in(
            job,
            given["name"],
            _arrival(job, given["original"]),
            _arrival(job, given["mask"]) if given["mask"] else None,
            [_coming(job, one) for one in given["results"]],
            request.user,
        )
        # Whoever brings a picture in has seen it on the way.
        saw(picture, request.user)
        return Response(
            {
                "picture": picture.pk,
                "regions": picture.regions.count(),
                "attempts": picture.attempts.count(),
            },
            status=201,
        )


class BringResultView(APIView):
    """A further result for a picture that is there already."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.ResultAsked,
        responses={201: shape.BroughtIn, 400: shape.Failure},
        operation_id="bring_result",
    )
    def post(self, request, pk: int):
        picture = get_object_or_404(
            Picture.objects.worked_by(request.user).select_related("job"), pk=pk
        )
        self.check_object_permissions(request, picture)
        asked = shape.ResultAsked(data=request.data)
        asked.is_valid(raise_exception=True)
        bring_result(picture, _coming(picture.job, asked.validated_data), request.user)
        return Response(
            {
                "picture": picture.pk,
                "regions": picture.regions.count(),
                "attempts": picture.attempts.count(),
            },
            status=201,
        )
