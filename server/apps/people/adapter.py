"""How accounts come about: by a teacher or the command line, never by signing up alone."""

from __future__ import annotations

from allauth.account.adapter import DefaultAccountAdapter
from django.http import HttpRequest


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]
    """Sign-up is closed."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Nobody makes an account for themselves."""
        return False
