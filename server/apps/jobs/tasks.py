"""What a worker does beside its jobs: it queues again what was lost, and bounds its children's memory."""

from __future__ import annotations

import logging
import resource
import threading
import time
from typing import Any

from celery.signals import worker_process_init, worker_ready
from django.conf import settings
from django.db import close_old_connections

from apps.jobs import services
from apps.people.signals import day_passed

log = logging.getLogger(__name__)
SWEEP_S = 15.0
# What is kept for a time only is looked through once a day, also where nothing is ever started again.
PURGE_S = 24 * 3600.0


@worker_ready.connect
def _after_start(**_kwargs: Any) -> None:
    """Sweep from now on, in the worker's own process: children may die, and beat would be one of them."""
    threading.Thread(target=_sweep_for_ever, name="sweeper", daemon=True).start()


def _sweep_for_ever() -> None:
    # A broker that was restarted has forgotten its messages; the rows have not.
    everything, purge_at = True, 0.0
    while True:
        try:
            close_old_connections()
            services.sweep(all_waiting=everything)
            everything = False
            if time.monotonic() > purge_at:
                for receiver, answer in day_passed.send_robust(None):
                    if isinstance(answer, Exception):
                        log.error("%s failed: %s", receiver, answer, exc_info=answer)
                purge_at = time.monotonic() + PURGE_S
        except Exception:
            log.warning("sweeping failed; the next sweep is in %s s", SWEEP_S, exc_info=True)
        time.sleep(SWEEP_S)


@worker_process_init.connect
def _limit_memory(**_kwargs: Any) -> None:
    limit = settings.WORKER_MEMORY_LIMIT_BYTES
    _soft, hard = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(resource.RLIMIT_DATA, (limit, hard))
