"""Measuring takes once more, one or many, beside what counts. Tables are named as when they were made: a
release before this one that still runs reads them.
"""

from __future__ import annotations

import uuid

from django.db import models

from apps.drills.models import Drill, DrillVersion
from apps.people.models import Student, User
from apps.takes.models import Analysis, Take


class Remeasurement(models.Model):
    """An order to measure many takes again, beside what counts until somebody keeps it."""

    class State(models.TextChoices):
        LISTING = "listing"
        RUNNING = "running"
        PAUSED = "paused"
        MEASURED = "measured"
        KEEPING = "keeping"
        KEPT = "kept"
        DROPPING = "dropping"

    # Those in which somebody may still change their mind, or work goes on.
    OPEN = (State.LISTING, State.RUNNING, State.PAUSED, State.MEASURED, State.KEEPING, State.DROPPING)

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    # Whose students' takes they are: a teacher's own.
    asked_by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="remeasurements")
    asked_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    # Which takes: of a student, of a drill; with all_versions also those that this core measured.
    student = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="+")
    drill = models.ForeignKey(Drill, on_delete=models.CASCADE, null=True, related_name="+")
    all_versions = models.BooleanField(default=False)
    core_version = models.CharField(max_length=20)
    state = models.CharField(max_length=10, choices=State.choices, default=State.LISTING)
    total = models.PositiveIntegerField(default=0)
    # What would change, added up over the takes that are measured: the core's flips.
    flips = models.JSONField(default=list)
    kept = models.PositiveIntegerField(default=0)
    # Measured by somebody else meanwhile, or deleted: left as they are.
    left_alone = models.PositiveIntegerField(default=0)

    class Meta:
        db_table = "takes_remeasurement"
        ordering = ("-asked_at",)

    def __str__(self) -> str:
        return f"measuring again {self.pk}"


class Trial(models.Model):
    """A take measured once more with something changed, beside what counts until somebody keeps it."""

    class State(models.TextChoices):
        WAITING = "waiting"
        MEASURED = "measured"
        REFUSED = "refused"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="trials")
    created_by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    asked_at = models.DateTimeField()
    # What is tried: drill version, click, tolerances, pins; what is not named stays as it is.
    changes = models.JSONField(default=dict)
    drill_version = models.ForeignKey(DrillVersion, on_delete=models.CASCADE, related_name="+")
    # What counted when it was asked for: another by now makes it out of date.
    against = models.ForeignKey(Analysis, on_delete=models.CASCADE, related_name="+")
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    analysis = models.OneToOneField(Analysis, on_delete=models.SET_NULL, null=True, related_name="trial")
    problem_detail = models.TextField(blank=True)
    # Of an order to measure many: which, and how many notes would be judged otherwise.
    order = models.ForeignKey(Remeasurement, on_delete=models.CASCADE, null=True, related_name="trials")
    changed = models.PositiveIntegerField(default=0)

    class Meta:
        db_table = "takes_trial"
        constraints = [models.UniqueConstraint(fields=("order", "take"), name="a_take_once_in_an_order")]
        indexes = [models.Index(fields=("order", "state", "changed"), name="trial_of_order")]

    def __str__(self) -> str:
        return f"trial {self.pk}"
