"""Accounts, students, drills, the demo and the commands."""

import json
from io import StringIO
from pathlib import Path

import pytest
from apps.demo import studio as demo
from apps.drills.models import Drill, DrillVersion
from apps.people.models import User
from apps.people.services import create_studio
from apps.takes.models import Take
from config.problems import ServiceError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from fortimetra.drills.library import library

from tests.server.conftest import PASSWORD

pytestmark = pytest.mark.django_db
EXAMPLE = Path(__file__).parents[2] / "docs/formats/examples/drill.example.json"


def test_models_and_migrations_agree(capsys):
    call_command("makemigrations", check=True, dry_run=True, verbosity=1)


def test_a_new_studio_begins_with_the_built_in_drills(teacher):
    drills = Drill.objects.filter(studio=teacher.studio).select_related("current").order_by("id")
    assert [d.title for d in drills] == [b.drill.title for b in library()]
    assert all(d.current.drill_id == d.pk and d.current.number == 1 for d in drills)
    assert [d.current.content["title"] for d in drills] == [d.title for d in drills]


@pytest.mark.parametrize(
    ("email", "password", "code"),
    [
        ("ADA@a.example", PASSWORD, "email_taken"),
        ("no address", PASSWORD, "invalid_account"),
        ("x@a.example", "short", "invalid_account"),
    ],
)
def test_an_account_that_cannot_be_is_a_sentence(teacher, email, password, code):
    with pytest.raises(ServiceError) as error:
        create_studio(name="S", teacher_name="T", email=email, password=password)
    assert error.value.code == code


def test_create_teacher_command(db, monkeypatch):
    monkeypatch.setattr("sys.stdin", StringIO(PASSWORD + "\n"))
    call_command(
        "create_teacher", email="new@a.example", name="New", studio="Quay", password_stdin=True, stdout=StringIO()
    )
    user = User.objects.get(email="new@a.example")
    assert user.check_password(PASSWORD)
    assert user.role == "teacher"


def test_a_student_is_added_once_with_a_tidy_name(client):
    answer = client.post(
        "/api/v1/students", data=json.dumps({"name": "  Rike   Sund "}), content_type="application/json"
    )
    assert (answer.status_code, answer.json()["name"]) == (201, "Rike Sund")
    for bad in ({"name": "   "}, {"name": ""}, {}, {"name": "x" * 121}):
        answer = client.post("/api/v1/students", data=json.dumps(bad), content_type="application/json")
        assert answer.status_code == 422
        assert answer.json()["detail"]


def test_a_drill_file_is_imported_whole_or_not_at_all(client):
    good = EXAMPLE.read_bytes()
    answer = client.post("/api/v1/drills", {"file": SimpleUploadedFile("d.json", good)})
    assert answer.status_code == 201
    assert answer.json()["title"] == json.loads(good)["title"]
    shown = client.get(f"/api/v1/drills/{answer.json()['id']}").json()
    assert shown["content"]["events"][1]["bend"]["reference"] == "e1"
    before = DrillVersion.objects.count()
    for bad in (b"{", b"\x00\xff", good.replace(b'"version": 1', b'"version": 9'), b"[" * 100_000):
        answer = client.post("/api/v1/drills", {"file": SimpleUploadedFile("d.json", bad)})
        assert (answer.status_code, answer.json()["code"]) == (422, "drill_invalid")
    assert DrillVersion.objects.count() == before


def test_the_demo_is_loaded_once_and_says_that_it_is_invented(db, queued, settings, tmp_path, monkeypatch):
    # It is for an installation without any account.
    User.objects.all().delete()
    settings.DATA = tmp_path
    monkeypatch.setattr(demo, "recording", lambda content, faults: b"fLaC" + bytes(100))
    for _ in range(2):
        call_command("load_demo", stdout=StringIO())
    takes = Take.objects.all()
    assert len(takes) == len(demo.SET_UPS) + len(demo.TAKES) + len(demo.LAST_TAKES) == 39
    assert all(t.invented for t in takes)
    assert len({t.student for t in takes}) == 4
    assert all(t.guitar for t in takes)
    spread = max(t.played_at for t in takes) - min(t.played_at for t in takes)
    assert 21 <= spread.days <= 60
    assert settings.DEMO_EMAIL in (tmp_path / "run" / "sign_in.txt").read_text()


def test_the_demo_does_not_come_to_people_who_are_there(db, teacher, settings, tmp_path):
    # A backup that was restored, or a school that was started with --empty at first.
    settings.DATA = tmp_path
    said = StringIO()
    call_command("load_demo", stdout=said)
    assert "no demo" in said.getvalue()
    assert not User.objects.filter(email=settings.DEMO_EMAIL).exists()
    assert not (tmp_path / "run" / "sign_in.txt").exists()


def test_the_demo_password_and_debug_settings_are_not_exposed(db, teacher, settings):
    call_command("check_exposure")
    settings.DEBUG = True
    with pytest.raises(CommandError, match="debug settings"):
        call_command("check_exposure")
    settings.DEBUG = False
    teacher.set_password(settings.DEMO_PASSWORD)
    teacher.save()
    with pytest.raises(CommandError, match="demo password"):
        call_command("check_exposure")


def test_the_web_process_does_not_load_the_signal_processing():
    import subprocess
    import sys

    program = (
        "import django, sys; django.setup(); import config.urls;"
        "print(sorted({'numba', 'scipy', 'av', 'soundfile', 'librosa'} & set(sys.modules)))"
    )
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


@pytest.mark.django_db
def test_the_database_keeps_its_temporary_tables_to_itself():
    # A server that begins clears the folder of its temporary tables: of a shared one it would clear another server's.
    from django.db import connection

    with connection.cursor() as cursor:
        cursor.execute("SELECT @@tmpdir")
        (folder,) = cursor.fetchone()
    assert "fortimetra-db-" in folder
