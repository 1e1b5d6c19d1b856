"""Addresses of drills."""

from __future__ import annotations

from config.problems import ServiceError
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from fortimetra.drills.library import GENERATORS
from fortimetra.model.base import MAX_FILE_BYTES
from fortimetra.model.guitar import Guitar as GuitarContent
from ninja import Router, Status
from ninja.files import UploadedFile

from apps.drills import selectors, services
from apps.drills.schemas import (
    DrillChange,
    DrillDetail,
    DrillForm,
    DrillMade,
    DrillRead,
    FileKind,
    GeneratorRead,
    drill_detail,
    drill_made,
    drill_read,
    generator_read,
)
from apps.guitars import selectors as guitars
from apps.people import selectors as people
from apps.people.actor import actor_of

router = Router(tags=["drills"])


@router.get("", response=list[DrillRead], operation_id="drills")
def list_drills(request: HttpRequest) -> list[DrillRead]:
    """The library."""
    actor = actor_of(request)
    seen = Count("versions__takes", filter=Q(versions__takes__student__in=people.students(actor)))
    return [drill_read(d) for d in selectors.drills(actor).annotate(take_count=seen)]


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
    guitar = None if payload.guitar_id is None else guitars.guitar(actor_of(request), payload.guitar_id)
    description = None if guitar is None else GuitarContent.model_validate(guitar.description)
    made = services.generate_drill(family=payload.family, values=payload.values, guitar=description)
    return drill_made(made.content, made.problems)


@router.post("/make", response={201: DrillDetail}, operation_id="make_drill")
def make_drill(request: HttpRequest, payload: DrillForm) -> Status[DrillDetail]:
    """Keep what a form makes."""
    drill = services.make_drill(actor_of(request), family=payload.family, values=payload.values)
    return Status(201, drill_detail(drill, drill.current))


@router.get("/{int:drill_id}/file", response=bytes, operation_id="drill_file")
def drill_file(request: HttpRequest, drill_id: int, kind: FileKind = "json") -> HttpResponse:
    """The drill as a file: its own JSON, Standard MIDI, or text tab."""
    drill = selectors.drill(actor_of(request), drill_id)
    content, content_type, ending = services.export(drill_detail(drill, drill.current).content, kind)
    answer = HttpResponse(content, content_type=content_type)
    answer["Content-Disposition"] = content_disposition_header(True, f"{drill.title[:80]}.{ending}") or "attachment"
    return answer


@router.post("/{int:drill_id}/duplicate", response={201: DrillDetail}, operation_id="duplicate_drill")
def duplicate_drill(request: HttpRequest, drill_id: int) -> Status[DrillDetail]:
    """A copy of a drill."""
    actor = actor_of(request)
    drill = services.duplicate(actor, selectors.drill(actor, drill_id))
    return Status(201, drill_detail(drill, drill.current))


@router.patch("/{int:drill_id}", response=DrillDetail, operation_id="change_drill")
def change_drill(request: HttpRequest, drill_id: int, payload: DrillChange) -> DrillDetail:
    """Put a drill away, or take it out again."""
    actor = actor_of(request)
    drill = services.archive(actor, selectors.drill(actor, drill_id), archived=payload.archived)
    return drill_detail(drill, drill.current)


@router.get("/{int:drill_id}", response=DrillDetail, operation_id="drill")
def read_drill(request: HttpRequest, drill_id: int) -> DrillDetail:
    """One drill with its newest version."""
    drill = selectors.drill(actor_of(request), drill_id)
    return drill_detail(drill, drill.current)
