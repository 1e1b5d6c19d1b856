"""Addresses of drills."""

from __future__ import annotations

from uuid import UUID

from config.problems import ServiceError
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from fortimetra.card import Card
from fortimetra.drills import GENERATORS, check, partner_values
from fortimetra.model import MAX_FILE_BYTES, Shelf
from fortimetra.model import Guitar as GuitarContent
from ninja import Router, Status
from ninja.files import UploadedFile

from apps.drills import cards, imports, previews, selectors, services
from apps.drills.models import Drill, DrillVersion
from apps.drills.schemas import (
    CardWritten,
    DrillChange,
    DrillDetail,
    DrillForm,
    DrillMade,
    DrillRead,
    DrillToCheck,
    DrillWritten,
    FileKind,
    GeneratorRead,
    PreviewAsk,
    PreviewAsked,
    ScoreRead,
    VersionRead,
    drill_detail,
    drill_made,
    drill_read,
    generator_read,
    score_read,
    version_read,
)
from apps.guitars import selectors as guitars
from apps.people import selectors as people
from apps.people.actor import actor_of

router = Router(tags=["drills"], by_alias=True)
MOST_VERSIONS = 200


@router.get("", response=list[DrillRead], operation_id="drills")
def list_drills(request: HttpRequest) -> list[DrillRead]:
    """The library."""
    actor = actor_of(request)
    takes = selectors.take_counts(actor)
    return [drill_read(d, takes=takes.get(d.pk, 0)) for d in selectors.listed(actor)]


@router.post("", response={201: DrillDetail}, operation_id="import_drill")
def import_drill(request: HttpRequest, file: UploadedFile) -> Status[DrillDetail]:
    """A drill from its JSON file."""
    if (file.size or 0) > MAX_FILE_BYTES:
        raise ServiceError(413, "too_large", f"A drill file has at most {MAX_FILE_BYTES // 1_000_000} MB.")
    drill = services.import_drill(actor_of(request), file.read())
    return Status(201, drill_detail(drill, drill.current))


@router.get("/generators", response=list[GeneratorRead], operation_id="generators")
def list_generators(request: HttpRequest) -> list[GeneratorRead]:
    """Every family a drill can be made of."""
    return [generator_read(g) for g in GENERATORS.values()]


@router.post("/generate", response=DrillMade, operation_id="generate_drill")
def generate_drill(request: HttpRequest, payload: DrillForm) -> DrillMade:
    """What a form makes, without keeping it."""
    guitar = _description(request, payload.guitar_id)
    varied = [(v.field, v.values) for v in payload.varied]
    made = services.generate_drill(form=payload.form, values=payload.values, varied=varied, guitar=guitar)
    other = partner_values(GENERATORS[payload.form], payload.values)
    return drill_made(made.content, made.problems, has_partner=other is not None)


@router.post("/make", response={201: DrillDetail}, operation_id="make_drill")
def make_drill(request: HttpRequest, payload: DrillForm) -> Status[DrillDetail]:
    """Keep what a form makes."""
    drill = services.make_drill(
        actor_of(request),
        form=payload.form,
        values=payload.values,
        varied=[(v.field, v.values) for v in payload.varied],
        with_partner=payload.with_partner,
    )
    return Status(201, drill_detail(drill, drill.current))


@router.post("/blank", response={201: DrillDetail}, operation_id="blank_drill")
def blank_drill(request: HttpRequest) -> Status[DrillDetail]:
    """An empty sheet to write on."""
    drill = services.blank_drill(actor_of(request))
    return Status(201, drill_detail(drill, drill.current))


@router.post("/check", response=DrillMade, operation_id="check_drill")
def check_drill(request: HttpRequest, payload: DrillToCheck) -> DrillMade:
    """What stands in the way of playing a drill that is being written."""
    guitar = _description(request, payload.guitar_id)
    content = payload.content
    return drill_made(content, check(content if guitar is None else content.on(guitar), guitar=guitar))


@router.post("/preview", response=PreviewAsked, operation_id="ask_preview")
def ask_preview(request: HttpRequest, payload: PreviewAsk) -> PreviewAsked:
    """Have a drill played by the simulated student."""
    key, times = previews.ask(actor_of(request), payload.content, payload.shown, bpm=payload.bpm)
    return PreviewAsked(key=key, **vars(times))


@router.get("/preview/{key}", response=bytes, operation_id="preview")
def read_preview(request: HttpRequest, key: str) -> HttpResponse:
    """The sound as FLAC, or 202 while it is being played."""
    sound = previews.sound(key)
    if sound is None:
        return HttpResponse(status=202)
    answer = HttpResponse(sound, content_type="audio/flac")
    answer["Cache-Control"] = "private, max-age=3600, immutable"
    return answer


@router.post("/imports", response={201: ScoreRead}, operation_id="bring_score")
def bring_score(request: HttpRequest, file: UploadedFile) -> Status[ScoreRead]:
    """Bring a MusicXML or MIDI file; a worker reads it."""
    return Status(201, score_read(imports.bring(actor_of(request), file)))


@router.get("/imports/{uuid:import_id}", response=ScoreRead, operation_id="score_import")
def read_import(request: HttpRequest, import_id: UUID) -> ScoreRead:
    """What was read of a score."""
    return score_read(selectors.score_import(actor_of(request), import_id))


@router.post("/imports/{uuid:import_id}/keep", response={201: DrillDetail}, operation_id="keep_score")
def keep_import(request: HttpRequest, import_id: UUID) -> Status[DrillDetail]:
    """Make a drill of it."""
    actor = actor_of(request)
    drill = imports.keep(actor, selectors.score_import(actor, import_id))
    return Status(201, drill_detail(drill, drill.current))


@router.delete("/imports/{uuid:import_id}", response={204: None}, operation_id="drop_score")
def drop_import(request: HttpRequest, import_id: UUID) -> Status[None]:
    """Throw it away."""
    selectors.score_import(actor_of(request), import_id).delete()
    return Status(204, None)


@router.get("/{int:drill_id}/file", response=bytes, operation_id="drill_file")
def drill_file(request: HttpRequest, drill_id: int, kind: FileKind = "json") -> HttpResponse:
    """The drill as a file: its own JSON, MusicXML, Standard MIDI, or text tab."""
    drill = selectors.drill(actor_of(request), drill_id)
    shelf = Shelf(level=drill.level, tags=tuple(drill.tags)) if kind == "json" else None
    content = drill_detail(drill, drill.current).content.model_copy(update={"shelf": shelf})
    file, content_type, ending = services.export(content, kind)
    answer = HttpResponse(file, content_type=content_type)
    answer["Content-Disposition"] = content_disposition_header(True, f"{drill.title[:80]}.{ending}") or "attachment"
    return answer


@router.post("/{int:drill_id}/duplicate", response={201: DrillDetail}, operation_id="duplicate_drill")
def duplicate_drill(request: HttpRequest, drill_id: int) -> Status[DrillDetail]:
    """A copy of a drill."""
    actor = actor_of(request)
    drill = services.duplicate(actor, selectors.drill(actor, drill_id))
    return Status(201, drill_detail(drill, drill.current))


@router.put("/{int:drill_id}/content", response=DrillDetail, operation_id="write_drill")
def write_drill(request: HttpRequest, drill_id: int, payload: DrillWritten) -> DrillDetail:
    """Keep what was written as a new version."""
    actor = actor_of(request)
    drill = services.save_content(actor, selectors.drill(actor, drill_id), payload.content, on_top_of=payload.number)
    return drill_detail(drill, drill.current)


@router.get("/{int:drill_id}/versions", response=list[VersionRead], operation_id="drill_versions")
def list_versions(request: HttpRequest, drill_id: int) -> list[VersionRead]:
    """Everything a drill has been, newest first."""
    actor = actor_of(request)
    seen = Count("takes", filter=Q(takes__student__in=people.students(actor)))
    found = selectors.versions(selectors.drill(actor, drill_id)).annotate(take_count=seen)
    return [version_read(v) for v in found[:MOST_VERSIONS]]


@router.get("/{int:drill_id}/versions/{int:number}", response=DrillDetail, operation_id="drill_version")
def read_version(request: HttpRequest, drill_id: int, number: int) -> DrillDetail:
    """A drill as it was."""
    drill = selectors.drill(actor_of(request), drill_id)
    return drill_detail(drill, selectors.version(drill, number))


@router.get("/{int:drill_id}/card", response=Card, operation_id="drill_card")
def read_card(request: HttpRequest, drill_id: int, guitar_id: int | None = None) -> Card:
    """How a drill is practised."""
    drill = selectors.drill(actor_of(request), drill_id)
    return cards.card_of(drill, _current(drill), guitar=_description(request, guitar_id))


@router.put("/{int:drill_id}/card/{section}", response=Card, operation_id="write_card")
def write_card(request: HttpRequest, drill_id: int, section: str, payload: CardWritten) -> Card:
    """Say a section of the card differently."""
    actor = actor_of(request)
    drill = selectors.drill(actor, drill_id)
    cards.write(actor, drill, section=section, of=payload.of, lines=payload.lines)
    return cards.card_of(drill, _current(drill))


@router.delete("/{int:drill_id}", response={204: None}, operation_id="delete_drill")
def delete_drill(request: HttpRequest, drill_id: int) -> Status[None]:
    """Remove a drill nothing was played to."""
    actor = actor_of(request)
    services.delete_drill(actor, selectors.drill(actor, drill_id))
    return Status(204, None)


@router.patch("/{int:drill_id}", response=DrillDetail, operation_id="change_drill")
def change_drill(request: HttpRequest, drill_id: int, payload: DrillChange) -> DrillDetail:
    """Put a drill away or take it out again; its level and tags."""
    actor = actor_of(request)
    drill = services.change(
        actor,
        selectors.drill(actor, drill_id),
        archived=payload.archived,
        level=payload.level,
        tags=payload.tags,
        set_level="level" in payload.model_fields_set,
    )
    if "after_id" in payload.model_fields_set:
        after = None if payload.after_id is None else selectors.drill(actor, payload.after_id)
        services.comes_after(actor, drill, after)
    return drill_detail(drill, drill.current)


@router.get("/{int:drill_id}", response=DrillDetail, operation_id="drill")
def read_drill(request: HttpRequest, drill_id: int, per_click: int | None = None) -> DrillDetail:
    """One drill with its newest version; per_click: laid out with so many notes to the click, a step of the ladder."""
    drill = selectors.drill(actor_of(request), drill_id)
    if per_click is None:
        return drill_detail(drill, drill.current)
    return drill_detail(drill, drill.current, content=services.content_at(drill, per_click=per_click))


def _current(drill: Drill) -> DrillVersion:
    assert drill.current is not None
    return drill.current


def _description(request: HttpRequest, guitar_id: int | None) -> GuitarContent | None:
    if guitar_id is None:
        return None
    return GuitarContent.model_validate(guitars.guitar(actor_of(request), guitar_id).description)
