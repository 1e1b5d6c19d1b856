"""How long recordings, and students who left, are kept: as the studio says, announced a month ahead, done daily."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from datetime import datetime, timedelta

from dateutil.relativedelta import relativedelta
from django.conf import settings
from django.db.models import Count, Min, Q, QuerySet
from django.utils import timezone

from apps.archive import leaving
from apps.people.invitations import mail
from apps.people.models import AuditEntry, Student, Studio, User
from apps.people.selectors import students as students_of
from apps.takes import services as takes
from apps.takes.models import Take

log = logging.getLogger(__name__)
# So long before anything is deleted it is announced; and so long after a rule is made nothing is.
ANNOUNCED = timedelta(days=30)


@dataclass(frozen=True)
class Coming:
    """What will be deleted, from which day on. recordings, students: how many."""

    recordings: int
    recordings_from: datetime | None
    former_students: tuple[str, ...]
    former_from: datetime | None

    @property
    def nothing(self) -> bool:
        return not self.recordings and not self.former_students


def coming(actor: User, *, at: datetime | None = None) -> Coming:
    """What is deleted within the announced time, of a teacher's students or of a student."""
    studio, until = actor.studio, (at or timezone.now()) + ANNOUNCED
    own = students_of(actor)
    found = recordings(studio, until).filter(student__in=own).aggregate(n=Count("pk"), oldest=Min("created_at"))
    former = list(former_students(studio, until).filter(pk__in=own).order_by("left_at"))
    earliest = _earliest(studio)
    return Coming(
        found["n"],
        _from(found["oldest"], studio.recordings_kept_months, earliest),
        tuple(s.name for s in former),
        _from(former[0].left_at if former else None, studio.former_kept_months, earliest),
    )


def recordings(studio: Studio, at: datetime) -> QuerySet[Take]:
    """Takes whose sound is too old at a time."""
    found = Take.objects.filter(student__studio=studio, recording_deleted_at=None)
    if studio.recordings_kept_months is None:
        return found.none()
    return found.filter(created_at__lte=at - relativedelta(months=studio.recordings_kept_months))


def former_students(studio: Studio, at: datetime) -> QuerySet[Student]:
    """Students who left too long ago at a time."""
    found = Student.objects.filter(studio=studio).exclude(left_at=None)
    if studio.former_kept_months is None:
        return found.none()
    return found.filter(left_at__lte=at - relativedelta(months=studio.former_kept_months))


def keep_to(sender: object = None, *, at: datetime | None = None, **_: object) -> dict[str, int]:
    """Delete what has become too old in every studio, and announce what soon will be; how much of each."""
    now = at or timezone.now()
    done = {"recordings": 0, "students": 0, "letters": 0}
    with_rule = Studio.objects.filter(Q(recordings_kept_months__gt=0) | Q(former_kept_months__gt=0))
    for studio in with_rule:
        try:
            if now >= _earliest(studio):
                for student in former_students(studio, now):
                    leaving.delete_for_good(None, student)
                    done["students"] += 1
                done["recordings"] += takes.delete_recordings(None, recordings(studio, now))
            done["letters"] += _announce(studio, now)
        except Exception:
            # Of one studio; the others' turn is today, its own again tomorrow.
            log.exception("could not keep to what studio %s says", studio.pk)
    log.info("kept to what studios say: %s", done)
    return done


def _announce(studio: Studio, now: datetime) -> int:
    """A letter to each teacher who has something coming, at most one in the announced time."""
    sent = 0
    for teacher in User.objects.filter(studio=studio, role=User.Role.TEACHER, is_active=True):
        found = coming(teacher, at=now)
        told = AuditEntry.objects.filter(actor=teacher, action="told_of_deletion", at__gt=now - ANNOUNCED)
        if found.nothing or not settings.MAIL_IS_SET or told.exists():
            continue
        if mail(teacher.email, f"{studio.name}: what is about to be deleted", letter(teacher, found)):
            AuditEntry.objects.create(
                studio=studio, at=now, actor=teacher, actor_name="Fortimetra", action="told_of_deletion"
            )
            sent += 1
    return sent


def letter(teacher: User, found: Coming) -> str:
    """What a teacher is written."""
    lines = [f"{teacher.name}, as {teacher.studio.name} keeps things for a time only, this will be deleted:", ""]
    if found.recordings and found.recordings_from:
        many = f"{found.recordings} recording{'' if found.recordings == 1 else 's'}"
        lines.append(f"- {many}, from {found.recordings_from:%d %B %Y} on; what was measured in them stays")
    if found.former_students and found.former_from:
        names = ", ".join(found.former_students)
        lines.append(f"- everything of {names}, who left, from {found.former_from:%d %B %Y} on")
    lines += ["", "Take out what you want to keep before then."]
    return "\n".join(lines) + "\n"


def _earliest(studio: Studio) -> datetime:
    return (studio.kept_since or studio.created_at) + ANNOUNCED


def _from(oldest: datetime | None, months: int | None, earliest: datetime) -> datetime | None:
    """The day from which on something is deleted."""
    if oldest is None or months is None:
        return None
    return max(oldest + relativedelta(months=months), earliest)
