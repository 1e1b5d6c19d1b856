"""A sample take to try the application with: an invented student, whose take the simulated student plays. Removed as a
whole. A worker makes it: the web process does not load what makes sound.
"""

from __future__ import annotations

from datetime import timedelta

from config.problems import ServiceError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction

from apps.archive.leaving import delete_student
from apps.drills.models import Drill
from apps.guitars.services import add_guitar
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.jobs.services import Kind, Problem
from apps.people.actor import require_teacher
from apps.people.consents import Given
from apps.people.models import Student, User
from apps.people.services import add_student
from apps.takes import services as takes
from apps.takes.models import Take

NAME = "Sample student (invented)"
FILE = "sample-take.flac"
DRILL = "String 3: full bend at fret 7"
PLAYING = Kind(
    "reports.make_sample",
    patience=timedelta(seconds=20),
    broke=Problem("sample_failed", "The sample take could not be played; record a take instead."),
)


def sample_of(actor: User) -> Take | None:
    """The teacher's sample take, if it is there."""
    return Take.objects.filter(student__teacher=actor, invented=True, original_name=FILE).first()


def drill_of(actor: User) -> Drill:
    """What the sample plays.

    Raises ServiceError (409) where it is not in the library any more.
    """
    drill = Drill.objects.filter(studio=actor.studio, title=DRILL, archived_at=None).select_related("current").first()
    if drill is None or drill.current is None:
        raise ServiceError(
            409, "no_sample_drill", f"The sample plays “{DRILL}”, which is not in your library. Record a take instead."
        )
    return drill


def want(actor: User) -> Take | None:
    """The sample take if it is there; else a worker is asked for it, once, and whoever wants it asks again."""
    require_teacher(actor)
    found = sample_of(actor)
    if found is None:
        drill_of(actor)
        job = jobs.of(PLAYING.task, [actor.pk]).get(str(actor.pk))
        if job is None:
            jobs.ask(PLAYING, actor.pk)
        elif job.state == Job.State.FAILED:
            jobs.forget(PLAYING, [actor.pk])
            raise ServiceError(503, job.problem_code, job.problem_detail)
    return found


def keep(actor: User, sound: bytes) -> None:
    """The sample student with the take that was made; nothing where another worker was quicker."""
    with transaction.atomic():
        User.objects.select_for_update().get(pk=actor.pk)
        if sample_of(actor) is not None:
            return
        student = add_student(actor, name=NAME, agreed=Given(by="student", way="word"))
        guitar = add_guitar(actor, student=student, name="Invented guitar", kind="solid")
        upload = SimpleUploadedFile(FILE, sound)
        takes.receive(actor, student=student, drill=drill_of(actor), upload=upload, guitar=guitar, invented=True)


def remove(actor: User) -> None:
    """The sample student with everything of theirs; nothing happens where there is none."""
    require_teacher(actor)
    found = sample_of(actor)
    if found is not None:
        delete_student(actor, Student.objects.get(pk=found.student_id))
    jobs.forget(PLAYING, [actor.pk])
