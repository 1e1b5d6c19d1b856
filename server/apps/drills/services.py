"""Changes to drills."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import timedelta
from functools import cache
from typing import Any

from config.problems import ServiceError
from django.db import transaction
from django.db.models import OuterRef, ProtectedError, Subquery
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra import DrillError
from fortimetra.coach import at_step
from fortimetra.drills import (
    GENERATORS,
    Problem,
    blank,
    check,
    digest,
    facts,
    generate,
    library,
    make_set,
    partner_values,
    values_of,
)
from fortimetra.formats import drill_to_midi, drill_to_musicxml, text_tab
from fortimetra.model import Guitar as GuitarContent
from fortimetra.model import Shelf, Step, first_problem
from pydantic import ValidationError

from apps.drills.models import Drill, DrillVersion
from apps.drills.schemas import FileKind
from apps.people.actor import require_teacher
from apps.people.models import Studio, User

# Versions nothing was played to give way to the next within one sitting.
SITTING = timedelta(minutes=30)
MOST_TAGS = 12
LONGEST_TAG = 30


@dataclass(frozen=True)
class Made:
    """A generated drill and its problems."""

    content: DrillContent
    problems: list[Problem]


@transaction.atomic
def add_drill(
    studio: Studio,
    content: DrillContent,
    *,
    created_by: User | None,
    level: int | None = None,
    tags: Sequence[str] = (),
    form: str = "",
    values: Mapping[str, str] | None = None,
) -> Drill:
    """A new drill with its first version; form and values: what made it."""
    drill = Drill.objects.create(
        studio=studio,
        title=content.title,
        family=content.family,
        level=level,
        tags=list(tags),
        form=form,
        values=dict(values or {}),
        **_said_of(content),
    )
    drill.current = _add_version(drill, content, 1, created_by)
    drill.save(update_fields=["current"])
    return drill


def _add_version(drill: Drill, content: DrillContent, number: int, created_by: User | None) -> DrillVersion:
    return DrillVersion.objects.create(drill=drill, number=number, content=_row_of(content), created_by=created_by)


def _said_of(content: DrillContent) -> dict[str, Any]:
    """The columns a drill has of its current version."""
    return {"facts": facts(content), "digest": digest(_row_of(content))}


def tell_facts(studio: Studio) -> None:
    """Work out anew what lists say of a studio's drills, after their versions came from elsewhere."""
    for drill in Drill.objects.filter(studio=studio, current__isnull=False).select_related("current"):
        assert drill.current is not None
        said = _said_of(DrillContent.model_validate(drill.current.content))
        Drill.objects.filter(pk=drill.pk).update(**said)


def _row_of(content: DrillContent) -> dict[str, Any]:
    """As versions keep it: the shelf belongs to the library, and changing it makes no new version."""
    return content.model_copy(update={"shelf": None}).model_dump(mode="json", by_alias=True)


@transaction.atomic
def save_content(actor: User, drill: Drill, content: DrillContent, *, on_top_of: int) -> Drill:
    """A new version of a drill.

    While one person is at it, versions that nothing was played to give way to the next, so that a drill's history holds
    what was used and where each sitting ended. Raises ServiceError (409) if somebody else changed the drill meanwhile.
    """
    require_teacher(actor)
    locked = Drill.objects.select_for_update().select_related("current").get(pk=drill.pk)
    before = locked.current
    assert before is not None
    if before.number != on_top_of:
        raise ServiceError(
            409,
            "changed_meanwhile",
            f"This drill was changed elsewhere meanwhile (it is at version {before.number}); open it again to go on.",
        )
    if DrillContent.model_validate(before.content) == content.model_copy(update={"shelf": None}):
        return locked
    locked.current = _add_version(locked, content, before.number + 1, actor)
    locked.title, locked.family = content.title, content.family
    for name, value in _said_of(content).items():
        setattr(locked, name, value)
    locked.save(update_fields=["current", "title", "family", "facts", "digest"])
    if before.number > 1 and before.created_by_id == actor.pk and before.created_at > timezone.now() - SITTING:
        with suppress(ProtectedError):  # a take was played to it
            before.delete()
    return locked


def import_drill(actor: User, text: bytes) -> Drill:
    """A drill from its JSON file.

    Raises ServiceError naming the field that is wrong.
    """
    require_teacher(actor)
    try:
        content = DrillContent.parse(text)
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    shelf = content.shelf or Shelf()
    return add_drill(actor.studio, content, created_by=actor, level=shelf.level, tags=clean_tags(shelf.tags))


def blank_drill(actor: User) -> Drill:
    """An empty sheet to write on."""
    require_teacher(actor)
    return add_drill(actor.studio, blank(), created_by=actor)


def generate_drill(
    *, form: str, values: Mapping[str, str], varied: Sequence[tuple[str, str]] = (), guitar: GuitarContent | None
) -> Made:
    """A drill from a form, not kept, with what stands in the way of playing it.

    varied: fields that go through values, as they were typed; the drill is a set then.
    Raises ServiceError naming the field that is wrong.
    """
    generator = GENERATORS.get(form)
    if generator is None:
        raise ServiceError(422, "drill_invalid", f"form: there is no generator for {form[:40]!r}.")
    try:
        if varied:
            content = make_set(generator, values, [(name, values_of(text)) for name, text in varied])
        else:
            content = generate(generator, values)
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    return Made(content, check(content if guitar is None else content.on(guitar), guitar=guitar))


@transaction.atomic
def make_drill(
    actor: User,
    *,
    form: str,
    values: Mapping[str, str],
    varied: Sequence[tuple[str, str]] = (),
    with_partner: bool = False,
) -> Drill:
    """A drill from a form, kept in the studio's library; the same one again is the one that is there.

    with_partner: with the same figure the other way, where it has one.
    Raises ServiceError for a form that means nothing, or a drill that cannot be played.
    """
    require_teacher(actor)
    drill = _kept(actor, form, values, varied)
    if with_partner:
        others = partner_values(GENERATORS[form], values)
        if others is None:
            raise ServiceError(422, "no_partner", "This figure has no other way; keep it alone.")
        partner = _kept(actor, form, others, varied)
        Drill.objects.filter(pk=drill.pk).update(partner=partner)
        Drill.objects.filter(pk=partner.pk).update(partner=drill)
        drill.refresh_from_db()
    return drill


def _kept(actor: User, form: str, values: Mapping[str, str], varied: Sequence[tuple[str, str]]) -> Drill:
    made = generate_drill(form=form, values=values, varied=varied, guitar=None)
    wrong = next((p for p in made.problems if p.level == "error"), None)
    if wrong is not None:
        raise ServiceError(422, wrong.code, wrong.text)
    row = digest(_row_of(made.content))
    same = Drill.objects.filter(studio=actor.studio, digest=row, archived_at=None).select_related("current").first()
    if same is not None:
        return same
    tags = [*GENERATORS[form].tags, *(["set"] if varied else [])]
    return add_drill(actor.studio, made.content, created_by=actor, tags=tags, form=form, values=values)


@transaction.atomic
def delete_drill(actor: User, drill: Drill) -> None:
    """Remove a drill nothing was played to.

    Raises ServiceError (409) for one that takes or plans hold on to; that one can be put away.
    """
    require_teacher(actor)
    title = drill.title
    # Let the versions go; the transaction puts the current one back where something holds on to them.
    Drill.objects.filter(pk=drill.pk).update(current=None)
    try:
        drill.delete()
    except ProtectedError as error:
        raise ServiceError(
            409,
            "drill_in_use",
            f"“{title}” has been played, is in a plan, or is asked of a guest, so it stays with them; "
            "archive it instead.",
        ) from error


@transaction.atomic
def duplicate(actor: User, drill: Drill) -> Drill:
    """A copy with a title of its own, to be changed without touching the first."""
    require_teacher(actor)
    assert drill.current is not None
    content = DrillContent.model_validate(drill.current.content)
    copied = content.model_copy(update={"title": f"{content.title[:190]}, copy"})
    return add_drill(
        actor.studio, copied, created_by=actor, level=drill.level, tags=drill.tags, form=drill.form, values=drill.values
    )


def change(
    actor: User, drill: Drill, *, archived: bool | None, level: int | None, tags: Sequence[str] | None, set_level: bool
) -> Drill:
    """Put a drill away or take it out again (its takes keep it either way); its level and tags."""
    require_teacher(actor)
    if archived is not None:
        drill.archived_at = timezone.now() if archived else None
    if set_level:
        drill.level = level
    if tags is not None:
        drill.tags = clean_tags(tags)
    drill.save(update_fields=["archived_at", "level", "tags"])
    return drill


def comes_after(actor: User, drill: Drill, after: Drill | None) -> Drill:
    """Say what should be safe before a drill; None: nothing.

    Raises ServiceError where that would go round in a circle.
    """
    require_teacher(actor)
    before = after
    while before is not None:
        if before.pk == drill.pk:
            raise ServiceError(
                422, "order_circle", "These drills would each come before the other; choose another one."
            )
        before = before.after
    drill.after = after
    drill.save(update_fields=["after"])
    return drill


def clean_tags(tags: Sequence[str]) -> list[str]:
    """Tags in small letters, each once.

    Raises ServiceError for too many or too long ones.
    """
    cleaned = list(dict.fromkeys(" ".join(t.lower().split()) for t in tags if t.strip()))
    if len(cleaned) > MOST_TAGS or any(len(t) > LONGEST_TAG for t in cleaned):
        raise ServiceError(
            422,
            "tags_invalid",
            f"A drill has at most {MOST_TAGS} tags of {LONGEST_TAG} letters each; use fewer or shorter ones.",
        )
    return cleaned


def content_at(drill: Drill, *, per_click: int) -> DrillContent:
    """A drill as it is with so many notes to the click.

    Raises ServiceError where it has no such step.
    """
    assert drill.current is not None
    try:
        return at_step(DrillContent.model_validate(drill.current.content), Step(per_click=per_click))
    except DrillError as error:
        raise ServiceError(422, error.code, error.detail) from error
    except ValidationError as error:
        raise ServiceError(422, "per_click_invalid", f"per_click: {first_problem(error)}.") from error


def export(content: DrillContent, kind: FileKind) -> tuple[bytes, str, str]:
    """A drill as a file: its bytes, content type and ending."""
    if kind == "musicxml":
        return drill_to_musicxml(content), "application/vnd.recordare.musicxml+xml", "musicxml"
    if kind == "midi":
        return drill_to_midi(content).content, "audio/midi", "mid"
    if kind == "text":
        return text_tab(content).encode(), "text/plain; charset=utf-8", "txt"
    return content.model_dump_json(indent=1, by_alias=True).encode(), "application/json", "json"


def add_built_in(actor: User, title: str) -> Drill:
    """One drill of the library once more, after it was deleted. Raises StopIteration for a title it does not have."""
    found = next(b for b in library() if b.drill.title == title)
    return add_drill(
        actor.studio,
        found.drill,
        created_by=actor,
        level=found.level,
        tags=found.tags,
        form=found.form,
        values=found.values,
    )


@cache
def _built_in_rows() -> tuple[tuple[dict[str, Any], dict[str, Any], str, str], ...]:
    """Columns of a drill, its first version's content, and the titles of its partner and of what comes before it."""
    return tuple(
        (
            {
                "title": b.drill.title,
                "family": b.drill.family,
                "level": b.level,
                "tags": list(b.tags),
                "built_in": True,
                "form": b.form,
                "values": b.values,
                **_said_of(b.drill),
            },
            _row_of(b.drill),
            b.partner,
            b.after,
        )
        for b in library()
    )


@transaction.atomic
def add_built_in_drills(*, studio: Studio, **_signal: object) -> None:
    """What every studio begins with, in a handful of statements. Receives studio_created."""
    rows = _built_in_rows()
    drills = Drill.objects.bulk_create(Drill(studio=studio, **columns) for columns, *_ in rows)
    DrillVersion.objects.bulk_create(
        DrillVersion(drill=drill, number=1, content=content)
        for drill, (_, content, *_) in zip(drills, rows, strict=True)
    )
    first = DrillVersion.objects.filter(drill=OuterRef("pk"), number=1).values("pk")[:1]
    Drill.objects.filter(studio=studio, current=None).update(current=Subquery(first))
    by_title = {drill.title: drill for drill in drills}
    tied = []
    for drill, (*_, partner, after) in zip(drills, rows, strict=True):
        if partner or after:
            drill.partner, drill.after = by_title.get(partner), by_title.get(after)
            tied.append(drill)
    Drill.objects.bulk_update(tied, ["partner", "after"])
