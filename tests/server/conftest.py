"""A studio, two teachers who must not see each other's students, and takes in known states."""

from __future__ import annotations

import io
import os

import pytest
import soundfile
from apps.guitars.services import add_guitar
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.people.consents import Given
from apps.people.models import User
from apps.people.services import add_student, create_studio
from apps.takes import services
from apps.takes.models import Take
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, override_settings
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.player.faults import Faults, NoteFault

from tests.kept import render

PASSWORD = "a quiet mooring 7"
HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
ADA = {"name": "Studio A", "teacher_name": "Ada", "email": "ada@a.example"}
BO = {"name": "Studio B", "teacher_name": "Bo", "email": "bo@b.example"}


def pytest_collection_modifyitems(items):
    if "FORTIMETRA_DB_PASSWORD" not in os.environ:
        for item in items:
            if "tests/server" in str(item.path):
                item.add_marker(pytest.mark.skip(reason="needs a database server: ./run test server"))


@pytest.fixture(scope="module", autouse=True)
def _studios(request):
    """Two studios that stay in the database from test to test, for all drills of the library come with each. What a
    test changes is undone; one that empties the tables leaves them to be made anew.
    """
    if "FORTIMETRA_DB_PASSWORD" in os.environ:
        request.getfixturevalue("django_db_setup")
        with request.getfixturevalue("django_db_blocker").unblock(), override_settings(PASSWORD_HASHERS=HASHERS):
            _teacher_of(ADA)
            _teacher_of(BO)


def _teacher_of(studio):
    found = User.objects.filter(email=studio["email"]).first()
    return found or create_studio(**studio, password=PASSWORD)


@pytest.fixture(autouse=True)
def _own_files(settings, tmp_path, worker_id):
    # The broker keeps one cache; each process of the tests has a database of its own in it.
    if settings.REDIS_SOCKET:
        number = 1 + int(worker_id.removeprefix("gw") or 0) if worker_id != "master" else 1
        own = {"LOCATION": f"unix://{settings.REDIS_SOCKET}?db={number}"}
        settings.CACHES = {"default": settings.CACHES["default"] | own}
    settings.MEDIA_ROOT = tmp_path / "media"
    settings.PASSWORD_HASHERS = HASHERS
    cache.clear()


@pytest.fixture
def queued(monkeypatch):
    """Keys of what would have woken a worker."""
    found = []
    monkeypatch.setattr(jobs, "send", lambda _task, key: found.append(key))
    return found


def job_of(row):
    """The job there is for a row."""
    return Job.objects.get(subject=str(row.pk))


def change_job(row, **changes):
    """What time or an accident has made of a row's job."""
    assert Job.objects.filter(subject=str(row.pk)).update(**changes) == 1


@pytest.fixture
def teacher(db):
    return _teacher_of(ADA)


@pytest.fixture
def stranger(db):
    return _teacher_of(BO)


@pytest.fixture
def colleague(teacher):
    return User.objects.create_user("cy@a.example", PASSWORD, name="Cy", studio=teacher.studio, role="teacher")


@pytest.fixture
def student(teacher):
    return add_student(teacher, name="Nele", agreed=Given(by="student", way="word"))


@pytest.fixture
def guitar(teacher, student):
    return add_guitar(teacher, student=student, name="Old one", kind="solid")


@pytest.fixture
def few(teacher):
    """A dozen drills instead of the whole library, which takes a while to write and to read in."""
    kept = teacher.studio.drills.filter(family="fretted_then_bend").values_list("pk", flat=True)[:12]
    others = teacher.studio.drills.exclude(pk__in=[*kept])
    others.update(current=None)
    others.delete()


@pytest.fixture
def drill(teacher):
    return teacher.studio.drills.get(title="String 3: full bend at fret 7")


def client_of(user):
    client = Client()
    client.force_login(user, backend="allauth.account.auth_backends.AuthenticationBackend")
    return client


@pytest.fixture
def client(teacher):
    return client_of(teacher)


@pytest.fixture(scope="session")
def flac():
    """A take of one repeat of the drill "String 3: full bend at fret 7", the bend 22 cents flat."""
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=4, bpm=66)
    sound, truth = render(drill, Faults(notes={"bend": NoteFault(cents=-22.0)}))
    out = io.BytesIO()
    soundfile.write(out, sound, truth.sample_rate_hz, format="FLAC", subtype="PCM_16")
    return out.getvalue()


@pytest.fixture
def make_take(teacher, student, drill, queued, flac):
    def make(content=flac, name="take.flac"):
        return services.receive(teacher, student=student, drill=drill, upload=SimpleUploadedFile(name, content))

    return make


@pytest.fixture
def measured(make_take):
    from apps.measuring.tasks import measure

    take = make_take()
    measure(str(take.pk))
    return Take.objects.get(pk=take.pk)


def files_kept(settings):
    """Every file the server keeps of takes."""
    return sorted(p for p in settings.MEDIA_ROOT.rglob("*") if p.is_file()) if settings.MEDIA_ROOT.exists() else []


def wav(samples, rate=44_100, subtype="PCM_16"):
    """A WAV file's bytes."""
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype=subtype)
    return out.getvalue()
