"""How people come to accounts, and back into them: by a link a teacher gives them, mailed where a mail server is
set.
"""

from __future__ import annotations

import logging
from datetime import timedelta
from uuid import UUID

from allauth.account.forms import default_token_generator
from allauth.account.utils import user_pk_to_url_str
from config.problems import ServiceError, not_found
from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.mail import send_mail
from django.core.validators import validate_email
from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.utils import timezone

from apps.people import audit, selectors
from apps.people.actor import require_lead, require_teacher
from apps.people.models import Invitation, Student, User
from apps.people.tokens import digest_of, new_token

log = logging.getLogger(__name__)
GOOD_FOR = timedelta(days=14)


def invite_student(actor: User, student: Student, *, email: str) -> tuple[Invitation, str]:
    """A link for a student's own account; an earlier one no longer works. Raises ServiceError if there is one
    already.
    """
    require_teacher(actor)
    if student.user_id is not None:
        raise ServiceError(
            409, "has_account", f"{student.name} already has an account; give them a new password instead."
        )
    return _invite(actor, role=User.Role.STUDENT, student=student, email=email)


def invite_teacher(actor: User, *, email: str) -> tuple[Invitation, str]:
    """A link for another teacher of the studio."""
    require_lead(actor)
    return _invite(actor, role=User.Role.TEACHER, student=None, email=email)


@transaction.atomic
def _invite(actor: User, *, role: str, student: Student | None, email: str) -> tuple[Invitation, str]:
    email = email.strip()
    if email:
        check_address(email)
    if student is not None:
        Invitation.objects.filter(student=student, used_at=None).delete()
    token, digest = new_token()
    now = timezone.now()
    invitation = Invitation.objects.create(
        studio=actor.studio, role=role, student=student, email=email, digest=digest,
        made_by=actor, made_at=now, expires_at=now + GOOD_FOR,
    )  # fmt: skip
    audit.changed(actor, "invited", student=student, what=email or role, object_id=invitation.pk)
    return invitation, token


def mail_link(actor: User, email: str, link: str, *, subject: str) -> bool:
    """Send a link where a mail server is set and an address is known; whether it went out."""
    if not email or not settings.MAIL_IS_SET:
        return False
    return mail(email, subject, f"{actor.name} sends you this link to {actor.studio.name}:\n\n{link}\n")


def mail(to: str, subject: str, text: str) -> bool:
    """Send a letter; whether it went out."""
    try:
        send_mail(subject, text, None, [to])
    except OSError:
        log.warning("a mail could not be sent", exc_info=True)
        return False
    return True


def invitations(actor: User) -> QuerySet[Invitation]:
    """Open invitations of this person."""
    return Invitation.objects.filter(made_by=actor, used_at=None, expires_at__gt=timezone.now()).select_related(
        "student"
    )


def withdraw(actor: User, invitation_id: UUID) -> None:
    """An invitation that was sent to the wrong place."""
    found = invitations(actor).filter(pk=invitation_id).first()
    if found is None:
        raise not_found()
    audit.changed(actor, "withdrew_invitation", student=found.student, object_id=found.pk)
    found.delete()


def open_invitation(token: str) -> Invitation:
    """The invitation of a link; 404 where it was used, taken back or has run out."""
    found = (
        Invitation.objects.filter(digest=digest_of(token), used_at=None, expires_at__gt=timezone.now())
        .select_related("studio", "student", "made_by")
        .first()
    )
    if found is None:
        raise ServiceError(
            404, "link_over", "This link was used already or has run out. Ask your teacher for a new one."
        )
    return found


@transaction.atomic
def accept(token: str, *, name: str, email: str, password: str) -> User:
    """Make the account an invitation is for. Raises ServiceError for an address that is taken or a weak password."""
    there = open_invitation(token)
    locked = Invitation.objects.select_for_update().filter(pk=there.pk, used_at=None).first()
    if locked is None:
        raise ServiceError(404, "link_over", "This link was used just now.")
    email = email.strip()
    name = " ".join(name.split()) or (there.student.name if there.student else "")
    if not name:
        raise ServiceError(422, "name_missing", "Give your name.")
    check_address(email)
    try:
        validate_password(password, User(email=email, name=name))
    except ValidationError as error:
        raise ServiceError(422, "invalid_account", " ".join(error.messages)) from error
    if User.objects.filter(email__iexact=email).exists():
        raise taken()
    try:
        with transaction.atomic():
            user = User.objects.create_user(email, password, name=name, studio=there.studio, role=there.role)
    except IntegrityError as error:  # somebody else took the address a moment ago
        raise taken() from error
    if there.student is not None:
        student = Student.objects.select_for_update().get(pk=there.student.pk)
        if student.user_id is not None:
            raise ServiceError(409, "has_account", "This student has an account already; sign in with it.")
        student.user = user
        student.save(update_fields=["user"])
    locked.used_at = timezone.now()
    locked.save(update_fields=["used_at"])
    audit.changed(user, "joined", student=there.student, what=there.role)
    return user


def taken() -> ServiceError:
    """An address that somebody else signs in with."""
    return ServiceError(409, "email_taken", "There already is an account with this address; use another, or sign in.")


def check_address(email: str) -> None:
    """Raises ServiceError (422) for what is no e-mail address."""
    try:
        validate_email(email)
    except ValidationError as error:
        raise ServiceError(422, "invalid_account", "That is no e-mail address; write it as name@place.") from error


def reset_link(actor: User, user: User) -> str:
    """The path of a link with which somebody sets a new password: for a teacher's own student, or, by who leads, a
    colleague.
    """
    own = selectors.students(actor).filter(user=user).exists() and actor.role == User.Role.TEACHER
    colleague = actor.leads and user.studio_id == actor.studio_id and user.role == User.Role.TEACHER
    if not own and not colleague:
        raise not_found()
    audit.changed(actor, "made_reset_link", student=getattr(user, "student", None), what=user.name)
    return reset_path(user)


def reset_path(user: User) -> str:
    """Path of the page where the user sets a new password; it works once, until the password changes."""
    return f"/reset/{user_pk_to_url_str(user)}-{default_token_generator.make_token(user)}"
