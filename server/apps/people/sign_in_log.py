"""Sign-ins, also failed ones, and what people do to their way in: lines of the activity log."""

from __future__ import annotations

from typing import Any

from allauth.account.signals import password_changed, password_reset
from allauth.core import context
from allauth.core.internal.httpkit import get_client_ip
from allauth.mfa.models import Authenticator
from django.contrib.auth.signals import user_logged_in, user_login_failed
from django.db.models.signals import post_save, pre_delete
from django.dispatch import receiver
from django.http import HttpRequest

from apps.people import audit
from apps.people.adapter import let_in_again
from apps.people.models import User


def _written(user: User, action: str, request: HttpRequest | None, *, by: str | None = None) -> None:
    address = None if request is None else get_client_ip(request)
    where = f"from {address}" if address else ""
    audit.changed(user, action, student=getattr(user, "student", None), what=where, by=by)


@receiver(user_logged_in)
def _signed_in(request: HttpRequest | None, user: User, **_: Any) -> None:
    _written(user, "signed_in", request)


@receiver(user_login_failed)
def _failed(credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    user = User.objects.filter(email__iexact=str(credentials.get("email") or "")).first()
    if user is not None:
        _written(user, "sign_in_failed", request, by="Somebody")


@receiver(password_changed)
def _password_changed(request: HttpRequest, user: User, **_: Any) -> None:
    _written(user, "changed_password", request)


@receiver(password_reset)
def _password_reset(request: HttpRequest, user: User, **_: Any) -> None:
    _written(user, "reset_password", request)
    let_in_again(request, user.email)


# The package's own signals come after its transaction; these lines belong to it.
@receiver(post_save, sender=Authenticator)
def _second_factor_on(instance: Authenticator, created: bool, **_: Any) -> None:
    if created and instance.type == Authenticator.Type.TOTP:
        _written(instance.user, "set_second_factor", context.request)


@receiver(pre_delete, sender=Authenticator)
def _second_factor_off(instance: Authenticator, origin: object = None, **_: Any) -> None:
    if isinstance(origin, Authenticator) and instance.type == Authenticator.Type.TOTP:
        _written(instance.user, "removed_second_factor", context.request)
