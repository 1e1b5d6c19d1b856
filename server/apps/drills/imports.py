"""Scores other programs wrote: brought in, read by a worker under limits, looked over, then kept or thrown away.

What is read stays a proposal until a teacher keeps it.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import timedelta
from uuid import UUID

from config.problems import ServiceError
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra.model import MAX_FILE_BYTES

from apps.drills import services
from apps.drills.models import Drill, ScoreImport
from apps.jobs import services as jobs
from apps.jobs.services import Kind, Problem, Told
from apps.people.actor import require_teacher
from apps.people.models import User

KEPT_FOR = timedelta(days=1)
MOST_WAITING = 100


class Reading(Kind):
    """Scores are read."""

    def moved(self, subjects: Sequence[str], state: Told, problem: Problem | None = None) -> None:
        for key in subjects if problem is not None else ():
            refuse(UUID(key), self.broke.code, self.broke.detail)

    def unfinished(self) -> Iterable[object]:
        return ScoreImport.objects.filter(state=ScoreImport.State.WAITING).values_list("pk", flat=True)[:MOST_WAITING]


READING = Reading(
    "drills.read_score",
    most_attempts=2,
    patience=timedelta(seconds=40),
    broke=Problem("score_unreadable", "Reading this score broke off; export it again, or a part of it."),
)


def bring(actor: User, upload: UploadedFile) -> ScoreImport:
    """Keep a score for a worker to read.

    Raises ServiceError for a file that is empty or too large.
    """
    require_teacher(actor)
    if not upload.size:
        raise ServiceError(422, "empty", "The file is empty (0 bytes); export it again.")
    if upload.size > MAX_FILE_BYTES:
        raise ServiceError(413, "too_large", f"A score has at most {MAX_FILE_BYTES // 1_000_000} MB.")
    ScoreImport.objects.filter(created_at__lt=timezone.now() - KEPT_FOR).delete()
    with transaction.atomic():
        brought = ScoreImport.objects.create(
            studio=actor.studio,
            created_by=actor,
            file_name=(upload.name or "score")[-255:],
            upload=upload.read(),
        )
        jobs.ask(READING, brought.pk)
    return brought


def refuse(import_id: UUID, code: str, detail: str) -> None:
    """Say why a score cannot be read; its bytes are not kept."""
    ScoreImport.objects.filter(pk=import_id, state=ScoreImport.State.WAITING).update(
        state=ScoreImport.State.REFUSED, problem_code=code, problem_detail=detail, upload=b""
    )


@transaction.atomic
def keep(actor: User, brought: ScoreImport) -> Drill:
    """What was read becomes a drill of the studio.

    Raises ServiceError (409) if it has not been read.
    """
    require_teacher(actor)
    if brought.state != ScoreImport.State.READ or brought.outcome is None:
        raise ServiceError(409, "not_read", "This score has not been read; wait, or bring it again.")
    drill = services.add_drill(actor.studio, DrillContent.model_validate(brought.outcome["content"]), created_by=actor)
    brought.delete()
    return drill
