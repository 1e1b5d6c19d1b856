"""Addresses of people."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Status

from apps.people import selectors, services
from apps.people.actor import actor_of
from apps.people.models import Student
from apps.people.schemas import Me, StudentCreate, StudentRead

router = Router(tags=["people"])


@router.get("/me", response=Me, operation_id="me")
def me(request: HttpRequest) -> Me:
    """Who is signed in, and what they may upload."""
    actor = actor_of(request)
    return Me(
        name=actor.name,
        email=actor.email,
        role=actor.role,  # type: ignore[arg-type]
        studio=actor.studio.name,
        zone=actor.studio.zone,
        upload_max_bytes=settings.UPLOAD_MAX_BYTES,
        take_max_minutes=settings.TAKE_MAX_MINUTES,
    )


@router.get("/students", response=list[StudentRead], operation_id="students")
def list_students(request: HttpRequest) -> list[Student]:
    """The students this person may see."""
    return list(selectors.students(actor_of(request)))


@router.post("/students", response={201: StudentRead}, operation_id="add_student")
def add_student(request: HttpRequest, payload: StudentCreate) -> Status[Student]:
    """A new student of this teacher."""
    return Status(201, services.add_student(actor_of(request), name=payload.name))
