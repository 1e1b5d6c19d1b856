"""A large studio for tests of speed: many students, many takes. Invented data; nothing is measured, one result stands
for all.
"""

from __future__ import annotations

import random
from datetime import timedelta

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import transaction
from django.utils import timezone
from fortimetra.model import Step, preset, rule_for

from apps.drills.models import Drill
from apps.guitars.models import Guitar
from apps.people.models import Student, User
from apps.plans.models import Assignment, LogEntry
from apps.takes.models import Analysis, Take

BATCH = 1000
ASKED = 32
DAYS = 400
CORES = ("0.1.0", "0.2.0")


@transaction.atomic
def load_crowd(teacher: User, *, students: int, takes: int, seed: int = 1) -> None:
    """Students of a teacher with takes over the last 400 days, assignments and a logbook. Two core versions are among
    them.
    """
    chance = random.Random(seed)
    people = Student.objects.bulk_create(
        Student(studio=teacher.studio, teacher=teacher, name=f"Crowd {n:03d}") for n in range(students)
    )
    guitar = preset("solid").model_dump(mode="json")
    Guitar.objects.bulk_create(Guitar(student=s, name="Borrowed", kind="solid", description=guitar) for s in people)
    guitars = {g.student_id: g for g in Guitar.objects.filter(student__in=people)}
    drills = list(Drill.objects.filter(studio=teacher.studio).exclude(family="set_up").select_related("current")[:12])
    sound = default_storage.save("takes/crowd", ContentFile(b"crowd"))
    rows: list[Take] = []
    for _ in range(takes):
        student, drill = chance.choice(people), chance.choice(drills)
        played = timezone.now() - timedelta(minutes=chance.randrange(DAYS * 24 * 60))
        rows.append(
            Take(
                student=student, drill_version=drill.current, guitar=guitars[student.pk], played_at=played,
                upload=sound, original_name="crowd.flac", size_bytes=5, sha256="0" * 64, invented=True,
                state=Take.State.MEASURED, measured_at=played, need=chance.random(),
                judged_at=played if chance.random() < 0.98 else None,
            )
        )  # fmt: skip
    Take.objects.bulk_create(rows, batch_size=BATCH)
    for start in range(0, takes, BATCH):
        part = rows[start : start + BATCH]
        Analysis.objects.bulk_create([_analysis(t, sound, chance) for t in part])
        analyses = {a.take_id: a for a in Analysis.objects.filter(take__in=part).only("pk", "take_id")}
        for take in part:
            take.current = analyses[take.pk]
        Take.objects.bulk_update(part, ["current"], batch_size=250)
    _plans(teacher, people, drills, chance)


def _analysis(take: Take, sound: str, chance: random.Random) -> Analysis:
    clean = chance.randrange(ASKED // 2, ASKED + 1)
    summary = {
        "asked": ASKED,
        "clean": clean,
        "not_clean": ASKED - clean,
        "unclear": 0,
        "missed": 0,
        "extra": 0,
        "excluded": 0,
        "by_measure": {"bend": {"inside": clean, "outside": ASKED - clean, "unclear": 0}},
        "timing": None,
        "level": None,
        "fastest_even_run_nps": None,
        "bends": [
            {
                "string": s,
                "fret": f,
                "target_cents": 200.0,
                "count": 4,
                "median_error_cents": chance.gauss(-8, 12),
                "spread_cents": 4.0,
                "u": 1.5,
            }
            for s, f in ((3, 7), (2, 8))
        ],
    }
    content = take.drill_version.content
    return Analysis(
        take=take,
        drill_version=take.drill_version,
        core_version=CORES[take.played_at.day % 2],
        seconds=1.0,
        content={},
        summary=summary,
        counts={k: v for k, v in summary.items() if isinstance(v, int)},
        places={},
        ticks="".join("." if i < clean else "-" for i in range(ASKED)),
        headline="Bends stop short",
        bpm=content["tempo"]["bpm"] if content["tempo"] else None,
        curves=sound,
        listening=sound,
    )


def _plans(teacher: User, people: list[Student], drills: list[Drill], chance: random.Random) -> None:
    now = timezone.now()
    made = []
    for student in people:
        for drill in chance.sample(drills, 5):
            assert drill.current is not None
            tempo = drill.current.content["tempo"]
            step = Step(bpm=tempo["bpm"] if tempo else None).model_dump()
            made.append(
                Assignment(
                    student=student,
                    drill=drill,
                    made_by=teacher,
                    made_at=now,
                    minutes=3,
                    days=5,
                    begins=now.date(),
                    rule=rule_for("tempo_steps").model_dump(mode="json"),
                    step=step,
                    step_since=now - timedelta(days=30),
                    standing={"move": "stay", "to": step, "says": "Stay.", "takes": []},
                )
            )
    Assignment.objects.bulk_create(made, batch_size=BATCH)
    LogEntry.objects.bulk_create(
        [
            LogEntry(
                student=s, kind="practice", day=now.date() - timedelta(days=d), minutes=12, made_by=teacher, made_at=now
            )
            for s in people
            for d in range(0, 120, 2)
        ],
        batch_size=BATCH,
    )
