"""What a person may see of drills."""

from __future__ import annotations

from uuid import UUID

from config.problems import not_found
from django.db.models import Count, QuerySet

from apps.drills.models import Drill, DrillVersion, ScoreImport
from apps.people import selectors as people
from apps.people.models import User


def drills(actor: User) -> QuerySet[Drill]:
    """The studio's library."""
    return Drill.objects.filter(studio_id=actor.studio_id).select_related("current", "partner", "after")


def listed(actor: User) -> QuerySet[Drill]:
    """The same for a list: without what is asked note by note."""
    alone = drills(actor).select_related(None).select_related("current")
    return alone.defer("current__content", "values")


def drill(actor: User, drill_id: int) -> Drill:
    """One of them, or 404."""
    found = drills(actor).filter(pk=drill_id).first()
    if found is None:
        raise not_found()
    return found


def take_counts(actor: User) -> dict[int, int]:
    """How many takes each drill has of the students this person may see; drills without any are not in it."""
    rows = (
        DrillVersion.objects.filter(takes__student__in=people.students(actor))
        .order_by()
        .values_list("drill_id")
        .annotate(Count("takes"))
    )
    counts: dict[int, int] = dict(rows)
    return counts


def versions(drill: Drill) -> QuerySet[DrillVersion]:
    """Everything a drill has been, newest first."""
    return drill.versions.select_related("created_by").order_by("-number")


def version(drill: Drill, number: int) -> DrillVersion:
    """One of them, or 404."""
    found = drill.versions.filter(number=number).first()
    if found is None:
        raise not_found()
    return found


def score_import(actor: User, import_id: UUID) -> ScoreImport:
    """A score on its way in, or 404; only for the person who brought it."""
    found = ScoreImport.objects.filter(pk=import_id, studio_id=actor.studio_id, created_by=actor).first()
    if found is None:
        raise not_found()
    return found
