"""Drills and their versions: a take keeps the version it was played to."""

from __future__ import annotations

from django.db import models

from apps.people.models import Studio, User


class Drill(models.Model):
    """A drill of a studio's library."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="drills")
    title = models.CharField(max_length=200)
    family = models.CharField(max_length=40)
    current = models.ForeignKey("DrillVersion", on_delete=models.PROTECT, null=True, related_name="+")
    # Put away: no longer offered, still the drill of its takes.
    archived_at = models.DateTimeField(null=True, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("family", "title", "id")

    def __str__(self) -> str:
        return self.title


class DrillVersion(models.Model):
    """What is asked, as the core reads it; never changed."""

    drill = models.ForeignKey(Drill, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    content = models.JSONField()
    created_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=("drill", "number"), name="one_version_of_a_number")]

    def __str__(self) -> str:
        return f"{self.drill_id} v{self.number}"
