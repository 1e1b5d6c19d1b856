"""Changes to drills."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from config.problems import ServiceError
from django.db import transaction
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import DrillError
from fortimetra.drills.check import Problem, check
from fortimetra.drills.fretted_then_bend import starter_drills
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS
from fortimetra.drills.set_up import set_up
from fortimetra.formats.midi import drill_to_midi
from fortimetra.formats.text_tab import text_tab
from fortimetra.model.guitar import Guitar as GuitarContent

from apps.drills.models import Drill, DrillVersion
from apps.drills.schemas import FileKind
from apps.people.models import Studio, User


@dataclass(frozen=True)
class Made:
    """A generated drill and its problems."""

    content: DrillContent
    problems: list[Problem]


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
    _require_teacher(actor)
    try:
        content = DrillContent.parse(text)
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    return add_drill(actor.studio, content, created_by=actor)


def generate_drill(*, family: str, values: Mapping[str, str], guitar: GuitarContent | None) -> Made:
    """A drill from a form, not kept, with what stands in the way of playing it.

    Raises ServiceError naming the field that is wrong.
    """
    generator = GENERATORS.get(family)
    if generator is None:
        raise ServiceError(422, "drill_invalid", f"family: there is no generator for {family[:40]!r}.")
    try:
        content = generate(generator, values)
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    return Made(content, check(content if guitar is None else content.on(guitar), guitar=guitar))


def make_drill(actor: User, *, family: str, values: Mapping[str, str]) -> Drill:
    """A drill from a form, kept in the studio's library.

    Raises ServiceError for a form that means nothing, or a drill that cannot be played.
    """
    _require_teacher(actor)
    made = generate_drill(family=family, values=values, guitar=None)
    wrong = next((p for p in made.problems if p.level == "error"), None)
    if wrong is not None:
        raise ServiceError(422, wrong.code, wrong.text)
    return add_drill(actor.studio, made.content, created_by=actor)


@transaction.atomic
def duplicate(actor: User, drill: Drill) -> Drill:
    """A copy with a title of its own, to be changed without touching the first."""
    _require_teacher(actor)
    assert drill.current is not None
    content = DrillContent.model_validate(drill.current.content)
    return add_drill(
        actor.studio, content.model_copy(update={"title": f"{content.title[:190]}, copy"}), created_by=actor
    )


def archive(actor: User, drill: Drill, *, archived: bool) -> Drill:
    """Put a drill away, or take it out again; its takes keep it either way."""
    _require_teacher(actor)
    drill.archived_at = timezone.now() if archived else None
    drill.save(update_fields=["archived_at"])
    return drill


def export(content: DrillContent, kind: FileKind) -> tuple[bytes, str, str]:
    """A drill as a file: its bytes, content type and ending."""
    if kind == "midi":
        return drill_to_midi(content).content, "audio/midi", "mid"
    if kind == "text":
        return text_tab(content).encode(), "text/plain; charset=utf-8", "txt"
    return content.model_dump_json(indent=1, by_alias=True).encode(), "application/json", "json"


def _require_teacher(actor: User) -> None:
    if actor.role != User.Role.TEACHER:
        raise ServiceError(403, "not_allowed", "Only a teacher may add drills.")


def add_starter_drills(studio: Studio) -> Sequence[Drill]:
    """What a new studio begins with."""
    return [add_drill(studio, content, created_by=None) for content in (set_up(), *starter_drills())]
