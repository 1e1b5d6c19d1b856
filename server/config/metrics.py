"""What is counted of a running server, for Prometheus. Processes of one host share a folder (PROMETHEUS_MULTIPROC_DIR).

Labels are routes, kinds and codes: never an address with an id or a secret in it, never a person.
"""

from __future__ import annotations

import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from prometheus_client import Counter, Histogram

REQUESTS = Histogram(
    "fortimetra_request_seconds",
    "Time to answer a request.",
    ("method", "route", "status"),
    buckets=(0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 10.0),
)
MEASURING = Counter("fortimetra_measuring_seconds", "Time workers have spent on measuring.")
SOUND = Counter("fortimetra_sound_seconds", "Length of the sound they have measured.")
REFUSED = Counter("fortimetra_refused_takes", "Recordings that could not be measured.", ("code",))
JOBS = Counter("fortimetra_jobs_ended", "Jobs by how an attempt ended.", ("kind", "outcome"))


class MetricsMiddleware:
    """Counts requests by route."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        began = time.perf_counter()
        response = self.get_response(request)
        route = request.resolver_match.route if request.resolver_match else "none"
        method = request.method if request.method in {"GET", "POST", "PUT", "DELETE", "PATCH", "HEAD"} else "other"
        REQUESTS.labels(method, route, str(response.status_code)).observe(time.perf_counter() - began)
        return response
