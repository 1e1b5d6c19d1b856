"""One recording of a student by somebody without an account: a link, good for one take."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID

from config.problems import ServiceError, not_found
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from fortimetra.model import Click

from apps.drills.models import Drill
from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import require_teacher
from apps.people.models import Student, User
from apps.people.tokens import digest_of, new_token
from apps.takes import services
from apps.takes.models import GuestLink

GOOD_FOR = timedelta(days=14)


@transaction.atomic
def make_link(actor: User, *, student: Student, drill: Drill) -> tuple[GuestLink, str]:
    """A link for one recording."""
    require_teacher(actor)
    if drill.archived_at is not None:
        raise ServiceError(422, "drill_put_away", f"“{drill.title}” is archived; restore it first.")
    token, digest = new_token()
    now = timezone.now()
    link = GuestLink.objects.create(
        student=student, drill=drill, digest=digest, made_by=actor, made_at=now, expires_at=now + GOOD_FOR
    )
    audit.changed(actor, "made_guest_link", student=student, what=drill.title, object_id=link.pk)
    return link, token


def links(actor: User) -> QuerySet[GuestLink]:
    """Guest links of the students this person teaches that still work."""
    return GuestLink.objects.filter(student__in=people.students(actor), expires_at__gt=timezone.now()).select_related(
        "drill"
    )


def withdraw(actor: User, link_id: UUID) -> None:
    """Take a link back; a take that was made with it stays."""
    found = links(actor).select_related("student").filter(pk=link_id).first()
    if found is None:
        raise not_found()
    require_teacher(actor)
    audit.changed(actor, "withdrew_guest_link", student=found.student, object_id=found.pk)
    found.delete()


def opened(token: str) -> GuestLink:
    """The link of a secret, or 404."""
    found = (
        GuestLink.objects.filter(digest=digest_of(token), expires_at__gt=timezone.now())
        .select_related("student__studio", "student__teacher", "drill__current", "take__current")
        .first()
    )
    if found is None:
        raise ServiceError(404, "link_over", "This link was taken back or has run out. Ask the teacher for a new one.")
    return found


def receive(
    token: str,
    *,
    upload: UploadedFile,
    take_id: UUID | None,
    click: Click | None,
    capture: dict[str, object] | None,
    invented: bool,
) -> GuestLink:
    """The link's one recording. The same take sent twice is one; another one is refused."""
    link = opened(token)
    with transaction.atomic():
        locked = GuestLink.objects.select_for_update().get(pk=link.pk)
        if locked.used_at is not None:
            if take_id is not None and locked.take_id == take_id:
                return opened(token)
            raise ServiceError(409, "link_used", "A recording was made with this link already. Ask for a new one.")
        guitar = link.student.guitars.first()
        take = services.receive(
            None, student=link.student, drill=link.drill, upload=upload, guitar=guitar, take_id=take_id,
            click=click, capture=capture, invented=invented,
        )  # fmt: skip
        locked.used_at, locked.take = timezone.now(), take
        locked.save(update_fields=["used_at", "take"])
        audit.changed(None, "guest_recorded", student=link.student, what=link.drill.title, object_id=take.pk)
    return opened(token)
