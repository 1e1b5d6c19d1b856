"""Too large requests are answered unread; text is sent compressed; a sign-in and its line in the log are one."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.middleware.gzip import GZipMiddleware

from config.problems import problem

ARCHIVE = "/api/v1/reports/archive"
_FORM_OVERHEAD_BYTES = 100_000


class LargeRequestMiddleware:
    """413 as problem+json for a request whose body is beyond the upload limit."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        try:
            length = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            length = 0
        archive = request.path == ARCHIVE
        limit: int = settings.ARCHIVE_MAX_BYTES if archive else settings.UPLOAD_MAX_BYTES
        if length > limit + _FORM_OVERHEAD_BYTES:
            return problem(
                413,
                "too_large",
                f"The file has {length / 1e6:.0f} MB; at most {limit / 1e6:.0f} MB are taken. "
                + (
                    "Read it in on the server itself: ./run manage restore_studio."
                    if archive
                    else "Export it as FLAC or cut it to the exercise."
                ),
            )
        return self.get_response(request)


class CompressMiddleware(GZipMiddleware):
    """JSON and HTML compressed as Django does it, padded against guessing; sound stays as it is."""

    def process_response(self, request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        """The response, compressed where its kind gains from it."""
        kind = response.get("Content-Type", "").split(";")[0]
        text = kind in {"application/json", "application/problem+json", "text/html"}
        if response.streaming or not text:
            return response
        return super().process_response(request, response)


class SignInMiddleware:
    """What the sign-in package changes, and the line of the activity log about it, stand or fall together."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if request.method == "GET" or not request.path.startswith("/_allauth/"):
            return self.get_response(request)
        with transaction.atomic():
            answer = self.get_response(request)
            # An error inside has become an answer by now.
            if answer.status_code >= 500:
                transaction.set_rollback(True)
            return answer

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """JSON that is nested so deep that nobody reads it."""
        if isinstance(error, RecursionError):
            return problem(400, "unreadable", "The request cannot be read: it is too deep.")
        return None
