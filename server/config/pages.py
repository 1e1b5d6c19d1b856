"""The one page of the client."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from config.problems import problem


def index(request: HttpRequest) -> HttpResponse:
    """The built page; the client's router does the rest."""
    if request.method not in {"GET", "HEAD"}:
        return problem(405, "method_not_allowed", "This address only shows a page.")
    try:
        return HttpResponse((settings.WEB_DIST / "index.html").read_bytes())
    except FileNotFoundError:
        return HttpResponse("The front end is not built. Run ./run start.", status=503, content_type="text/plain")


def worker(request: HttpRequest) -> HttpResponse:
    """The service worker: at the root, where it may answer for every page of the application."""
    if request.method not in {"GET", "HEAD"}:
        return problem(405, "method_not_allowed", "This address only gives a script.")
    try:
        script = (settings.WEB_DIST / "sw.js").read_bytes()
    except FileNotFoundError:
        return problem(503, "not_built", "The front end is not built. Run ./run start.")
    return HttpResponse(script, content_type="text/javascript")


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """A request that did not come from our page."""
    return problem(403, "csrf", "This page is too old to send that; reload it and try again.")
