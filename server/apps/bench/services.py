"""Changes to ear checks."""

from __future__ import annotations

import secrets

from config.problems import ServiceError
from django.db import transaction
from django.utils import timezone
from fortimetra.workbench import EarKind, EarState, Said, ear_state

from apps.bench.models import EarCheck
from apps.people.models import Student, User


def start(actor: User, *, student: Student, kind: EarKind) -> EarCheck:
    """A new check; one that was left half done is thrown away."""
    EarCheck.objects.filter(student=student, kind=kind, finished_at=None).delete()
    return EarCheck.objects.create(student=student, kind=kind, seed=secrets.randbelow(2**31), started_at=timezone.now())


def state_of(check: EarCheck) -> EarState:
    """Where a check stands."""
    return ear_state(check.kind, seed=check.seed, said=check.said)  # type: ignore[arg-type]


@transaction.atomic
def answer(actor: User, check: EarCheck, *, number: int, said: Said) -> EarCheck:
    """Take an answer. The same answer sent twice counts once.

    Raises ServiceError for an answer to a trial that is not the present one.
    """
    locked = EarCheck.objects.select_for_update().get(pk=check.pk)
    if number < len(locked.said):
        return locked
    if locked.finished_at is not None or number > len(locked.said):
        raise ServiceError(409, "other_trial", "This check has gone on without that answer; reload the page.")
    locked.said = [*locked.said, said]
    state = state_of(locked)
    if state.result is not None:
        locked.finished_at = timezone.now()
        locked.threshold, locked.u = state.result.threshold, state.result.u
        locked.false_alarms, locked.reason = state.result.false_alarms, state.result.reason or ""
    locked.save()
    return locked
