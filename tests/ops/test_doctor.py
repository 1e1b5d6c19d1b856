"""./run doctor says what is wrong and what to do, and nothing where all is well."""

from __future__ import annotations

import json
import socket
from datetime import UTC, datetime, timedelta

import pytest

from ops import doctor


def told(found):
    return [(f.how, f.says) for f in found]


@pytest.fixture(autouse=True)
def _plain(monkeypatch):
    for name in ("HOSTS", "PROXIES", "HTTPS", "ORIGINS", "MAIL_HOST", "MAIL_PORT", "KEPT_FREE_MB"):
        monkeypatch.delenv(f"FORTIMETRA_{name}", raising=False)


def test_one_desk_needs_no_settings():
    assert told(doctor.settings()) == [("good", "settings for this machine alone")]


@pytest.mark.parametrize(
    ("given", "how", "says"),
    [
        ({"HTTPS": "1"}, "wrong", "no proxy is believed"),
        ({"HTTPS": "yes"}, "wrong", "neither 0 nor 1"),
        ({"HOSTS": "school.example"}, "mind", "passwords go unencrypted"),
        ({"PROXIES": "the front door"}, "wrong", "no address and no network"),
        ({"ORIGINS": "school.example"}, "wrong", "has no scheme"),
    ],
)
def test_settings_that_do_not_fit_each_other(monkeypatch, given, how, says):
    for name, value in given.items():
        monkeypatch.setenv(f"FORTIMETRA_{name}", value)
    found = [f for f in doctor.settings() if f.how != "good"]
    assert [(f.how, says in f.says, bool(f.do)) for f in found] == [(how, True, True)]


def test_a_school_behind_its_proxy_is_well(monkeypatch):
    for name, value in {"HOSTS": "school.example,localhost", "PROXIES": "10.0.0.5", "HTTPS": "1"}.items():
        monkeypatch.setenv(f"FORTIMETRA_{name}", value)
    assert told(doctor.settings()) == [("good", "settings for school.example")]


def test_a_folder_others_may_look_into_is_wrong(tmp_path):
    tmp_path.chmod(0o755)
    (tmp_path / "secret_key").write_text("x")
    (tmp_path / "secret_key").chmod(0o644)
    wrong = [f.says for f in doctor.folder(tmp_path) if f.how == "wrong"]
    assert len(wrong) == 2
    tmp_path.chmod(0o700)
    (tmp_path / "secret_key").chmod(0o600)
    assert not [f for f in doctor.folder(tmp_path) if f.how == "wrong"]


@pytest.mark.parametrize(("free", "how"), [(10**8, "wrong"), (10**9, "mind"), (10**11, "good")])
def test_room_is_said_before_it_is_gone(tmp_path, monkeypatch, free, how):
    tmp_path.chmod(0o700)
    monkeypatch.setattr(doctor.shutil, "disk_usage", lambda _p: type("Disk", (), {"free": free}))
    assert [f.how for f in doctor.folder(tmp_path) if "free" in f.says] == [how]


@pytest.mark.parametrize(("free", "how"), [(1_900_000_000, "mind"), (2_100_000_000, "good")])
def test_room_for_long_takes_is_looked_at_where_temporary_files_lie(monkeypatch, free, how):
    monkeypatch.setattr(doctor.shutil, "disk_usage", lambda _p: type("Disk", (), {"free": free}))
    assert [f.how for f in doctor.temporary()] == [how]


def test_a_mail_server_is_asked(monkeypatch):
    assert [f.how for f in doctor.mail()] == ["mind"]
    with socket.socket() as server:
        server.bind(("127.0.0.1", 0))
        server.listen()
        monkeypatch.setenv("FORTIMETRA_MAIL_HOST", "127.0.0.1")
        monkeypatch.setenv("FORTIMETRA_MAIL_PORT", str(server.getsockname()[1]))
        assert [f.how for f in doctor.mail()] == ["good"]
    assert [f.how for f in doctor.mail()] == ["wrong"]


@pytest.mark.parametrize(("days", "how"), [(0, "good"), (5, "good"), (30, "mind")])
def test_a_backup_grows_old(tmp_path, days, how):
    assert [f.how for f in doctor.backups(tmp_path)] == ["mind"]
    at = datetime.now(UTC) - timedelta(days=days)
    (tmp_path / "last-backup.json").write_text(json.dumps({"at": at.isoformat()}))
    assert [f.how for f in doctor.backups(tmp_path)] == [how]


def test_where_nothing_runs_that_is_said_and_is_no_fault(tmp_path, capsys):
    tmp_path.chmod(0o700)
    assert doctor.doctor(["--data", str(tmp_path)]) == 0
    out = capsys.readouterr().out
    assert f"Nothing runs on {tmp_path}" in out
    assert "WRONG" not in out


def test_an_application_that_cannot_be_asked_is_wrong(tmp_path, monkeypatch):
    (tmp_path / "run").mkdir()
    (tmp_path / "run" / "environment").write_text("FORTIMETRA_DB_PORT=1\n")
    monkeypatch.setattr(doctor.setup, "PYTHON", "/bin/false")
    assert [f.how for f in doctor.running(tmp_path)] == ["wrong"]
