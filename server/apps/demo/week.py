"""The demo between two lessons: what the evening class works on, their logbooks, an account for one of them. Invented
data.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from django.conf import settings
from django.utils import timezone
from fortimetra.coach import BY_NAME, step_words
from fortimetra.model import LadderRule, Step, rule_for

from apps.drills.models import Drill
from apps.people.models import Student, User
from apps.plans import courses, ladders, services
from apps.plans.models import Assignment, LadderMove, LogEntry, Practice

UP, DOWN = (f"Alternate picking 1 2 3 4, {way}: strings 3 and 2, position 5, 2 a click" for way in ("up", "down"))


@dataclass(frozen=True)
class Given:
    """A drill somebody works on. steps: where it stood before, with how many days ago it came to stand where it
    does.
    """

    drill: str
    step: Step
    days_ago: int
    minutes: float = 3.0
    goal: Step | None = None
    note: str = ""
    before: tuple[tuple[Step, int], ...] = ()
    rule: LadderRule = rule_for("tempo_steps")  # noqa: RUF009 - frozen
    automatic: bool = False
    pair: str = ""


WEEK: dict[str, tuple[Given, ...]] = {
    "Oda Vintersee": (
        Given(
            "String 3: full bend at fret 7", Step(bpm=66), 34, minutes=4, goal=Step(bpm=84),
            note="Sing the target before you bend.", before=((Step(bpm=58), 60), (Step(bpm=62), 47)),
        ),
        Given("Legato 3+3 over sixteenths, up, whole tones: strings 3 and 2, position 5", Step(bpm=60), 20, minutes=3),
        Given("Double stops: sixths on 3 and 1, A major, from fret 2", Step(bpm=60), 14, minutes=3),
    ),
    "Pell Harroway": (
        Given("String 2: full bend at fret 8, struck again", Step(bpm=66), 25, goal=Step(bpm=78)),
        Given("Scale over quiet low strings: A minor pentatonic, position 5", Step(bpm=60), 12),
        Given("Fastest even run: string 3, fret 7", Step(bpm=120), 8, minutes=2),
    ),
    "Jory Tamsin": (
        Given(UP, Step(bpm=60, per_click=2), 15, rule=rule_for("notes_per_click"), minutes=4),
        Given(DOWN, Step(bpm=60, per_click=2), 15, rule=rule_for("notes_per_click"), minutes=4, pair=UP),
        Given("String 4: half bend at fret 9", Step(bpm=60), 9, note="Half bends are enough on this guitar."),
    ),
    "Mirren Salk": (
        Given("Vibrato, slow and wide: fret 7, strings 3 2 1", Step(bpm=60), 18, rule=rule_for("overlearn")),
        Given("Finger pairs 1-2: string 3, position 5", Step(bpm=60), 10, automatic=True),
    ),
}  # fmt: skip
# Who is on a course: which, since how many days, and what of it the teacher left out.
COURSE: dict[str, tuple[str, int, frozenset[str]]] = {
    "Pell Harroway": ("rhythm_4", 8, frozenset({"Engine room, in A"})),
}
MINUTES: dict[str, list[float]] = {
    "Oda Vintersee": [12, 12, 0, 12, 12, 20, 0],
    "Jory Tamsin": [0, 15, 15, 0, 15, 15, 15],
}
NOTES: dict[str, tuple[tuple[int, float | None, str], ...]] = {
    "Oda Vintersee": (
        (1, 11, "Bends feel easier with three fingers behind the note."),
        (2, 12, ""), (3, 10, ""), (5, 12, ""), (6, 8, "Late from work, short."), (8, 12, ""), (9, 12, ""), (12, 14, ""),
        (15, 9, ""), (16, 12, ""), (19, 12, ""), (22, 10, ""), (26, 12, ""), (29, 8, ""), (33, 6, "First evening."),
    ),
    "Pell Harroway": ((1, 9, ""), (3, 9, "New strings."), (6, 7, ""), (10, 9, ""), (14, 9, ""), (20, 6, "")),
    "Jory Tamsin": ((1, 15, ""), (3, 15, ""), (4, 12, ""), (8, 15, ""), (11, 10, "")),
    "Mirren Salk": ((2, 6, ""), (4, 6, ""), (9, 5, ""), (16, 6, "")),
}  # fmt: skip


def load(teacher: User) -> None:
    """Plans and logbooks of the demo's students."""
    drills = {d.title: d for d in Drill.objects.filter(studio=teacher.studio).select_related("current")}
    now = timezone.now()
    for student in Student.objects.filter(teacher=teacher).select_related("studio"):
        for given in WEEK.get(student.name, ()):
            _assign(teacher, student, drills[given.drill], given, now)
        if student.name in COURSE:
            name, days_ago, leave_out = COURSE[student.name]
            begins = now.date() - timedelta(days=days_ago)
            courses.begin(teacher, student, BY_NAME[name], begins=begins, speed="tempo_steps", leave_out=leave_out)
        if student.name in MINUTES:
            Practice.objects.create(student=student, minutes=MINUTES[student.name])
        worked_on = list(student.assignments.order_by("pk"))
        LogEntry.objects.bulk_create(
            LogEntry(
                student=student,
                assignment=worked_on[i % len(worked_on)] if minutes else None,
                kind=LogEntry.Kind.PRACTICE if minutes else LogEntry.Kind.NOTE,
                minutes=minutes,
                text=text,
                day=now.date() - timedelta(days=days),
                made_by=teacher,
                made_at=now,
            )
            for i, (days, minutes, text) in enumerate(NOTES.get(student.name, ()))
        )
        if student.name == settings.DEMO_STUDENT:
            student.user = User.objects.create_user(
                settings.DEMO_STUDENT_EMAIL, settings.DEMO_PASSWORD, name=student.name, studio=student.studio,
                role=User.Role.STUDENT,
            )  # fmt: skip
            student.save(update_fields=["user"])


def _assign(teacher: User, student: Student, drill: Drill, given: Given, now: datetime) -> None:
    pair = Assignment.objects.filter(student=student, drill__title=given.pair).first() if given.pair else None
    made = services.assign(
        teacher,
        student,
        drill,
        terms=services.Terms(
            minutes=given.minutes,
            days=5,
            begins=now.date() - timedelta(days=given.days_ago),
            ends=None,
            note=given.note,
            rule=given.rule,
            goal=given.goal,
            moves="automatic" if given.automatic else "confirmed",
            sharing="weaker",
        ),
        step=given.step,
        pair=pair,
    )
    since = now - timedelta(days=given.days_ago)
    Assignment.objects.filter(pk=made.pk).update(step_since=since, made_at=since)
    stood = [*given.before, (given.step, given.days_ago)]
    for (before, _), (after, days_ago) in pairwise(stood):
        LadderMove.objects.create(
            assignment=made,
            at=now - timedelta(days=days_ago),
            made_by=teacher,
            move="up",
            since=before.model_dump(),
            to=after.model_dump(),
            says=(
                f"Up to {step_words(after)}: the last 3 takes at {step_words(before)} were clean, nothing off "
                "twice in one place."
            ),
        )
    ladders.look(made.pk)
