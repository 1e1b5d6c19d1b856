"""A take's life: received, queued, measured or refused; nothing lost when a process dies."""

from __future__ import annotations

import gzip
import hashlib
import io
import json
from contextlib import nullcontext
from datetime import timedelta

import numpy as np
import pytest
import soundfile
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.jobs.work import ClaimLost
from apps.measuring import tasks
from apps.takes import services
from apps.takes.models import Analysis, Take
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from django.utils import timezone

from tests.server.conftest import change_job

pytestmark = pytest.mark.django_db


def _files(settings):
    return sorted(p for p in settings.MEDIA_ROOT.rglob("*") if p.is_file()) if settings.MEDIA_ROOT.exists() else []


def _upload(client, student, drill, content, name="take.flac"):
    return client.post(
        "/api/v1/takes", {"student_id": student.pk, "drill_id": drill.pk, "file": SimpleUploadedFile(name, content)}
    )


def _wav(samples, rate=44_100, subtype="PCM_16"):
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype=subtype)
    return out.getvalue()


def test_an_upload_is_kept_unchanged_and_queued(
    client, student, drill, flac, queued, settings, django_capture_on_commit_callbacks
):
    with django_capture_on_commit_callbacks(execute=True):
        answer = _upload(client, student, drill, flac, "../../etc/pass wd.flac")
    assert answer.status_code == 201
    take = Take.objects.get(pk=answer.json()["id"])
    assert queued == [str(take.pk)]
    assert take.state == "queued"
    assert take.sha256 == hashlib.sha256(flac).hexdigest()
    (kept,) = _files(settings)
    assert kept.read_bytes() == flac
    assert kept.name.startswith(take.sha256)
    assert "wd" not in str(kept.relative_to(settings.MEDIA_ROOT))
    original = client.get(f"/api/v1/takes/{take.pk}/original")
    assert b"".join(original.streaming_content) == flac
    assert original["Content-Disposition"].startswith("attachment")


def test_a_measured_take_has_its_cents_curves_and_sound(client, measured):
    found = client.get(f"/api/v1/takes/{measured.pk}/analysis").json()
    bends = [n["bend"] for n in found["analysis"]["notes"] if n["bend"]]
    assert [b["error_cents"] for b in bends] == pytest.approx([-22.0] * 4, abs=1.0)
    assert found["take"]["ticks"] == "..-." * 4
    assert found["drill"]["length_beats"] == 8.0
    for note in found["analysis"]["notes"]:
        assert all(code in found["sentences"] for code in note["reasons"])

    curves = client.get(f"/api/v1/takes/{measured.pk}/curves")
    assert curves["Content-Encoding"] == "gzip"
    columns = json.loads(gzip.decompress(curves.content))
    assert len(columns["pitch_cents"]) == len(columns["level_dbfs"])
    at = round(sum(bends[0]["plateau"]) / 2 / columns["hop_s"])
    expected = 6900 + 1200 * np.log2(bends[0]["reference_hz"] / 440) - 22.0
    assert columns["pitch_cents"][at] == pytest.approx(expected, abs=2.0)

    sound = b"".join(client.get(f"/api/v1/takes/{measured.pk}/sound").streaming_content)
    samples, rate = soundfile.read(io.BytesIO(sound))
    assert len(samples) / rate == pytest.approx(found["analysis"]["take"]["duration_s"], abs=0.01)


NOT_KEPT = {
    "empty": (b"", 422, "empty"),
    "text": (b"hello teacher", 422, "not_audio"),
    "playlist": (b"#EXTM3U\nhttp://127.0.0.1/x\n", 422, "not_audio"),
}


@pytest.mark.parametrize("name", NOT_KEPT)
def test_what_is_no_recording_is_refused_at_once_and_not_kept(client, student, drill, queued, settings, name):
    content, status, code = NOT_KEPT[name]
    answer = _upload(client, student, drill, content, "song.wav")
    assert (answer.status_code, answer.json()["code"]) == (status, code)
    assert answer["Content-Type"] == "application/problem+json"
    assert Take.objects.count() == 0
    assert _files(settings) == []


def test_too_large_is_refused_before_it_is_read(client, student, drill, queued, settings):
    settings.UPLOAD_MAX_BYTES = 200_000
    answer = _upload(client, student, drill, _wav(np.zeros(200_000)))
    assert (answer.status_code, answer.json()["code"]) == (413, "too_large")
    settings.UPLOAD_MAX_BYTES = 390_000
    answer = _upload(client, student, drill, _wav(np.zeros(200_000)))
    assert (answer.status_code, answer.json()["code"]) == (413, "too_large")
    assert Take.objects.count() == 0


def _nan():
    samples = np.sin(np.arange(44_100) / 20)
    samples[100] = np.nan
    return _wav(samples, subtype="FLOAT")


REFUSED = {
    "silent": lambda flac: _wav(np.zeros(44_100)),
    "truncated": lambda flac: flac[: len(flac) // 2],
    "damaged": lambda flac: b"OggS" + bytes(4000),
    "not_finite": lambda flac: _nan(),
    "too_long": lambda flac: _wav(np.tile(np.float32([0.1, -0.1]), 8_000 * 40), 8_000, "PCM_U8"),
    "wrong_drill": lambda flac: _wav(
        np.concatenate(
            [
                np.sin(np.arange(12_000) * 2 * np.pi * hz / 48_000) * np.linspace(0.5, 0, 12_000)
                for hz in (90, 120, 160, 95, 130, 170, 101) * 3
            ]
        ),
        48_000,
    ),
}


@pytest.mark.parametrize("code", REFUSED)
def test_a_refused_take_says_why_is_kept_whole_and_the_worker_goes_on(client, make_take, flac, settings, code):
    settings.TAKE_MAX_MINUTES = 1.0
    content = REFUSED[code](flac)
    take = make_take(content)
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert (take.state, take.problem_code) == ("refused", code)
    answer = client.get(f"/api/v1/takes/{take.pk}/analysis")
    assert answer.status_code == 422
    assert answer["Content-Type"] == "application/problem+json"
    assert answer.json()["code"] == code
    assert answer.json()["detail"].endswith(".")
    assert take.upload.read() == content
    good = make_take()
    tasks.measure(str(good.pk))
    good.refresh_from_db()
    assert good.state == "measured"


def test_while_it_is_measured_the_analysis_is_not_there_yet(client, make_take):
    take = make_take()
    answer = client.get(f"/api/v1/takes/{take.pk}/analysis")
    assert (answer.status_code, answer.json()["code"]) == (409, "not_measured_yet")


def test_stages_are_real_and_reach_the_page(client, make_take, monkeypatch):
    take = make_take()
    seen = []
    real = jobs.report

    def report(mine, *, stage=None, fraction=0.0):
        kept = real(mine, stage=stage, fraction=fraction)
        row = client.get(f"/api/v1/takes/{take.pk}").json()
        seen.append((row["stage"], row["fraction"]))
        return kept

    monkeypatch.setattr(jobs, "report", report)
    tasks.measure(str(take.pk))
    stages = [s for s, _ in seen]
    assert stages[:4] == ["decode", "levels", "onsets", "contour"]
    fractions = [f for _, f in seen]
    assert fractions == sorted(fractions)


def test_verdicts_are_there_before_what_the_sheet_draws(client, make_take, monkeypatch):
    take, seen = make_take(), []
    draw = tasks._draw

    def looked_at(analysis, found, **more):
        answers = [client.get(f"/api/v1/takes/{take.pk}/{what}") for what in ("analysis", "curves", "sound")]
        seen.extend((a.status_code, a.json().get("code")) for a in answers)
        seen.append(client.get(f"/api/v1/takes/{take.pk}").json()["state"])
        csv = client.get(f"/api/v1/takes/{take.pk}/export/contour")
        seen.append((csv.status_code, csv.json()["code"]))
        draw(analysis, found, **more)

    monkeypatch.setattr(tasks, "_draw", looked_at)
    tasks.measure(str(take.pk))
    late = (409, "not_drawn_yet")
    assert seen == [(200, None), late, late, "measured", late]
    assert client.get(f"/api/v1/takes/{take.pk}/curves").status_code == 200
    assert client.get(f"/api/v1/takes/{take.pk}/sound").status_code == 200
    assert Analysis.objects.filter(take=take).count() == 1
    assert not Job.objects.filter(subject=str(take.pk)).exists()


def test_a_worker_that_dies_while_it_draws_leaves_the_take_to_another(make_take, monkeypatch, settings):
    class Killed(BaseException):
        """The process is gone: nothing catches it, nothing is tidied up."""

    take, before = make_take(), _files(settings)
    mine = jobs.claim(services.MEASURING, take.pk)
    monkeypatch.setattr(tasks, "_draw", lambda *_a, **_k: (_ for _ in ()).throw(Killed))
    monkeypatch.setattr(tasks, "_files_of", lambda _analysis: nullcontext())
    with pytest.raises(Killed):
        tasks.run(mine)
    monkeypatch.undo()
    assert Analysis.objects.filter(take=take).count() == 1
    change_job(take, claimed_until=timezone.now() - timedelta(seconds=1))
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert (take.state, bool(take.current.curves), bool(take.current.listening)) == ("measured", True, True)
    assert Analysis.objects.filter(take=take).count() == 1
    assert len(_files(settings)) == len(before) + 2


def test_a_take_deleted_while_its_curves_are_written_leaves_no_file(
    teacher, make_take, monkeypatch, settings, django_capture_on_commit_callbacks
):
    take = make_take()
    draw = tasks._draw

    def deleted_meanwhile(analysis, found, **more):
        draw(analysis, found, **more)
        with django_capture_on_commit_callbacks(execute=True):
            services.delete(teacher, Take.objects.get(pk=take.pk))

    monkeypatch.setattr(tasks, "_draw", deleted_meanwhile)
    tasks.measure(str(take.pk))
    assert _files(settings) == []
    assert not Analysis.objects.exists()


def test_a_take_is_measured_once_however_often_the_message_comes(make_take):
    take = make_take()
    for _ in range(3):
        tasks.measure(str(take.pk))
    assert Analysis.objects.filter(take=take).count() == 1


def test_a_take_that_is_being_measured_is_not_taken_by_a_second_worker(make_take):
    take = make_take()
    assert jobs.claim(services.MEASURING, take.pk) is not None
    assert jobs.claim(services.MEASURING, take.pk) is None


def test_when_a_worker_dies_its_take_is_queued_again(make_take, queued):
    take = make_take()
    dead = jobs.claim(services.MEASURING, take.pk)
    queued.clear()
    jobs.sweep()
    assert queued == []
    change_job(take, claimed_until=timezone.now() - timedelta(seconds=1))
    jobs.sweep()
    assert queued == [str(take.pk)]
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert take.state == "measured"
    # The dead worker's report, should it come after all, changes nothing.
    assert jobs.report(dead, stage="decode", fraction=0.0) is False


def test_a_late_result_of_a_lost_claim_is_thrown_away(make_take, settings, monkeypatch):
    take = make_take()
    slow = jobs.claim(services.MEASURING, take.pk)
    change_job(take, claimed_until=timezone.now() - timedelta(seconds=1))
    tasks.measure(str(take.pk))
    before = _files(settings)
    monkeypatch.setattr(tasks, "tell", lambda *_: None)
    with pytest.raises(ClaimLost):
        tasks.run(slow)
    assert Analysis.objects.filter(take=take).count() == 1
    assert _files(settings) == before


def test_no_take_is_seen_measured_before_its_ladder_knows(make_take, settings, monkeypatch):
    class Killed(BaseException):
        """The process is gone: nothing catches it."""

    def killed(_take):
        raise Killed

    take = make_take()
    before = _files(settings)
    monkeypatch.setattr(tasks, "tell_settled", killed)
    with pytest.raises(Killed):
        tasks.run(jobs.claim(services.MEASURING, take.pk))
    take.refresh_from_db()
    assert (take.state, take.current_id) == ("measuring", None)
    assert _files(settings) == before
    monkeypatch.undo()
    change_job(take, claimed_until=timezone.now() - timedelta(seconds=1))
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert take.state == "measured"


def test_when_the_broker_is_away_the_take_waits_for_the_sweeper(
    make_take, monkeypatch, queued, django_capture_on_commit_callbacks
):
    def away(_task, _key):
        raise ConnectionError("no broker")

    monkeypatch.setattr(jobs, "send", away)
    with django_capture_on_commit_callbacks(execute=True):
        take = make_take()
    take.refresh_from_db()
    assert take.state == "received"
    monkeypatch.setattr(jobs, "send", lambda _task, key: queued.append(key))
    assert jobs.sweep() == 1
    assert queued == [str(take.pk)]


def test_messages_lost_with_the_broker_are_sent_again_at_start(make_take, queued):
    take = make_take()
    jobs.enqueue(services.MEASURING, [str(take.pk)])
    queued.clear()
    assert jobs.sweep() == 0
    assert jobs.sweep(all_waiting=True) == 1
    assert queued == [str(take.pk)]


def test_an_unexpected_error_is_tried_again_and_then_said(client, make_take, monkeypatch, settings):
    take = make_take()

    def broken(*args, **kwargs):
        raise RuntimeError("a bug")

    monkeypatch.setattr(tasks, "measure_take", broken)
    for _ in range(settings.TAKE_ATTEMPTS):
        tasks.measure(str(take.pk))
        take.refresh_from_db()
        assert take.state == "queued"
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert (take.state, take.problem_code) == ("failed", "measuring_failed")
    assert "recording is kept" in take.problem_detail
    monkeypatch.undo()
    monkeypatch.setattr(jobs, "send", lambda _task, _key: None)
    again = client.post(f"/api/v1/takes/{take.pk}/measure", data="{}", content_type="application/json")
    assert again.status_code == 200
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert take.state == "measured"


def test_a_take_may_be_measured_against_another_drill(client, measured, teacher, queued):
    other = teacher.studio.drills.get(title="String 3: half bend at fret 7")
    body = json.dumps({"drill_id": other.pk})
    answer = client.post(f"/api/v1/takes/{measured.pk}/measure", data=body, content_type="application/json")
    assert answer.json()["drill"] == other.title
    assert answer.json()["summary"] is None
    tasks.measure(str(measured.pk))
    measured.refresh_from_db()
    # A full bend where a half one was asked fits the drill but not its target.
    assert measured.state in {"measured", "refused"}
    assert measured.drill_version == other.current


def test_deleting_a_take_removes_row_and_files(client, measured, settings, django_capture_on_commit_callbacks):
    assert len(_files(settings)) == 3
    with django_capture_on_commit_callbacks(execute=True):
        assert client.delete(f"/api/v1/takes/{measured.pk}").status_code == 204
    assert _files(settings) == []
    assert Take.objects.count() == Analysis.objects.count() == 0


def test_if_the_row_cannot_be_written_the_file_is_not_left_behind(make_take, settings, monkeypatch):
    def broken(self, *args, **kwargs):
        raise RuntimeError("database gone")

    monkeypatch.setattr(Take, "save", broken)
    with pytest.raises(RuntimeError), transaction.atomic():
        make_take()
    assert _files(settings) == []


@pytest.mark.parametrize("path", ["/api/v1/takes", "/api/v1/drills", "/api/v1/students"])
def test_lists_take_the_same_few_queries_however_long_they_are(client, make_take, path, django_assert_max_num_queries):
    for _ in range(4):
        make_take()
    with django_assert_max_num_queries(5):
        assert client.get(path).status_code == 200


def test_a_sheet_takes_few_queries(client, measured, django_assert_max_num_queries):
    for part, most in (("analysis", 10), ("curves", 7), ("sound", 7)):
        with django_assert_max_num_queries(most):
            assert client.get(f"/api/v1/takes/{measured.pk}/{part}").status_code == 200


def test_a_note_under_which_a_string_rings_has_a_mark_of_its_own():
    from apps.reviews.ticks import ticks
    from fortimetra.player.faults import Faults, Ring

    from tests.core.test_quiet import SCALE, STILL, told

    found, _ = told(SCALE, Faults(**STILL, rings=(Ring(string=6, event="e3", level_db=-18.0, length_s=1.0),)))
    marks = ticks(found)
    assert marks[0] == marks[-1] == "."
    assert marks[2] == "r"
