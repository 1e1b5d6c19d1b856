"""Who asks."""

from __future__ import annotations

from typing import cast

from config.problems import ServiceError
from django.http import HttpRequest

from apps.people.models import User


def actor_of(request: HttpRequest) -> User:
    """The signed-in person of an authenticated request."""
    return cast(User, request.user)


def require_teacher(actor: User) -> None:
    """Raises ServiceError (403) for anybody else."""
    if actor.role != User.Role.TEACHER:
        raise ServiceError(403, "not_allowed", "Only a teacher may do this.")


def require_lead(actor: User) -> None:
    """Raises ServiceError (403) for anybody but who leads the studio."""
    if actor.role != User.Role.TEACHER or not actor.leads:
        raise ServiceError(403, "not_allowed", "Only the teacher who leads the studio may do this.")
