"""What teachers say of takes."""

from __future__ import annotations

from django.db import models

from apps.people.models import User
from apps.takes.models import Take


class WordMark(models.Model):
    """One word of a teacher on a take. Taken back it stays, with who and when."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="marks")
    content = models.JSONField()  # a Mark of the core
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()
    undone_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    undone_at = models.DateTimeField(null=True)

    class Meta:
        db_table = "takes_wordmark"  # as when it was made; a running release before this one reads it
        ordering = ("made_at", "id")

    def __str__(self) -> str:
        return f"word on {self.take_id}"
