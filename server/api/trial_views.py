"""Trials: what methods there are, running them, how far they are, cancelling them."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from attempts.models import Attempt
from jobs.models import Picture
from people.sessions import person_of
from trials.asking import Wanted, ask_put_back, ask_trials, cancel
from trials.models import Trial
from zweiblick_core.methods import DESCRIBED

from . import serializers
from . import trial_serializers as shape
from .asking import validated
from .of_picture import OfPicture, attempt_of, region_of
from .permissions import Rules
from .trial_shapes import trial_of, trials_of


class MethodsView(APIView):
    """The built-in methods, in words, with what each asks."""

    @extend_schema(responses=shape.MethodDescribed(many=True), operation_id="built_in_methods")
    def get(self, request: Request) -> Response:
        return Response(
            [
                {
                    "name": one.name,
                    "words": one.words,
                    "backdrops": list(one.backdrops),
                    "takes": one.takes,
                    "asks": [vars(ask) for ask in one.asks],
                }
                for one in DESCRIBED
            ]
        )


class TrialsView(OfPicture):
    """A picture's trials, the newest first; asking for some."""

    @extend_schema(responses=shape.TrialOf(many=True), operation_id="trials")
    def get(self, request: Request, pk: int) -> Response:
        return Response(trials_of(self.picture(request, pk)))

    @extend_schema(
        request=shape.TrialsAsked,
        responses={202: shape.TrialOf(many=True), 400: serializers.Failure},
        operation_id="ask_trials",
    )
    def post(self, request: Request, pk: int) -> Response:
        picture = self.picture(request, pk)
        given = validated(shape.TrialsAsked, request)
        region = region_of(picture, given["region"])
        base = attempt_of(picture, given["base"]) if given["base"] is not None else None
        wanted = [Wanted(**one) for one in given["runs"]]
        ask_trials(
            picture,
            region,
            base,
            wanted,
            given["keep_out"],
            person_of(request),
            given["take_from"],
            [region_of(picture, one) for one in given["also"]],
        )
        return Response(trials_of(picture), 202)


class PutBackView(APIView):
    """A new attempt: this one, with the original wherever no region is."""

    permission_classes = [IsAuthenticated, Rules]

    @extend_schema(
        request=shape.PutBackAsked,
        responses={202: shape.TrialOf, 400: serializers.Failure},
        operation_id="put_back",
    )
    def post(self, request: Request, pk: int) -> Response:
        attempt = get_object_or_404(
            Attempt.objects.filter(
                picture__in=Picture.objects.worked_by(person_of(request))
            ).select_related("picture__job"),
            pk=pk,
        )
        self.check_object_permissions(request, attempt)
        given = validated(shape.PutBackAsked, request)
        made = ask_put_back(attempt, given["margin"], person_of(request))
        return Response(trial_of(made, None), 202)


class TrialView(APIView):
    """Cancel a run that is not done."""

    @extend_schema(
        responses={200: shape.TrialOf, 409: serializers.Failure}, operation_id="cancel_trial"
    )
    def delete(self, request: Request, pk: int) -> Response:
        trial = get_object_or_404(Trial.objects.visible_to(person_of(request)), pk=pk)
        return Response(trial_of(cancel(trial, person_of(request)), None))
