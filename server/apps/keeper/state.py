"""How an installation is: what waits, what has failed, room, versions, the last backup. Nobody is named."""

from __future__ import annotations

import json
import platform
import shutil
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

import django
from config.celery import app as celery_app
from config.storage import has_room
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection
from django.db.models import Count, Min, QuerySet, Sum
from django.utils import timezone
from fortimetra import __version__ as CORE

from apps.jobs.models import Job
from apps.takes.models import Take

MOST_FAILED = 100
PROBE = "probe"


@dataclass(frozen=True)
class Waiting:
    """Jobs of a kind in a state; oldest_s: how long ago the first of them was asked for."""

    kind: str
    queue: str
    state: str
    count: int
    oldest_s: float


def queue_of(kind: str) -> str:
    """The queue whose workers do a kind of job."""
    route: dict[str, str] = settings.CELERY_TASK_ROUTES.get(kind, {})
    return route.get("queue", settings.CELERY_TASK_DEFAULT_QUEUE)


def waiting() -> list[Waiting]:
    """What is to be done, by kind and state."""
    now = timezone.now()
    rows = Job.objects.order_by().values_list("kind", "state").annotate(Count("pk"), Min("asked_at"))
    return [
        Waiting(kind, queue_of(kind), state, count, max(0.0, (now - oldest).total_seconds()))
        for kind, state, count, oldest in sorted(rows)
    ]


def failed() -> QuerySet[Job]:
    """Jobs that were given up, the newest first."""
    return Job.objects.filter(state=Job.State.FAILED).order_by("-asked_at")[:MOST_FAILED]


@dataclass(frozen=True)
class Room:
    """Bytes of the disk with the data folder, and of recordings by what their rows say."""

    free: int
    total: int
    kept_free: int
    recordings: int
    takes: int


def room() -> Room:
    """How much room there is."""
    disk = shutil.disk_usage(settings.DATA if Path(settings.DATA).exists() else "/")
    kept = Take.objects.filter(recording_deleted_at=None).aggregate(bytes=Sum("size_bytes"), takes=Count("pk"))
    return Room(disk.free, disk.total, settings.KEPT_FREE_BYTES, kept["bytes"] or 0, kept["takes"])


@dataclass(frozen=True)
class Backup:
    """The last backup, as the command that made it wrote down."""

    at: datetime
    file: str
    bytes: int
    encrypted: bool


def last_backup() -> Backup | None:
    """None where none was made, or its record cannot be read."""
    try:
        told: dict[str, Any] = json.loads((Path(settings.DATA) / "last-backup.json").read_text())
        return Backup(
            at=datetime.fromisoformat(told["at"]),
            file=Path(str(told["file"])).name,
            bytes=int(told["bytes"]),
            encrypted=bool(told["encrypted"]),
        )
    except (OSError, ValueError, KeyError, TypeError):
        return None


def versions() -> dict[str, str]:
    """Of what runs here."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT VERSION()")
        database = str(cursor.fetchone()[0])
    return {
        "core": CORE, "Python": platform.python_version(), "Django": django.get_version(), "MariaDB": database,
    }  # fmt: skip


def problems() -> Iterable[str]:
    """What keeps this host from doing its work, a sentence each: the database, the broker, the store."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except Exception:
        yield "The database does not answer."
    try:
        with celery_app.connection_for_write() as broker:
            broker.ensure_connection(max_retries=1, timeout=2)
    except Exception:
        yield "The broker does not answer."
    try:
        default_storage.exists(PROBE)
    except Exception:
        yield "The store of recordings does not answer."
    if not has_room():
        yield "The disk is nearly full: no recording is taken."
