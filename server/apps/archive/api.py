"""Addresses of archives, of what a student takes out, and of parting with a student."""

from __future__ import annotations

from config.problems import ServiceError
from django.http import HttpRequest, StreamingHttpResponse
from django.utils import timezone
from django.utils.http import content_disposition_header
from ninja import Router
from ninja.files import UploadedFile
from pydantic import BaseModel

from apps.archive import leaving, own_data
from apps.archive.back import note, restore
from apps.archive.out import stream
from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import actor_of, require_lead
from apps.people.models import Student
from apps.people.schemas import Deleted

router = Router(tags=["reports"])


class ArchiveRead(BaseModel):
    """What was read in."""

    students: int
    takes: int
    says: str


@router.delete("/students/{int:student_id}", response=Deleted, operation_id="delete_student")
def delete_student(request: HttpRequest, student_id: int) -> Deleted:
    """Delete a student with everything of theirs, for good; the answer says what remains."""
    actor = actor_of(request)
    return Deleted(**vars(leaving.delete_student(actor, people.student(actor, student_id))))


@router.get("/own", response=bytes, operation_id="take_out_own")
def take_out_own(request: HttpRequest) -> StreamingHttpResponse:
    """Everything about the student who asks."""
    actor = actor_of(request)
    student = Student.objects.filter(user=actor).first()
    if student is None:
        raise ServiceError(403, "not_allowed", "This is for students; a studio's lead takes out the whole studio.")
    audit.changed(actor, "took_out_own", student=student)
    at = timezone.now()
    answer = StreamingHttpResponse(own_data.stream(student, at=at), content_type="application/zip")
    name = f"{student.name} {at:%Y-%m-%d}.zip".replace("/", "-")
    answer["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return answer


@router.get("/archive", response=bytes, operation_id="take_out_studio")
def take_out_studio(request: HttpRequest) -> StreamingHttpResponse:
    """The whole studio as one archive."""
    actor = actor_of(request)
    require_lead(actor)
    audit.changed(actor, "took_out_archive")
    answer = StreamingHttpResponse(stream(actor.studio), content_type="application/zip")
    name = f"{actor.studio.name} {timezone.localdate():%Y-%m-%d}.zip".replace("/", "-")
    answer["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return answer


@router.post("/archive", response=ArchiveRead, operation_id="restore_studio")
def restore_studio(request: HttpRequest, file: UploadedFile) -> ArchiveRead:
    """Read an archive into this studio, which must be empty; all of it or nothing."""
    actor = actor_of(request)
    require_lead(actor)
    counts = restore(file.file, studio=actor.studio, lead=actor)  # type: ignore[arg-type]
    actor.studio.refresh_from_db()
    note(actor, actor.studio, counts)
    return ArchiveRead(
        students=counts["students"],
        takes=counts["takes"],
        says=f"{counts['students']} students and {counts['takes']} takes are back. Accounts came without passwords: "
        "give each person a link for a new one.",
    )
