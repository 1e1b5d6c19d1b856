"""Takes made in the page: their click, how they were captured, sent twice, corrected by a teacher."""

import io
import json
from uuid import uuid4

import numpy as np
import pytest
import soundfile
from apps.measuring.tasks import measure
from apps.takes.models import Take
from django.core.files.uploadedfile import SimpleUploadedFile
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.player.faults import Faults

from tests.kept import render
from tests.server.conftest import client_of

pytestmark = pytest.mark.django_db
LATENCY_MS = 43.7
CLICK = {
    "format": "fortimetra-click",
    "version": 1,
    "source": "recorder",
    "bpm": 66.0,
    "first_beat_s": 1.0,
    "beats_per_bar": 4,
    "latency_ms": LATENCY_MS,
    "channel": None,
}
CAPTURE = {"device": "A box", "sample_rate_hz": 48_000, "processing": [], "gaps": []}


@pytest.fixture(scope="session")
def wav():
    """Every note exactly on the click, everything late by the round trip."""
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=4, bpm=66)
    sound, truth = render(drill, Faults(lead_in_s=1.0))
    late = np.concatenate([np.zeros(round(LATENCY_MS * 48), dtype=np.float32), sound])
    out = io.BytesIO()
    soundfile.write(out, late, truth.sample_rate_hz, format="WAV", subtype="PCM_24")
    return out.getvalue()


@pytest.fixture
def send(client, student, drill, queued, wav):
    def send(by=client, **more):
        fields = {"student_id": student.pk, "drill_id": drill.pk, "file": SimpleUploadedFile("take.wav", wav)} | more
        return by.post("/api/v1/takes", {k: json.dumps(v) if isinstance(v, dict) else v for k, v in fields.items()})

    return send


def test_a_recorded_take_is_read_against_its_click_and_latency(client, send):
    made = send(click=CLICK, capture=CAPTURE)
    assert made.status_code == 201
    take = made.json()
    assert take["click"]["latency_ms"] == LATENCY_MS
    measure(take["id"])
    analysis = client.get(f"/api/v1/takes/{take['id']}/analysis").json()["analysis"]
    grid = analysis["reference"]["grid"]
    assert (grid["source"], grid["u_ms"]) == ("recorder", 1.0)
    assert grid["first_beat_s"] == pytest.approx(1.0 + LATENCY_MS / 1000, abs=1e-6)
    first = next(n for n in analysis["notes"] if n["id"] == "target" and n["repeat"] == 0)
    assert first["onset_s"] == pytest.approx(grid["first_beat_s"], abs=0.004)


def test_without_a_measured_latency_the_grid_says_so(client, send):
    take = send(click=CLICK | {"latency_ms": None}, capture=CAPTURE).json()
    measure(take["id"])
    grid = client.get(f"/api/v1/takes/{take['id']}/analysis").json()["analysis"]["reference"]["grid"]
    assert (grid["source"], grid["u_ms"]) == ("recorder", None)


def test_lost_sound_and_processing_are_kept_with_the_take(send):
    capture = CAPTURE | {"processing": ["auto_gain_control"], "gaps": [{"at_s": 3.25, "seconds": 0.005}]}
    take = send(capture=capture).json()
    assert take["capture"]["processing"] == ["auto_gain_control"]
    assert take["capture"]["gaps"] == [{"at_s": 3.25, "seconds": 0.005}]
    assert take["invented"] is False
    assert send(capture=CAPTURE | {"simulated": True}).json()["invented"] is True


def test_a_take_sent_twice_is_one_take(client, send, student):
    name = str(uuid4())
    first, second = send(id=name), send(id=name)
    assert (first.status_code, second.status_code) == (201, 201)
    assert first.json()["id"] == second.json()["id"] == name
    assert Take.objects.count() == 1


def test_the_id_of_somebody_elses_take_is_not_given_away(send, stranger):
    from apps.people.consents import Given
    from apps.people.services import add_student

    name = str(uuid4())
    send(id=name)
    theirs = add_student(stranger, name="X", agreed=Given(by="student", way="word"))
    answer = send(by=client_of(stranger), id=name, student_id=theirs.pk, drill_id=stranger.studio.drills.first().pk)
    assert (answer.status_code, answer.json()["code"]) == (409, "id_taken")
    assert Take.objects.get().student.name == "Nele"


def test_a_take_keeps_the_version_that_was_played(client, send, drill):
    content = client.get(f"/api/v1/drills/{drill.pk}").json()["content"]
    take = send(drill_version=1).json()  # a take holds version 1 there
    body = json.dumps({"content": content | {"title": "Changed"}, "number": 1})
    assert client.put(f"/api/v1/drills/{drill.pk}/content", body, content_type="application/json").status_code == 200
    assert send().json()["drill_version"] == 2
    assert send(drill_version=1).json()["drill_version"] == take["drill_version"] == 1
    assert send(drill_version=9).status_code == 404


@pytest.mark.parametrize(
    ("more", "code", "says"),
    [
        ({"click": "no json"}, "click_invalid", "click"),
        ({"click": CLICK | {"bpm": 5000}}, "click_invalid", "bpm"),
        ({"capture": {"device": "x"}}, "capture_invalid", "sample_rate_hz"),
        ({"capture": CAPTURE | {"gaps": [{"at_s": -1, "seconds": 1}]}}, "capture_invalid", "gaps"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_kept(send, more, code, says):
    answer = send(**more)
    assert (answer.status_code, answer.json()["code"]) == (422, code)
    assert says in answer.json()["detail"]
    assert not Take.objects.exists()


def test_a_teachers_word_on_the_click_counts_and_can_be_taken_back(client, send):
    take = send(click=CLICK, capture=CAPTURE).json()
    measure(take["id"])

    def say(click):
        body = json.dumps({"click": click})
        return client.put(f"/api/v1/takes/{take['id']}/click", body, content_type="application/json")

    def grid():
        measure(take["id"])
        return client.get(f"/api/v1/takes/{take['id']}/analysis").json()["analysis"]["reference"]["grid"]

    assert say(CLICK | {"source": "none", "first_beat_s": None}).status_code == 200
    assert grid()["source"] == "fitted"
    assert Take.objects.get().click["source"] == "recorder"
    assert say(CLICK | {"first_beat_s": 1.5}).json()["click"]["first_beat_s"] == 1.5
    assert grid()["first_beat_s"] == pytest.approx(1.5 + LATENCY_MS / 1000, abs=1e-6)
    assert say(None).json()["click"]["first_beat_s"] == 1.0
    assert grid()["first_beat_s"] == pytest.approx(1.0 + LATENCY_MS / 1000, abs=1e-6)
