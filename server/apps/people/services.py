"""Changes to people."""

from __future__ import annotations

from config.problems import ServiceError
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction

from apps.drills.services import add_built_in_drills
from apps.people.actor import require_teacher
from apps.people.models import Student, Studio, User


@transaction.atomic
def create_studio(*, name: str, teacher_name: str, email: str, password: str, zone: str = "UTC") -> User:
    """A studio with its first teacher and the built-in drills.

    Raises ServiceError if the address is taken or the password too weak.
    """
    try:
        validate_email(email)
        validate_password(password, User(email=email, name=teacher_name))
    except ValidationError as error:
        raise ServiceError(422, "invalid_account", " ".join(error.messages)) from error
    if User.objects.filter(email__iexact=email).exists():
        raise ServiceError(409, "email_taken", f"There already is an account for {email}.")
    studio = Studio.objects.create(name=name, zone=zone)
    teacher = User.objects.create_user(email, password, name=teacher_name, studio=studio, role=User.Role.TEACHER)
    add_built_in_drills(studio)
    return teacher


@transaction.atomic
def add_student(actor: User, *, name: str) -> Student:
    """A new student of this teacher."""
    require_teacher(actor)
    name = " ".join(name.split())
    if not name:
        raise ServiceError(422, "name_missing", "Give the student a name.")
    return Student.objects.create(studio=actor.studio, teacher=actor, name=name)
