"""The demo: an evening class in an invented harbour town, some weeks before its recital is planned. Invented data.

Recordings are made by the simulated student when the demo is loaded; every fault in them is stated here.
"""

from __future__ import annotations

import io
import os
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

import soundfile
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra.model import GuitarKind
from fortimetra.player import Faults, NoteFault, Ring, Scrape, render

from apps.bench.models import EarCheck
from apps.drills.models import Drill
from apps.drills.services import make_drill
from apps.guitars.models import Guitar
from apps.guitars.services import add_guitar
from apps.people.consents import Given
from apps.people.models import Student, User
from apps.people.services import add_student, create_studio
from apps.takes import services

STUDIO, TEACHER, ZONE = "Tarnhaven evening guitar class", "Ines Maravel", "Europe/Lisbon"
STUDENTS: dict[str, tuple[str, GuitarKind]] = {
    "Oda Vintersee": ("Blue solid-body", "solid"),
    "Pell Harroway": ("Workshop semi-hollow", "semi_hollow"),
    "Mirren Salk": ("Second-hand solid-body", "solid"),
    "Jory Tamsin": ("Steel-string from the net loft", "steel_acoustic"),
}


@dataclass(frozen=True)
class DemoTake:
    """A take: who, which drill, how many days ago, and what is wrong with it."""

    student: str
    drill: str
    days_ago: int
    at: time
    faults: Faults


def _faults(seed: int, notes: Mapping[str, NoteFault] | None = None, **rest: object) -> Faults:
    base: dict[str, object] = {"random_cents": 2.0, "random_ms": 9.0, "random_db": 0.8, "floor_dbfs": -68.0}
    return Faults.model_validate(base | rest | {"seed": seed, "notes": notes or {}})


N = NoteFault
SET_UP = "Set-up check"
SET_UPS = (
    DemoTake(
        "Oda Vintersee",
        SET_UP,
        34,
        time(18, 55),
        _faults(
            101,
            tuning_offset_cents=(2.0, -3.0, -9.0, 1.0, -2.0, 4.0),
            notes={"twelfth3": N(cents=7.0)},
            random_cents=0.5,
        ),
    ),
    DemoTake(
        "Oda Vintersee",
        SET_UP,
        13,
        time(19, 40),
        _faults(
            102,
            tuning_offset_cents=(1.0, -1.0, 2.0, 0.0, -2.0, 1.0),
            notes={"twelfth3": N(cents=2.0)},
            random_cents=0.5,
        ),
    ),
    DemoTake(
        "Pell Harroway",
        SET_UP,
        21,
        time(21, 2),
        _faults(
            103,
            {"twelfth2": N(cents=11.0), "twelfth6": N(cents=-6.0)},
            tuning_offset_cents=(0.0, 3.0, -14.0, 2.0, 9.0, -4.0),
            hum_hz=50.0,
            hum_dbfs=-46.0,
            random_cents=0.5,
        ),
    ),
    DemoTake(
        "Jory Tamsin",
        SET_UP,
        5,
        time(20, 10),
        _faults(
            104,
            tuning_offset_cents=(3.0, -2.0, 1.0, -5.0, 0.0, 4.0),
            colour="body",
            decay_s=14.0,
            random_cents=0.5,
        ),
    ),
)
# Kind, threshold and its uncertainty, share of false alarms, days ago: what an ear check would leave behind.
EAR_CHECKS: dict[str, tuple[tuple[str, float, float, float, int], ...]] = {
    "Oda Vintersee": (("pitch", 9.2, 3.1, 0.0, 13), ("bend", 13.5, 4.6, 0.14, 13)),
    "Pell Harroway": (("pitch", 17.0, 6.2, 0.14, 20),),
    "Jory Tamsin": (("bend", 24.0, 9.0, 0.29, 4), ("timing", 31.0, 11.0, 0.0, 4)),
}
TAKES = (
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 33, time(19, 12), _faults(
        11,
        {"bend@0": N(cents=-41, rise_ms=260), "bend@1": N(cents=-33, rise_ms=240, hold_drift_cents_per_s=-22),
         "bend@2": N(cents=-28, rise_ms=250), "bend@3": N(cents=-37, rise_ms=280, hold_drift_cents_per_s=-30)},
        tuning_offset_cents=(2.0, -3.0, -9.0, 1.0, -2.0, 4.0),
    )),
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 12, time(20, 3), _faults(
        12,
        {"bend@0": N(cents=-9, rise_ms=190), "bend@1": N(cents=-22, rise_ms=210), "bend@2": N(cents=-6, rise_ms=180),
         "bend@3": N(cents=4, rise_ms=170)},
        tuning_offset_cents=(1.0, -1.0, 2.0, 0.0, -2.0, 1.0),
    )),
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 26, time(19, 5), _faults(
        51, {"bend@0": N(cents=-30, rise_ms=240), "bend@1": N(cents=-27), "bend@2": N(cents=-19), "bend@3": N(cents=-26)},
        tuning_offset_cents=(2.0, -3.0, -9.0, 1.0, -2.0, 4.0),
    )),
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 19, time(19, 16), _faults(
        52, {"bend@0": N(cents=-21), "bend@1": N(cents=-24), "bend@2": N(cents=-12), "bend@3": N(cents=-19)},
        tuning_offset_cents=(2.0, -3.0, -9.0, 1.0, -2.0, 4.0),
    )),
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 5, time(19, 22), _faults(
        53, {"bend@0": N(cents=-6), "bend@1": N(cents=-3), "bend@2": N(cents=-5), "bend@3": N(cents=2)},
        tuning_offset_cents=(1.0, -1.0, 2.0, 0.0, -2.0, 1.0),
    )),
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 2, time(18, 30), _faults(
        54, {"bend@0": N(cents=-4), "bend@1": N(cents=3), "bend@2": N(cents=-6), "bend@3": N(cents=-1)},
        tuning_offset_cents=(1.0, -1.0, 2.0, 0.0, -2.0, 1.0),
    )),
    DemoTake("Oda Vintersee", "String 3: full bend at fret 7", 1, time(19, 40), _faults(
        55, {"bend@0": N(cents=2), "bend@1": N(cents=-4), "bend@2": N(cents=1), "bend@3": N(cents=-3)},
        tuning_offset_cents=(1.0, -1.0, 2.0, 0.0, -2.0, 1.0),
    )),
    DemoTake("Oda Vintersee", "String 2: full bend at fret 13", 2, time(18, 47), _faults(
        13, {"bend@1": N(cents=-17, rise_ms=150), "bend@3": N(cents=7, overshoot_cents=24)}, random_cents=1.0, tuning_offset_cents=(1.0, -1.0, 2.0, 0.0, -2.0, 1.0),
    )),
    DemoTake("Pell Harroway", "String 2: full bend at fret 8, struck again", 20, time(21, 20), _faults(
        21,
        {"bend@0": N(cents=26, overshoot_cents=30, rise_ms=90), "again@0": N(cents=21),
         "bend@1": N(cents=19, overshoot_cents=22, rise_ms=80), "again@1": N(cents=-4),
         "bend@2": N(cents=31, rise_ms=80), "again@2": N(cents=24), "bend@3": N(cents=12), "again@3": N(cents=9)},
        tuning_offset_cents=(0.0, 3.0, -14.0, 2.0, 9.0, -4.0), hum_hz=50.0, hum_dbfs=-60.0,
    )),
    DemoTake("Pell Harroway", "String 2: full bend at fret 8, struck again", 6, time(21, 5), _faults(
        22,
        {"bend@0": N(cents=8), "again@0": N(cents=6), "bend@1": N(cents=-3), "again@1": N(cents=-7),
         "bend@2": N(cents=17, overshoot_cents=15), "again@2": N(cents=5), "bend@3": N(cents=2), "again@3": N(cents=-1)},
        tuning_offset_cents=(0.0, 3.0, 0.0, 2.0, 0.0, -4.0), hum_hz=50.0, hum_dbfs=-62.0,
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
    DemoTake("Oda Vintersee", "Pre-bend and release: string 2, half at fret 8", 9, time(19, 31), _faults(
        14, {"e3@0": N(cents=-27), "e3@1": N(cents=-9), "e3@2": N(cents=5), "e3@3": N(cents=-18)}, random_cents=1.0,
    )),
    DemoTake("Oda Vintersee", "Unison bend: string 3 up to string 2 at fret 10", 8, time(19, 2), _faults(
        15, {"e1@0": N(cents=-24, rise_ms=240), "e1@1": N(cents=-5), "e1@2": N(cents=1), "e1@3": N(cents=14)},
    )),
    DemoTake("Pell Harroway", "Curl: string 3, fret 6, 20 to 80 cents, stopped at the top", 4, time(21, 12), _faults(
        23, {"e2@0": N(cents=9), "e2@1": N(cents=41), "e2@2": N(cents=-14), "e2@3": N(cents=3)}, hum_hz=50.0, hum_dbfs=-62.0,
        tuning_offset_cents=(0.0, 3.0, -13.0, 2.0, 9.0, -4.0),
    )),
    DemoTake("Pell Harroway", "Bends in A minor pentatonic, position 5", 3, time(20, 58), _faults(
        24, {"e4@0": N(cents=-12), "e7@0": N(cents=-26), "e4@1": N(cents=-4), "e7@1": N(cents=-19), "e7@2": N(cents=-23),
             "e7@3": N(cents=-31)}, random_cents=1.5, random_ms=9.0, tuning_offset_cents=(0.0, 3.0, -13.0, 2.0, 9.0, -4.0),
    )),
    DemoTake("Mirren Salk", "Vibrato, slow and wide: fret 7, strings 3 2 1", 10, time(18, 5), _faults(
        33, {"e1": N(vibrato_extent_cv=0.06, vibrato_rate_cv=0.04), "e2": N(vibrato_extent_cv=0.34, vibrato_rate_cv=0.1),
             "e3": N(vibrato_return_cents=26.0, vibrato_extent_cv=0.08, vibrato_rate_cv=0.05)}, drive_db=12.0, floor_dbfs=-60.0,
    )),
    DemoTake("Jory Tamsin", "Vibrato on a full bend: string 2, fret 8", 7, time(20, 22), _faults(
        42, {"e2@0": N(vibrato_return_cents=-24.0, vibrato_extent_cv=0.1), "e2@1": N(vibrato_return_cents=-13.0, vibrato_rate_cv=0.06),
             "e2@2": N(vibrato_return_cents=-20.0, vibrato_extent_cv=0.3), "e2@3": N(vibrato_return_cents=-6.0)},
        colour="body", decay_s=14.0,
    )),
    DemoTake("Jory Tamsin", "Bend ladder: string 4, half, frets 5 to 8", 2, time(20, 33), _faults(
        43, {f"e{2 + 6 * place + i}": N(cents=cents, rise_ms=220.0)
             for place, row in enumerate(((-4, 6, -7, 2), (-9, -3, -14, -8), (-17, -12, -21, -10), (-26, -19, -30, -22)))
             for i, cents in enumerate(row)},
        colour="body", decay_s=14.0, tuning_offset_cents=(3.0, -2.0, 1.0, -5.0, 0.0, 4.0),
    )),
    DemoTake("Mirren Salk", "Finger pairs 1-2: string 3, position 5", 3, time(17, 41), _faults(
        34, {f"e{i}": N(level_db=-7.5 - 0.4 * (i % 4), late_ms=14.0) for i in range(3, 22, 2)}
            | {"e9": N(level_db=-9.0, length=0.25), "e12": N(late_ms=46.0)}, random_ms=5.0,
    )),
    DemoTake("Oda Vintersee", "Slurred, then picked: string 2, frets 5 7 8 7", 6, time(19, 20), _faults(
        16, {f"e{i}": N(level_db=-5.5, late_ms=-12.0 if i % 4 == 3 else 0.0) for i in range(2, 17)}, random_ms=6.0,
    )),
    DemoTake("Oda Vintersee", "Legato 3+3 over sixteenths, up, whole tones: strings 3 and 2, position 5", 5, time(18, 58), _faults(
        17, {f"e{i}": N(level_db=4.5, late_ms=-6.0) for i in range(4, 49, 3)}, random_ms=5.0,
    )),
    DemoTake("Pell Harroway", "Tapping: string 2, frets 5 8 and 12", 2, time(21, 31), _faults(
        25, {f"e{i}": N(level_db=5.0, cents=10.0) for i in range(3, 31, 4)} | {f"e{i}": N(length=0.55) for i in (5, 9, 13, 17)},
        hum_hz=50.0, hum_dbfs=-62.0, random_ms=5.0, tuning_offset_cents=(0.0, 3.0, -13.0, 2.0, 9.0, -4.0),
    )),
    DemoTake("Jory Tamsin", "Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2 a click", 3, time(20, 15), _faults(
        44, {f"e{i}": N(late_ms=54.0) for i in range(5, 32, 8)} | {f"e{i}": N(late_ms=22.0) for i in range(9, 32, 8)}
            | {"e7@0": N(double_ms=42.0), "e6@1": N(double_ms=38.0), "e14@2": N(missed=True), "e20@3": N(level_db=7.0)}
            | {f"e{i}@2": N(level_db=-5.0) for i in (1, 17)},
        colour="body", decay_s=14.0, random_ms=6.0,
    )),
    DemoTake("Pell Harroway", "Fastest even run: string 3, fret 7", 1, time(21, 8), _faults(
        26, {f"e{i}@{r}": N(late_ms=(-1) ** i * (9.0 + 4.0 * r)) for r in (2, 3) for i in range(1, 17)}, random_ms=4.0,
    )),
    DemoTake("Mirren Salk", "Sweep, 3 strings, round: A minor, position 5", 1, time(17, 50), _faults(
        35, {f"e{i}": N(late_ms=-38.0) for i in (2, 6, 10, 14)} | {f"e{i}": N(length=1.3) for i in (3, 7, 11)},
        random_ms=5.0, drive_db=8.0, floor_dbfs=-60.0,
    )),
    DemoTake("Oda Vintersee", "Double stops: sixths on 3 and 1, A major, from fret 2", 4, time(19, 8), _faults(
        18, rings=(Ring(string=2, event="e3", level_db=-17.0, length_s=0.9), Ring(string=2, event="e5", repeat=1, level_db=-19.0, length_s=0.8),
                   Ring(string=2, event="e3", repeat=2, level_db=-15.0, length_s=0.9), Ring(string=4, event="e7", repeat=3, level_db=-22.0, length_s=0.8)),
        random_ms=6.0, tuning_offset_cents=(1.0, -1.0, 2.0, 0.0, -2.0, 1.0),
    )),
    DemoTake("Jory Tamsin", "Bottleneck: sixths on 3 and 1, G major, from fret 2", 4, time(20, 48), _faults(
        45, {f"e{i}": N(cents=-19.0) for i in range(2, 9)}, rings=(Ring(string=2, event="e3", level_db=-18.0, length_s=1.6),
             Ring(string=2, event="e3", repeat=2, level_db=-16.0, length_s=1.8)),
        scrapes=(Scrape(event="e5", after_s=1.2, level_db=-20.0, length_s=0.16), Scrape(event="e6", repeat=1, after_s=1.3, level_db=-17.0, length_s=0.14),
                 Scrape(event="e2", repeat=3, after_s=1.1, level_db=-22.0, length_s=0.2)), colour="body", decay_s=14.0, random_ms=6.0, random_cents=3.0,
    )),
    DemoTake("Mirren Salk", "Mute check: all strings struck, 2 sound, roots on string 6, frets 3 5 7 5", 2, time(17, 36), _faults(
        36, {"e5@1": N(length=1.35), "e7@3": N(length=1.4)},
        rings=(Ring(string=4, event="e3", level_db=-16.0, length_s=1.6), Ring(string=4, event="e3", repeat=1, level_db=-18.0, length_s=1.7),
               Ring(string=1, event="e5", level_db=-16.0, length_s=1.4), Ring(string=4, event="e7", repeat=2, level_db=-15.0, length_s=1.8)),
        hum_hz=50.0, hum_dbfs=-52.0, floor_dbfs=-62.0, random_ms=6.0,
    )),
    DemoTake("Pell Harroway", "Scale over quiet low strings: A minor pentatonic, position 5", 2, time(21, 17), _faults(
        27, rings=(Ring(string=6, event="e9", level_db=-18.0, length_s=1.6), Ring(string=5, event="e9", repeat=1, level_db=-22.0, length_s=1.4),
                   Ring(string=6, event="e9", repeat=2, level_db=-17.0, length_s=1.8), Ring(string=6, event="e8", repeat=3, level_db=-20.0, length_s=2.0)),
        drive_db=9.0, floor_dbfs=-62.0, random_ms=6.0,
    )),
    DemoTake("Oda Vintersee", "Long bend without and with damping: string 2, fret 10", 3, time(19, 15), _faults(
        19, rings=(Ring(string=3, event="e1", level_db=-20.0, length_s=7.5), Ring(string=3, event="e1", repeat=1, level_db=-23.0, length_s=7.5),
                   Ring(string=1, event="e1", repeat=1, level_db=-22.0, length_s=7.0)), random_cents=1.0,
    )),
    DemoTake("Pell Harroway", "Stops: riff on string 6, frets 3 5 6 3 8 6, rests 1.5 0.5 1", 1, time(21, 24), _faults(
        28, {"e1@0": N(length=2.1), "e5@1": N(length=1.9), "e7@2": N(length=2.4), "e9@3": N(length=1.8)},
        rings=(Ring(string=4, event="e3", repeat=1, level_db=-14.0, length_s=0.8),), random_ms=6.0, hum_hz=50.0, hum_dbfs=-62.0,
    )),
)  # fmt: skip

# A set of the teacher's own: the same figure a fret up after each, in one take.
SET_FORM = "alternate_picking"
SET_VALUES = {"figure": "1 3 4", "strings": "one", "string": "2", "groups": "4", "bpm": "72", "repeats": "1"}
SET_VARIED = (("position", "5-8"),)
SET_TITLE = "Set: Alternate picking, position 5 to 8"
LAST_TAKES = (
    DemoTake("Jory Tamsin", SET_TITLE, 1, time(20, 22), _faults(
        46, {f"m{m}r1e{i}": N(late_ms=18.0 * (m - 1)) for m in (3, 4) for i in (4, 7, 10)} | {"m4r1e11": N(missed=True)},
        colour="body", decay_s=14.0, random_ms=6.0,
    )),
    DemoTake("Oda Vintersee", "Leaning mast, in A", 1, time(19, 2), _faults(
        20, {"e6@0": N(cents=-24.0), "e13@1": N(cents=-31.0, rise_ms=280.0)}, random_ms=7.0,
    )),
)  # fmt: skip


# Each takes a quarter of a gigabyte while it plays.
PLAYERS = 4


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
        agreed = Given(by="student", way="writing", day=timezone.localdate() - timedelta(days=60))
        students[name] = add_student(teacher, name=name, agreed=agreed)
        add_guitar(teacher, student=students[name], name=guitar, kind=kind)
        _add_ear_checks(students[name])
    make_drill(teacher, form=SET_FORM, values=SET_VALUES, varied=SET_VARIED)
    drills = {d.title: d for d in Drill.objects.filter(studio=teacher.studio).select_related("current")}
    takes = (*SET_UPS, *TAKES, *LAST_TAKES)
    # A newcomer waits for this: the takes are played beside each other, and come in in their order.
    with ThreadPoolExecutor(min(PLAYERS, os.cpu_count() or 1)) as pool:
        sounds = pool.map(lambda take: recording(_content(drills[take.drill]), take.faults), takes)
        for number, (take, sound) in enumerate(zip(takes, sounds, strict=True), 1):
            _add(teacher, students[take.student], drills[take.drill], take, number, sound)
    return True


def _content(drill: Drill) -> DrillContent:
    assert drill.current is not None
    return DrillContent.model_validate(drill.current.content)


def _add_ear_checks(student: Student) -> None:
    for kind, threshold, u, false_alarms, days_ago in EAR_CHECKS.get(student.name, ()):
        at = timezone.now() - timedelta(days=days_ago)
        EarCheck.objects.create(
            student=student, kind=kind, seed=0, started_at=at, finished_at=at, threshold=threshold, u=u,
            false_alarms=false_alarms, invented=True,
        )  # fmt: skip


def _add(teacher: User, student: Student, drill: Drill, take: DemoTake, number: int, sound: bytes) -> None:
    day = timezone.localdate(timezone=ZoneInfo(ZONE)) - timedelta(days=take.days_ago)
    services.receive(
        teacher,
        student=student,
        drill=drill,
        upload=SimpleUploadedFile(f"demo-take-{number}.flac", sound),
        played_at=datetime.combine(day, take.at, ZoneInfo(ZONE)),
        guitar=Guitar.objects.filter(student=student).first(),
        invented=True,
    )
