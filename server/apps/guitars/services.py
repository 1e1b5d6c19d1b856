"""Changes to guitars."""

from __future__ import annotations

from config.problems import ServiceError
from fortimetra.model import Guitar as GuitarContent
from fortimetra.model import GuitarKind, preset

from apps.guitars.models import Guitar
from apps.people.models import Student, User

MOST_GUITARS = 40


def add_guitar(actor: User, *, student: Student, name: str, kind: GuitarKind) -> Guitar:
    """A typical guitar of its kind, to be corrected. Whoever may see the student may add one."""
    if student.guitars.count() >= MOST_GUITARS:
        raise ServiceError(
            422, "too_many_guitars", f"{student.name} already has {MOST_GUITARS} guitars; delete one first."
        )
    return Guitar.objects.create(
        student=student, name=_tidy(name), kind=kind, description=preset(kind).model_dump(mode="json")
    )


def change_guitar(actor: User, guitar: Guitar, *, name: str, description: GuitarContent) -> Guitar:
    """Describe a guitar anew. Takes already measured keep what they were measured with."""
    guitar.name, guitar.kind = _tidy(name), description.kind
    guitar.description = description.model_dump(mode="json")
    guitar.save()
    return guitar


def delete_guitar(actor: User, guitar: Guitar) -> None:
    """Delete a guitar; its takes stay, without one."""
    guitar.delete()


def _tidy(name: str) -> str:
    name = " ".join(name.split())
    if not name:
        raise ServiceError(422, "name_missing", "Give the guitar a name.")
    return name
