"""What a student works on between two lessons: assignments with their ladders, the days, the logbook."""

from __future__ import annotations

import datetime as dt
import uuid

from django.db import models

from apps.drills.models import Drill
from apps.people.models import Student, User


class Practice(models.Model):
    """When a student practises: minutes on each weekday from Monday, the hour the calendar shows, the calendar's
    secret.
    """

    student = models.OneToOneField(Student, on_delete=models.CASCADE, related_name="practice")
    minutes = models.JSONField()
    at = models.TimeField(default=dt.time(19, 0))
    # Digest of the calendar feed's secret; null: there is no feed.
    feed = models.CharField(max_length=64, null=True, unique=True)  # noqa: DJ001 - unique where there is one

    def __str__(self) -> str:
        return f"practice of {self.student_id}"


class Assignment(models.Model):
    """A drill a student works on, and where it stands on its ladder."""

    class Moves(models.TextChoices):
        CONFIRMED = "confirmed"
        AUTOMATIC = "automatic"

    class Sharing(models.TextChoices):
        EQUAL = "equal"
        WEAKER = "weaker"

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="assignments")
    drill = models.ForeignKey(Drill, on_delete=models.PROTECT, related_name="assignments")
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()
    note = models.CharField(max_length=500, blank=True)
    minutes = models.FloatField()
    days = models.PositiveSmallIntegerField()
    begins = models.DateField()
    # Time-boxed where there is an end, else until the goal is reached.
    ends = models.DateField(null=True)
    ended_at = models.DateTimeField(null=True)
    # The other drill of a pair, and how the two share their minutes.
    pair = models.OneToOneField("self", on_delete=models.SET_NULL, null=True, related_name="+")
    sharing = models.CharField(max_length=10, choices=Sharing.choices, default=Sharing.WEAKER)

    rule = models.JSONField()  # a LadderRule of the core
    goal = models.JSONField(null=True)  # a Step
    step = models.JSONField()  # a Step
    step_since = models.DateTimeField()
    moves = models.CharField(max_length=10, choices=Moves.choices, default=Moves.CONFIRMED)
    # What the ladder says now: move, to, says, takes.
    standing = models.JSONField()
    # Surely clean notes of the newest take at this step, 0 to 1; null before one.
    newest_share = models.FloatField(null=True)

    class Meta:
        ordering = ("made_at", "id")
        indexes = [models.Index(fields=("student", "ended_at"), name="assignment_running")]

    def __str__(self) -> str:
        return f"assignment {self.pk}"


class LadderMove(models.Model):
    """A step that was taken; made_by null: by the rule alone."""

    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, related_name="ladder")
    at = models.DateTimeField()
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    move = models.CharField(max_length=10)
    since = models.JSONField()
    to = models.JSONField()
    says = models.CharField(max_length=500)
    takes = models.JSONField(default=list)

    class Meta:
        ordering = ("-at", "-id")

    def __str__(self) -> str:
        return f"{self.move} of {self.assignment_id}"


class Shift(models.Model):
    """A day's work put off to another day, or (to null) left out."""

    assignment = models.ForeignKey(Assignment, on_delete=models.CASCADE, related_name="shifts")
    since = models.DateField()
    to = models.DateField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=("assignment", "since"), name="one_shift_of_a_day")]

    def __str__(self) -> str:
        return f"{self.since} to {self.to}"


class LogEntry(models.Model):
    """A line of the logbook: minutes played, a note, or that the student stopped because something hurt."""

    class Kind(models.TextChoices):
        PRACTICE = "practice"
        NOTE = "note"
        DISCOMFORT = "discomfort"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="log")
    assignment = models.ForeignKey(Assignment, on_delete=models.SET_NULL, null=True, related_name="log")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    day = models.DateField()
    minutes = models.FloatField(null=True)
    text = models.CharField(max_length=1000, blank=True)
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()

    class Meta:
        ordering = ("-day", "-made_at")
        indexes = [models.Index(fields=("student", "day"), name="log_of_student")]

    def __str__(self) -> str:
        return f"{self.kind} on {self.day}"


class Hold(models.Model):
    """All ladders of a student stand still until somebody clears it."""

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="holds")
    entry = models.ForeignKey(LogEntry, on_delete=models.SET_NULL, null=True, related_name="+")
    since = models.DateTimeField()
    by_teacher = models.BooleanField(default=False)
    cleared_at = models.DateTimeField(null=True)
    cleared_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")

    class Meta:
        ordering = ("-since", "-id")

    def __str__(self) -> str:
        return f"hold of {self.student_id}"
