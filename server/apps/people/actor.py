"""Who asks."""

from __future__ import annotations

from typing import cast

from django.http import HttpRequest

from apps.people.models import User


def actor_of(request: HttpRequest) -> User:
    """The signed-in person of an authenticated request."""
    return cast(User, request.user)
