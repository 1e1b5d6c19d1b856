"""Working on a job, for the tasks of the apps."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from celery.exceptions import SoftTimeLimitExceeded
from config.metrics import JOBS
from config.storage import is_full
from config.trace import job_of
from django.db import connection

from apps.jobs import services
from apps.jobs.services import Claim, Kind

log = logging.getLogger(__name__)
HEARTBEAT_S = 5.0


class ClaimLost(Exception):
    """The job is nobody's any more, or another worker's."""


def work(kind: Kind, subject: str, do: Callable[[Claim], None]) -> None:
    """Do a job, if nobody else does. do: ends it by `services.finish`, in the transaction that writes what it found;
    raises ClaimLost where it sees that it has lost it. Whatever else it raises is said, and the job tried again.
    """
    mine = services.claim(kind, subject)
    if mine is None:
        return
    with job_of(kind.task, subject), _heartbeat(mine):
        JOBS.labels(kind.task, _done(mine, do)).inc()


def _done(mine: Claim, do: Callable[[Claim], None]) -> str:
    """How an attempt ended."""
    name = f"{mine.kind.task} {mine.subject}"
    try:
        do(mine)
    except ClaimLost:
        log.info("%s was deleted, or is another worker's", name)
        return "lost"
    except (MemoryError, SoftTimeLimitExceeded):
        log.exception("%s is too much for a worker", name)
        services.fail(mine, mine.kind.too_much)
        return "too_much"
    except Exception as error:
        log.exception("%s broke off", name)
        if is_full(error):
            services.wait_for_room(mine)
            return "no_room"
        services.release(mine)
        return "broke_off"
    return "done"


def tell(mine: Claim, stage: str, fraction: float) -> None:
    """Say how far a job is. Raises ClaimLost."""
    if not services.report(mine, stage=stage, fraction=fraction):
        raise ClaimLost


@contextmanager
def _heartbeat(mine: Claim) -> Iterator[None]:
    """Renew the claim while a long stage runs."""
    done = threading.Event()
    heart = threading.Thread(target=_beat, args=(mine, done), daemon=True)
    heart.start()
    try:
        yield
    finally:
        done.set()
        heart.join(HEARTBEAT_S)


def _beat(mine: Claim, done: threading.Event) -> None:
    try:
        while not done.wait(HEARTBEAT_S):
            services.report(mine)
    except Exception:
        log.warning("heartbeat of %s %s stopped", mine.kind.task, mine.subject, exc_info=True)
    finally:
        connection.close()
