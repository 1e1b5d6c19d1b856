"""Another e-mail address for an account: with its password, confirmed at the new address, told to the old one."""

from __future__ import annotations

from allauth.account.adapter import get_adapter
from allauth.account.models import EmailAddress
from allauth.core import context
from config.problems import ServiceError
from django.conf import settings
from django.core import signing
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction

from apps.people import audit
from apps.people.invitations import check_address, mail, taken
from apps.people.models import User

SALT = "fortimetra.address"
GOOD_FOR_S = 24 * 3600


def ask(actor: User, *, address: str, password: str) -> str | None:
    """Have an address confirmed; the token of the link that does, or None where there is no mail server: then it
    counts at once.

    Raises ServiceError for a wrong password (which counts like one at sign-in), no address, or one that is taken.
    """
    address = address.strip()
    check_address(address)
    try:
        right = get_adapter().authenticate(context.request, email=actor.email, password=password)
    except ValidationError as error:
        raise ServiceError(429, "too_many_attempts", "Too many attempts. Wait five minutes, then try again.") from error
    if right is None or right.pk != actor.pk:
        raise ServiceError(403, "wrong_password", "The password is not right.")
    _require_free(actor, address)
    if not settings.MAIL_IS_SET:
        _change(actor, address)
        return None
    return signing.dumps({"user": actor.pk, "from": actor.email, "to": address}, salt=SALT)


def mail_both(actor: User, token: str, link: str) -> None:
    """The link to the new address, a warning to the old one."""
    to = signing.loads(token, salt=SALT)["to"]
    said = f"{actor.name}, Fortimetra is asked to use this address for you. If that is right, open:\n\n{link}\n"
    mail(to, "Fortimetra: Confirm your new address", said)
    mail(
        actor.email,
        "Fortimetra: Your address is about to change",
        f"{actor.name}, Fortimetra is asked to use {to} for you. If that was not you, change your password.\n",
    )


def confirm(token: str) -> str:
    """Use the new address from now on; which it is. Raises ServiceError for a link that has run out or was used."""
    over = ServiceError(404, "link_over", "This link was used already or has run out. Ask for a new one.")
    try:
        said = signing.loads(token, salt=SALT, max_age=GOOD_FOR_S)
    except signing.BadSignature as error:
        raise over from error
    user = User.objects.filter(pk=said["user"], email=said["from"], is_active=True).first()
    if user is None:
        raise over
    _require_free(user, said["to"])
    _change(user, said["to"])
    mail(
        said["from"],
        "Fortimetra: Your address has changed",
        f"{user.name}, Fortimetra uses {said['to']} for you from now on.\n",
    )
    return str(said["to"])


def _require_free(user: User, address: str) -> None:
    if User.objects.filter(email__iexact=address).exclude(pk=user.pk).exists():
        raise taken()


@transaction.atomic
def _change(user: User, address: str) -> None:
    before = user.email
    user.email = User.objects.normalize_email(address)
    try:
        with transaction.atomic():
            user.save(update_fields=["email"])
    except IntegrityError as error:  # somebody else took it a moment ago
        raise taken() from error
    EmailAddress.objects.filter(user=user).delete()
    audit.changed(
        user, "changed_address", student=getattr(user, "student", None), what=f"from {before} to {user.email}"
    )
