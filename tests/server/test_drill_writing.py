"""Drills written, checked, brought in and heard over the API."""

import io
import json
from datetime import timedelta

import pytest
import soundfile
from apps.drills import imports, previews, tasks
from apps.drills.models import DrillVersion, ScoreImport
from apps.jobs import services as jobs
from apps.jobs.models import Job
from celery.exceptions import SoftTimeLimitExceeded
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.library import library
from fortimetra.formats.midi import drill_to_midi
from fortimetra.formats.musicxml_out import drill_to_musicxml
from fortimetra.model.guitar import preset

from tests.server.conftest import client_of

pytestmark = pytest.mark.django_db


def send(client, method, path, body=None):
    return client.generic(method, f"/api/v1/drills/{path}", json.dumps(body or {}), content_type="application/json")


@pytest.fixture
def sent(monkeypatch):
    """Messages workers would have got: (task, arguments)."""
    found = []
    from config.celery import app

    monkeypatch.setattr(app, "send_task", lambda name, args: found.append((name, args)))
    return found


# -- writing ----------------------------------------------------------------------------------------------------


def written(client, drill_id, number, **changes):
    content = client.get(f"/api/v1/drills/{drill_id}").json()["content"] | changes
    return send(client, "PUT", f"{drill_id}/content", {"content": content, "number": number})


def test_an_empty_sheet_is_written_on_and_keeps_one_version_a_sitting(client):
    drill = send(client, "POST", "blank").json()
    assert drill["version"] == 1
    for number in (1, 2, 3):
        answer = written(client, drill["id"], number, title=f"Harbour riff {number}")
        assert answer.status_code == 200
        assert answer.json()["version"] == number + 1
    versions = client.get(f"/api/v1/drills/{drill['id']}/versions").json()
    assert [v["number"] for v in versions] == [4, 1]
    assert client.get(f"/api/v1/drills/{drill['id']}").json()["title"] == "Harbour riff 3"


def test_what_was_played_to_stays(client, drill, make_take):
    first = make_take().drill_version
    assert written(client, drill.pk, 1, title="Another").status_code == 200
    assert written(client, drill.pk, 2, title="A third").status_code == 200
    first.refresh_from_db()
    assert first.content["title"] == "String 3: full bend at fret 7"
    old = client.get(f"/api/v1/drills/{drill.pk}/versions/1").json()
    assert old["title"] == "String 3: full bend at fret 7"
    listed = client.get(f"/api/v1/drills/{drill.pk}/versions").json()
    assert [(v["number"], v["takes"]) for v in listed] == [(3, 0), (1, 1)]


def test_a_version_of_an_earlier_sitting_or_of_somebody_else_stays(client, drill):
    assert written(client, drill.pk, 1, title="B").status_code == 200
    DrillVersion.objects.filter(drill=drill, number=2).update(created_at=timezone.now() - timedelta(hours=1))
    assert written(client, drill.pk, 2, title="C").status_code == 200
    assert [v["number"] for v in client.get(f"/api/v1/drills/{drill.pk}/versions").json()] == [3, 2, 1]


def test_two_who_write_at_once_do_not_overwrite_each_other(client, drill):
    assert written(client, drill.pk, 1, title="Mine").status_code == 200
    second = written(client, drill.pk, 1, title="Theirs")
    assert second.status_code == 409
    assert second.json()["code"] == "changed_meanwhile"
    assert "version 2" in second.json()["detail"]
    assert client.get(f"/api/v1/drills/{drill.pk}").json()["title"] == "Mine"


def test_what_did_not_change_makes_no_version(client, drill):
    assert written(client, drill.pk, 1).json()["version"] == 1


def test_what_is_no_drill_is_refused_and_changes_nothing(client, drill):
    answer = written(client, drill.pk, 1, events=[])
    assert answer.status_code == 422
    assert "events" in answer.json()["detail"]
    assert client.get(f"/api/v1/drills/{drill.pk}").json()["version"] == 1


def test_a_drill_with_vibrato_comes_back_as_it_went(client, teacher):
    drill = teacher.studio.drills.filter(family="vibrato_fretted").first()
    content = client.get(f"/api/v1/drills/{drill.pk}").json()["content"]
    assert "return" in next(e["vibrato"] for e in content["events"] if e["vibrato"])
    assert written(client, drill.pk, 1, title="T").json()["content"]["events"] == content["events"]


def test_checking_keeps_nothing_and_says_bar_and_beat(client, guitar):
    content = fretted_then_bend(title="t", string=3, fret=7).model_dump(mode="json", by_alias=True)
    content["events"][1]["articulation"] = "hammer"
    found = send(client, "POST", "check", {"content": content}).json()
    assert [(p["level"], p["text"]) for p in found["problems"]] == [
        ("error", "Bar 1, beat 2: a hammer-on from fret 9 cannot sound fret 7.")
    ]
    guitar.description = preset("nylon").model_dump(mode="json")
    guitar.save()
    found = send(client, "POST", "check", {"content": content, "guitar_id": guitar.pk}).json()
    assert "bend_heavy" in {p["code"] for p in found["problems"]}


# -- the library ------------------------------------------------------------------------------------------------


def test_a_studio_begins_with_two_drills_of_every_family(client):
    listed = client.get("/api/v1/drills").json()
    assert len(listed) == len(library())
    families = [d["family"] for d in listed]
    assert all(families.count(f) >= 2 for f in set(families) - {"set_up"})
    assert all(d["built_in"] and d["level"] and d["tags"] for d in listed)
    assert next(d["strings"] for d in listed if d["title"] == "String 3: full bend at fret 7") == [3]


def test_level_and_tags_change_without_a_new_version_and_travel_with_the_file(client, drill):
    body = {"level": 3, "tags": ["  Recital ", "recital", "Spring   evening"]}
    changed = send(client, "PATCH", str(drill.pk), body).json()
    assert (changed["level"], changed["tags"], changed["version"]) == (3, ["recital", "spring evening"], 1)
    assert send(client, "PATCH", str(drill.pk), {"archived": True}).json()["level"] == 3
    file = client.get(f"/api/v1/drills/{drill.pk}/file").content
    back = client.post("/api/v1/drills", {"file": SimpleUploadedFile("d.json", file)}).json()
    assert (back["level"], back["tags"]) == (3, ["recital", "spring evening"])
    assert send(client, "PATCH", str(drill.pk), {"level": None}).json()["level"] is None
    assert send(client, "PATCH", str(drill.pk), {"level": 4}).status_code == 422
    assert send(client, "PATCH", str(drill.pk), {"tags": ["x" * 31]}).json()["code"] == "tags_invalid"


def test_a_musicxml_file_goes_out(client, drill):
    answer = client.get(f"/api/v1/drills/{drill.pk}/file?kind=musicxml")
    assert answer["Content-Type"] == "application/vnd.recordare.musicxml+xml"
    assert b"<score-partwise" in answer.content
    assert ".musicxml" in answer["Content-Disposition"]


# -- scores -----------------------------------------------------------------------------------------------------


def bring(client, name, content):
    answer = client.post("/api/v1/drills/imports", {"file": SimpleUploadedFile(name, content)})
    assert answer.status_code == 201
    return answer.json()["id"]


@pytest.mark.parametrize("write", [drill_to_musicxml, lambda d: drill_to_midi(d).content], ids=["musicxml", "midi"])
def test_a_score_is_read_looked_over_and_kept(client, sent, write, django_capture_on_commit_callbacks):
    drill = fretted_then_bend(title="Quay bend", string=3, fret=7)
    with django_capture_on_commit_callbacks(execute=True):
        score = bring(client, "quay.musicxml", write(drill))
    assert sent == [("drills.read_score", [score])]
    assert client.get(f"/api/v1/drills/imports/{score}").json()["state"] == "waiting"
    assert send(client, "POST", f"imports/{score}/keep").json()["code"] == "not_read"
    before = len(client.get("/api/v1/drills").json())
    tasks.read_score(score)
    found = client.get(f"/api/v1/drills/imports/{score}").json()
    assert found["state"] == "read"
    assert found["made"]["problems"] == []
    assert len(client.get("/api/v1/drills").json()) == before
    kept = send(client, "POST", f"imports/{score}/keep")
    assert kept.status_code == 201
    assert kept.json()["title"] == "Quay bend"
    assert not ScoreImport.objects.exists()


def test_a_score_that_cannot_be_read_says_why_and_leaves_nothing(client, sent):
    score = bring(client, "x.musicxml", b"<html/>")
    tasks.read_score(score)
    found = client.get(f"/api/v1/drills/imports/{score}").json()
    assert (found["state"], found["made"]) == ("refused", None)
    assert found["problem"].startswith("This is not a MusicXML score")
    assert bytes(ScoreImport.objects.get().upload) == b""
    assert send(client, "DELETE", f"imports/{score}").status_code == 204
    assert not ScoreImport.objects.exists()


@pytest.mark.parametrize(
    ("error", "code"), [(SoftTimeLimitExceeded(), "score_too_long"), (MemoryError(), "score_unreadable")]
)
def test_a_score_that_breaks_its_reader_is_refused(client, sent, monkeypatch, error, code):
    score = bring(client, "x.mid", b"MThd")

    def broken(content):
        raise error

    monkeypatch.setattr(tasks, "_read", broken)
    tasks.read_score(score)
    assert ScoreImport.objects.get().problem_code == code


def test_a_lost_message_is_sent_again_and_a_killer_given_up(client, sent):
    score = bring(client, "x.mid", drill_to_midi(fretted_then_bend(title="t", string=3, fret=7)).content)
    sent.clear()
    late = timezone.now() - imports.READING.patience - timedelta(seconds=1)
    Job.objects.update(queued_at=late)
    jobs.sweep()
    assert client.get(f"/api/v1/drills/imports/{score}").json()["state"] == "waiting"
    assert sent == [("drills.read_score", [score])]
    Job.objects.update(attempts=imports.READING.most_attempts)
    tasks.read_score(score)
    assert client.get(f"/api/v1/drills/imports/{score}").json()["state"] == "refused"
    tasks.read_score(score)  # a message that comes late changes nothing
    assert client.get(f"/api/v1/drills/imports/{score}").json()["state"] == "refused"


def test_old_scores_are_forgotten_and_empty_ones_refused(client, sent):
    old = bring(client, "x.mid", b"MThd")
    ScoreImport.objects.update(created_at=timezone.now() - imports.KEPT_FOR - timedelta(minutes=1))
    bring(client, "y.mid", b"MThd")
    assert not ScoreImport.objects.filter(pk=old).exists()
    empty = client.post("/api/v1/drills/imports", {"file": SimpleUploadedFile("e.mid", b"")})
    assert empty.json()["code"] == "empty"
    large = client.post("/api/v1/drills/imports", {"file": SimpleUploadedFile("l.mid", bytes(4_000_001))})
    assert large.status_code == 413


def test_a_score_is_its_bringers_alone(client, sent, stranger):
    score = bring(client, "x.mid", b"MThd")
    assert client_of(stranger).get(f"/api/v1/drills/imports/{score}").status_code == 404
    assert send(client_of(stranger), "POST", f"imports/{score}/keep").status_code == 404


# -- previews ---------------------------------------------------------------------------------------------------


@pytest.fixture
def ask(client, django_capture_on_commit_callbacks):
    def asked(by=client, **more):
        content = fretted_then_bend(title="t", string=3, fret=7, bpm=120).model_dump(mode="json", by_alias=True)
        with django_capture_on_commit_callbacks(execute=True):
            return send(by, "POST", "preview", {"content": content, **more})

    return asked


def test_a_preview_is_played_once_and_kept_under_its_key(client, sent, ask):
    asked = ask(shown={"cents": -20}, bpm=90).json()
    assert asked["seconds_per_beat"] == pytest.approx(60 / 90)
    assert client.get(f"/api/v1/drills/preview/{asked['key']}").status_code == 202
    ((task, arguments),) = sent
    assert task == "drills.render_preview"
    tasks.render_preview(*arguments)
    sound = client.get(f"/api/v1/drills/preview/{asked['key']}")
    samples, rate = soundfile.read(io.BytesIO(sound.content))
    assert len(samples) / rate > asked["first_beat_s"] + asked["length_beats"] * asked["seconds_per_beat"]
    sent.clear()
    assert ask(shown={"cents": -20}, bpm=90).json() == asked
    assert sent == []
    assert ask(shown={"cents": -21}, bpm=90).json()["key"] != asked["key"]
    tasks.render_preview(*arguments)  # a message that comes twice


def test_a_preview_belongs_to_its_studio(client, sent, stranger, ask):
    assert ask().json()["key"] != ask(client_of(stranger)).json()["key"]
    assert client.get("/api/v1/drills/preview/../../etc").status_code == 404
    assert client.get("/api/v1/drills/preview/nokey").status_code == 404


@pytest.mark.parametrize(
    ("more", "status", "says"),
    [
        ({"bpm": 5}, 422, "bpm"),
        ({"shown": {"cents": 900}}, 422, "cents"),
        ({"shown": {"waltz": 1}}, 422, "waltz"),
    ],
)
def test_what_cannot_be_heard_is_said(sent, ask, more, status, says):
    answer = ask(**more)
    assert answer.status_code == status
    assert says in answer.json()["detail"]


def test_a_preview_waits_for_a_broker_that_is_away(client, sent, monkeypatch, ask):
    def away(_task, _key):
        raise OSError("away")

    monkeypatch.setattr(jobs, "send", away)
    key = ask().json()["key"]
    assert client.get(f"/api/v1/drills/preview/{key}").status_code == 202
    monkeypatch.setattr(jobs, "send", lambda task, key: sent.append((task, [key])))
    jobs.sweep()
    assert sent == [("drills.render_preview", [key])]


def test_a_preview_that_is_still_written_is_not_sent_out(client, ask, sent):
    key = ask().json()["key"]
    default_storage.save(previews.path_of(key), ContentFile(b"fLaC half of it"))
    assert client.get(f"/api/v1/drills/preview/{key}").status_code == 202
    default_storage.delete(previews.path_of(key))
    tasks.render_preview(key)
    assert client.get(f"/api/v1/drills/preview/{key}").status_code == 200


def test_a_preview_that_ends_its_workers_is_given_up_and_may_be_asked_for_again(client, sent, ask):
    key = ask().json()["key"]
    Job.objects.update(attempts=previews.PLAYING.most_attempts)
    tasks.render_preview(key)
    answer = client.get(f"/api/v1/drills/preview/{key}")
    assert (answer.status_code, answer.json()["code"]) == (503, "preview_failed")
    assert ask().json()["key"] == key
    assert client.get(f"/api/v1/drills/preview/{key}").status_code == 202


def test_old_previews_are_forgotten(client, sent, settings, ask):
    import os
    import time
    from pathlib import Path

    asked = ask().json()
    ((_, arguments),) = sent
    tasks.render_preview(*arguments)
    (file,) = Path(settings.MEDIA_ROOT, "previews").iterdir()
    os.utime(file, (time.time() - 100_000,) * 2)
    ask(bpm=100)
    tasks.render_preview(*sent[-1][1])
    assert client.get(f"/api/v1/drills/preview/{asked['key']}").status_code == 202
