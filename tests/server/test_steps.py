"""Takes at a step of a ladder, from the recorder to the result; what the students' page and the pictures on paper
say.
"""

import io
import json
import re

import pytest
import soundfile
from apps.measuring.tasks import measure
from apps.plans import services as plans
from apps.plans.models import Hold
from apps.reports.pictures import marks_of, svg_of
from apps.takes.models import Take
from django.core.files.uploadedfile import SimpleUploadedFile
from fortimetra import Analysis as AnalysisContent
from fortimetra import Drill as DrillContent
from fortimetra.coach.step import at_step
from fortimetra.model.ladder import Step
from fortimetra.player.faults import Faults

from tests.kept import render
from tests.server.made import made_take
from tests.server.test_access import TERMS

pytestmark = pytest.mark.django_db
PICKING = "Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2 a click"


@pytest.fixture
def picking(teacher):
    return teacher.studio.drills.select_related("current").get(title=PICKING)


def recording(drill, step):
    """The drill as a student plays it at a step, and the click of the recorder."""
    content = at_step(DrillContent.model_validate(drill.current.content), step).model_copy(update={"repeats": 1})
    sound, truth = render(content, Faults(random_ms=2.0))
    out = io.BytesIO()
    soundfile.write(out, sound, truth.sample_rate_hz, format="FLAC", subtype="PCM_16")
    click = {
        "format": "fortimetra-click", "version": 1, "source": "recorder", "bpm": step.bpm,
        "first_beat_s": truth.first_beat_s, "beats_per_bar": 4, "latency_ms": 0.0,
    }  # fmt: skip
    return out.getvalue(), json.dumps(click)


def upload(client, student, drill, step, **more):
    sound, click = recording(drill, step)
    body = {"student_id": student.pk, "drill_id": drill.pk, "click": click, "file": SimpleUploadedFile("t.flac", sound)}
    return client.post("/api/v1/takes", body | more)


def test_a_take_with_one_note_a_click_is_measured_as_such(client, student, picking, queued):
    step = Step(bpm=60, per_click=1)
    answer = upload(client, student, picking, step, per_click=1)
    assert (answer.status_code, answer.json()["per_click"]) == (201, 1)
    measure(answer.json()["id"])
    take = Take.objects.select_related("current").get()
    assert (take.current.per_click, take.current.bpm) == (1, 60)
    sheet = client.get(f"/api/v1/takes/{take.pk}/analysis").json()
    beats = [e["beat"] for e in sheet["drill"]["content"]["events"]]
    assert beats[:4] == [0, 1, 2, 3]
    played = AnalysisContent.model_validate(take.current.content).notes[: len(beats)]
    assert {n.status for n in played} == {"played"}
    assert max(abs(n.timing.error_ms) for n in played) < 15


def test_the_same_take_said_to_be_as_written_does_not_fit(client, student, picking, queued):
    answer = upload(client, student, picking, Step(bpm=60, per_click=1))
    measure(answer.json()["id"])
    take = Take.objects.select_related("current").get()
    clean = take.current.counts["clean"] if take.current else 0
    assert clean < 0.5 * 128


@pytest.mark.parametrize(
    ("title", "per_click", "code"),
    [
        ("String 3: full bend at fret 7", 2, "not_even"),
        (PICKING, 99, "per_click_invalid"),
        (PICKING, 0, "per_click_invalid"),
    ],
)
def test_notes_a_click_that_cannot_be_are_refused_before_anything_is_kept(
    client, teacher, student, flac, title, per_click, code
):
    drill = teacher.studio.drills.get(title=title)
    body = {
        "student_id": student.pk,
        "drill_id": drill.pk,
        "per_click": per_click,
        "file": SimpleUploadedFile("t.flac", flac),
    }
    answer = client.post("/api/v1/takes", body)
    assert (answer.status_code, answer.json()["code"]) == (422, code)
    assert not Take.objects.exists()
    assert client.get(f"/api/v1/drills/{drill.pk}?per_click={per_click}").json()["code"] == code


def test_the_recorder_is_given_the_drill_as_it_is_at_the_step(client, picking):
    there = client.get(f"/api/v1/drills/{picking.pk}?per_click=4").json()
    assert [e["beat"] for e in there["content"]["events"][:4]] == [0, 0.25, 0.5, 0.75]
    assert there["length_beats"] % 4 == 0


def test_the_students_page_says_who_needs_what(client, student, drill, teacher, django_assert_max_num_queries):
    found = plans.assign(teacher, student, drill, terms=TERMS, step=Step(bpm=66), pair=None)
    for _ in range(3):
        made_take(student, drill)
    plans.log(teacher, student, kind="practice", day=TERMS.begins, minutes=4, text="", assignment=found)
    with django_assert_max_num_queries(10):
        (row,) = client.get("/api/v1/plans/needs").json()
    assert (row["works_on"], row["steps"], row["held"], row["minutes_this_week"]) == (1, 1, False, 4.0)
    plans.log(teacher, student, kind="discomfort", day=TERMS.begins, minutes=None, text="", assignment=None)
    (row,) = client.get("/api/v1/plans/needs").json()
    assert (row["steps"], row["held"]) == (0, True)
    assert Hold.objects.count() == 1


def test_two_discomforts_are_one_hold(client, student, teacher):
    for _ in range(2):
        plans.log(teacher, student, kind="discomfort", day=TERMS.begins, minutes=None, text="", assignment=None)
    assert Hold.objects.count() == 1
    plans.clear_hold(teacher, student)
    assert Hold.objects.filter(cleared_at=None).count() == 0


def test_pictures_on_paper_hang_what_is_under_and_stand_what_is_over(measured):
    content = AnalysisContent.model_validate(measured.current.content)
    drill = DrillContent.model_validate(measured.drill_version.content)
    picture = marks_of(content, "bend", drill.limits())
    assert (picture["unit"], picture["limit"], len(picture["marks"])) == ("cents", 15.0, 4)
    drawn = svg_of(picture)
    middle = 32.0
    bars = [float(y) for y in re.findall(r'<rect x="[\d.]+" y="([\d.]+)" width="9', drawn)]
    assert bars == [middle] * 4  # 22 cents flat, all of them: they hang from the line
    assert 'aria-label="4 notes, from -2' in drawn
    assert svg_of({**picture, "marks": [[30.0, "outside"], [-5.0, "inside"], [1.0, "unclear"]]}).count("<rect") == 4
    assert marks_of(content, "vibrato", drill.limits()) is None
