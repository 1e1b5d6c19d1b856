"""Who saw or changed what, for the people it is about."""

from __future__ import annotations

import hashlib
from collections.abc import Collection
from datetime import timedelta
from zoneinfo import ZoneInfo

from django.core.cache import cache
from django.db.models import Q, QuerySet
from django.utils import timezone

from apps.people import selectors
from apps.people.models import AuditEntry, Student, Studio, User

KEPT_FOR = timedelta(days=730)
LOOK_KNOWN_S = 600
# What is said of the studio itself and names no student.
OF_THE_STUDIO = (
    "changed_studio", "changed_keeping", "gave_lead", "parted_with", "deleted_student", "took_out_archive", "restored",
)  # fmt: skip


def changed(
    actor: User | None,
    action: str,
    *,
    student: Student | None = None,
    what: str = "",
    object_id: object = "",
    by: str | None = None,
    studio: Studio | None = None,
) -> None:
    """Write down that somebody did something. actor None: the program itself, for a student or a studio; by: who, where
    it is not known to be the actor.
    """
    _entry(actor, action, student=student, what=what, object_id=object_id, by=by, studio=studio).save()


def _entry(
    actor: User | None,
    action: str,
    *,
    student: Student | None,
    what: str,
    object_id: object,
    by: str | None = None,
    studio: Studio | None = None,
) -> AuditEntry:
    of = next(o for o in (actor and actor.studio_id, student and student.studio_id, studio and studio.pk) if o)
    return AuditEntry(
        studio_id=of,
        at=timezone.now(),
        actor=actor if actor is not None and actor.pk else None,
        actor_name=by or (actor.name if actor is not None else "Fortimetra"),
        student=student,
        action=action,
        what=what[:250],
        object_id=str(object_id)[:40],
    )


def saw(actor: User, action: str, *, student: Student, what: str = "", object_id: object = "") -> None:
    """Write down that somebody looked at a student's recording or record: one line a person, thing and day. Who looks
    at their own does not count.
    """
    if actor.role != User.Role.STUDENT:
        _look(_entry(actor, action, student=student, what=what, object_id=object_id), student)


def saw_by_link(action: str, *, student: Student, what: str = "", object_id: object = "") -> None:
    """Write down that somebody who had a link looked at something of a student's."""
    _look(_entry(None, action, student=student, what=what, object_id=object_id, by="Somebody with the link"), student)


def _look(entry: AuditEntry, student: Student) -> None:
    day = entry.at.astimezone(ZoneInfo(student.studio.zone)).date()
    looked = f"{entry.actor_id} {entry.action} {student.pk} {entry.object_id} {day}"
    entry.look = hashlib.sha256(looked.encode()).hexdigest()
    # A sheet asks several times within a second: what was written down a moment ago is not written again.
    known = f"look:{entry.look}"
    if cache.get(known) is None:
        AuditEntry.objects.bulk_create([entry], ignore_conflicts=True)
        cache.set(known, 1, LOOK_KNOWN_S)


def entries(actor: User) -> QuerySet[AuditEntry]:
    """What concerns this person: a student's own, a teacher's students', and what the teacher did."""
    found = AuditEntry.objects.filter(studio_id=actor.studio_id).select_related("student")
    about = Q(student__in=selectors.students(actor))
    return found.filter(about if actor.role == User.Role.STUDENT else about | Q(actor=actor))


def forget_old(sender: object = None, **_: object) -> int:
    """Entries are kept for two years."""
    return AuditEntry.objects.filter(at__lt=timezone.now() - KEPT_FOR).delete()[0]


def forget_names(studio: Studio, names: Collection[str]) -> None:
    """After a student was deleted: entries about them, and what they did themselves, no longer say who it was."""
    gone = AuditEntry.objects.filter(studio=studio)
    gone.filter(student=None, actor_name__in=names, actor=None).update(actor_name="a former student", what="")
    gone.filter(student=None).exclude(action__in=OF_THE_STUDIO).update(what="")
