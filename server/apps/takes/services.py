"""Changes to takes: receive, measure again, hide, delete."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Iterable, Sequence
from datetime import datetime
from functools import partial
from uuid import UUID

from config.problems import ServiceError
from config.storage import require_room
from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.db.models.fields.files import FieldFile
from django.utils import timezone
from fortimetra import sniff
from fortimetra.drills import set_up
from fortimetra.model import STANDARD_TUNING, Click

from apps.drills.models import Drill, DrillVersion
from apps.drills.services import add_drill
from apps.guitars.models import Guitar
from apps.jobs import services as jobs
from apps.jobs.services import Kind, Problem, Told
from apps.people import audit, consents
from apps.people.actor import require_teacher
from apps.people.models import Student, Studio, User
from apps.takes import limits, selectors
from apps.takes.models import Analysis, Take

MOST_AFTER_SET_UP = 500


class Measuring(Kind):
    """Takes are measured. A take says itself how far that has come."""

    def moved(self, subjects: Sequence[str], state: Told, problem: Problem | None = None) -> None:
        told = problem or Problem("", "")
        Take.objects.filter(pk__in=subjects).update(
            state=STATES[state], problem_code=told.code, problem_detail=told.detail
        )

    def unfinished(self) -> Iterable[object]:
        return Take.objects.filter(state__in=Take.UNFINISHED).values_list("pk", flat=True)[:MOST_AFTER_SET_UP]


STATES: dict[Told, Take.State] = {
    "waiting": Take.State.RECEIVED,
    "queued": Take.State.QUEUED,
    "running": Take.State.MEASURING,
    "failed": Take.State.FAILED,
}
MEASURING = Measuring(
    selectors.MEASURE,
    most_attempts=settings.TAKE_ATTEMPTS,
    broke=Problem(
        "measuring_failed",
        "Measuring broke off several times. The recording is kept; try again, or send a shorter one.",
    ),
    too_much=Problem(
        "too_much",
        "Measuring took too long or needed too much memory. The recording is kept; send a shorter one, cut to the "
        "exercise.",
    ),
)


def checked_size(upload: UploadedFile) -> int:
    """Bytes of an upload that may be a recording.

    Raises ServiceError for a file that can be told to be unusable without decoding it.
    """
    size = upload.size or 0
    if size == 0:
        raise ServiceError(422, "empty", "The file is empty (0 bytes); record or export it again.")
    if size > settings.UPLOAD_MAX_BYTES:
        raise ServiceError(
            413,
            "too_large",
            f"The file has {size / 1e6:.0f} MB; at most {settings.UPLOAD_MAX_BYTES / 1e6:.0f} MB are taken. "
            "Export it as FLAC or cut it to the exercise.",
        )
    require_room(2 * size)
    if sniff(upload.read(16)) is None:
        raise ServiceError(
            422,
            "not_audio",
            "This is not an audio file we can read; send WAV, FLAC, AIFF, OGG, Opus, WebM, MP3 or M4A.",
        )
    upload.seek(0)
    return size


def receive(
    actor: User | None,
    *,
    student: Student,
    upload: UploadedFile,
    drill: Drill | None = None,
    version: DrillVersion | None = None,
    played_at: datetime | None = None,
    guitar: Guitar | None = None,
    take_id: UUID | None = None,
    click: Click | None = None,
    capture: dict[str, object] | None = None,
    per_click: int | None = None,
    invented: bool = False,
) -> Take:
    """Keep an upload unchanged and queue it; drill: its newest version, unless another is given. actor None: a guest.

    Raises ServiceError where nobody has agreed that the student is recorded, and for a file that can be told to be
    unusable without decoding it; nothing is kept then.
    """
    consents.require(student)
    size = checked_size(upload)
    if not invented:
        limits.require_quota(actor, student, size)
    digest = hashlib.sha256()
    for chunk in upload.chunks():
        digest.update(chunk)
    upload.seek(0)
    take = Take(
        id=take_id or uuid.uuid4(),
        student=student,
        drill_version=version or (drill.current if drill else None),
        guitar=guitar,
        uploaded_by=actor,
        played_at=played_at or timezone.now(),
        original_name=(upload.name or "recording")[-255:],
        size_bytes=size,
        sha256=digest.hexdigest(),
        invented=invented,
        click=None if click is None else click.model_dump(mode="json"),
        capture=capture,
        per_click=per_click,
    )
    take.upload.save(upload.name or "recording", upload, save=False)
    try:
        with transaction.atomic():
            take.save(force_insert=True)
            jobs.ask(MEASURING, take.pk)
    except IntegrityError as error:
        remove_file(take.upload)
        raise ServiceError(409, "id_taken", "There already is a take with this id.") from error
    except BaseException:
        remove_file(take.upload)
        raise
    return take


def remove_file(file: FieldFile) -> None:
    """Delete a stored file; its row is somebody else's business."""
    if file.name:
        file.storage.delete(file.name)


def say_click(actor: User, take: Take, click: Click | None) -> Take:
    """A teacher's word on where the click of a take lies, or None to take it back; the take is measured again.

    What was recorded is kept.
    """
    require_teacher(actor)
    with transaction.atomic():
        again = measure_again(actor, take)
        Take.objects.filter(pk=take.pk).update(click_said=None if click is None else click.model_dump(mode="json"))
    return again


def measure_again(actor: User, take: Take, *, drill: Drill | None = None) -> Take:
    """Queue a take once more, if wished against another drill.

    Raises ServiceError while it is being measured, and for a student where the teacher has judged it.
    """
    if actor.role == User.Role.STUDENT and take.judged_at is not None:
        raise ServiceError(403, "judged", "Your teacher has judged this take. Ask them if it should be measured again.")
    if take.state in Take.UNFINISHED:
        raise ServiceError(409, "being_measured", "This take is being measured right now; wait until it is done.")
    require_recording(take)
    with transaction.atomic():
        changes: dict[str, object] = {} if drill is None else {"drill_version": drill.current}
        Take.objects.filter(pk=take.pk).update(current=None, **changes)
        jobs.ask(MEASURING, take.pk)
    take.refresh_from_db()
    return take


def require_recording(take: Take) -> None:
    """Raises ServiceError (410) where the sound was deleted and its numbers kept."""
    if take.recording_deleted_at is not None:
        raise ServiceError(
            410,
            "recording_deleted",
            "The recording was deleted; what was measured in it stays. It can neither be heard nor measured again.",
        )


def delete_recordings(actor: User | None, takes: QuerySet[Take]) -> int:
    """Delete the sound of takes and keep what was measured in them; how many. Who are being measured are left for
    another time. actor None: the program itself.
    """
    count = 0
    for take in takes.filter(recording_deleted_at=None).exclude(state__in=Take.UNFINISHED).select_related("student"):
        with transaction.atomic():
            mine = Take.objects.filter(pk=take.pk, recording_deleted_at=None).exclude(state__in=Take.UNFINISHED)
            if not mine.update(upload="", recording_deleted_at=timezone.now()):
                continue
            found = Analysis.objects.filter(take=take)
            files = [take.upload, *(a.listening for a in found.only("listening"))]
            found.update(listening="")
            audit.changed(actor, "deleted_recording", student=take.student, what=take.original_name, object_id=take.pk)
            transaction.on_commit(partial(_remove_all, files))
        count += 1
    return count


def _remove_all(files: Sequence[FieldFile]) -> None:
    for file in files:
        remove_file(file)


def measure_after_set_up(set_up: Take) -> int:
    """Queue again what a set-up take now stands before, or no longer does; how many takes that are."""
    if set_up.guitar_id is None:
        return 0
    later = selectors.takes_after_set_up(set_up).filter(recording_deleted_at=None)
    found = list(later.values_list("pk", flat=True)[:MOST_AFTER_SET_UP])
    jobs.ask_all(MEASURING, found)
    return len(found)


def set_up_drill(studio: Studio, *, strings: int) -> Drill:
    """The studio's set-up check for guitars with so many strings; made where there is none yet."""
    for drill in Drill.objects.filter(studio=studio, family=selectors.SET_UP, archived_at=None).select_related(
        "current"
    ):
        if drill.current is not None and len(drill.current.content["tuning"]) == strings:
            return drill
    tuning = (*STANDARD_TUNING, "B1", "F#1")[:strings]
    title = "Set-up check" if strings == len(STANDARD_TUNING) else f"Set-up check, {strings} strings"
    return add_drill(studio, set_up(title=title, tuning=tuning), created_by=None)


def hide(actor: User, take: Take) -> None:
    """Take it out of a student's own lists; the teacher still sees it."""
    if actor.role != User.Role.STUDENT:
        raise ServiceError(403, "not_allowed", "Only a student hides a take from their own list; delete it instead.")
    Take.objects.filter(pk=take.pk).update(hidden_at=timezone.now())


def delete(actor: User, take: Take) -> None:
    """Delete a take for good: row, recording and results.

    Raises ServiceError for a student where the teacher has judged it or written on it.
    """
    said = take.judged_at is not None or take.word_version > 0
    if actor.role == User.Role.STUDENT and said:
        raise ServiceError(
            409,
            "teachers_words",
            "Your teacher has judged this take. Hide it from your list, or ask them to delete it.",
        )
    student, what = take.student, take.drill_version.drill.title
    was_set_up = take.drill_version.drill.family == selectors.SET_UP
    files: list[FieldFile] = [take.upload]
    for analysis in take.analyses.all():
        files += [analysis.curves, analysis.listening]
    with transaction.atomic():
        Take.objects.filter(pk=take.pk).update(current=None)
        if was_set_up:
            measure_after_set_up(take)
        jobs.forget(MEASURING, [take.pk])
        take.delete()
        transaction.on_commit(partial(_remove_all, files))
        audit.changed(actor, "deleted_take", student=student, what=what)


def saw(actor: User, take: Take, action: str) -> None:
    """Write down that somebody looked at a take, or took something of it out."""
    audit.saw(actor, action, student=take.student, what=take.drill_version.drill.title, object_id=take.pk)
