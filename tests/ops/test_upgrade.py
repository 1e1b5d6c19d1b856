"""An upgrade is rehearsed: tables of the release before, its statements while it still runs, the order of the steps."""

from __future__ import annotations

import json
import os
import subprocess

import pytest

from ops import backup, setup, upgrade
from ops.say import StartError
from ops.services import Stack

# What the release before had.
BEFORE = """
from django.core.management import call_command
for place in (["people", "0005"], ["drills", "0006"], ["takes", "0010"], ["reports", "0002"], ["plans"]):
    call_command("migrate", *place, interactive=False, verbosity=0)
"""
UNITS = "fortimetra-worker@*.service"
# As that release wrote and read them.
OLD_INSERT = (
    "INSERT INTO drills_scoreimport (id, studio_id, created_by_id, file_name, upload, state, attempts, asked_at, "
    "problem_code, problem_detail, created_at) VALUES (UUID(), 1, 1, 'x.mid', '', 'waiting', 1, NOW(), '', '', NOW());"
)
OLD_READ = (
    "SELECT attempts, asked_at FROM drills_scoreimport; SELECT stage, fraction, attempts, queued_at FROM takes_take;"
)
# A row of the new release does not know the old columns.
NEW_INSERT = (
    "INSERT INTO drills_scoreimport (id, studio_id, created_by_id, file_name, upload, state, problem_code, "
    "problem_detail, created_at) VALUES (UUID(), 1, 1, 'y.mid', '', 'waiting', '', '', NOW());"
)
SOMEBODY = (
    "INSERT INTO people_studio (id, name, zone, created_at) VALUES (1, 'Quay', 'UTC', NOW());"
    "INSERT INTO people_user (id, password, email, name, role, leads, is_active, date_joined, studio_id) "
    "VALUES (1, '', 'a@b.example', 'Ada', 'teacher', 1, 1, NOW(), 1);"
)


@pytest.fixture
def stack(tmp_path):
    made = Stack(tmp_path / "data", throwaway=True)
    made.start_database()
    yield made
    made.stop()


@pytest.fixture(scope="module")
def tables_before(tmp_path_factory):
    """The tables of the release before, as statements."""
    made = Stack(tmp_path_factory.mktemp("before") / "data", throwaway=True)
    made.start_database()
    try:
        in_application(made, BEFORE)
        arguments, env = backup.client(made.database.environment(), "mariadb-dump")
        told = [*arguments, "--skip-lock-tables", "fortimetra"]
        return subprocess.run(told, env=env, capture_output=True, text=True, check=True).stdout
    finally:
        made.stop()


@pytest.fixture
def settings(stack, tmp_path):
    """The server's environment file."""
    told = stack.database.environment() | {"FORTIMETRA_DATA": str(stack.data), "FORTIMETRA_HOSTS": "school.example"}
    file = tmp_path / "environment"
    file.write_text("# a comment\n" + "".join(f"{k}={v}\n" for k, v in told.items()))
    return file


@pytest.fixture
def called(tmp_path, monkeypatch):
    """What the system's service manager was asked for; it does nothing."""
    folder, log = tmp_path / "bin", tmp_path / "called"
    folder.mkdir()
    runs = "fortimetra-worker@quick.service loaded active running Fortimetra"
    (folder / "systemctl").write_text(f'#!/bin/sh\n[ "$1" = list-units ] && echo "{runs}" || echo "$@" >> {log}\n')
    (folder / "systemctl").chmod(0o755)
    monkeypatch.setenv("PATH", f"{folder}:{os.environ['PATH']}")
    monkeypatch.setattr(setup, "python", lambda: None)
    monkeypatch.setattr(setup, "front_end", lambda: None)
    return lambda: log.read_text().splitlines() if log.exists() else []


def sql(stack, statements):
    arguments, env = backup.client(stack.database.environment(), "mariadb")
    done = subprocess.run([*arguments, "-N", "fortimetra"], input=statements, env=env, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_the_release_before_serves_until_it_is_replaced(stack, tables_before, settings, called, tmp_path, monkeypatch):
    told = upgrade.environment(settings)
    assert "# a comment" not in told
    sql(stack, tables_before + SOMEBODY + OLD_INSERT)
    asked = []

    def ready(path, given):
        asked.append(given["FORTIMETRA_HOSTS"])
        # The tables are changed, the web processes not yet all: both releases write and read.
        sql(stack, OLD_INSERT + OLD_READ + NEW_INSERT)

    monkeypatch.setattr(upgrade, "until_ready", ready)
    assert upgrade.upgrade(["--systemd", "--environment", str(settings)]) == 0
    assert called() == [
        "start fortimetra-backup.service",
        f"stop {UNITS}",
        "reload fortimetra-web.service",
        "start fortimetra-worker@quick.service",
    ]
    assert asked == ["school.example"]
    assert sql(stack, "SELECT COUNT(*) FROM jobs_job; SELECT COUNT(*) FROM drills_scoreimport;").split() == ["0", "3"]
    # Nobody looks after the server before somebody is named.
    assert sql(stack, "SELECT keeps FROM people_user").strip() == "0"


def test_workers_start_also_where_the_tables_could_not_be_changed(stack, settings, called):
    settings.write_text(settings.read_text().replace("FORTIMETRA_DB_PASSWORD=", "FORTIMETRA_DB_PASSWORD=wrong"))
    with pytest.raises(StartError, match=r"manage\.py migrate"):
        upgrade.upgrade(["--systemd", "--environment", str(settings), "--no-backup"])
    assert called() == [f"stop {UNITS}", "start fortimetra-worker@quick.service"]


def test_a_service_that_does_not_stop_is_said(settings, called, tmp_path):
    (tmp_path / "bin" / "systemctl").write_text("#!/bin/sh\necho no such unit >&2; exit 5\n")
    with pytest.raises(StartError, match="The backup failed: no such unit"):
        upgrade.upgrade(["--systemd", "--environment", str(settings)])


def test_one_desk_keeps_everything_first(stack, called, tmp_path, capsys):
    kept = tmp_path / "before.tar"
    stack.stop()
    (stack.data / "media").mkdir()
    assert upgrade.upgrade(["--data", str(stack.data), "--backup", str(kept)]) == 0
    assert kept.exists()
    assert "./run start" in capsys.readouterr().out
    assert called() == []


def test_settings_that_cannot_be_read_are_said(tmp_path):
    with pytest.raises(StartError, match="cannot be read"):
        upgrade.upgrade(["--systemd", "--environment", str(tmp_path / "none")])


def test_web_processes_that_never_answer_are_said(tmp_path, monkeypatch):
    monkeypatch.setattr(upgrade, "READY_S", 0.0)
    with pytest.raises(StartError, match="not ready"):
        upgrade.until_ready(tmp_path / "web", {})


# Run inside the application, by models as the release before had them.
FILL = """
import hashlib, json, sys
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.utils import timezone
loader = MigrationExecutor(connection).loader
apps = loader.project_state(sorted(loader.applied_migrations)).apps
now, measured = timezone.now(), json.load(open({example!r}))["measured"]
make = lambda app, model, **values: apps.get_model(app, model).objects.create(**values)
studio = make("people", "Studio", name="Quay", zone="UTC", created_at=now)
ada = make(
    "people", "User", email="a@b.example", name="Ada", role="teacher", leads=True, studio=studio, date_joined=now
)
nele = make("people", "Student", studio=studio, teacher=ada, name="Nele", created_at=now)
content = measured["drill"]["content"]
drill = make("drills", "Drill", studio=studio, title=content["title"], family=content["family"], created_at=now)
version = make("drills", "DrillVersion", drill=drill, number=1, content=content, created_by=ada)
drill.current = version
drill.save()
sound = b"a recording as it was sent"
for state in ("measured", "measuring"):
    take = make(
        "takes", "Take", student=nele, drill_version=version, uploaded_by=ada, played_at=now, original_name="a.wav",
        size_bytes=len(sound), sha256=hashlib.sha256(sound).hexdigest(), state=state, attempts=1, stage="",
        fraction=0.0, upload=default_storage.save("takes/" + state, ContentFile(sound)),
    )
    if state == "measured":
        first = make(
            "takes", "Analysis", take=take, drill_version=version, core_version="0.4.0", seconds=1.5,
            content=measured["analysis"], summary=measured["analysis"]["summary"], ticks="..-",
            curves=default_storage.save("takes/curves", ContentFile(b"curves")),
            listening=default_storage.save("takes/listening", ContentFile(b"fLaC")),
        )
        take.current = first
        take.save()
        said = {{"kind": "comment", "text": "Öde, – “so”"}}
        make("takes", "WordMark", take=take, content=said, made_by=ada, made_at=now)
        make("takes", "Trial", take=take, created_by=ada, asked_at=now, drill_version=version, against=first)
make("reports", "Restore", studio=studio, at=now, made_by=ada, counts={{"takes": 2}})
"""
# What the new release finds of it; then out through the archive, into empty tables, and out again.
THROUGH = """
import io, json, zipfile
from pathlib import Path
from django.conf import settings
from django.core.management import call_command
from apps.archive.models import Restore
from apps.archive.new_studio import restore_as_new
from apps.archive.out import stream
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.measuring import tasks
from apps.measuring.models import Trial
from apps.people.models import Studio
from apps.reviews.models import WordMark
from apps.takes.models import Analysis, Take
jobs.sweep()
found = {
    "takes": Take.objects.count(), "analyses": Analysis.objects.count(), "said": WordMark.objects.get().content["text"],
    "trials": Trial.objects.count(), "restores": Restore.objects.count(),
    "jobs": sorted(Job.objects.values_list("kind", flat=True)),
}
def members(studio):
    content = b"".join(stream(studio))
    with zipfile.ZipFile(io.BytesIO(content)) as file:
        return content, {name: file.read(name) for name in file.namelist() if name != "manifest.json"}
Take.objects.filter(state__in=Take.UNFINISHED).update(state="measured")
content, before = members(Studio.objects.get())
call_command("flush", interactive=False, verbosity=0)
file = Path(settings.DATA) / "studio.zip"
file.write_bytes(content)
lead, counts, path = restore_as_new(file)
_, after = members(lead.studio)
found["equal"] = before.keys() == after.keys() and [n for n in before if before[n] != after[n]] == []
found["recordings"] = sum(name.startswith("recordings/") for name in after)
print(json.dumps(found))
"""


def in_application(stack, code):
    """What a piece of Python prints inside the application."""
    done = subprocess.run(
        [str(setup.PYTHON), "manage.py", "shell", "-v", "0", "-c", code],
        cwd=setup.ROOT / "server", env=stack.environment(), capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    return done.stdout


def test_every_row_of_the_release_before_comes_through_and_out_again(
    stack, tables_before, settings, called, monkeypatch
):
    sql(stack, tables_before)
    # What is asked for again is sent at once; without a broker each process would try for some while.
    stack.start_broker()
    in_application(stack, FILL.format(example=str(setup.ROOT / "web" / "src" / "testing" / "measured.json")))
    monkeypatch.setattr(upgrade, "until_ready", lambda _path, _given: None)
    assert upgrade.upgrade(["--systemd", "--environment", str(settings), "--no-backup"]) == 0
    found = json.loads(in_application(stack, THROUGH).splitlines()[-1])
    assert found == {
        "takes": 2, "analyses": 1, "said": "Öde, – “so”", "trials": 1, "restores": 1, "equal": True, "recordings": 2,
        # What was being measured, and tried, is asked for again.
        "jobs": ["takes.measure", "takes.try"],
    }  # fmt: skip
