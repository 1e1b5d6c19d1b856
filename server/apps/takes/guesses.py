"""Which drill a recording may be of, where its name does not say or its notes do not fit: a worker hears it, a person
confirms.

What was sent to be heard is thrown away then: it is sent with its take.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Sequence
from datetime import timedelta
from uuid import UUID

from config.problems import not_found
from django.core.files.base import File
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from apps.jobs import services as jobs
from apps.jobs.services import Kind, Problem, Told
from apps.people.models import User
from apps.takes import limits, services
from apps.takes.models import DrillGuess, Take

KEPT_FOR = timedelta(days=1)
MOST_WAITING = 100


class Hearing(Kind):
    """Recordings are heard for what drill they are of."""

    def moved(self, subjects: Sequence[str], state: Told, problem: Problem | None = None) -> None:
        if problem is not None:
            for guess in DrillGuess.objects.filter(pk__in=subjects):
                settle(guess, problem=problem.detail)

    def unfinished(self) -> Iterable[object]:
        return DrillGuess.objects.filter(state=DrillGuess.State.WAITING).values_list("pk", flat=True)[:MOST_WAITING]


HEARING = Hearing(
    "takes.guess_drill",
    most_attempts=2,
    broke=Problem("hearing_failed", "Hearing this recording broke off; choose its drill by hand."),
)


def ask(actor: User, upload: UploadedFile) -> DrillGuess:
    """Keep a recording for a worker to hear.

    Raises ServiceError for a file that can be told to be unusable without decoding it.
    """
    services.checked_size(upload)
    return _asked(actor, upload)


def ask_of(actor: User, take: Take) -> DrillGuess:
    """Have a take's recording heard for what drill it is of.

    Raises ServiceError where the recording was deleted.
    """
    services.require_recording(take)
    with take.upload.open("rb") as recording:
        return _asked(actor, recording)


def _asked(actor: User, recording: File) -> DrillGuess:
    limits.require_guess_quota(actor)
    _forget_old()
    guess = DrillGuess(id=uuid.uuid4(), created_by=actor, asked_at=timezone.now())
    guess.upload.save("recording", recording, save=False)
    try:
        with transaction.atomic():
            guess.save(force_insert=True)
            jobs.ask(HEARING, guess.pk)
    except BaseException:
        services.remove_file(guess.upload)
        raise
    return guess


def guess(actor: User, guess_id: UUID) -> DrillGuess:
    """One of the person's own, or 404."""
    found = DrillGuess.objects.filter(pk=guess_id, created_by=actor).first()
    if found is None:
        raise not_found()
    return found


def settle(heard: DrillGuess, *, drills: list[list[float]] | None = None, problem: str = "") -> None:
    """Keep what was heard, or why nothing was; the recording goes."""
    changed = DrillGuess.objects.filter(pk=heard.pk, state=DrillGuess.State.WAITING).update(
        state=DrillGuess.State.REFUSED if problem else DrillGuess.State.HEARD,
        drills=drills or [],
        problem_detail=problem,
    )
    if changed:
        services.remove_file(heard.upload)


def _forget_old() -> None:
    for old in DrillGuess.objects.filter(asked_at__lt=timezone.now() - KEPT_FOR)[:100]:
        services.remove_file(old.upload)
        old.delete()
