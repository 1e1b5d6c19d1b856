"""What a person may see of guitars."""

from __future__ import annotations

from django.db.models import QuerySet

from apps.guitars.models import Guitar
from apps.people import selectors as people
from apps.people.models import User


def guitars(actor: User) -> QuerySet[Guitar]:
    """Guitars of the students this person may see."""
    return Guitar.objects.filter(student__in=people.students(actor))
