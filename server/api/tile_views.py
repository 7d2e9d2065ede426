"""Tiles of images and of their aids: IIIF Image API 3.0, level 0, under the picture's permission."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from django.conf import settings
from django.core.cache import caches
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from images.aiding import TILE_PATH, NotYet, aid_state, ask_aid, tile_of
from images.derivation import folder_name
from images.models import Image
from images.pyramids import TILE, pyramid_of, tiles_stand
from jobs.models import Picture
from people.sessions import person_of
from store.durable import Damaged
from store.places import derived
from zweiblick_core.aids import AIDS, Aid, aid_of

from . import serializers as shape

KEPT = "private, max-age=31536000, immutable"
_MAKING = "The tiles of this picture are being made."


def file_of(name: str, media_type: str, kept: bool = True) -> FileResponse:
    """Something derived, as a file. Raises: OSError: it does not stand."""
    return FileResponse(
        derived().opened(name),
        content_type=media_type,
        headers={"Cache-Control": KEPT if kept else "private, no-cache", "Vary": "Cookie"},
    )


def _png(name: str, kept: bool = True) -> FileResponse:
    return file_of(name, "image/png", kept)


class _Granted(APIView):
    """Tiles come by the hundred for one picture and one person. Whoever was allowed one gets the
    others of that picture without being
    looked up anew, for as long as `TILES_GRANTED`: what is taken from somebody is gone after those
    seconds at the latest.
    """

    def _grant(self, request: HttpRequest, keys: dict[str, Any]) -> str | None:
        session = request.COOKIES.get(settings.SESSION_COOKIE_NAME)
        return (
            hashlib.sha256(f"{session}\n{keys['pk']}\n{keys.get('name', '')}".encode()).hexdigest()
            if session
            else None
        )

    def dispatch(self, request: HttpRequest, *args: Any, **keys: Any) -> HttpResponseBase:
        name = self._grant(request, keys)
        folder = (
            caches["grants"].get(name)
            if name and request.method == "GET" and TILE_PATH.fullmatch(keys["path"])
            else None
        )
        if folder is not None:
            try:
                return _png(f"{folder}/{keys['path']}")
            except OSError:
                pass  # not drawn yet, deleted since, or no such tile: the long way tells which
        return super().dispatch(request, *args, **keys)

    def grant(self, folder: str) -> None:
        name = self._grant(self.request, self.kwargs)
        if name:
            caches["grants"].set(name, folder, settings.TILES_GRANTED)


class TilesView(_Granted):
    """IIIF Image API 3.0, level 0, of one image: info.json and static tiles, served under the
    picture's permission.
    """

    @extend_schema(
        responses={(200, "image/png"): OpenApiTypes.BINARY, 503: shape.Failure},
        operation_id="tiles",
    )
    def get(self, request: Request, pk: int, path: str) -> HttpResponseBase:
        image = get_object_or_404(
            Image.objects.visible_to(person_of(request)).select_related("blob", "picture"), pk=pk
        )
        if not tiles_stand(image):
            return Response({"error": _MAKING}, 503, headers={"Retry-After": "1"})
        folder = folder_name(pyramid_of(image))
        if path == "info.json":
            return _info(request, folder, f"/api/images/{image.pk}/tiles")
        if not TILE_PATH.fullmatch(path) or not derived().is_file(f"{folder}/{path}"):
            raise NotFound("There is no such tile.")
        self.grant(folder)
        return _png(f"{folder}/{path}")


def _info(request: Request, folder: str, address: str) -> HttpResponse:
    """info.json under the address that it is asked at."""
    try:
        info = json.loads(derived().bytes_of(f"{folder}/info.json"))
    except Damaged as error:
        raise NotFound("There is no such tile.") from error
    info["id"] = request.build_absolute_uri(address)
    info["extraFormats"], info["preferredFormats"] = ["png"], ["png"]
    for row in info["tiles"]:
        row.setdefault("height", row.get("width", TILE))  # readers stretch tiles without it
    return HttpResponse(
        json.dumps(info),
        content_type="application/json",
        headers={"Cache-Control": "private, no-cache"},
    )


class AidsView(APIView):
    """The computed ways of seeing, with a line each on what they show."""

    @extend_schema(responses=shape.AidOf(many=True), operation_id="aids")
    def get(self, request: Request) -> Response:
        return Response([{"name": aid.name, "words": aid.words, "says": aid.says} for aid in AIDS])


def _aided(request: Request, pk: int, name: str) -> tuple[Image, Aid]:
    image = get_object_or_404(
        Image.objects.filter(
            picture__in=Picture.objects.worked_by(person_of(request))
        ).select_related("blob", "picture"),
        pk=pk,
    )
    aid = aid_of(name)
    if aid is None:
        raise NotFound("There is no such aid.")
    return image, aid


class AidView(APIView):
    """How far the whole frame of an aid is; asking for it. Its full-size tiles are there at once."""

    @extend_schema(responses={200: shape.AidState, 503: shape.Failure}, operation_id="aid")
    def get(self, request: Request, pk: int, name: str) -> Response:
        image, aid = _aided(request, pk, name)
        if not (tiles_stand(image) and tiles_stand(image.picture.original)):
            return Response({"error": _MAKING}, 503, headers={"Retry-After": "1"})
        return Response(aid_state(image, aid))

    @extend_schema(
        request=None,
        responses={202: shape.AidState, 503: shape.Failure},
        operation_id="ask_aid",
    )
    def post(self, request: Request, pk: int, name: str) -> Response:
        image, aid = _aided(request, pk, name)
        if not (tiles_stand(image) and tiles_stand(image.picture.original)):
            return Response({"error": _MAKING}, 503, headers={"Retry-After": "1"})
        return Response(ask_aid(image, aid), status=202)


class AidTilesView(_Granted):
    """An aid's tiles, IIIF level 0 like the image's own. 503 where a tile needs the whole frame,
    which is not drawn yet.
    """

    @extend_schema(
        responses={(200, "image/png"): OpenApiTypes.BINARY, 503: shape.Failure},
        operation_id="aid_tiles",
    )
    def get(self, request: Request, pk: int, name: str, path: str) -> HttpResponseBase:
        image, aid = _aided(request, pk, name)
        if not (tiles_stand(image) and tiles_stand(image.picture.original)):
            return Response({"error": _MAKING}, 503, headers={"Retry-After": "1"})
        if path == "info.json":
            return _info(
                request,
                folder_name(pyramid_of(image)),
                f"/api/images/{image.pk}/aids/{aid.name}/tiles",
            )
        try:
            file = tile_of(image, aid, path) if TILE_PATH.fullmatch(path) else None
        except NotYet:
            return Response(
                {"error": "The whole frame is still being drawn."},
                503,
                headers={"Retry-After": "1"},
            )
        if file is None:
            raise NotFound("There is no such tile.")
        # Neither granted nor immutable where regions count: they can be edited, and then the match
        # map is another one under the same address.
        if not aid.needs:
            self.grant(file.removesuffix(f"/{path}"))
        return _png(file, kept=not aid.needs)
