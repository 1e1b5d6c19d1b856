"""Lesson sheets: what is given to the student after a lesson."""

from __future__ import annotations

import uuid

from django.db import models

from apps.people.models import Student, User


def pdf_path(sheet: LessonSheet, _name: str) -> str:
    """Below an unguessable id."""
    return f"sheets/{sheet.pk.hex[:2]}/{sheet.pk.hex}/{uuid.uuid4().hex}.pdf"


class LessonSheet(models.Model):
    """One page: what was worked on, three findings, the week. content is what was true when it was made, and is not
    redrawn.
    """

    class Paper(models.TextChoices):
        A4 = "A4"
        LETTER = "Letter"

    class Pdf(models.TextChoices):
        NONE = "none"
        WAITING = "waiting"
        READY = "ready"
        FAILED = "failed"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="sheets")
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()
    paper = models.CharField(max_length=10, choices=Paper.choices, default=Paper.A4)
    content = models.JSONField()
    # Secret of the link the student may keep; null: there is none.
    share = models.CharField(max_length=64, null=True, unique=True)  # noqa: DJ001 - unique where there is one
    pdf = models.FileField(upload_to=pdf_path, max_length=255, blank=True)
    pdf_state = models.CharField(max_length=10, choices=Pdf.choices, default=Pdf.NONE)

    class Meta:
        ordering = ("-made_at", "-id")

    def __str__(self) -> str:
        return f"lesson sheet {self.pk}"
