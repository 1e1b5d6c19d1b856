"""Addresses of how long things are kept, and of deleting recordings while their numbers stay."""

from __future__ import annotations

from datetime import datetime

from config.problems import ServiceError
from django.http import HttpRequest
from ninja import Router
from pydantic import BaseModel

from apps.archive import retention
from apps.people import consents
from apps.people import selectors as people
from apps.people.actor import actor_of
from apps.people.models import User
from apps.people.schemas import Keeping
from apps.takes import services as takes
from apps.takes.models import Take

router = Router(tags=["reports"])


class KeepingRead(Keeping):
    """The studio's rule, and what of one's own is deleted within a month: so many recordings from a day on, and
    everything of students who left.
    """

    recordings: int
    recordings_from: datetime | None
    former_students: list[str]
    former_from: datetime | None


class RecordingsDeleted(BaseModel):
    """How many recordings are gone; what was measured in them stays."""

    deleted: int


@router.get("/keeping", response=KeepingRead, operation_id="keeping")
def read_keeping(request: HttpRequest) -> KeepingRead:
    """How long things are kept, and what will be deleted soon."""
    actor = actor_of(request)
    coming = retention.coming(actor)
    return KeepingRead(
        recordings_months=actor.studio.recordings_kept_months,
        former_months=actor.studio.former_kept_months,
        recordings=coming.recordings,
        recordings_from=coming.recordings_from,
        former_students=list(coming.former_students),
        former_from=coming.former_from,
    )


@router.delete("/students/{int:student_id}/recordings", response=RecordingsDeleted, operation_id="delete_recordings")
def delete_recordings(request: HttpRequest, student_id: int) -> RecordingsDeleted:
    """Delete the sound of all takes of a student and keep the numbers: by the teacher, or by the student once the
    consent is withdrawn.
    """
    actor = actor_of(request)
    student = people.student(actor, student_id)
    if actor.role == User.Role.STUDENT and consents.current(student) is not None:
        raise ServiceError(409, "agreed", "Withdraw your consent to recording first.")
    return RecordingsDeleted(deleted=takes.delete_recordings(actor, Take.objects.filter(student=student)))
