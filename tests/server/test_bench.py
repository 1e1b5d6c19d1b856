"""The workbench's addresses: calculators, targets, sounds, ear checks."""

import io
import json
from datetime import timedelta

import numpy as np
import pytest
import soundfile
from apps.bench import services
from apps.bench.models import EarCheck
from fortimetra.workbench.registry import CALCULATORS

pytestmark = pytest.mark.django_db
START = "/api/v1/bench/ear-checks"


def post(client, path, body):
    return client.post(path, json.dumps(body), content_type="application/json")


def test_every_calculator_describes_itself_and_answers_its_own_defaults(client):
    listed = client.get("/api/v1/bench/calculators").json()
    assert [c["id"] for c in listed] == list(CALCULATORS)
    for calculator in listed:
        assert calculator["formula"]
        assert calculator["source"]
        answer = client.get(f"/api/v1/bench/calculators/{calculator['id']}").json()
        assert set(answer["values"]) == {o["name"] for o in calculator["outputs"]}
        assert set(answer["inputs"]) == {i["name"] for i in calculator["inputs"]}


@pytest.mark.parametrize(
    ("path", "says"),
    [
        ("tension?scale_mm=0", "300 to 900 mm"),
        ("tension?gauge=500", "0.1 to 110"),
        ("tension?note=H9", "not a pitch name"),
        ("tension?scale_mm=abc", "not a number"),
        ("tension?scale_mm=nan", "outside"),
        ("tension?colour=red", "no such field"),
        ("push?bend_cents=400&unit_weight=30", "push of more than"),
        ("choke?fret=22&frets=22", "nothing can choke"),
        ("choke?string=7&strings=6", "no string 7"),
        ("converter?value=99999&given=Hz", "outside"),
        ("beats?amount=99&given=beats/s&note=E2", "nothing beats"),
    ],
)
def test_what_cannot_be_calculated_is_a_sentence_with_the_field(client, path, says):
    answer = client.get(f"/api/v1/bench/calculators/{path}")
    assert answer.status_code == 422
    assert says in answer.json()["detail"]


def test_there_is_no_other_calculator(client):
    assert client.get("/api/v1/bench/calculators/horoscope").status_code == 404


def test_targets_follow_the_guitar(client, guitar):
    standard = client.get("/api/v1/bench/target?string=3&fret=7&bend_cents=200").json()
    assert (standard["note"], standard["same_string_fret"]) == ("E4", 9)
    assert {"string": 2, "fret": 5, "octaves": 0} in standard["partners"]
    guitar.description = guitar.description | {"capo": 2}
    guitar.save()
    raised = client.get(f"/api/v1/bench/target?string=3&fret=7&bend_cents=200&guitar_id={guitar.pk}").json()
    assert raised["note"] == "F#4"
    assert client.get("/api/v1/bench/target?string=9&fret=7&bend_cents=200").status_code == 422


def test_targets_of_a_whole_string_in_any_tuning(client):
    found = client.get("/api/v1/bench/targets?string=2&bend_cents=100&tuning=D4 A3 F3 C3 G2 D2").json()
    assert [t["fret"] for t in found] == list(range(1, 23))
    assert (found[7]["fretted_note"], found[7]["note"]) == ("F4", "F#4")
    for bad in ("E4 B3", "E4 B3 G3 H3", "E4 B3 G3 D9"):
        answer = client.get(f"/api/v1/bench/target?string=1&fret=1&bend_cents=100&tuning={bad}")
        assert (answer.status_code, answer.json()["code"]) == (422, "bench_invalid")


@pytest.mark.parametrize("kind", ["wav", "flac"])
def test_tones_and_clicks_are_files_of_their_length(client, kind):
    answer = client.get(f"/api/v1/bench/tone?hz=440&seconds=1&kind={kind}")
    assert answer["Content-Type"] == f"audio/{kind}"
    samples, rate = soundfile.read(io.BytesIO(answer.content))
    assert len(samples) == rate
    answer = client.get(f"/api/v1/bench/click?bpm=120&bars=2&per_beat=2&kind={kind}")
    samples, rate = soundfile.read(io.BytesIO(answer.content))
    assert len(samples) / rate == pytest.approx(12 * 0.5, abs=0.05)
    assert np.max(np.abs(samples)) < 1.0


@pytest.mark.parametrize(
    "query", ["tone?hz=5", "tone?hz=440&seconds=600", "click?bpm=5", "click?bpm=20&bars=200&beats_per_bar=16"]
)
def test_sounds_beyond_their_limits_are_refused(client, query):
    assert client.get(f"/api/v1/bench/{query}").status_code == 422


def test_an_ear_check_runs_to_its_threshold_and_is_kept(client, student):
    check = post(client, START, {"student_id": student.pk, "kind": "pitch"}).json()
    assert not check["finished"]
    for _ in range(60):
        if check["finished"]:
            break
        trial = services.state_of(EarCheck.objects.get(pk=check["id"])).trial
        sound = client.get(f"{START}/{check['id']}/sound")
        assert sound["Content-Type"] == "audio/wav"
        hears = abs(trial.difference) > 10.0
        said = "same" if not hears else "over" if trial.difference > 0 else "under"
        answer = post(client, f"{START}/{check['id']}/answers", {"number": check["answered"], "said": said})
        check = answer.json()
    assert check["finished"]
    assert 7.0 < check["threshold"] < 18.0
    assert check["false_alarms"] == 0.0
    assert client.get(f"{START}?student_id={student.pk}").json() == [check]
    assert client.get(f"{START}/{check['id']}/sound").status_code == 409


def test_an_answer_sent_twice_counts_once_and_one_too_early_not_at_all(client, student):
    check = post(client, START, {"student_id": student.pk, "kind": "level"}).json()
    path = f"{START}/{check['id']}/answers"
    for _ in range(2):
        assert post(client, path, {"number": 0, "said": "over"}).json()["answered"] == 1
    assert post(client, path, {"number": 5, "said": "over"}).status_code == 409
    again = post(client, START, {"student_id": student.pk, "kind": "level"}).json()
    assert EarCheck.objects.count() == 1
    assert again["answered"] == 0


def test_the_hearing_stands_beside_the_tolerances_of_a_take(client, measured, student):
    from django.utils import timezone

    def told(kind, threshold, at):
        EarCheck.objects.create(
            student=student, kind=kind, seed=1, started_at=at, finished_at=at, threshold=threshold, u=2.0
        )

    now = timezone.now()
    told("pitch", 20.0, now - timedelta(days=9))
    told("pitch", 11.0, now)
    told("timing", 30.0, now)
    hearing = client.get(f"/api/v1/takes/{measured.pk}/analysis").json()["hearing"]
    assert {h["kind"]: (h["threshold"], h["unit"]) for h in hearing} == {
        "pitch": (11.0, "cents"),
        "timing": (30.0, "ms"),
    }
