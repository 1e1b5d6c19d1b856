"""A recording whose name says nothing: heard once, guessed, thrown away."""

import pytest
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.measuring.tasks import guess
from apps.takes import guesses
from apps.takes.models import DrillGuess
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone

from tests.server.conftest import client_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def woken(monkeypatch):
    found = []
    monkeypatch.setattr(jobs, "send", lambda task, key: found.append(key))
    return found


@pytest.fixture
def ask(client, woken, flac, django_capture_on_commit_callbacks):
    def send(content=flac, by=client):
        with django_capture_on_commit_callbacks(execute=True):
            return by.post("/api/v1/takes/guesses", {"file": SimpleUploadedFile("take 2.flac", content)})

    return send


def test_the_drill_is_told_by_its_notes_and_the_recording_goes(
    client, ask, woken, drill, django_assert_max_num_queries
):
    asked = ask().json()
    assert (asked["state"], asked["drills"]) == ("waiting", [])
    assert woken == [asked["id"]]
    row = DrillGuess.objects.get(pk=asked["id"])
    assert default_storage.exists(row.upload.name)
    guess(asked["id"])
    assert not default_storage.exists(row.upload.name)
    with django_assert_max_num_queries(4):
        told = client.get(f"/api/v1/takes/guesses/{asked['id']}").json()
    assert told["state"] == "heard"
    assert told["drills"][0]["drill_id"] == drill.pk
    assert told["drills"][0]["share"] > 0.9


def test_a_take_is_heard_for_the_drill_that_fits_and_keeps_its_recording(client, measured, woken):
    asked = client.post(f"/api/v1/takes/{measured.pk}/guesses")
    assert asked.status_code == 201
    guess(asked.json()["id"])
    told = client.get(f"/api/v1/takes/guesses/{asked.json()['id']}").json()
    assert told["state"] == "heard"
    assert told["drills"][0]["drill_id"] == measured.drill_version.drill_id
    assert default_storage.exists(measured.upload.name)


def test_of_a_deleted_recording_or_a_strangers_take_nothing_is_heard(client, measured, stranger, woken):
    address = f"/api/v1/takes/{measured.pk}/guesses"
    assert client_of(stranger).post(address).status_code == 404
    measured.recording_deleted_at = timezone.now()
    measured.save()
    answer = client.post(address)
    assert (answer.status_code, answer.json()["code"]) == (410, "recording_deleted")
    assert woken == []
    assert not DrillGuess.objects.exists()


def test_takes_that_are_heard_count_as_recordings_do(client, measured, woken, settings):
    settings.TAKES_AN_HOUR = 1
    address = f"/api/v1/takes/{measured.pk}/guesses"
    assert [client.post(address).status_code for _ in range(2)] == [201, 429]


def test_a_worker_that_is_told_twice_hears_once(ask, monkeypatch):
    asked = ask().json()
    guess(asked["id"])
    monkeypatch.setattr("apps.measuring.tasks.load_take", lambda *a, **k: pytest.fail("heard again"))
    guess(asked["id"])


@pytest.mark.parametrize(
    ("content", "status"), [(b"", 422), (b"not a sound at all" * 40, 422)], ids=["empty", "not audio"]
)
def test_what_is_no_recording_is_not_kept(ask, content, status):
    assert ask(content).status_code == status
    assert not DrillGuess.objects.exists()


def test_a_recording_nobody_can_decode_says_why(client, ask, flac):
    asked = ask(flac[:300]).json()
    guess(asked["id"])
    told = client.get(f"/api/v1/takes/guesses/{asked['id']}").json()
    assert told["state"] == "refused"
    assert told["problem"]


def test_others_see_nothing_of_it(ask, stranger, client):
    asked = ask().json()
    address = f"/api/v1/takes/guesses/{asked['id']}"
    assert client_of(stranger).get(address).status_code == 404
    client.logout()
    assert client.get(address).status_code == 401
    assert client.post("/api/v1/takes/guesses").status_code == 401


def test_a_lost_message_is_sent_again_and_given_up_after_that(client, ask, woken):
    asked = ask().json()
    Job.objects.update(queued_at=timezone.now() - guesses.HEARING.patience * 2, attempts=1)
    jobs.sweep()
    assert woken == [asked["id"]] * 2
    Job.objects.update(attempts=guesses.HEARING.most_attempts)
    guess(asked["id"])
    told = client.get(f"/api/v1/takes/guesses/{asked['id']}").json()
    assert (told["state"], told["problem"]) == ("refused", guesses.HEARING.broke.detail)


def test_old_ones_are_forgotten(ask):
    first = DrillGuess.objects.get(pk=ask().json()["id"])
    DrillGuess.objects.update(asked_at=timezone.now() - guesses.KEPT_FOR * 2)
    ask()
    assert not DrillGuess.objects.filter(pk=first.pk).exists()
    assert not default_storage.exists(first.upload.name)
