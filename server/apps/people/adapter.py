"""How accounts come about and how often somebody may try to get into one."""

from __future__ import annotations

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from allauth.core.internal import ratelimit
from allauth.usersessions.models import UserSession
from django.http import HttpRequest

APP = "allauth.account"
OF_A_PAIR, OF_AN_ACCOUNT = "login_failed_pair", "login_failed_account"


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc]
    """Sign-up is closed. Failed attempts count for the address they come from, for that address and the account
    together, and for the account: the last not where the account was signed in from the address before, so that nobody
    elsewhere keeps a teacher out.
    """

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Nobody makes an account for themselves."""
        return False

    def pre_authenticate(self, request: HttpRequest, **credentials: Any) -> None:
        """Raises a validation error where there were too many attempts; a success takes its own back."""
        super().pre_authenticate(request, **credentials)
        usage = self._login_failed_rl_usage
        email = _account(request, credentials)
        address = ratelimit.get_ip(request)
        kinds = [(OF_A_PAIR, f"{email} {address}")]
        if not UserSession.objects.filter(user__email__iexact=email, ip=self.get_client_ip(request)).exists():
            kinds.append((OF_AN_ACCOUNT, email))
        for action, key in kinds:
            used = ratelimit.consume(request, app=APP, action=action, key=key)
            if not used:
                raise self.validation_error("too_many_login_attempts")
            usage.usage.extend(used.usage)


def let_in_again(request: HttpRequest, email: str) -> None:
    """Forget the failed attempts on an account: its owner has shown who they are by a letter's link."""
    email = email.lower()
    ratelimit.clear(request, app=APP, action=OF_A_PAIR, key=f"{email} {ratelimit.get_ip(request)}")
    ratelimit.clear(request, app=APP, action=OF_AN_ACCOUNT, key=email)


def _account(request: HttpRequest, credentials: dict[str, Any]) -> str:
    if request.user.is_authenticated:
        return str(request.user.email).lower()
    return str(credentials.get("email") or credentials.get("username") or "").strip().lower()
