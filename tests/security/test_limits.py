"""Full disks, quotas, poisoned files, clocks that were set back: nothing is lost, nothing is stuck, one sentence."""

import errno
import io
import os
import time
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest
import soundfile
from apps.jobs import services as jobs
from apps.measuring import tasks
from apps.takes import services
from apps.takes.models import Analysis, Take
from celery.exceptions import SoftTimeLimitExceeded
from config import storage
from django.core.files.base import ContentFile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.utils import timezone
from fortimetra import TakeError, load_take

from tests.server.conftest import change_job, job_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def upload(client, student, drill, flac, queued):
    def send(browser=client):
        file = SimpleUploadedFile("take.flac", flac)
        return browser.post("/api/v1/takes", {"student_id": student.pk, "drill_id": drill.pk, "file": file})

    return send


def files(settings):
    return [f for f in Path(settings.MEDIA_ROOT).rglob("*") if f.is_file()]


def test_nothing_is_taken_while_there_is_no_room(upload, settings, monkeypatch):
    monkeypatch.setattr(storage, "free_bytes", lambda: storage.KEPT_FREE_BYTES)
    answer = upload()
    assert (answer.status_code, answer.json()["code"]) == (507, "disk_full")
    assert not Take.objects.exists()
    assert files(settings) == []


def test_a_take_that_cannot_be_written_waits_for_room_and_is_measured_then(make_take, settings, monkeypatch):
    take = make_take()
    before = files(settings)
    whole = storage.FileSystemStorage._save

    def full(self, name, content):
        if "listen" in name or "curves" in name:
            Path(self.path(name)).parent.mkdir(parents=True, exist_ok=True)
            Path(self.path(name)).write_bytes(b"half")
            raise OSError(errno.ENOSPC, "No space left on device")
        return whole(self, name, content)

    monkeypatch.setattr(storage.FileSystemStorage, "_save", full)
    for _ in range(5):
        tasks.measure(str(take.pk))
        take.refresh_from_db()
        assert (take.state, job_of(take).attempts) == (Take.State.RECEIVED, 0)
    assert files(settings) == before
    monkeypatch.setattr(storage.FileSystemStorage, "_save", whole)
    monkeypatch.setattr(storage, "free_bytes", lambda: 0)
    assert jobs.sweep() == 0
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert (take.state, job_of(take).attempts) == (Take.State.RECEIVED, 0)
    monkeypatch.undo()
    monkeypatch.setattr(jobs, "send", lambda _task, _key: None)
    assert jobs.sweep() == 1
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert take.state == Take.State.MEASURED


@pytest.mark.parametrize("error", [MemoryError(), SoftTimeLimitExceeded()])
def test_a_take_that_is_too_much_fails_once_with_its_reason(make_take, monkeypatch, error):
    def broken(*_a, **_k):
        raise error

    take = make_take()
    monkeypatch.setattr(tasks, "measure_take", broken)
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert (take.state, job_of(take).attempts, take.problem_code) == (Take.State.FAILED, 1, "too_much")
    assert "shorter" in take.problem_detail


def test_a_deleted_take_stops_being_measured(make_take, monkeypatch, teacher):
    take, stages = make_take(), []
    tell = tasks.tell

    def deleted_meanwhile(claim, stage, fraction):
        stages.append(stage)
        if len(stages) == 1:
            services.delete(teacher, Take.objects.get(pk=take.pk))
        tell(claim, stage, fraction)

    monkeypatch.setattr(tasks, "tell", deleted_meanwhile)
    tasks.measure(str(take.pk))
    assert len(stages) == 1
    assert not Take.objects.filter(pk=take.pk).exists()
    assert not Analysis.objects.exists()


def test_a_clock_that_was_set_back_leaves_nothing_stuck(make_take, queued):
    ahead = timezone.now() + timedelta(hours=1)
    measuring, waiting = make_take(), make_take()
    change_job(measuring, state="running", claimed_until=ahead)
    change_job(waiting, queued_at=ahead)
    assert jobs.sweep() == 2
    assert jobs.claim(services.MEASURING, measuring.pk) is not None
    assert jobs.claim(services.MEASURING, waiting.pk) is not None


def test_an_account_sends_so_many_an_hour_and_a_studio_keeps_so_much(upload, settings, teacher):
    settings.TAKES_AN_HOUR = 2
    assert [upload().status_code for _ in range(3)] == [201, 201, 429]
    Take.objects.update(created_at=timezone.now() - timedelta(hours=2))
    settings.STUDIO_MAX_BYTES = 1
    answer = upload()
    assert (answer.status_code, answer.json()["code"]) == (507, "studio_full")
    settings.STUDIO_MAX_BYTES = 0
    assert upload().status_code == 201


def test_files_without_a_row_are_found_and_old_ones_deleted(make_take, settings):
    take = make_take()
    store = Path(settings.MEDIA_ROOT)
    young, old = store / "takes" / "young.part", store / "takes" / "old.part"
    for file in (young, old):
        file.write_bytes(b"x")
    day = time.time() - 2 * 86_400
    os.utime(old, (day, day))
    told = io.StringIO()
    call_command("check_store", delete=True, stdout=told)
    assert not old.exists()
    assert young.exists()
    assert Path(take.upload.path).exists()
    Path(take.upload.path).unlink()
    call_command("check_store", stdout=told)
    assert f"not there: {take.upload.name}" in told.getvalue()


def test_a_file_that_was_not_written_to_its_end_is_not_there(settings):
    class Breaks(ContentFile):
        def chunks(self, chunk_size=None):
            yield b"half"
            raise OSError(errno.ENOSPC, "No space left on device")

    with pytest.raises(OSError, match="space"):
        storage.WholeFiles(location=settings.MEDIA_ROOT).save("takes/x.flac", Breaks(b"whole"))
    assert files(settings) == []


def test_high_rates_are_brought_down_as_they_come(tmp_path):
    seconds, rate = 4.0, 192_000
    t = np.arange(round(seconds * rate)) / rate
    sound = np.column_stack([0.5 * np.sin(2 * np.pi * 440.0 * t), 0.25 * np.sin(2 * np.pi * 30_000.0 * t)])
    soundfile.write(tmp_path / "high.flac", sound, rate, subtype="PCM_24")
    take = load_take(tmp_path / "high.flac")
    assert (take.sample_rate_hz, take.as_recorded.rate_hz) == (48_000, rate)
    assert take.samples.shape == (2, round(seconds * 48_000))
    low = np.arange(take.samples.shape[1]) / 48_000
    inside = slice(2000, -2000)
    assert np.allclose(take.samples[0][inside], 0.5 * np.sin(2 * np.pi * 440.0 * low)[inside], atol=1e-3)
    assert np.max(np.abs(take.samples[1][inside])) < 1e-3  # what a lower rate cannot hold is not folded into it


def test_a_file_that_never_ends_decoding_is_refused(tmp_path, monkeypatch):
    from fortimetra.sound import decode

    soundfile.write(tmp_path / "a.wav", 0.1 * np.sin(np.arange(48_000)), 48_000)
    ticks = iter(range(0, 10_000, 60))
    monkeypatch.setattr(decode.time, "monotonic", lambda: float(next(ticks)))
    with pytest.raises(TakeError, match="takes so long"):
        load_take(tmp_path / "a.wav")


def test_people_sign_in_while_the_broker_is_away(teacher, settings, tmp_path):
    settings.CACHES = {"default": settings.CACHES["default"] | {"LOCATION": f"unix://{tmp_path / 'nobody'}?db=0"}}
    from tests.security.test_sign_in import sign_in

    assert sign_in("guess").status_code == 400
    assert sign_in().status_code == 200
