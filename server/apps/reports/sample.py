"""A sample take to try the application with: an invented student, whose take the simulated student plays. Removed as a
whole.
"""

from __future__ import annotations

from config.problems import ServiceError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from fortimetra import Drill as DrillContent
from fortimetra.player.faults import Faults, NoteFault

from apps.drills.models import Drill
from apps.guitars.services import add_guitar
from apps.people.actor import require_teacher
from apps.people.consents import Given
from apps.people.models import Student, User
from apps.people.services import add_student
from apps.reports.leaving import delete_student
from apps.takes import services as takes
from apps.takes.demo import recording
from apps.takes.models import Take

NAME = "Sample student (invented)"
FILE = "sample-take.flac"
DRILL = "String 3: full bend at fret 7"
# The second and the last bend stop short, one target is late: something to find, and a cause.
FAULTS = Faults(
    seed=7,
    notes={"bend@1": NoteFault(cents=-31.0), "bend@3": NoteFault(cents=-24.0), "target@2": NoteFault(late_ms=18.0)},
)  # fmt: skip


def sample_of(actor: User) -> Take | None:
    """The teacher's sample take, if it is there."""
    return Take.objects.filter(student__teacher=actor, invented=True, original_name=FILE).first()


def load(actor: User) -> Take:
    """The sample take; made anew unless it is there.

    Raises ServiceError (409) where the drill it plays is not in the library any more.
    """
    require_teacher(actor)
    found = sample_of(actor)
    if found is not None:
        return found
    drill = Drill.objects.filter(studio=actor.studio, title=DRILL, archived_at=None).select_related("current").first()
    if drill is None or drill.current is None:
        raise ServiceError(
            409, "no_sample_drill", f"The sample plays “{DRILL}”, which is not in your library. Record a take instead."
        )
    sound = recording(DrillContent.model_validate(drill.current.content), FAULTS)
    with transaction.atomic():
        student = add_student(actor, name=NAME, agreed=Given(by="student", way="word"))
        guitar = add_guitar(actor, student=student, name="Invented guitar", kind="solid")
        return takes.receive(
            actor, student=student, drill=drill, upload=SimpleUploadedFile(FILE, sound), guitar=guitar, invented=True
        )


def remove(actor: User) -> None:
    """The sample student with everything of theirs; nothing happens where there is none."""
    require_teacher(actor)
    found = sample_of(actor)
    if found is not None:
        student = Student.objects.get(pk=found.student_id)
        delete_student(actor, student)
