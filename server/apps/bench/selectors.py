"""What a person may see of ear checks."""

from __future__ import annotations

from config.problems import not_found
from django.db.models import QuerySet

from apps.bench.models import EarCheck
from apps.bench.schemas import Hearing, hearing_read
from apps.people import selectors as people
from apps.people.models import Student, User


def ear_checks(actor: User) -> QuerySet[EarCheck]:
    """Ear checks of the students this person may see, newest first."""
    return EarCheck.objects.filter(student__in=people.students(actor))


def ear_check(actor: User, check_id: int) -> EarCheck:
    """One of them, or 404."""
    found = ear_checks(actor).filter(pk=check_id).first()
    if found is None:
        raise not_found()
    return found


def hearing(actor: User, student: Student) -> list[Hearing]:
    """The newest finished check of each kind that gave a threshold."""
    newest: dict[str, EarCheck] = {}
    for check in ear_checks(actor).filter(student=student, threshold__isnull=False)[:60]:
        newest.setdefault(check.kind, check)
    return [hearing_read(check) for check in newest.values()]
