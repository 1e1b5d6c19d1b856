"""What a person may see of takes."""

from __future__ import annotations

from uuid import UUID

from config.problems import ServiceError, not_found
from django.db.models import QuerySet

from apps.people import selectors as people
from apps.people.models import User
from apps.takes.models import Analysis, Take


def takes(actor: User) -> QuerySet[Take]:
    """Takes of the students this person may see, newest first, without the large columns."""
    return (
        Take.objects.filter(student__in=people.students(actor))
        .select_related("student", "guitar", "drill_version__drill", "current")
        .defer("drill_version__content", "current__content")
    )


def take(actor: User, take_id: UUID) -> Take:
    """One of them, or 404."""
    found = takes(actor).filter(pk=take_id).first()
    if found is None:
        raise not_found()
    return found


def analysis(actor: User, take_id: UUID) -> Analysis:
    """The newest analysis of a take.

    Raises ServiceError: the take's own problem if it was refused, 409 while it is not measured yet.
    """
    found = take(actor, take_id)
    if found.current is not None:
        return found.current
    if found.state in (Take.State.REFUSED, Take.State.FAILED):
        raise ServiceError(422, found.problem_code, found.problem_detail)
    raise ServiceError(409, "not_measured_yet", "This take is still being measured; ask again in a moment.")
