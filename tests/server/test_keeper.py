"""Who looks after the installation sees how it is and nobody's takes; what is counted goes to who has the token."""

import json
import logging
import re
from datetime import datetime, timedelta

import pytest
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.keeper import state
from apps.people.models import User
from apps.takes import services as takes
from config.trace import Traced, job_of
from django.core.files.storage import default_storage
from django.core.management import CommandError, call_command
from django.test import Client
from django.utils import timezone
from prometheus_client.parser import text_string_to_metric_families

from tests.server.conftest import change_job, client_of

pytestmark = pytest.mark.django_db
PATH = "/api/v1/keeper"


@pytest.fixture
def failed(make_take):
    """A take whose measuring was given up."""
    take = make_take()
    change_job(take, attempts=3, asked_at=timezone.now() - timedelta(hours=2))
    assert jobs.claim(takes.MEASURING, take.pk) is None
    return take


def test_the_first_account_looks_after_the_installation_until_it_is_given_away(teacher, stranger):
    assert teacher.keeps
    assert not stranger.keeps
    call_command("make_keeper", stranger.email)
    call_command("make_keeper", teacher.email, "--take-back")
    assert client_of(User.objects.get(pk=stranger.pk)).get(PATH).status_code == 200
    assert client_of(User.objects.get(pk=teacher.pk)).get(PATH).json()["code"] == "not_allowed"
    with pytest.raises(CommandError, match="Nobody signs in"):
        call_command("make_keeper", "x@y.example")


def test_it_says_what_waits_what_was_given_up_and_how_much_room_there_is(client, failed, make_take, student):
    make_take()
    told = client.get(PATH).json()
    assert [(j["kind"], j["queue"], j["state"], j["count"]) for j in told["jobs"]] == [
        ("takes.measure", "measure", "failed", 1), ("takes.measure", "measure", "waiting", 1)
    ]  # fmt: skip
    assert told["jobs"][0]["oldest_s"] == pytest.approx(7200, abs=60)
    (job,) = told["failed"]
    assert (job["subject"], job["problem"]) == (str(failed.pk), takes.MEASURING.broke.detail)
    assert told["room"]["takes"] == 2
    assert told["room"]["free"] <= told["room"]["total"]
    assert (told["studios"], told["students"]) == (2, 1)  # Ada's, and Bo's next door
    assert told["versions"]["MariaDB"]
    # Nobody's name, nobody's drill.
    assert student.name not in json.dumps(told)


def test_a_job_that_was_given_up_is_tried_again_or_forgotten(client, failed, stranger):
    (job,) = client.get(PATH).json()["failed"]
    other = client_of(stranger)
    assert other.post(f"{PATH}/jobs/{job['id']}/again").status_code == 404
    assert client.post(f"{PATH}/jobs/{job['id']}/again").status_code == 204
    failed.refresh_from_db()
    assert (failed.state, failed.problem_code) == ("received", "")
    assert client.post(f"{PATH}/jobs/{job['id']}/again").status_code == 404  # it waits now
    Job.objects.update(state="failed", kind="of.an.older.release")
    assert client.post(f"{PATH}/jobs/{job['id']}/again").json()["code"] == "unknown_kind"
    assert client.delete(f"{PATH}/jobs/{job['id']}").status_code == 204
    assert not Job.objects.exists()


def test_the_last_backup_is_known_by_its_record(client, settings, tmp_path):
    settings.DATA = tmp_path
    assert client.get(PATH).json()["backup"] is None
    record = {"at": "2026-11-28T02:00:00+00:00", "file": "/srv/night.tar", "bytes": 12, "encrypted": True}
    (tmp_path / "last-backup.json").write_text(json.dumps(record))
    assert client.get(PATH).json()["backup"] == record | {"at": "2026-11-28T02:00:00Z", "file": "night.tar"}
    for broken in ("", "[]", "{}", json.dumps(record | {"at": "yesterday"})):
        (tmp_path / "last-backup.json").write_text(broken)
        assert state.last_backup() is None


def test_alive_and_ready_are_two_things(client, monkeypatch, settings):
    settings.CELERY_BROKER_URL = "memory://"
    assert Client().get("/api/v1/health").status_code == 200
    monkeypatch.setattr(state, "problems", lambda: ["The broker does not answer."])
    answer = Client().get("/-/ready")
    assert (answer.status_code, answer.json()["problems"]) == (503, ["The broker does not answer."])
    monkeypatch.setattr(state, "problems", list)
    assert Client().get("/-/ready").json() == {"ready": True, "problems": []}


def test_a_store_that_does_not_answer_and_a_full_disk_are_problems_and_asking_writes_nothing(monkeypatch, settings):
    def away(_name):
        raise OSError("no way to it")

    assert not [says for says in state.problems() if "store" in says or "disk" in says]
    assert not [p for p in settings.MEDIA_ROOT.rglob("*") if p.is_file()]
    monkeypatch.setattr(default_storage, "exists", away)
    monkeypatch.setattr(state, "has_room", lambda: False)
    told = list(state.problems())
    assert "The store of recordings does not answer." in told
    assert "The disk is nearly full: no recording is taken." in told


def counted(settings, token="a-long-token", given="a-long-token"):
    settings.METRICS_TOKEN = token
    return Client().get("/-/metrics", headers={"Authorization": f"Bearer {given}"})


def test_what_is_counted_is_for_who_has_the_token(settings):
    assert counted(settings, token="").status_code == 404
    assert counted(settings, token="", given="").status_code == 404
    assert counted(settings, given="another").status_code == 404
    assert counted(settings, given="a-long-tokén").status_code == 404
    assert counted(settings).status_code == 200


def test_requests_jobs_and_room_are_counted_by_route_and_never_by_name(settings, client, measured, failed):
    client.get(f"/api/v1/takes/{measured.pk}")
    text = counted(settings).content.decode()
    assert str(measured.pk) not in text
    samples = {
        (s.name, *sorted(s.labels.items())): s.value
        for family in text_string_to_metric_families(text)
        for s in family.samples
    }
    job = (("kind", "takes.measure"), ("queue", "measure"), ("state", "failed"))
    assert samples["fortimetra_jobs", *job] == 1
    assert samples["fortimetra_oldest_job_seconds", *job] == pytest.approx(7200, abs=60)
    assert samples["fortimetra_recordings",] == 2
    route = (("method", "GET"), ("route", "api/v1/takes/<uuidstr:take_id>"), ("status", "200"))
    assert samples["fortimetra_request_seconds_count", *route] >= 1
    assert samples["fortimetra_sound_seconds_total",] > 0
    done = (("kind", "takes.measure"), ("outcome", "done"))
    assert samples["fortimetra_jobs_ended_total", *done] >= 1


def test_every_answer_says_its_request_and_a_proxys_id_is_taken_over(client):
    own = client.get("/api/v1/me")["X-Request-ID"]
    assert re.fullmatch(r"[0-9a-f]{32}", own)
    assert client.get("/api/v1/me")["X-Request-ID"] != own
    assert client.get("/api/v1/me", headers={"X-Request-ID": "proxy-12345"})["X-Request-ID"] == "proxy-12345"
    for broken in ("short", "x" * 80, "a b c d e f g h", "0123456789\u00e9"):
        assert client.get("/api/v1/me", headers={"X-Request-ID": broken})["X-Request-ID"] != broken


def test_a_line_of_the_log_names_its_job():
    record = logging.LogRecord("x", logging.INFO, "", 0, "said", (), None)
    with job_of("takes.measure", "17"):
        assert Traced().filter(record)
    assert (record.job, record.request) == ("takes.measure 17", "")
    Traced().filter(record)
    assert record.job == ""


def examined(capsys):
    call_command("examine")
    told = json.loads(capsys.readouterr().out)
    return {says: how for how, says, _do in told["findings"]}, told["database_time"]


def test_what_the_doctor_asks_is_good_where_all_is_well(teacher, capsys, monkeypatch):
    monkeypatch.setattr(state, "problems", list)
    found, clock = examined(capsys)
    assert set(found.values()) == {"good"}
    assert abs((datetime.fromisoformat(clock) - timezone.now()).total_seconds()) < 30


def test_what_the_doctor_asks_names_what_is_stuck(teacher, failed, make_take, capsys, monkeypatch):
    change_job(make_take(), asked_at=timezone.now() - timedelta(minutes=30))
    monkeypatch.setattr(state, "problems", lambda: ["The broker does not answer."])
    User.objects.update(keeps=False)
    found, _ = examined(capsys)
    assert found == {
        "tables": "good",
        "The broker does not answer.": "wrong",
        "1 jobs were given up.": "mind",
        "takes.measure waits for 30 minutes.": "wrong",
        "Nobody sees the page Server.": "mind",
    }
