"""A take queued, measured or refused: nothing is lost when a process dies, and none is measured twice."""

from __future__ import annotations

from contextlib import nullcontext
from datetime import timedelta

import numpy as np
import pytest
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.jobs.work import ClaimLost
from apps.measuring import tasks
from apps.takes import services
from apps.takes.models import Analysis, Take
from django.utils import timezone

from tests.server.conftest import change_job, files_kept, wav

pytestmark = pytest.mark.django_db


def _nan():
    samples = np.sin(np.arange(44_100) / 20)
    samples[100] = np.nan
    return wav(samples, subtype="FLOAT")


REFUSED = {
    "silent": lambda flac: wav(np.zeros(44_100)),
    "truncated": lambda flac: flac[: len(flac) // 2],
    "damaged": lambda flac: b"OggS" + bytes(4000),
    "not_finite": lambda flac: _nan(),
    "too_long": lambda flac: wav(np.tile(np.float32([0.1, -0.1]), 8_000 * 40), 8_000, "PCM_U8"),
    "wrong_drill": lambda flac: wav(
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

    take, before = make_take(), files_kept(settings)
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
    assert len(files_kept(settings)) == len(before) + 2


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
    assert files_kept(settings) == []
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
    before = files_kept(settings)
    monkeypatch.setattr(tasks, "tell", lambda *_: None)
    with pytest.raises(ClaimLost):
        tasks.run(slow)
    assert Analysis.objects.filter(take=take).count() == 1
    assert files_kept(settings) == before


def test_no_take_is_seen_measured_before_its_ladder_knows(make_take, settings, monkeypatch):
    class Killed(BaseException):
        """The process is gone: nothing catches it."""

    def killed(_take):
        raise Killed

    take = make_take()
    before = files_kept(settings)
    monkeypatch.setattr(tasks, "tell_settled", killed)
    with pytest.raises(Killed):
        tasks.run(jobs.claim(services.MEASURING, take.pk))
    take.refresh_from_db()
    assert (take.state, take.current_id) == ("measuring", None)
    assert files_kept(settings) == before
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
