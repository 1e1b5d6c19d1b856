"""Requests that sign somebody in come from our own page."""

from __future__ import annotations

from django.http import HttpRequest
from ninja.utils import check_csrf

from config.problems import ServiceError


def require_own_page(request: HttpRequest, *, json: bool = True) -> None:
    """Raises ServiceError where a request carries no token of this page, or is not JSON."""
    if json and request.content_type != "application/json":
        raise ServiceError(415, "not_json", "Send JSON (Content-Type: application/json).")
    if check_csrf(request) is not None:
        raise ServiceError(403, "csrf", "Load the page again: this request did not come from it.")
