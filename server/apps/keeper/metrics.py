"""The page that Prometheus reads, and readiness for a proxy."""

from __future__ import annotations

import hmac
import os
from collections.abc import Iterator

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe
from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector

from apps.keeper import state


class Rows(Collector):
    """What the rows say: jobs and room."""

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """Asked for every time the page is read."""
        depth = GaugeMetricFamily("fortimetra_jobs", "Jobs there are.", labels=("kind", "queue", "state"))
        age = GaugeMetricFamily(
            "fortimetra_oldest_job_seconds", "Age of the oldest.", labels=("kind", "queue", "state")
        )
        for row in state.waiting():
            depth.add_metric((row.kind, row.queue, row.state), row.count)
            age.add_metric((row.kind, row.queue, row.state), row.oldest_s)
        yield from (depth, age)
        room = state.room()
        for name, says, value in (
            ("disk_free_bytes", "Free on the disk of the data folder.", room.free),
            ("disk_bytes", "Size of that disk.", room.total),
            ("recordings_bytes", "Of all recordings.", room.recordings),
            ("recordings", "How many there are.", room.takes),
        ):
            yield GaugeMetricFamily(f"fortimetra_{name}", says, value=value)
        backup = state.last_backup()
        if backup is not None:
            yield GaugeMetricFamily(
                "fortimetra_last_backup_timestamp_seconds", "When it was made.", value=backup.at.timestamp()
            )


@never_cache
@require_safe
def metrics(request: HttpRequest) -> HttpResponse:
    """Everything that is counted, for who has the token of FORTIMETRA_METRICS_TOKEN; without one, for nobody."""
    given = request.headers.get("Authorization", "").removeprefix("Bearer ")
    wanted: str = settings.METRICS_TOKEN
    if not wanted or not hmac.compare_digest(given.encode(), wanted.encode()):
        return HttpResponse(status=404)
    registry = CollectorRegistry()
    registry.register(Rows())
    text = generate_latest(registry)
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        shared = CollectorRegistry()
        MultiProcessCollector(shared)  # type: ignore[no-untyped-call]
        text += generate_latest(shared)
    else:
        text += generate_latest(REGISTRY)
    return HttpResponse(text, content_type=CONTENT_TYPE_LATEST)


@never_cache
@require_safe
def ready(request: HttpRequest) -> JsonResponse:
    """Whether this host can do its work: 503 with why not. That it runs at all is /api/v1/health."""
    found = list(state.problems())
    return JsonResponse({"ready": not found, "problems": found}, status=503 if found else 200)
