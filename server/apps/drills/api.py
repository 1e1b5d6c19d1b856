"""Addresses of drills."""

from __future__ import annotations

from config.problems import ServiceError
from django.db.models import Count, Q
from django.http import HttpRequest
from fortimetra.model.base import MAX_FILE_BYTES
from ninja import Router, Status
from ninja.files import UploadedFile

from apps.drills import selectors, services
from apps.drills.schemas import DrillDetail, DrillRead, drill_detail, drill_read
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


@router.get("/{int:drill_id}", response=DrillDetail, operation_id="drill")
def read_drill(request: HttpRequest, drill_id: int) -> DrillDetail:
    """One drill with its newest version."""
    drill = selectors.drill(actor_of(request), drill_id)
    return drill_detail(drill, drill.current)
