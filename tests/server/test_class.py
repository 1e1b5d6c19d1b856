"""The class at a glance: students by what is judged, the weeks, the days, who waits for an ear."""

import datetime as dt
import json
from zoneinfo import ZoneInfo

import pytest
from apps.people.models import AuditEntry, Student, User
from apps.plans import services as plans
from apps.plans.models import LogEntry
from apps.reports.glance_api import ClassRead
from apps.takes.models import Take
from django.utils import timezone
from fortimetra.model.ladder import Step

from tests.server.conftest import PASSWORD, client_of
from tests.server.made import made_take
from tests.server.test_access import TERMS

pytestmark = pytest.mark.django_db
DAY_MIN = 24 * 60


def judged(**by_measure):
    return {m: {"inside": i, "outside": o, "unclear": u} for m, (i, o, u) in by_measure.items()}


def row_of(client, student):
    body = client.get("/api/v1/reports/class").json()
    return next(r for r in body["rows"] if r["student_id"] == student.pk), body


def cell(row, skill):
    return next(c for c in row["cells"] if c["skill"] == skill)


def test_a_cell_is_the_share_within_tolerance_of_what_could_be_judged(client, student, drill):
    made_take(student, drill, by_measure=judged(timing=(18, 2, 5), level=(0, 0, 7)), tell=False)
    made_take(student, drill, by_measure=judged(timing=(12, 8, 0)), tell=False)
    row, body = row_of(client, student)
    now = cell(row, "timing")["now"]
    assert (now["percent"], now["notes"], now["takes"]) == (75.0, 40, 2)
    # Wilson's interval of 30 in 40 (worked out by hand from the formula, 1927): 59.8 to 85.8 %.
    assert (now["low"], now["high"]) == (pytest.approx(59.8, abs=0.1), pytest.approx(85.8, abs=0.1))
    assert cell(row, "timing")["weeks"][-1] == now
    # Nothing of the volume could be judged, and no bend was asked.
    assert cell(row, "level")["now"] is None
    assert cell(row, "bend")["weeks"] == [None] * len(body["weeks"])


def test_takes_stand_in_the_week_of_the_studios_day(client, student, drill):
    _, body = row_of(client, student)
    monday = dt.date.fromisoformat(body["weeks"][3])
    zone = student.studio.zone = "Pacific/Auckland"
    student.studio.save()
    take = made_take(student, drill, by_measure=judged(bend=(1, 3, 0)), tell=False)
    late = dt.datetime.combine(monday, dt.time(0, 30), ZoneInfo(zone))  # Sunday still in most of the world
    Take.objects.filter(pk=take.pk).update(played_at=late)
    row, body = row_of(client, student)
    at = body["weeks"].index(monday.isoformat())
    shares = [w and w["percent"] for w in cell(row, "bend")["weeks"]]
    assert shares[at] == 25.0
    assert [s for s in shares if s is not None] == [25.0]
    assert cell(row, "bend")["now"] is None  # longer ago than two weeks


def test_what_is_older_than_eight_weeks_is_not_shown(client, student, drill):
    made_take(student, drill, by_measure=judged(bend=(4, 0, 0)), ago_min=60 * DAY_MIN, tell=False)
    assert cell(row_of(client, student)[0], "bend")["weeks"] == [None] * 8


def test_who_needs_the_ear_most_stands_first_then_who_was_silent_longest(client, teacher, student, drill):
    other, silent, never = (
        Student.objects.create(studio=teacher.studio, teacher=teacher, name=n) for n in ("Brann", "Aud", "Cleo")
    )
    left = Student.objects.create(studio=teacher.studio, teacher=teacher, name="Gone", left_at=timezone.now())
    made_take(student, drill, clean=10, asked=20)
    made_take(other, drill, clean=2, asked=20)
    old = made_take(silent, drill, clean=0, asked=20, ago_min=20 * DAY_MIN)
    Take.objects.filter(pk=old.pk).update(judged_at=timezone.now())
    for made, need in ((student, 0.5), (other, 0.9)):
        Take.objects.filter(student=made).update(need=need)
    rows = client.get("/api/v1/reports/class").json()["rows"]
    assert [r["name"] for r in rows] == [other.name, student.name, never.name, silent.name]
    assert [r["waiting"] for r in rows] == [1, 1, 0, 0]
    assert left.name not in {r["name"] for r in rows}


def test_the_days_say_takes_and_minutes(client, student, drill):
    made_take(student, drill, tell=False)
    yesterday = dt.date.fromisoformat(row_of(client, student)[1]["days"][-2])
    for kind, minutes in (("practice", 12), ("practice", 8), ("pain", None)):
        LogEntry.objects.create(student=student, day=yesterday, kind=kind, minutes=minutes, made_at=timezone.now())
    row, body = row_of(client, student)
    assert len(body["days"]) == 14
    assert (row["takes"], row["minutes"]) == ([0] * 13 + [1], [0] * 12 + [20, 0])


def test_the_answer_is_what_the_schema_says(client, student, drill):
    made_take(student, drill, by_measure=judged(timing=(18, 2, 5)), tell=False)
    content = client.get("/api/v1/reports/class").content
    assert ClassRead.model_validate_json(content, strict=True).model_dump(mode="json") == json.loads(content)


def test_from_a_cell_to_the_takes_behind_it(client, student, drill):
    old = made_take(student, drill, by_measure=judged(timing=(3, 1, 0)), ago_min=3 * DAY_MIN, tell=False)
    new = made_take(student, drill, by_measure=judged(timing=(4, 0, 0), bend=(1, 0, 0)), tell=False)
    made_take(student, drill, by_measure=judged(bend=(1, 0, 0)), tell=False)
    asked = f"/api/v1/reports/class/takes?student_id={student.pk}&skill=timing"
    takes = client.get(asked).json()["takes"]
    assert [(t["take_id"], t["share"]["percent"]) for t in takes] == [(str(new.pk), 100.0), (str(old.pk), 75.0)]
    assert takes[0]["drill"] == drill.title
    assert AuditEntry.objects.filter(action="saw_progress", student=student).exists()
    assert client.get(asked.replace("timing", "tone")).status_code == 422


def test_it_is_the_teachers_own_class(client, student, drill, stranger):
    made_take(student, drill, by_measure=judged(timing=(3, 1, 0)), tell=False)
    assert client_of(stranger).get("/api/v1/reports/class").json()["rows"] == []
    asked = f"/api/v1/reports/class/takes?student_id={student.pk}&skill=timing"
    assert client_of(stranger).get(asked).status_code == 404


def test_a_student_has_no_class(teacher, student):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    student.user = user
    student.save()
    assert client_of(user).get("/api/v1/reports/class").status_code == 403
    asked = f"/api/v1/reports/class/takes?student_id={student.pk}&skill=timing"
    assert client_of(user).get(asked).status_code == 403


def test_a_drill_says_who_plays_it_at_which_step_and_how_fast_it_was_clean(client, teacher, student, drill):
    other = Student.objects.create(studio=teacher.studio, teacher=teacher, name="Aud")
    for bpm, clean in ((60, 20), (72, 20), (90, 11)):
        made_take(student, drill, bpm=bpm, clean=clean)
    newest = made_take(other, drill, clean=3, asked=4)
    plans.assign(teacher, student, drill, terms=TERMS, step=Step(bpm=66), pair=None)
    body = client.get(f"/api/v1/reports/drill?drill_id={drill.pk}").json()
    nele, aud = body["players"]
    assert (nele["student"], nele["takes"], nele["bpm"]) == (student.name, 3, 72.0)
    assert "bpm" in nele["step"]
    assert (aud["student"], aud["takes"], aud["step"], aud["bpm"]) == ("Aud", 1, None, None)
    assert body["takes"][0]["take_id"] == str(newest.pk)
    assert (body["takes"][0]["clean"], body["takes"][0]["asked"]) == (3, 4)


def test_who_plays_a_drill_is_of_ones_own_students(client, teacher, student, drill, stranger):
    made_take(student, drill)
    colleague = User.objects.create_user("cy@a.example", PASSWORD, name="Cy", studio=teacher.studio, role="teacher")
    assert client_of(colleague).get(f"/api/v1/reports/drill?drill_id={drill.pk}").json() == {"players": [], "takes": []}
    assert client_of(stranger).get(f"/api/v1/reports/drill?drill_id={drill.pk}").status_code == 404
