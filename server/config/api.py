"""One API, version 1: routers of the apps, one error shape."""

from __future__ import annotations

import logging
from typing import Any

from django.core.exceptions import BadRequest, PermissionDenied, SuspiciousOperation
from django.db import DataError, connection
from django.http import Http404, HttpRequest, HttpResponse
from django.http.multipartparser import MultiPartParserError
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, ValidationError
from ninja.security import SessionAuth
from pydantic import BaseModel

from config.problems import ServiceError, problem
from config.storage import is_full

log = logging.getLogger(__name__)


class SignedIn(SessionAuth):
    """Session of a person who may use the API."""

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        user = request.user
        return user if user.is_authenticated and user.is_active else None


api = NinjaAPI(title="Fortimetra", version="1", urls_namespace="api-v1", auth=SignedIn(), docs_url=None)


class Health(BaseModel):
    """That the server answers and reaches its database."""

    ok: bool


@api.get("/health", auth=None, response=Health, operation_id="health")
def health(request: HttpRequest) -> Health:
    """For the start command and monitors."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return Health(ok=True)


@api.exception_handler(ServiceError)
def _service_error(request: HttpRequest, error: ServiceError) -> HttpResponse:
    return problem(error.status, error.code, error.detail)


@api.exception_handler(ValidationError)
def _validation_error(request: HttpRequest, error: ValidationError) -> HttpResponse:
    first = error.errors[0] if error.errors else {"loc": (), "msg": "invalid"}
    place = ".".join(str(p) for p in first["loc"] if p not in ("body", "query", "form", "path", "payload", "file"))
    return problem(422, "invalid", f"{place or 'request'}: {first['msg']}")


@api.exception_handler(AuthenticationError)
def _not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return problem(401, "not_signed_in", "Sign in first; the session may have ended.")


@api.exception_handler(Http404)
def _not_found(request: HttpRequest, error: Http404) -> HttpResponse:
    return problem(404, "not_found", "There is nothing here for you; it may have been deleted.")


@api.exception_handler(PermissionDenied)
def _denied(request: HttpRequest, error: PermissionDenied) -> HttpResponse:
    return problem(403, "not_allowed", "Your account may not do this.")


@api.exception_handler(MultiPartParserError)
@api.exception_handler(BadRequest)
@api.exception_handler(SuspiciousOperation)
@api.exception_handler(RecursionError)
def _unreadable(request: HttpRequest, error: Exception) -> HttpResponse:
    return problem(400, "unreadable", "The request cannot be read: it is cut off, too deep, or not of its kind.")


@api.exception_handler(OverflowError)
@api.exception_handler(DataError)
def _out_of_range(request: HttpRequest, error: Exception) -> HttpResponse:
    return problem(422, "out_of_range", "A number or a date is outside of what there is. Nothing was changed.")


@api.exception_handler(OSError)
def _not_written(request: HttpRequest, error: OSError) -> HttpResponse:
    if is_full(error):
        log.error("the disk is full: %s", request.path)
        return problem(507, "disk_full", "The server's disk is full. Nothing was changed; try again later.")
    return _unexpected(request, error)


@api.exception_handler(Exception)
def _unexpected(request: HttpRequest, error: Exception) -> HttpResponse:
    # The route, not the address: a link of an invitation, a guest or a feed has a secret in it.
    route = request.resolver_match.route if request.resolver_match else "?"
    log.exception("unexpected error at %s %s", request.method, route)
    return problem(500, "unexpected", "Something went wrong on the server. Nothing was changed; try again.")


def add_routers() -> None:
    """Attach the apps' routers; called once from the URL configuration."""
    from apps.archive.api import router as archive
    from apps.archive.keeping_api import router as keeping
    from apps.bench.api import router as bench
    from apps.demo.api import router as sample
    from apps.drills.api import router as drills
    from apps.guitars.api import router as guitars
    from apps.keeper.api import router as keeper
    from apps.measuring.again_api import router as again
    from apps.measuring.api import router as trials
    from apps.people.api import router as people
    from apps.people.consent_api import router as consents
    from apps.plans.api import router as plans
    from apps.reports.api import router as reports
    from apps.reports.glance_api import router as glance
    from apps.reviews.api import router as reviews
    from apps.takes.api import router as takes
    from apps.takes.guest_api import router as guests

    for prefix, router in (
        ("", people),
        ("", consents),
        ("/guitars", guitars),
        ("/drills", drills),
        ("/takes/again", again),
        ("/takes", takes),
        ("/takes", reviews),
        ("/takes", trials),
        ("/bench", bench),
        ("/guests", guests),
        ("/plans", plans),
        ("/keeper", keeper),
        ("/reports", reports),
        ("/reports", glance),
        ("/reports", archive),
        ("/reports", keeping),
        ("/reports", sample),
    ):
        api.add_router(prefix, router)


add_routers()
