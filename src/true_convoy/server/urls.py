"""Where everything is: endpoints below ``/api/``, accounts below ``/_allauth/``, the application everywhere else."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.urls import URLPattern, URLResolver, include, path, re_path
from drf_spectacular.views import SpectacularAPIView

from .accounts.api import MeView
from .catalogue import api as catalogue
from .catalogue import mods_api as mods
from .catalogue import shelf_api as shelves
from .catalogue import starter_api as starters
from .events import stream
from .files import api as files
from .jobs import api as jobs
from .packs import api as packs
from .packs import assemble_api as assemble
from .packs import check_api as checks
from .packs import history_api as history
from .releases import api as releases
from .rigs import api as rigs


def health(request: HttpRequest) -> HttpResponse:
    """Whether the server answers and reaches its database."""
    from django.db import connection

    connection.ensure_connection()
    return JsonResponse({"healthy": True})


def application(request: HttpRequest) -> HttpResponse:
    """The web application's page; which view it shows is decided there."""
    page = settings.WEB_DIST / "index.html"
    if not page.is_file():
        return HttpResponse("The web part has not been built. Run bin/start.", status=503, content_type="text/plain")
    response = HttpResponse(page.read_bytes(), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


def agent(request: HttpRequest, name: str) -> HttpResponse:
    """The members' command, for them to install."""
    wheel = next((path for path in settings.AGENT_DIST.glob("*.whl") if path.name == name), None)
    if wheel is None:
        return HttpResponse("There is no such file.", status=404, content_type="text/plain")
    response = HttpResponse(wheel.read_bytes(), content_type="application/octet-stream")
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def missing(request: HttpRequest, rest: str) -> JsonResponse:
    """An address below ``/api/`` that is none."""
    detail = "There is nothing at this address."
    return JsonResponse({"detail": detail, "code": "not-found", "facts": {}}, status=404)


PACK = "packs/<slug:pack>"
endpoints: list[URLPattern | URLResolver] = [
    path("me", MeView.as_view()),
    path("games", catalogue.GamesView.as_view()),
    path("mods", mods.ModsView.as_view()),
    path("mods/<slug:game>/<str:mod>", mods.ModView.as_view()),
    path("mods/<slug:game>/<str:mod>/builds/<str:version>", mods.BuildFilesView.as_view()),
    path("mods/<slug:game>/<str:mod>/reach", shelves.ReachView.as_view()),
    path("starters", starters.StartersView.as_view()),
    path("starters/<int:starter>", starters.StarterView.as_view()),
    path("shelves", shelves.ShelvesView.as_view()),
    path("shelves/<int:shelf>/people", shelves.ShelfPeopleView.as_view()),
    path("shelves/<int:shelf>/people/<int:person>", shelves.ShelfPersonView.as_view()),
    path("shelves/<int:shelf>/mods", shelves.ShelfModsView.as_view()),
    path("uploads", files.UploadsView.as_view()),
    path("pictures", files.PicturesView.as_view()),
    path("uploads/<str:upload>", files.UploadView.as_view()),
    path("imports", catalogue.ImportsView.as_view()),
    path("jobs", jobs.JobsView.as_view()),
    path("jobs/<int:job>", jobs.JobView.as_view()),
    path("packs", packs.PacksView.as_view()),
    path(f"{PACK}/draft", packs.DraftView.as_view()),
    path(f"{PACK}/edits", packs.EditsView.as_view()),
    path(f"{PACK}/history", history.HistoryView.as_view()),
    path(f"{PACK}/history/compared", history.RevisionsComparedView.as_view()),
    path(f"{PACK}/go-back", history.GoBackView.as_view()),
    path(f"{PACK}/undo", packs.UndoView.as_view()),
    path(f"{PACK}/redo", packs.RedoView.as_view()),
    path(f"{PACK}/preview-add", assemble.AddPreviewView.as_view()),
    path(f"{PACK}/preview-remove", assemble.RemovePreviewView.as_view()),
    path(f"{PACK}/preview-off", assemble.TurnOffPreviewView.as_view()),
    path(f"{PACK}/pasted", assemble.PastedView.as_view()),
    path(f"{PACK}/path-rules", assemble.RulesView.as_view()),
    path(f"{PACK}/copy", assemble.CopyView.as_view()),
    path(f"{PACK}/list", assemble.ListView.as_view()),
    path(f"{PACK}/own-mods", shelves.PackModsView.as_view()),
    path(f"{PACK}/preview-edit", checks.EditPreviewView.as_view()),
    path(f"{PACK}/findings", checks.FindingsView.as_view()),
    path(f"{PACK}/mending", checks.MendingView.as_view()),
    path(f"{PACK}/fit-table", checks.FitTableView.as_view()),
    path(f"{PACK}/move", checks.MoveView.as_view()),
    path(f"{PACK}/load-order", checks.LoadOrderView.as_view()),
    path(f"{PACK}/picture", checks.PictureView.as_view()),
    path(f"{PACK}/roster", packs.RosterView.as_view()),
    path(f"{PACK}/roster/<int:person>", packs.RosterPersonView.as_view()),
    path(f"{PACK}/proposal", releases.ProposalView.as_view()),
    path(f"{PACK}/releases", releases.ReleasesView.as_view()),
    path(f"{PACK}/releases/<str:version>/document", releases.ReleaseDocumentView.as_view()),
    path(f"{PACK}/codes", rigs.CodesView.as_view()),
    path(f"{PACK}/codes/<str:code>", rigs.CodeView.as_view()),
    path(f"{PACK}/road", rigs.RoadView.as_view()),
    path(f"{PACK}/rigs/<int:rig>", rigs.PackRigView.as_view()),
    path("boarding/<str:code>", rigs.BoardingView.as_view()),
    path("boarding/<str:code>/personal", rigs.PersonalCodeView.as_view()),
    path("rig", rigs.RigView.as_view()),
    path("rig/release", rigs.RigReleaseView.as_view()),
    path("rig/inventory", rigs.RigInventoryView.as_view()),
    path("my/rigs", rigs.MyRigsView.as_view()),
]
urlpatterns = [
    path("api/health", health),
    path("api/events", stream),
    path("api/schema", SpectacularAPIView.as_view()),
    path("api/", include(endpoints)),
    re_path(r"^api/(?P<rest>.*)$", missing),
    path("agent/<str:name>", agent),
    path("files/<str:sha256>/<str:name>", files.hand_out),
    path("pictures/<str:sha256>", files.show_picture),
    path("_allauth/", include("allauth.headless.urls")),
    re_path(r"^.*$", application),
]
