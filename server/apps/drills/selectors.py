"""What a person may see of drills."""

from __future__ import annotations

from config.problems import not_found
from django.db.models import QuerySet

from apps.drills.models import Drill
from apps.people.models import User


def drills(actor: User) -> QuerySet[Drill]:
    """The studio's library."""
    return Drill.objects.filter(studio_id=actor.studio_id).select_related("current")


def drill(actor: User, drill_id: int) -> Drill:
    """One of them, or 404."""
    found = drills(actor).filter(pk=drill_id).first()
    if found is None:
        raise not_found()
    return found
