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
    found = students(actor).select_related("studio", "user").filter(pk=student_id).first()
    if found is None:
        raise not_found()
    return found


def colleagues(actor: User) -> QuerySet[User]:
    """The teachers of the studio; for a student nobody."""
    if actor.role != User.Role.TEACHER:
        return User.objects.none()
    return User.objects.filter(studio_id=actor.studio_id, role=User.Role.TEACHER, is_active=True).order_by("name", "pk")


def colleague(actor: User, user_id: int) -> User:
    """One of them, or 404."""
    found = colleagues(actor).filter(pk=user_id).first()
    if found is None:
        raise not_found()
    return found
