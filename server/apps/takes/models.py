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


class WordMark(models.Model):
    """One word of a teacher on a take. Taken back it stays, with who and when."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="marks")
    content = models.JSONField()  # a Mark of the core
    made_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    made_at = models.DateTimeField()
    undone_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    undone_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("made_at", "id")

    def __str__(self) -> str:
        return f"word on {self.take_id}"


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
        constraints = [models.UniqueConstraint(fields=("order", "take"), name="a_take_once_in_an_order")]
        indexes = [models.Index(fields=("order", "state", "changed"), name="trial_of_order")]

    def __str__(self) -> str:
        return f"trial {self.pk}"


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
