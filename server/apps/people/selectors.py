"""What a person may see of people. Every selector starts from the actor."""

from __future__ import annotations

from config.problems import not_found
from django.db.models import QuerySet

from apps.people.models import Student, User


def students(actor: User) -> QuerySet[Student]:
    """A teacher's own students; a student sees themselves."""
    if actor.role == User.Role.TEACHER:
        return Student.objects.filter(teacher=actor)
    return Student.objects.filter(user=actor)


def student(actor: User, student_id: int) -> Student:
    """One of them, or 404."""
    found = students(actor).filter(pk=student_id).first()
    if found is None:
        raise not_found()
    return found
