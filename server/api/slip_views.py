"""Slips: writing, editing, sending; the package and the result; what came back."""

from __future__ import annotations

from typing import Any

from django.db.models import F
from django.http import FileResponse, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import NotFound, ValidationError
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from arrivals.receiving import refuse_header
from attempts.models import Attempt
from images.crops import crop_of
from people.sessions import person_of
from slips.matching import package_name
from slips.models import Slip
from slips.packages import ask_package, is_kept, stored_name
from slips.repairing import put_sent_back
from slips.returning import Given, ask_return, hand_in
from slips.sending import send_slip, take_up, withdraw_slip
from slips.talking import BY_SUPERVISOR, hand_over, say
from slips.writing import Edit, Recipient, edit_slip, write_slip
from store.places import deliveries

from . import slip_serializers as shape
from .asking import asked_whole, person_named, validated
from .outside_shapes import slip_outside_of
from .parsers import Files
from .permissions import Rules, Works
from .serializers import Failure
from .slip_shapes import slip_of, slips_of
from .trial_serializers import TrialOf
from .trial_shapes import trial_of

ROWS = (
    "picture__job",
    "attempt__image__picture",
    "worker",
    "returned__image__picture",
    "written_by",
)
PARTS = (
    "regions__region",
    "regions__version",
    "regions__attempt__image__picture",
    "regions__verdict",
    "locks__region",
    "words__person",
)


def _slip(request: Request, pk: int) -> Slip:
    return get_object_or_404(
        Slip.objects.visible_to(person_of(request)).select_related(*ROWS).prefetch_related(*PARTS),
        pk=pk,
    )


class SlipsView(APIView):
    """What is out, what is back, is it fixed? The newest first, by pages."""

    #: The web asks for older ones while it gets as many.
    page = 100

    @extend_schema(
        responses=shape.SlipOf(many=True),
        operation_id="slips",
        parameters=[OpenApiParameter("before", int, description="a slip: those written earlier")],
    )
    def get(self, request: Request) -> Response:
        before = asked_whole(request, "before")
        rows = Slip.objects.visible_to(person_of(request))
        if before is not None:
            rows = rows.filter(pk__lt=before)
        rows = rows.select_related(*ROWS).prefetch_related(*PARTS)[: self.page]
        return Response(slips_of(list(rows), person_of(request)))


class WriteSlipView(APIView):
    """Write a slip from an attempt's failed regions."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=None, responses={201: shape.SlipOf, 400: Failure}, operation_id="write_slip"
    )
    def post(self, request: Request, pk: int) -> Response:
        attempt = get_object_or_404(
            Attempt.objects.visible_to(person_of(request)).select_related("picture__job"), pk=pk
        )
        self.check_object_permissions(request, attempt)
        return Response(
            slip_of(write_slip(attempt, person_of(request)), person_of(request)), status=201
        )


class SlipView(APIView):
    """One slip; its words and changes while it was not sent."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(responses=shape.SlipOf, operation_id="slip")
    def get(self, request: Request, pk: int) -> Response:
        return Response(slip_of(_slip(request, pk), person_of(request)))

    @extend_schema(
        request=shape.SlipEdit,
        responses={200: shape.SlipOf, 400: Failure},
        operation_id="edit_slip",
    )
    def patch(self, request: Request, pk: int) -> Response:
        slip = _slip(request, pk)
        if not Rules().has_object_permission(request, self, slip):
            self.permission_denied(request, Rules.message)
        given = validated(shape.SlipEdit, request)
        worker = person_named(given.get("worker"))
        to = None
        if "worker" in given or "method" in given or "tier" in given:
            to = Recipient(worker, given.get("method") or "", given.get("tier") or "")
        edit_slip(
            slip,
            person_of(request),
            Edit(
                given.get("note"),
                given.get("regions", []),
                given.get("cells"),
                to,
                given.get("due"),
                "due" in given,
            ),
        )
        return Response(slip_of(_slip(request, pk), person_of(request)))


class _SlipStep(APIView):
    permission_classes = [IsAuthenticated, Rules]

    def step(self, request: Request, pk: int, act: Any) -> Response:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        act(slip, person_of(request))
        return Response(slip_of(_slip(request, pk), person_of(request)))


class SendSlipView(_SlipStep):
    """Send it; also again, after it failed."""

    @extend_schema(
        request=shape.SlipSent,
        responses={200: shape.SlipOf, 400: Failure, 409: Failure},
        operation_id="send_slip",
    )
    def post(self, request: Request, pk: int) -> Response:
        given = validated(shape.SlipSent, request)
        leaves = {one["region"]: one["box"] for one in given["leaves"]}
        return self.step(request, pk, lambda slip, person: send_slip(slip, person, leaves))


class SlipOutsideView(APIView):
    """What the outside service offers for a slip, and what would leave."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(responses=shape.SlipOutside, operation_id="slip_outside")
    def get(self, request: Request, pk: int) -> Response:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        return Response(slip_outside_of(slip))


class WithdrawSlipView(_SlipStep):
    """Take a slip back before it is answered."""

    @extend_schema(
        request=None,
        responses={200: shape.SlipOf, 409: Failure},
        operation_id="withdraw_slip",
    )
    def post(self, request: Request, pk: int) -> Response:
        return self.step(request, pk, withdraw_slip)


class TakeUpSlipView(_SlipStep):
    """The retoucher says that they are at it."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(
        request=None, responses={200: shape.SlipOf, 409: Failure}, operation_id="take_up_slip"
    )
    def post(self, request: Request, pk: int) -> Response:
        return self.step(request, pk, take_up)


class SaySlipView(APIView):
    """Ask or decline, for whoever works on it; answer or settle, for a supervisor."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(
        request=shape.SlipSaid,
        responses={200: shape.SlipOf, 400: Failure, 409: Failure},
        operation_id="say_on_slip",
    )
    def post(self, request: Request, pk: int) -> Response:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        given = validated(shape.SlipSaid, request)
        what = given["what"]
        if what in BY_SUPERVISOR and not Rules().has_object_permission(request, self, slip):
            self.permission_denied(request, Rules.message)
        say(slip, person_of(request), what, given["words"])
        return Response(slip_of(_slip(request, pk), person_of(request)))


class HandOverSlipView(APIView):
    """Give a slip that is out to somebody else, as it is."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.SlipHandedOver,
        responses={200: shape.SlipOf, 400: Failure, 409: Failure},
        operation_id="hand_over_slip",
    )
    def post(self, request: Request, pk: int) -> Response:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        given = validated(shape.SlipHandedOver, request)
        worker = person_named(given["worker"])
        hand_over(slip, person_of(request), worker, given["words"])
        return Response(slip_of(_slip(request, pk), person_of(request)))


class SlipPackageView(APIView):
    """Everything a retoucher needs, as one zip: pictures, masks ready to use, evidence, words."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(
        responses={(200, "application/zip"): OpenApiTypes.BINARY}, operation_id="slip_package"
    )
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        name = f"{package_name(slip)}.zip"
        if not is_kept(slip):
            raise NotFound("The package is not built yet; ask for it.")
        return FileResponse(
            deliveries().opened(stored_name(slip)),
            as_attachment=True,
            filename=name,
            content_type="application/zip",
            headers={"Cache-Control": "private, no-store"},
        )

    @extend_schema(request=None, responses={202: shape.SlipOf}, operation_id="build_slip_package")
    def post(self, request: Request, pk: int) -> Response:
        """Have it built as the slip stands."""
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        ask_package(slip)
        return Response(slip_of(_slip(request, pk), person_of(request)), status=202)


class SlipResultView(APIView):
    """A retoucher's answer: a new result, made from the attempt that was sent. It is judged by a
    worker; the slip says how far that is.
    """

    permission_classes = [IsAuthenticated, Works]
    parser_classes = [Files]

    @extend_schema(
        request={"multipart/form-data": shape.SlipResult},
        responses={202: shape.SlipOf, 400: Failure, 409: Failure},
        operation_id="return_slip",
    )
    def post(self, request: Request, pk: int) -> Response:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        _take_file(slip, request)
        return Response(slip_of(_slip(request, pk), person_of(request)), status=202)


def _take_file(slip: Slip, request: Request) -> None:
    given = validated(shape.SlipResult, request)
    file = given["file"]
    refuse_header(file.name, file.read(4_000_000), file.size <= 4_000_000)
    file.seek(0)
    followed = {one["region"]: one["changes"] for one in given["followed"] or ()}
    about = Given(file.name, given["seconds"], given["cost"], followed, given["dry"])
    ask_return(slip, person_of(request), about, file.chunks())


class AnySlipResultView(APIView):
    """A result for whichever of one's slips it answers. It is taken in with the one that is due
    first; a worker finds where it belongs and hands it in there.
    """

    parser_classes = [Files]

    @extend_schema(
        request={"multipart/form-data": shape.SlipResult},
        responses={202: shape.SlipOf, 400: Failure, 409: Failure},
        operation_id="return_any_slip",
    )
    def post(self, request: Request) -> Response:
        mine = Slip.objects.filter(
            worker=person_of(request),
            state__in=("sent", "working"),
            picture__job__memberships__person=person_of(request),
        ).exclude(returns__settled=False)
        slip = mine.order_by(F("due").asc(nulls_last=True), "pk").first()
        if slip is None:
            raise ValidationError("No slip with you takes a result now.")
        _take_file(slip, request)
        return Response(slip_of(_slip(request, slip.pk), person_of(request)), status=202)


class HandInView(APIView):
    """Hand in the file of the last dry run as it is."""

    permission_classes = [IsAuthenticated, Works]

    @extend_schema(
        request=shape.SlipHandIn,
        responses={202: shape.SlipOf, 400: Failure, 409: Failure},
        operation_id="hand_in",
    )
    def post(self, request: Request, pk: int) -> Response:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        given = validated(shape.SlipHandIn, request)
        followed = {one["region"]: one["changes"] for one in given["followed"]}
        hand_in(slip, person_of(request), followed)
        return Response(slip_of(_slip(request, pk), person_of(request)), status=202)


class PutSentBackView(APIView):
    """A new attempt: what came back, with what was sent wherever nothing was to be worked."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=None, responses={202: TrialOf, 400: Failure}, operation_id="put_sent_back"
    )
    def post(self, request: Request, pk: int) -> Response:
        slip = _slip(request, pk)
        self.check_object_permissions(request, slip)
        return Response(trial_of(put_sent_back(slip, person_of(request)), None), 202)


class SlipCropView(APIView):
    """One flaw's place, small: in the attempt that was sent, or (`after`) in the one that came
    back.
    """

    @extend_schema(responses={(200, "image/jpeg"): OpenApiTypes.BINARY}, operation_id="slip_crop")
    def get(self, request: Request, pk: int, region: int, which: str) -> HttpResponseBase:
        slip = _slip(request, pk)
        rows = slip.regions.select_related("version", "attempt__image__picture")
        part = get_object_or_404(rows, region_id=region)
        attempt = slip.returned if which == "after" else part.attempt
        if attempt is None:
            raise NotFound("Nothing came back yet.")
        return HttpResponse(
            crop_of(attempt.image, part.version.bbox),
            content_type="image/jpeg",
            headers={"Cache-Control": "private, max-age=86400"},
        )
