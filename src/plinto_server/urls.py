"""The API, the readable run sheet, and the built front end for every other address."""

from django.conf import settings
from django.http import FileResponse, HttpRequest, HttpResponseBase, HttpResponseNotFound, JsonResponse
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from plinto_server.api import UNREADABLE, api
from plinto_server.guide import guide_page, guide_picture
from plinto_server.jobs.sheet import sheet_page


@ensure_csrf_cookie
def front_end(request: HttpRequest) -> HttpResponseBase:
    """The single page, whose router knows the address."""
    page = settings.WHITENOISE_ROOT / "index.html"
    if not page.exists():
        return HttpResponseNotFound("The front end is not built: run make demo.")
    return FileResponse(page.open("rb"), content_type="text/html")


def unreadable(request: HttpRequest, exception: Exception) -> JsonResponse:
    """A request that Django could not take apart, before any of our code saw it (400)."""
    return JsonResponse({"detail": UNREADABLE}, status=400)


handler400 = unreadable

urlpatterns = [
    path("api/", api.urls),
    path("runs/<int:run_id>/sheet", sheet_page),
    path("guide", guide_page),
    path("guide/pictures/<slug:name>.png", guide_picture),
    path("guide/<slug:page>", guide_page),
    re_path(r"^(?!api/|static/|assets/).*$", front_end),
]
