"""How much may be sent: by an account in an hour, by guests of a studio in an hour, and kept by a studio in all."""

from __future__ import annotations

from datetime import timedelta

from config.problems import ServiceError
from django.conf import settings
from django.db.models import Sum
from django.utils import timezone

from apps.people.models import Student, User
from apps.takes.models import DrillGuess, Take

HOUR = timedelta(hours=1)


def require_quota(actor: User | None, student: Student, size: int) -> None:
    """Raises ServiceError (429, 507) where one more recording is too many. actor None: a guest."""
    lately = Take.objects.filter(created_at__gt=timezone.now() - HOUR)
    if actor is None:
        if lately.filter(student__studio=student.studio_id, uploaded_by=None).count() >= settings.GUEST_TAKES_AN_HOUR:
            raise _too_many("The studio has got many recordings from guests in the last hour.")
    elif lately.filter(uploaded_by=actor).count() >= settings.TAKES_AN_HOUR:
        raise _too_many(f"You have sent {settings.TAKES_AN_HOUR} recordings in the last hour.")
    most = settings.STUDIO_MAX_BYTES
    if most and (kept_bytes(student.studio_id) + size > most):
        raise ServiceError(
            507,
            "studio_full",
            f"The studio keeps {most / 1e9:.0f} GB of recordings, which is all it may. Delete takes nobody needs any "
            "more, or ask whoever looks after the server for more room.",
        )


def require_guess_quota(actor: User) -> None:
    """Raises ServiceError (429): hearing what a recording is costs as much as measuring it."""
    lately = DrillGuess.objects.filter(created_by=actor, asked_at__gt=timezone.now() - HOUR)
    if lately.count() >= settings.TAKES_AN_HOUR:
        raise _too_many(f"You have had {settings.TAKES_AN_HOUR} recordings heard in the last hour.")


def kept_bytes(studio_id: int) -> int:
    """Of a studio's recordings, as they were sent."""
    kept = Take.objects.filter(student__studio=studio_id, recording_deleted_at=None)
    return kept.aggregate(n=Sum("size_bytes"))["n"] or 0


def _too_many(what: str) -> ServiceError:
    return ServiceError(429, "too_many_takes", f"{what} Wait a while, then go on; yours is not lost.")
