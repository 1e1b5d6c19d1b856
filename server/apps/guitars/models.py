"""The instruments takes are made with."""

from __future__ import annotations

from django.db import models

from apps.people.models import Student


class Guitar(models.Model):
    """A student's guitar; `description` is what the core reads, `kind` stands in it too."""

    class Kind(models.TextChoices):
        SOLID = "solid"
        SEMI_HOLLOW = "semi_hollow"
        STEEL_ACOUSTIC = "steel_acoustic"
        NYLON = "nylon"

    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="guitars")
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=20, choices=Kind.choices)
    description = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("created_at", "id")

    def __str__(self) -> str:
        return self.name
