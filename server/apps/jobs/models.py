"""Background jobs: what workers have to do, as long as it is to be done."""

from __future__ import annotations

from django.db import models


class Job(models.Model):
    """One job for one row of some app. It is there while it waits, runs or has failed; done, it is gone."""

    class State(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        FAILED = "failed"

    # The task that does it, and the key of the row it is for.
    kind = models.CharField(max_length=40)
    subject = models.CharField(max_length=64)
    # What the task needs and no row holds.
    payload = models.JSONField(null=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    asked_at = models.DateTimeField()
    # When a message was sent for it; null: none has been.
    queued_at = models.DateTimeField(null=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    # Who works on it, and until when they have it without a sign of life.
    claim = models.UUIDField(null=True)
    claimed_until = models.DateTimeField(null=True)
    stage = models.CharField(max_length=20, blank=True)
    fraction = models.FloatField(default=0.0)
    problem_code = models.CharField(max_length=60, blank=True)
    problem_detail = models.TextField(blank=True)

    class Meta:
        ordering = ("asked_at", "id")
        constraints = [models.UniqueConstraint(fields=("kind", "subject"), name="one_job_of_a_kind")]
        indexes = [
            models.Index(fields=("state", "queued_at"), name="job_to_do"),
            models.Index(fields=("state", "claimed_until"), name="job_lost"),
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.subject}"
