"""What a person may see of guitars."""

from __future__ import annotations

from config.problems import not_found
from django.db.models import QuerySet

from apps.guitars.models import Guitar
from apps.people import selectors as people
from apps.people.models import User


def guitars(actor: User) -> QuerySet[Guitar]:
    """Guitars of the students this person may see."""
    return Guitar.objects.filter(student__in=people.students(actor)).select_related("student")


def guitar(actor: User, guitar_id: int) -> Guitar:
    """One of them, or 404."""
    found = guitars(actor).filter(pk=guitar_id).first()
    if found is None:
        raise not_found()
    return found
