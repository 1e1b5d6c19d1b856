"""Which drill a recording may be of, where its name does not say: a worker hears it, a person confirms.

The recording is thrown away once it has been heard: it is sent
with its take.
"""

from __future__ import annotations

import uuid
from datetime import timedelta
from uuid import UUID

from config.errands import Errand
from config.problems import not_found
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from apps.people.models import User
from apps.takes import limits, services
from apps.takes.models import DrillGuess

HEARING = Errand("takes.guess_drill", patience=timedelta(seconds=60))
KEPT_FOR = timedelta(days=1)


def ask(actor: User, upload: UploadedFile) -> DrillGuess:
    """Keep a recording for a worker to hear.

    Raises ServiceError for a file that can be told to be unusable without decoding it.
    """
    services.checked_size(upload)
    limits.require_guess_quota(actor)
    _forget_old()
    guess = DrillGuess(id=uuid.uuid4(), created_by=actor, asked_at=timezone.now())
    guess.upload.save("recording", upload, save=False)
    try:
        with transaction.atomic():
            guess.save(force_insert=True)
            transaction.on_commit(lambda: HEARING.wake(guess.pk))
    except BaseException:
        services.remove_file(guess.upload)
        raise
    return guess


def looked_at(actor: User, guess_id: UUID) -> DrillGuess:
    """One of the person's own, or 404; a message that was lost is sent again, twice at most."""
    guess = DrillGuess.objects.filter(pk=guess_id, created_by=actor).first()
    if guess is None:
        raise not_found()
    if guess.state == DrillGuess.State.WAITING and HEARING.given_up(guess):
        settle(guess, problem="Hearing this recording broke off; choose its drill by hand.")
        guess.refresh_from_db()
    return guess


def settle(guess: DrillGuess, *, drills: list[list[float]] | None = None, problem: str = "") -> None:
    """Keep what was heard, or why nothing was; the recording goes."""
    changed = DrillGuess.objects.filter(pk=guess.pk, state=DrillGuess.State.WAITING).update(
        state=DrillGuess.State.REFUSED if problem else DrillGuess.State.HEARD,
        drills=drills or [],
        problem_detail=problem,
    )
    if changed:
        services.remove_file(guess.upload)


def _forget_old() -> None:
    for old in DrillGuess.objects.filter(asked_at__lt=timezone.now() - KEPT_FOR)[:100]:
        services.remove_file(old.upload)
        old.delete()
