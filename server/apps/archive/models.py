"""Which archives were read."""

from __future__ import annotations

from django.db import models

from apps.people.models import User


class Restore(models.Model):
    """An archive that was read into a studio."""

    studio = models.ForeignKey("people.Studio", on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField()
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    counts = models.JSONField()

    class Meta:
        db_table = "reports_restore"  # as when it was made

    def __str__(self) -> str:
        return f"restore of {self.at}"
