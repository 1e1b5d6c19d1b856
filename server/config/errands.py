"""Work that a worker does for a row: the row is the truth, the message only wakes somebody.

A row that waits has `asked_at` and `attempts`. Whoever looks at it sends a message that seems lost once more, and gives
the row up when it has broken its workers often enough.
"""

from __future__ import annotations

import logging
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.db.models import F, QuerySet
from django.utils import timezone

from config.celery import app as celery_app

log = logging.getLogger(__name__)


def send(task: str, key: str) -> None:
    """Send the message; by name, because a task's module loads the whole core. Without a broker the row waits."""
    try:
        celery_app.send_task(task, args=[key])
    except Exception:
        log.warning("broker not reached; %s %s waits", task, key)


@dataclass(frozen=True)
class Errand:
    """One kind of such work. patience: how long a message may take to be worked off before it counts as lost."""

    task: str
    patience: timedelta
    most_attempts: int = 2

    def wake(self, key: object) -> None:
        """Tell a worker of a row."""
        send(self.task, str(key))

    def begin(self, waiting: QuerySet[Any]) -> bool:
        """Count an attempt on a row that still waits; whether there is anything to be done."""
        return bool(waiting.filter(attempts__lt=self.most_attempts).update(attempts=F("attempts") + 1))

    def given_up(self, row: Any) -> bool:
        """Whether a row that waits has been tried often enough; one that has waited long is sent once more.

        row: of a model with asked_at and attempts.
        """
        if row.asked_at is not None and timezone.now() - row.asked_at <= self.patience:
            return False
        if row.attempts >= self.most_attempts:
            return True
        row.asked_at = timezone.now()
        row.save(update_fields=["asked_at"])
        self.wake(row.pk)
        return False
