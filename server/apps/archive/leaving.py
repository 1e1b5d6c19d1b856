"""Deleting a student for good, and saying what remains."""

from __future__ import annotations

from dataclasses import dataclass

from django.db import transaction
from django.db.models.fields.files import FieldFile

from apps.people import audit
from apps.people.actor import require_teacher
from apps.people.models import Student, User
from apps.takes import services as takes
from apps.takes.models import Analysis, DrillGuess, Take

REMAINS = (
    "What remains: the studio’s drills, also those made for this student, and a line in the record "
    "saying that a student was "
    "deleted, when and by whom, without the name. Archives taken out earlier, and recordings saved "
    "by people themselves, are "
    "not reached from here."
)


@dataclass(frozen=True)
class Gone:
    """What was deleted."""

    takes: int
    recordings: int
    says: str


def delete_student(actor: User, student: Student) -> Gone:
    """By a teacher: see delete_for_good."""
    require_teacher(actor)
    return delete_for_good(actor, student)


def delete_for_good(actor: User | None, student: Student) -> Gone:
    """Rows, recordings, results, lesson sheets, guitars, ear checks, logbook and the student's own account.

    actor None: the program itself, because the studio keeps things for a time only.
    """
    studio = student.studio
    files: list[FieldFile] = []
    with transaction.atomic():
        own = list(Take.objects.select_for_update().filter(student=student))
        files += [t.upload for t in own]
        for analysis in Analysis.objects.filter(take__in=own).only("curves", "listening"):
            files += [analysis.curves, analysis.listening]
        files += [s.pdf for s in student.sheets.all() if s.pdf]
        Take.objects.filter(student=student).update(current=None)
        student.assignments.all().delete()
        account = student.user
        if account is not None:
            files += [g.upload for g in DrillGuess.objects.filter(created_by=account)]
        count = len(own)
        Student.objects.filter(pk=student.pk).first().delete()  # type: ignore[union-attr]
        if account is not None:
            account.delete()
        audit.forget_names(studio, {student.name, *([account.name] if account else [])})
        audit.changed(actor, "deleted_student", what=f"{count} takes", studio=studio)

        def remove() -> None:
            for file in files:
                takes.remove_file(file)

        transaction.on_commit(remove)
    return Gone(
        count, len(own), f"{count} takes with their recordings and everything measured in them are deleted. {REMAINS}"
    )
