"""The API under /api/, and the web's one page under everything else."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.views import SpectacularAPIView

from api import views


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponseBase:
    """The web finds its own way from the address."""
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse("The web has not been built: run bin/demo.", status=503, content_type="text/plain")
    return FileResponse(index.open("rb"), content_type="text/html", headers={"Cache-Control": "no-cache"})


urlpatterns = [
    path("api/session/", views.SessionView.as_view()),
    path("api/desk/", views.DeskView.as_view()),
    path("api/pictures/<int:pk>/bench/", views.BenchView.as_view()),
    path("api/pictures/<int:pk>/history/", views.HistoryView.as_view()),
    path("api/pictures/<int:pk>/crop/", views.PictureCropView.as_view()),
    path("api/pictures/<int:pk>/regions/<int:region>/crop/", views.RegionCropView.as_view()),
    path("api/cells/<int:pk>/", views.CellView.as_view()),
    path("api/cells/<int:pk>/crop/", views.CropView.as_view()),
    path("api/cells/<int:pk>/verdict/", views.VerdictsView.as_view()),
    path("api/findings/<int:pk>/answer/", views.AnswerView.as_view()),
    path("api/attempts/<int:pk>/check/", views.CheckView.as_view()),
    path("api/images/<int:pk>/tiles/<path:path>", views.TilesView.as_view()),
    path("api/released/", views.ReleasedView.as_view()),
    path("api/schema/", SpectacularAPIView.as_view()),
    re_path(r"^(?!api/|static/|assets/).*$", page),
]
