"""Requests that are too large are answered before their body is read."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

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
