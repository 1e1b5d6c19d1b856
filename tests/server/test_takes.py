"""A take received, read, measured against another drill, deleted."""

from __future__ import annotations

import gzip
import hashlib
import io
import json

import numpy as np
import pytest
import soundfile
from apps.measuring import tasks
from apps.takes.models import Analysis, Take
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction

from tests.server.conftest import files_kept, wav

pytestmark = pytest.mark.django_db


def _upload(client, student, drill, content, name="take.flac"):
    return client.post(
        "/api/v1/takes", {"student_id": student.pk, "drill_id": drill.pk, "file": SimpleUploadedFile(name, content)}
    )


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
    (kept,) = files_kept(settings)
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
    assert files_kept(settings) == []


def test_too_large_is_refused_before_it_is_read(client, student, drill, queued, settings):
    settings.UPLOAD_MAX_BYTES = 200_000
    answer = _upload(client, student, drill, wav(np.zeros(200_000)))
    assert (answer.status_code, answer.json()["code"]) == (413, "too_large")
    settings.UPLOAD_MAX_BYTES = 390_000
    answer = _upload(client, student, drill, wav(np.zeros(200_000)))
    assert (answer.status_code, answer.json()["code"]) == (413, "too_large")
    assert Take.objects.count() == 0


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
    assert len(files_kept(settings)) == 3
    with django_capture_on_commit_callbacks(execute=True):
        assert client.delete(f"/api/v1/takes/{measured.pk}").status_code == 204
    assert files_kept(settings) == []
    assert Take.objects.count() == Analysis.objects.count() == 0


def test_if_the_row_cannot_be_written_the_file_is_not_left_behind(make_take, settings, monkeypatch):
    def broken(self, *args, **kwargs):
        raise RuntimeError("database gone")

    monkeypatch.setattr(Take, "save", broken)
    with pytest.raises(RuntimeError), transaction.atomic():
        make_take()
    assert files_kept(settings) == []


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
