"""What workers do. Idempotent: the take's row says whether there is anything to do."""

from __future__ import annotations

import logging
import resource
import threading
from typing import Any
from uuid import UUID

from celery import shared_task
from celery.signals import worker_process_init, worker_ready
from django.conf import settings
from django.db import connection

from apps.takes import services

log = logging.getLogger(__name__)
HEARTBEAT_S = 5.0


@shared_task(name="takes.measure")
def measure(take_id: str) -> None:
    """Measure one take, if nobody else does."""
    claim = services.claim(UUID(take_id))
    if claim is None:
        return
    done = threading.Event()
    heart = threading.Thread(target=_beat, args=(claim, done), daemon=True)
    heart.start()
    try:
        services.measure(claim, progress=lambda stage, fraction: _tell(claim, stage, fraction))
    except Exception:
        log.exception("measuring take %s broke off", take_id)
        services.release(claim)
    finally:
        done.set()
        heart.join(HEARTBEAT_S)


def _tell(claim: services.Claim, stage: str, fraction: float) -> None:
    services.report(claim, stage=stage, fraction=fraction)


def _beat(claim: services.Claim, done: threading.Event) -> None:
    """Renew the claim while a long stage runs."""
    try:
        while not done.wait(HEARTBEAT_S):
            services.report(claim)
    except Exception:
        log.warning("heartbeat of take %s stopped", claim.take_id, exc_info=True)
    finally:
        connection.close()


@shared_task(name="takes.sweep", expires=14)
def sweep() -> None:
    """Queue again what was lost."""
    services.sweep()


@worker_ready.connect
def _after_start(**_kwargs: Any) -> None:
    """A broker that was restarted has forgotten its messages; the rows have not."""
    services.sweep(all_waiting=True)


@worker_process_init.connect
def _limit_and_warm_up(**_kwargs: Any) -> None:
    """Bound a worker's memory, and compile before the first take waits for it."""
    limit = settings.WORKER_MEMORY_LIMIT_BYTES
    _soft, hard = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(resource.RLIMIT_DATA, (limit, hard))
    from fortimetra.warm_up import warm_up

    warm_up()
