"""Studios, the people who sign in, and students."""

from __future__ import annotations

import uuid
from typing import Any, ClassVar

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.db import models


class Studio(models.Model):
    """A teacher's practice, a school or a class."""

    name = models.CharField(max_length=120)
    zone = models.CharField(max_length=64, default="UTC")
    created_at = models.DateTimeField(auto_now_add=True)
    # Recordings older than this are deleted, their numbers kept; students who left so long ago are deleted. None:
    # never.
    recordings_kept_months = models.PositiveSmallIntegerField(null=True, blank=True)
    former_kept_months = models.PositiveSmallIntegerField(null=True, blank=True)
    # Since when it is so: nothing is deleted before everybody could read of it.
    kept_since = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return self.name


class UserManager(BaseUserManager["User"]):
    """Accounts are known by their e-mail address."""

    def create_user(self, email: str, password: str | None = None, **fields: Any) -> User:
        """A new account; without a password nobody can sign in to it."""
        user = self.model(email=self.normalize_email(email), **fields)
        user.set_password(password)
        user.save(using=self._db)
        return user


class User(AbstractBaseUser):
    """Somebody who signs in."""

    class Role(models.TextChoices):
        TEACHER = "teacher"
        STUDENT = "student"

    email = models.EmailField(unique=True)
    name = models.CharField(max_length=120)
    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="users")
    role = models.CharField(max_length=10, choices=Role.choices)
    # Leads the studio: invites and parts with teachers, takes the archive out. Sees no other teacher's students for it.
    leads = models.BooleanField(default=False)
    # Looks after the installation: sees how the server is, and nobody's takes for it.
    keeps = models.BooleanField(default=False, db_default=False)
    is_active = models.BooleanField(default=True)
    date_joined = models.DateTimeField(auto_now_add=True)

    objects: ClassVar[UserManager] = UserManager()
    USERNAME_FIELD = "email"
    EMAIL_FIELD = "email"

    def __str__(self) -> str:
        return self.email


class Student(models.Model):
    """Somebody who is taught by one teacher."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="students")
    teacher = models.ForeignKey(User, on_delete=models.PROTECT, related_name="students")
    user = models.OneToOneField(User, on_delete=models.SET_NULL, null=True, blank=True, related_name="student")
    name = models.CharField(max_length=120)
    # Drawings of the neck are mirrored.
    left_handed = models.BooleanField(default=False)
    created_at = models.DateTimeField(auto_now_add=True)
    # No longer taught here.
    left_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("name", "id")

    def __str__(self) -> str:
        return self.name


class Consent(models.Model):
    """A student, or for a minor a guardian, agrees to be recorded. Withdrawn it stays, with when and by whom."""

    class By(models.TextChoices):
        STUDENT = "student"
        GUARDIAN = "guardian"

    class Way(models.TextChoices):
        PAGE = "page"
        WRITING = "writing"
        WORD = "word"

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="consents")
    by = models.CharField(max_length=10, choices=By.choices)
    name = models.CharField(max_length=120, blank=True)
    way = models.CharField(max_length=10, choices=Way.choices)
    # The sentence that was agreed to.
    to = models.TextField()
    day = models.DateField()
    # Whose account wrote it down; empty for a guest's link.
    written_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    written_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True)
    withdrawn_by = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ("-written_at", "-id")

    def __str__(self) -> str:
        return f"consent {self.pk}"


class Invitation(models.Model):
    """A link with which a student, or another teacher, makes their own account."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=10, choices=User.Role.choices)
    student = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="invitations")
    email = models.EmailField(blank=True)
    digest = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    made_at = models.DateTimeField()
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"invitation {self.pk}"


class AuditEntry(models.Model):
    """Who saw or changed what. Names are kept as they were; a deleted student leaves entries without one."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="audit")
    at = models.DateTimeField()
    actor = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    actor_name = models.CharField(max_length=120)
    student = models.ForeignKey(Student, on_delete=models.SET_NULL, null=True, related_name="audit")
    action = models.CharField(max_length=40)
    what = models.CharField(max_length=250, blank=True)
    object_id = models.CharField(max_length=40, blank=True)
    # Who looked at what on which day, digested: a second look is the same line.
    look = models.CharField(max_length=64, null=True, unique=True)  # noqa: DJ001 - unique where there is one

    class Meta:
        ordering = ("-at", "-id")
        indexes = [models.Index(fields=("student", "at"), name="audit_of_student")]

    def __str__(self) -> str:
        return f"{self.action} {self.object_id}"
