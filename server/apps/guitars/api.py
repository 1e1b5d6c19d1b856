"""Addresses of guitars."""

from __future__ import annotations

from django.http import HttpRequest
from fortimetra.model import Guitar as GuitarContent
from fortimetra.model import GuitarKind, preset
from ninja import Router, Status

from apps.guitars import selectors, services
from apps.guitars.schemas import (
    GuitarChange,
    GuitarCreate,
    GuitarDetail,
    GuitarRead,
    StringPull,
    guitar_detail,
    guitar_read,
    pulls,
)
from apps.people import selectors as people
from apps.people.actor import actor_of

router = Router(tags=["guitars"])


@router.get("", response=list[GuitarRead], operation_id="guitars")
def list_guitars(request: HttpRequest, student_id: int | None = None) -> list[GuitarRead]:
    """Guitars of one student, or of all this person may see."""
    found = selectors.guitars(actor_of(request))
    return [guitar_read(g) for g in (found if student_id is None else found.filter(student_id=student_id))]


@router.post("", response={201: GuitarDetail}, operation_id="add_guitar")
def add_guitar(request: HttpRequest, payload: GuitarCreate) -> Status[GuitarDetail]:
    """A new guitar of a student."""
    actor = actor_of(request)
    student = people.student(actor, payload.student_id)
    guitar = services.add_guitar(actor, student=student, name=payload.name, kind=payload.kind)
    return Status(201, guitar_detail(guitar))


@router.get("/presets/{kind}", response=GuitarContent, operation_id="guitar_preset")
def read_preset(request: HttpRequest, kind: GuitarKind) -> GuitarContent:
    """A typical guitar of its kind."""
    return preset(kind)


@router.post("/pulls", response=list[StringPull], operation_id="guitar_pulls")
def read_pulls(request: HttpRequest, payload: GuitarContent) -> list[StringPull]:
    """What the strings of a description do, before it is kept."""
    return pulls(payload)


@router.get("/{int:guitar_id}", response=GuitarDetail, operation_id="guitar")
def read_guitar(request: HttpRequest, guitar_id: int) -> GuitarDetail:
    """One guitar."""
    return guitar_detail(selectors.guitar(actor_of(request), guitar_id))


@router.put("/{int:guitar_id}", response=GuitarDetail, operation_id="change_guitar")
def change_guitar(request: HttpRequest, guitar_id: int, payload: GuitarChange) -> GuitarDetail:
    """Describe a guitar anew."""
    actor = actor_of(request)
    guitar = selectors.guitar(actor, guitar_id)
    return guitar_detail(services.change_guitar(actor, guitar, name=payload.name, description=payload.description))


@router.delete("/{int:guitar_id}", response={204: None}, operation_id="delete_guitar")
def delete_guitar(request: HttpRequest, guitar_id: int) -> Status[None]:
    """Delete a guitar; its takes stay."""
    actor = actor_of(request)
    services.delete_guitar(actor, selectors.guitar(actor, guitar_id))
    return Status(204, None)
