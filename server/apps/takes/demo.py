"""The demo: an evening class in an invented harbour town, some weeks before its recital is planned. Invented data.

Recordings are made by the simulated student when the demo is loaded; every fault in them is stated here.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

import soundfile
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra.player.faults import Faults, NoteFault
from fortimetra.player.render import render

from apps.drills.models import Drill
from apps.guitars.models import Guitar
from apps.people.models import Student, User
from apps.people.services import add_student, create_studio
from apps.takes import services

STUDIO, TEACHER, ZONE = "Tarnhaven evening guitar class", "Ines Maravel", "Europe/Lisbon"
STUDENTS: dict[str, tuple[str, str]] = {
    "Oda Vintersee": ("Blue solid-body", Guitar.Kind.SOLID),
    "Pell Harroway": ("Workshop semi-hollow", Guitar.Kind.SEMI_HOLLOW),
    "Mirren Salk": ("Second-hand solid-body", Guitar.Kind.SOLID),
    "Jory Tamsin": ("Steel-string from the net loft", Guitar.Kind.STEEL_ACOUSTIC),
}


@dataclass(frozen=True)
class DemoTake:
    """A take: who, which drill, how many days ago, and what is wrong with it."""

    student: str
    drill: str
    days_ago: int
    at: time
    faults: Faults


def _faults(seed: int, notes: dict[str, NoteFault] | None = None, **rest: object) -> Faults:
    base: dict[str, object] = {"random_cents": 2.0, "random_ms": 9.0, "random_db": 0.8, "floor_dbfs": -68.0}
    return Faults.model_validate(base | rest | {"seed": seed, "notes": notes or {}})


N = NoteFault
TAKES = (
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 33, time(19, 12), _faults(
        11,
        {"bend@0": N(cents=-41, rise_ms=260), "bend@1": N(cents=-33, rise_ms=240, hold_drift_cents_per_s=-22),
         "bend@2": N(cents=-28, rise_ms=250), "bend@3": N(cents=-37, rise_ms=280, hold_drift_cents_per_s=-30)},
    )),
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 12, time(20, 3), _faults(
        12,
        {"bend@0": N(cents=-9, rise_ms=190), "bend@1": N(cents=-22, rise_ms=210), "bend@2": N(cents=-6, rise_ms=180),
         "bend@3": N(cents=4, rise_ms=170)},
    )),
    DemoTake("Oda Vintersee", "String 2: full bend at fret 13", 2, time(18, 47), _faults(
        13, {"bend@1": N(cents=-17, rise_ms=150), "bend@3": N(cents=7, overshoot_cents=24)}, random_cents=1.0,
    )),
    DemoTake("Pell Harroway", "String 2: full bend at fret 8, struck again", 20, time(21, 20), _faults(
        21,
        {"bend@0": N(cents=26, overshoot_cents=30, rise_ms=90), "again@0": N(cents=21),
         "bend@1": N(cents=19, overshoot_cents=22, rise_ms=80), "again@1": N(cents=-4),
         "bend@2": N(cents=31, rise_ms=80), "again@2": N(cents=24), "bend@3": N(cents=12), "again@3": N(cents=9)},
        hum_hz=50.0, hum_dbfs=-60.0,
    )),
    DemoTake("Pell Harroway", "String 2: full bend at fret 8, struck again", 6, time(21, 5), _faults(
        22,
        {"bend@0": N(cents=8), "again@0": N(cents=6), "bend@1": N(cents=-3), "again@1": N(cents=-7),
         "bend@2": N(cents=17, overshoot_cents=15), "again@2": N(cents=5), "bend@3": N(cents=2), "again@3": N(cents=-1)},
        hum_hz=50.0, hum_dbfs=-62.0,
    )),
    DemoTake("Mirren Salk", "String 3: half bend at fret 7", 15, time(17, 30), _faults(
        31,
        {"bend@0": N(cents=24, wobble_cents=14), "bend@1": N(missed=True), "bend@2": N(cents=-4, wobble_cents=22),
         "check@2": N(wrong_frets=1), "bend@3": N(cents=-12, wobble_cents=6)},
        drive_db=14.0, floor_dbfs=-58.0, random_ms=20.0,
    )),
    DemoTake("Mirren Salk", "String 1: half bend at fret 5", 4, time(17, 55), _faults(
        32, {"bend@0": N(cents=-8), "bend@2": N(cents=11)}, drive_db=10.0, floor_dbfs=-60.0,
    )),
    DemoTake("Jory Tamsin", "String 4: half bend at fret 9", 1, time(20, 41), _faults(
        41,
        {"bend@0": N(cents=-19, rise_ms=320), "bend@1": N(cents=-36, rise_ms=380, hold_drift_cents_per_s=-45),
         "bend@2": N(cents=-24, rise_ms=300), "bend@3": N(cents=-44, rise_ms=420, hold_drift_cents_per_s=-38)},
        colour="body", decay_s=14.0, tuning_offset_cents=(3.0, -2.0, 1.0, -5.0, 0.0, 4.0), random_ms=14.0,
    )),
)  # fmt: skip


def recording(content: DrillContent, faults: Faults) -> bytes:
    """A take of the simulated student as FLAC."""
    samples, truth = render(content, faults)
    out = io.BytesIO()
    soundfile.write(out, samples, truth.sample_rate_hz, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def load() -> bool:
    """Load the demo unless it is there; True if it was loaded."""
    if User.objects.filter(email=settings.DEMO_EMAIL).exists():
        return False
    teacher = create_studio(
        name=STUDIO, teacher_name=TEACHER, email=settings.DEMO_EMAIL, password=settings.DEMO_PASSWORD, zone=ZONE
    )
    students: dict[str, Student] = {}
    for name, (guitar, kind) in STUDENTS.items():
        students[name] = add_student(teacher, name=name)
        Guitar.objects.create(student=students[name], name=guitar, kind=kind)
    drills = {d.title: d for d in Drill.objects.filter(studio=teacher.studio).select_related("current")}
    for number, take in enumerate(TAKES, 1):
        _add(teacher, students[take.student], drills[take.drill], take, number)
    return True


def _add(teacher: User, student: Student, drill: Drill, take: DemoTake, number: int) -> None:
    assert drill.current is not None
    day = timezone.localdate(timezone=ZoneInfo(ZONE)) - timedelta(days=take.days_ago)
    sound = recording(DrillContent.model_validate(drill.current.content), take.faults)
    services.receive(
        teacher,
        student=student,
        drill=drill,
        upload=SimpleUploadedFile(f"demo-take-{number}.flac", sound),
        played_at=datetime.combine(day, take.at, ZoneInfo(ZONE)),
        guitar=Guitar.objects.filter(student=student).first(),
        invented=True,
    )
