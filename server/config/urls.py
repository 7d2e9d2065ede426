"""The API under /api/, and the web's one page under everything else."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie
from drf_spectacular.views import SpectacularAPIView

from api import (
    crew_views,
    desk_views,
    fact_views,
    intake_views,
    look_views,
    outline_views,
    outside_views,
    remark_views,
    second_views,
    signing_views,
    slip_views,
    tally_views,
    tile_views,
    trial_views,
    views,
)


@ensure_csrf_cookie
def page(request: HttpRequest) -> HttpResponse:
    """The web finds its own way from the address."""
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse(
            "The web has not been built: run bin/demo.", status=503, content_type="text/plain"
        )
    html = index.read_text().replace("__NONCE__", str(getattr(request, "csp_nonce", "")))
    return HttpResponse(html, content_type="text/html", headers={"Cache-Control": "no-cache"})


urlpatterns = [
    path("api/session/", views.SessionView.as_view()),
    path("api/session/password/", views.PasswordView.as_view()),
    path("api/desk/", desk_views.DeskView.as_view()),
    path("api/pictures/<int:pk>/seen/", views.SeenView.as_view()),
    path("api/images/<int:pk>/tiles/", views.AskTilesView.as_view()),
    path("api/incoming/<int:pk>/", intake_views.IncomingView.as_view()),
    path("api/pictures/<int:pk>/bench/", views.BenchView.as_view()),
    path("api/pictures/<int:pk>/history/", views.HistoryView.as_view()),
    path("api/pictures/<int:pk>/spot/", views.SpotView.as_view()),
    path("api/pictures/<int:pk>/crop/", views.PictureCropView.as_view()),
    path("api/pictures/<int:pk>/regions/<int:region>/crop/", views.RegionCropView.as_view()),
    path("api/cells/<int:pk>/", views.CellView.as_view()),
    path("api/cells/<int:pk>/crop/", views.CropView.as_view()),
    path("api/cells/<int:pk>/verdict/", views.VerdictsView.as_view()),
    path("api/cells/<int:pk>/ask/", second_views.AskSecondView.as_view()),
    path("api/second-looks/<int:pk>/", second_views.SecondView.as_view()),
    path("api/second-looks/<int:pk>/answer/", second_views.AnswerSecondView.as_view()),
    path("api/regions/<int:pk>/leave/", second_views.LeaveRegionView.as_view()),
    path("api/findings/<int:pk>/picture/", views.EvidenceView.as_view()),
    path("api/findings/<int:pk>/answer/", views.AnswerView.as_view()),
    path("api/attempts/<int:pk>/", fact_views.AttemptView.as_view()),
    path("api/attempts/<int:pk>/facts/", fact_views.AttemptFactsView.as_view()),
    path("api/attempts/<int:pk>/again/", fact_views.AttemptAgainView.as_view()),
    path("api/jobs/<int:pk>/methods/", fact_views.MethodsOfJobView.as_view()),
    path("api/pictures/<int:pk>/", fact_views.PictureView.as_view()),
    path("api/pictures/<int:pk>/again/", fact_views.PictureAgainView.as_view()),
    path("api/attempts/<int:pk>/outside/", views.OutsideAnswerView.as_view()),
    path("api/attempts/<int:pk>/check/", views.CheckView.as_view()),
    path("api/images/<int:pk>/tiles/<path:path>", tile_views.TilesView.as_view()),
    path("api/methods/", trial_views.MethodsView.as_view()),
    path("api/pictures/<int:pk>/trials/", trial_views.TrialsView.as_view()),
    path("api/trials/<int:pk>/", trial_views.TrialView.as_view()),
    path("api/pictures/<int:pk>/sign-off/", signing_views.SignOffView.as_view()),
    path("api/pictures/<int:pk>/reopen/", signing_views.ReopenView.as_view()),
    path("api/pictures/<int:pk>/release/", signing_views.ReleaseView.as_view()),
    path("api/jobs/<int:pk>/sheet/", crew_views.JobSheetView.as_view()),
    path("api/jobs/<int:pk>/people/<int:person>/", crew_views.MemberView.as_view()),
    path("api/jobs/<int:pk>/invitations/", crew_views.InvitationsView.as_view()),
    path("api/invitations/<int:pk>/", crew_views.InvitationView.as_view()),
    re_path(r"^api/join/(?P<token>[\w-]{20,80})/$", crew_views.JoinView.as_view()),
    path("api/jobs/<int:pk>/deliveries/", signing_views.DeliveriesView.as_view()),
    path("api/deliveries/<int:pk>/", signing_views.DeliveryView.as_view()),
    path("api/deliveries/<int:pk>/file/", signing_views.DeliveryFileView.as_view()),
    path("api/pictures/<int:pk>/outside/", outside_views.OutsideView.as_view()),
    path("api/orders/<int:pk>/", outside_views.OrderView.as_view()),
    path("api/jobs/<int:pk>/outside-budget/", outside_views.BudgetView.as_view()),
    path("api/attempts/<int:pk>/put-back/", trial_views.PutBackView.as_view()),
    path("api/pictures/<int:pk>/outlines/", outline_views.OutlinesView.as_view()),
    path("api/pictures/<int:pk>/outlines/act/", outline_views.OutlineActView.as_view()),
    path("api/pictures/<int:pk>/outlines/merge/", outline_views.MergeRegionsView.as_view()),
    path("api/regions/<int:pk>/", outline_views.RegionView.as_view()),
    path("api/regions/<int:pk>/outline/", outline_views.RedrawView.as_view()),
    path("api/regions/<int:pk>/split/", outline_views.SplitRegionView.as_view()),
    path("api/regions/<int:pk>/again/", outline_views.RegionAgainView.as_view()),
    path("api/regions/<int:pk>/versions/<int:version>/", outline_views.RegionVersionView.as_view()),
    path("api/regions/<int:pk>/spread/", look_views.SpreadView.as_view()),
    path("api/regions/<int:pk>/picks/", look_views.PickView.as_view()),
    path("api/regions/<int:pk>/pairs/", look_views.PairView.as_view()),
    path("api/cells/<int:pk>/own-findings/", look_views.OwnFindingsView.as_view()),
    path("api/own-findings/<int:pk>/", look_views.OwnFindingView.as_view()),
    path("api/jobs/<int:pk>/bar/", look_views.BarView.as_view()),
    path("api/attempts/<int:pk>/changes/", look_views.ChangesView.as_view()),
    path("api/pictures/<int:pk>/assemblies/", look_views.AssembliesView.as_view()),
    path("api/cold/", look_views.ColdQueueView.as_view()),
    path("api/attempts/<int:pk>/cold-looks/", look_views.ColdLooksView.as_view()),
    path("api/kinds/", look_views.KindsView.as_view()),
    path("api/aids/", tile_views.AidsView.as_view()),
    path("api/images/<int:pk>/aids/<str:name>/", tile_views.AidView.as_view()),
    path(
        "api/images/<int:pk>/aids/<str:name>/tiles/<path:path>", tile_views.AidTilesView.as_view()
    ),
    path("api/attempts/<int:pk>/slips/", slip_views.WriteSlipView.as_view()),
    path("api/slips/", slip_views.SlipsView.as_view()),
    path("api/slips/<int:pk>/", slip_views.SlipView.as_view()),
    path("api/slips/<int:pk>/send/", slip_views.SendSlipView.as_view()),
    path("api/slips/<int:pk>/outside/", slip_views.SlipOutsideView.as_view()),
    path("api/slips/<int:pk>/withdraw/", slip_views.WithdrawSlipView.as_view()),
    path("api/slips/<int:pk>/take-up/", slip_views.TakeUpSlipView.as_view()),
    path("api/slips/<int:pk>/say/", slip_views.SaySlipView.as_view()),
    path("api/slips/<int:pk>/hand-over/", slip_views.HandOverSlipView.as_view()),
    path("api/tally/", tally_views.TallyView.as_view()),
    path("api/tally/table/", tally_views.TallyTableView.as_view()),
    path("api/slips/<int:pk>/package/", slip_views.SlipPackageView.as_view()),
    path("api/slips/result/", slip_views.AnySlipResultView.as_view()),
    path("api/slips/<int:pk>/result/", slip_views.SlipResultView.as_view()),
    path("api/slips/<int:pk>/hand-in/", slip_views.HandInView.as_view()),
    path("api/slips/<int:pk>/put-back/", slip_views.PutSentBackView.as_view()),
    re_path(
        r"^api/slips/(?P<pk>\d+)/regions/(?P<region>\d+)/(?P<which>before|after)/$",
        slip_views.SlipCropView.as_view(),
    ),
    path("api/jobs/", intake_views.JobsView.as_view()),
    path("api/colleagues/", intake_views.ColleaguesView.as_view()),
    path("api/jobs/<int:pk>/intake/", intake_views.IntakeView.as_view()),
    path("api/jobs/<int:pk>/arrivals/", intake_views.ArrivalsView.as_view()),
    path("api/jobs/<int:pk>/fit/", intake_views.FitView.as_view()),
    path("api/jobs/<int:pk>/pictures/", intake_views.BringInView.as_view()),
    path("api/pictures/<int:pk>/attempts/", intake_views.BringResultView.as_view()),
    path("api/arrivals/<int:pk>/", intake_views.ArrivalView.as_view()),
    path("api/arrivals/<int:pk>/hand-in/", intake_views.HandInArrivalView.as_view()),
    path("api/arrivals/<int:pk>/small/", intake_views.ArrivalSmallView.as_view()),
    path("api/released/", views.ReleasedView.as_view()),
    path("api/released/<int:pk>/remarks/", remark_views.RemarksView.as_view()),
    path("api/remarks/<int:pk>/answer/", remark_views.AnswerRemarkView.as_view()),
    path("api/schema/", SpectacularAPIView.as_view()),
    re_path(r"^(?!api/|static/|assets/).*$", page),
]
