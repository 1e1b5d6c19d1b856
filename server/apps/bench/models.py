"""Ear checks: what a student can hear."""

from __future__ import annotations

from django.db import models

from apps.people.models import Student


class EarCheck(models.Model):
    """One run of the ear check. Trials follow from kind, seed and the answers so far."""

    class Kind(models.TextChoices):
        PITCH = "pitch"
        BEND = "bend"
        TIMING = "timing"
        LEVEL = "level"

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="ear_checks")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    seed = models.PositiveIntegerField()
    said = models.JSONField(default=list)
    started_at = models.DateTimeField()
    finished_at = models.DateTimeField(null=True)
    threshold = models.FloatField(null=True)
    u = models.FloatField(null=True)
    false_alarms = models.FloatField(null=True)
    reason = models.CharField(max_length=40, blank=True)
    invented = models.BooleanField(default=False)

    class Meta:
        ordering = ("-started_at", "-id")
        indexes = [models.Index(fields=("student", "kind", "finished_at"), name="ear_check_newest")]

    def __str__(self) -> str:
        return f"{self.kind} of {self.student_id}"
