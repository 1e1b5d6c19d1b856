"""Takes and what was measured in them. Who measures them is a job's business (`apps.jobs`)."""

from __future__ import annotations

import uuid

from django.db import models

from apps.drills.models import Drill, DrillVersion
from apps.guitars.models import Guitar
from apps.people.models import Student, User


def upload_path(take: Take, _name: str) -> str:
    """Content hash below an unguessable id; never the user's file name."""
    return f"takes/{take.pk.hex[:2]}/{take.pk.hex}/{take.sha256}"


def result_path(analysis: Analysis, name: str) -> str:
    """Beside the upload, one name per analysis."""
    return f"takes/{analysis.take_id.hex[:2]}/{analysis.take_id.hex}/{uuid.uuid4().hex}-{name}"


def guess_path(guess: DrillGuess, _name: str) -> str:
    """Apart from takes: it is thrown away as soon as it has been heard."""
    return f"guesses/{guess.pk.hex}"


class Take(models.Model):
    """One recording of one student playing one drill."""

    class State(models.TextChoices):
        RECEIVED = "received"
        QUEUED = "queued"
        MEASURING = "measuring"
        MEASURED = "measured"
        REFUSED = "refused"
        FAILED = "failed"

    UNFINISHED = (State.RECEIVED, State.QUEUED, State.MEASURING)

    # How far a job is that measures it: what `selectors.with_progress` has looked up, no columns.
    stage = ""
    fraction = 0.0

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="takes")
    drill_version = models.ForeignKey(DrillVersion, on_delete=models.PROTECT, related_name="takes")
    guitar = models.ForeignKey(Guitar, on_delete=models.SET_NULL, null=True, blank=True, related_name="takes")
    uploaded_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    played_at = models.DateTimeField(db_index=True)
    created_at = models.DateTimeField(auto_now_add=True)

    upload = models.FileField(upload_to=upload_path, max_length=255, blank=True)
    original_name = models.CharField(max_length=255)
    size_bytes = models.PositiveBigIntegerField()
    sha256 = models.CharField(max_length=64)
    invented = models.BooleanField(default=False)
    # The click it was played to, as the recorder scheduled it (the contract's click); how it was captured.
    click = models.JSONField(null=True)
    capture = models.JSONField(null=True)
    # Notes to the click it was played with, where that is not as the drill is written: a step of the ladder.
    per_click = models.PositiveSmallIntegerField(null=True)
    # A teacher's word on the click, the tolerances and on what is what, where it is another; what was recorded stays.
    click_said = models.JSONField(null=True)
    tolerances_said = models.JSONField(null=True)
    pins = models.JSONField(default=list)
    # Goes up with every word, so that a second tab can tell that it is behind.
    word_version = models.PositiveIntegerField(default=0)
    judged_at = models.DateTimeField(null=True)
    judged_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    # A student took it out of their own lists; the teacher still has it.
    hidden_at = models.DateTimeField(null=True)
    # The sound is gone, what was measured in it stays.
    recording_deleted_at = models.DateTimeField(null=True)
    # How much a teacher's ear is needed, 0 to 1; the Desk's order.
    need = models.FloatField(default=0.0)

    state = models.CharField(max_length=10, choices=State.choices, default=State.RECEIVED)
    measured_at = models.DateTimeField(null=True)
    problem_code = models.CharField(max_length=60, blank=True)
    problem_detail = models.TextField(blank=True)
    current = models.ForeignKey("Analysis", on_delete=models.SET_NULL, null=True, related_name="+")

    class Meta:
        ordering = ("-played_at", "-created_at")
        indexes = [
            # Each holds all that its page sorts or counts by, so that thousands of rows are not read for it.
            models.Index(fields=("student", "judged_at", "state", "need", "played_at"), name="take_on_desk"),
            models.Index(fields=("student", "played_at", "created_at"), name="take_newest"),
            models.Index(fields=("student", "drill_version"), name="take_of_drill"),
        ]

    def __str__(self) -> str:
        return f"take {self.pk}"


class Analysis(models.Model):
    """What one version of the core found in one take."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="analyses")
    drill_version = models.ForeignKey(DrillVersion, on_delete=models.PROTECT, related_name="+")
    core_version = models.CharField(max_length=20)
    created_at = models.DateTimeField(auto_now_add=True)
    seconds = models.FloatField()
    content = models.JSONField()
    summary = models.JSONField()
    # summary and ticks are as the teacher left them, content as measured; one sign per asked note, see ticks.py.
    ticks = models.TextField()
    # The summary's counts alone, for lists; what the likeliest cause says.
    counts = models.JSONField(default=dict)
    headline = models.CharField(max_length=200, default="")
    # How often each asked place was off or missed, as the teacher left it; the tempo it was read against.
    places = models.JSONField(default=dict)
    bpm = models.FloatField(null=True)
    per_click = models.PositiveSmallIntegerField(null=True)
    tolerances = models.JSONField(null=True)
    # What it was read against: the guitar as it was described then, and the set-up take before it.
    guitar = models.JSONField(null=True)
    setup_take = models.ForeignKey(Take, on_delete=models.SET_NULL, null=True, related_name="+")
    # Of a set-up take: what later takes are read against (the contract's set-up).
    setup = models.JSONField(null=True)
    # Empty while a worker is still writing them: verdicts come first.
    curves = models.FileField(upload_to=result_path, max_length=255, blank=True)
    listening = models.FileField(upload_to=result_path, max_length=255, blank=True)

    def __str__(self) -> str:
        return f"analysis of {self.take_id} by {self.core_version}"


class GuestLink(models.Model):
    """A link with which somebody without an account makes one recording of a student."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="guest_links")
    drill = models.ForeignKey(Drill, on_delete=models.PROTECT, related_name="+")
    digest = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    made_at = models.DateTimeField()
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)
    take = models.ForeignKey(Take, on_delete=models.SET_NULL, null=True, related_name="+")

    def __str__(self) -> str:
        return f"guest link {self.pk}"


class DrillGuess(models.Model):
    """A recording whose drill nobody has named yet; which ones its notes fit, once a worker has heard it."""

    class State(models.TextChoices):
        WAITING = "waiting"
        HEARD = "heard"
        REFUSED = "refused"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    created_by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    upload = models.FileField(upload_to=guess_path, max_length=255)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    asked_at = models.DateTimeField()
    # Drill ids with the share of notes that fit, the likeliest first.
    drills = models.JSONField(default=list)
    problem_detail = models.TextField(blank=True)

    def __str__(self) -> str:
        return f"guess {self.pk}"
