"""Changes to drills."""

from __future__ import annotations

from collections.abc import Sequence

from config.problems import ServiceError
from django.db import transaction
from fortimetra import Drill as DrillContent
from fortimetra import DrillError
from fortimetra.drills.fretted_then_bend import starter_drills
from fortimetra.drills.set_up import set_up

from apps.drills.models import Drill, DrillVersion
from apps.people.models import Studio, User


@transaction.atomic
def add_drill(studio: Studio, content: DrillContent, *, created_by: User | None) -> Drill:
    """A new drill with its first version."""
    drill = Drill.objects.create(studio=studio, title=content.title, family=content.family)
    drill.current = DrillVersion.objects.create(
        drill=drill,
        number=1,
        content=content.model_dump(mode="json", by_alias=True),
        created_by=created_by,
    )
    drill.save(update_fields=["current"])
    return drill


def import_drill(actor: User, text: bytes) -> Drill:
    """A drill from its JSON file.

    Raises ServiceError naming the field that is wrong.
    """
    if actor.role != User.Role.TEACHER:
        raise ServiceError(403, "not_allowed", "Only a teacher may add drills.")
    try:
        content = DrillContent.parse(text)
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    return add_drill(actor.studio, content, created_by=actor)


def add_starter_drills(studio: Studio) -> Sequence[Drill]:
    """What a new studio begins with."""
    return [add_drill(studio, content, created_by=None) for content in (set_up(), *starter_drills())]
