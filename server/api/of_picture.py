"""What views of one picture share: finding it, and what belongs to it."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.views import APIView

from attempts.models import Attempt
from jobs.models import Picture
from people.sessions import person_of
from regions.models import Region

from .permissions import Rules


class OfPicture(APIView):
    """A view that only a supervisor of the picture's job may use; with `seen_by_all`, whoever works
    on the picture may read.
    """

    permission_classes = [IsAuthenticated, Rules]
    seen_by_all = False

    def picture(self, request: Request, pk: int) -> Picture:
        """The picture, if the person works on it and may do this."""
        found: Picture = get_object_or_404(
            Picture.objects.worked_by(person_of(request)).select_related("job"), pk=pk
        )
        if request.method != "GET" or not self.seen_by_all:
            self.check_object_permissions(request, found)
        return found


def region_of(picture: Picture, pk: int) -> Region:
    """A standing region of a picture."""
    found: Region = get_object_or_404(
        Region.objects.filter(picture=picture).select_related("current"), pk=pk
    )
    return found


def attempt_of(picture: Picture, pk: int) -> Attempt:
    """An attempt of a picture."""
    found: Attempt = get_object_or_404(
        Attempt.objects.filter(picture=picture).select_related("image__blob"), pk=pk
    )
    return found
