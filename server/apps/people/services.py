"""Changes to people."""

from __future__ import annotations

from zoneinfo import available_timezones

from config.problems import ServiceError
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction
from django.utils import timezone

from apps.people import audit, consents
from apps.people.actor import require_lead, require_teacher
from apps.people.models import Student, Studio, User
from apps.people.signals import handed_over, left, studio_created


@transaction.atomic
def create_studio(*, name: str, teacher_name: str, email: str, password: str, zone: str = "UTC") -> User:
    """A studio with its first teacher, and what every studio begins with (whoever receives studio_created adds it).

    Raises ServiceError if the address is taken or the password too weak.
    """
    try:
        validate_email(email)
        validate_password(password, User(email=email, name=teacher_name))
    except ValidationError as error:
        raise ServiceError(422, "invalid_account", " ".join(error.messages)) from error
    if User.objects.filter(email__iexact=email).exists():
        raise ServiceError(409, "email_taken", f"There already is an account for {email}.")
    studio = Studio.objects.create(name=name, zone=zone)
    teacher = User.objects.create_user(
        email,
        password,
        name=teacher_name,
        studio=studio,
        role=User.Role.TEACHER,
        leads=True,
        keeps=not User.objects.exists(),  # the first account of an installation looks after it
    )
    studio_created.send(Studio, studio=studio)
    return teacher


@transaction.atomic
def add_student(actor: User, *, name: str, left_handed: bool = False, agreed: consents.Given | None = None) -> Student:
    """A new student of this teacher; agreed: to be recorded, as the teacher states."""
    require_teacher(actor)
    name = " ".join(name.split())
    if not name:
        raise ServiceError(422, "name_missing", "Give the student a name.")
    student = Student.objects.create(studio=actor.studio, teacher=actor, name=name, left_handed=left_handed)
    audit.changed(actor, "added_student", student=student)
    if agreed is not None:
        consents.give(actor, [student], agreed)
    return student


@transaction.atomic
def rename_student(actor: User, student: Student, *, name: str, left_handed: bool | None = None) -> Student:
    """Another name; left_handed: None leaves it."""
    require_teacher(actor)
    student.name = " ".join(name.split())
    if not student.name:
        raise ServiceError(422, "name_missing", "Give the student a name.")
    if left_handed is not None:
        student.left_handed = left_handed
    student.save(update_fields=["name", "left_handed"])
    audit.changed(actor, "renamed_student", student=student)
    return student


@transaction.atomic
def hand_over(actor: User, student: Student, *, to: User) -> Student:
    """Move a student with everything of theirs to another teacher of the studio, who sees it from now on; the old one
    no longer.
    """
    require_teacher(actor)
    if to.pk == student.teacher_id:
        raise ServiceError(409, "same_teacher", f"{student.name} is already taught by {to.name}.")
    before = student.teacher
    student.teacher = to
    student.save(update_fields=["teacher"])
    audit.changed(actor, "handed_over", student=student, what=f"from {before.name} to {to.name}")
    handed_over.send(Student, student=student)
    return student


@transaction.atomic
def leave(actor: User, student: Student) -> Student:
    """No longer taught here: nothing is recorded, assignments end, everything is kept as long as the studio says."""
    require_teacher(actor)
    if student.left_at is None:
        student.left_at = timezone.now()
        student.save(update_fields=["left_at"])
        audit.changed(actor, "student_left", student=student)
        left.send(Student, student=student)
    return student


@transaction.atomic
def come_back(actor: User, student: Student) -> Student:
    """Taught here again."""
    require_teacher(actor)
    if student.left_at is not None:
        student.left_at = None
        student.save(update_fields=["left_at"])
        audit.changed(actor, "student_came_back", student=student)
    return student


@transaction.atomic
def part_with(actor: User, colleague: User, *, students_to: User | None) -> None:
    """A teacher leaves the studio: their students go to another, and the account no longer signs in."""
    require_lead(actor)
    if colleague.pk == actor.pk:
        raise ServiceError(409, "leads", "You lead this studio; hand that to a colleague first.")
    left = list(Student.objects.filter(teacher=colleague))
    if left and students_to is None:
        raise ServiceError(
            409, "has_students", f"{colleague.name} still has {len(left)} students; say who teaches them from now on."
        )
    if students_to is not None and students_to.pk == colleague.pk:
        raise ServiceError(409, "same_teacher", "Choose another teacher for the students.")
    if students_to is not None:
        Student.objects.filter(teacher=colleague).update(teacher=students_to)
    for student in left:
        assert students_to is not None
        audit.changed(actor, "handed_over", student=student, what=f"from {colleague.name} to {students_to.name}")
        handed_over.send(Student, student=student)
    colleague.is_active = False
    colleague.save(update_fields=["is_active"])
    audit.changed(actor, "parted_with", what=colleague.name)


@transaction.atomic
def give_lead(actor: User, colleague: User) -> None:
    """Another teacher leads the studio from now on."""
    require_lead(actor)
    if colleague.pk != actor.pk:
        User.objects.filter(pk=actor.pk).update(leads=False)
        User.objects.filter(pk=colleague.pk).update(leads=True)
        audit.changed(actor, "gave_lead", what=colleague.name)


def change_studio(actor: User, *, name: str, zone: str) -> None:
    """Name and time zone of the studio."""
    require_lead(actor)
    name = " ".join(name.split())
    if not name:
        raise ServiceError(422, "name_missing", "Give the studio a name.")
    if zone not in available_timezones():
        raise ServiceError(422, "zone_unknown", f"There is no time zone {zone[:40]!r}; write it like Europe/Lisbon.")
    actor.studio.name, actor.studio.zone = name, zone
    actor.studio.save(update_fields=["name", "zone"])
    audit.changed(actor, "changed_studio", what=f"{name}, {zone}")


@transaction.atomic
def change_keeping(actor: User, *, recordings_months: int | None, former_months: int | None) -> None:
    """How long recordings, and students who left, are kept. Counting begins anew, so that everybody is warned."""
    require_lead(actor)
    studio = actor.studio
    studio.recordings_kept_months, studio.former_kept_months = recordings_months, former_months
    studio.kept_since = timezone.now()
    studio.save(update_fields=["recordings_kept_months", "former_kept_months", "kept_since"])
    said = [
        f"{what}: {'no end' if months is None else consents.in_words(months)}"
        for what, months in (("recordings", recordings_months), ("former students", former_months))
    ]
    audit.changed(actor, "changed_keeping", what=", ".join(said))


def no_account() -> ServiceError:
    """There is nobody to give a password to."""
    return ServiceError(409, "no_account", "This student has no account yet; invite them first.")
