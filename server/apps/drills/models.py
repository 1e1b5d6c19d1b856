"""Drills and their versions: a take keeps the version it was played to. Scores on their way in."""

from __future__ import annotations

import uuid

from django.db import models

from apps.people.models import Studio, User


class Drill(models.Model):
    """A drill of a studio's library."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="drills")
    title = models.CharField(max_length=200)
    family = models.CharField(max_length=40)
    # 1 first steps, 2 moving on, 3 advanced; a teacher's judgement, like the tags.
    level = models.PositiveSmallIntegerField(null=True, blank=True)
    tags = models.JSONField(default=list)
    built_in = models.BooleanField(default=False)
    # The form that made it, with what was filled in; empty where none did.
    form = models.CharField(max_length=40, blank=True)
    values = models.JSONField(default=dict)
    # What a list says of the current version, and a digest of it: the same drill is not kept twice.
    facts = models.JSONField(default=dict)
    digest = models.CharField(max_length=64, blank=True)
    # The same figure the other way.
    partner = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    # What should be safe before it: advice, not a lock.
    after = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, blank=True, related_name="+")
    current = models.ForeignKey("DrillVersion", on_delete=models.PROTECT, null=True, related_name="+")
    # Put away: no longer offered, still the drill of its takes.
    archived_at = models.DateTimeField(null=True, blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("family", "title", "id")
        indexes = [models.Index(fields=("studio", "digest"), name="drill_of_digest")]

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


class ScoreImport(models.Model):
    """A score another program wrote, until it is kept as a drill or thrown away."""

    class State(models.TextChoices):
        WAITING = "waiting"
        READ = "read"
        REFUSED = "refused"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="+")
    created_by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    file_name = models.CharField(max_length=255)
    upload = models.BinaryField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    # What was read: content, proposed, lost; or why it was not.
    outcome = models.JSONField(null=True)
    problem_code = models.CharField(max_length=60, blank=True)
    problem_detail = models.TextField(blank=True)
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.file_name


class CardText(models.Model):
    """What a teacher says on the card instead of the house: of one drill, or of a family in the whole studio."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="card_texts")
    # Of this drill; null: of every drill of the family.
    drill = models.ForeignKey(Drill, on_delete=models.CASCADE, null=True, related_name="card_texts")
    family = models.CharField(max_length=40)
    section = models.CharField(max_length=20)
    lines = models.JSONField()
    # The family, where it is of one; null of a drill: one text a section of each.
    place = models.CharField(max_length=40, null=True)  # noqa: DJ001 - two nulls are not the same, two empty words are
    changed_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    changed_at = models.DateTimeField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=("studio", "place", "section"), name="one_text_a_section_of_a_family"),
            models.UniqueConstraint(fields=("drill", "section"), name="one_text_a_section_of_a_drill"),
        ]

    def __str__(self) -> str:
        return f"{self.family}: {self.section}"
