"""A backup holds everything and is restored to the byte; what is damaged, foreign or hostile is refused whole."""

from __future__ import annotations

import hashlib
import io
import json
import os
import subprocess
import tarfile

import pytest

from ops import backup, setup
from ops.say import StartError
from ops.services import Stack

ROWS = "CREATE TABLE kept (id INT PRIMARY KEY, name VARCHAR(40), sound LONGBLOB); "
VALUES = "INSERT INTO kept VALUES (1, 'Öde Vintersee — ‘low’', 0x00FF1A), (2, NULL, NULL);"
MEDIA = {"takes/ab/x": b"sound" * 400_000, "takes/ab/y-listen.flac": b"fLaC", "sheets/1.pdf": b""}


@pytest.fixture(autouse=True)
def _as_it_is(monkeypatch):
    monkeypatch.setattr(setup, "debian", lambda _packages: None)


def client(stack, statements):
    arguments, env = backup.client(stack.database.environment(), "mariadb")
    done = subprocess.run([*arguments, "-N", "fortimetra"], input=statements, env=env, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    return done.stdout


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """A data folder as an installation leaves it."""
    data = tmp_path_factory.mktemp("installation") / "data"
    stack = Stack(data, throwaway=True)
    stack.start_database()
    client(stack, ROWS + VALUES)
    stack.stop()
    for name, content in {**MEDIA, "previews/z.flac": b"made anew"}.items():
        (data / "media" / name).parent.mkdir(parents=True, exist_ok=True)
        (data / "media" / name).write_bytes(content)
    return data


def content_of(data):
    """The rows and the files of a data folder."""
    stack = Stack(data, throwaway=True)
    stack.start_database()
    try:
        rows = client(stack, "SELECT id, HEX(name), HEX(sound) FROM kept ORDER BY id")
    finally:
        stack.stop()
    files = {p.relative_to(data / "media").as_posix(): p.read_bytes() for p in backup._files(data / "media")}
    return rows, files


@pytest.fixture(scope="module")
def whole(made, tmp_path_factory):
    """A backup of it."""
    file = tmp_path_factory.mktemp("kept") / "all.tar"
    assert backup.backup([str(file), "--data", str(made)]) == 0
    return file


def test_what_is_restored_is_what_was_kept(made, whole, tmp_path):
    data = tmp_path / "new" / "data"
    assert backup.restore([str(whole), "--data", str(data)]) == 0
    assert content_of(data) == content_of(made)
    assert content_of(data)[1] == MEDIA
    # Of this account alone, and nothing else lies about.
    assert {oct(p.stat().st_mode & 0o077) for p in [data, *(data / "media").rglob("*.flac"), whole]} == {"0o0"}
    assert sorted(p.name for p in (tmp_path / "new").iterdir()) == ["data"]
    told = json.loads((made / "last-backup.json").read_text())
    assert (told["bytes"], told["encrypted"]) == (whole.stat().st_size, False)


def test_a_running_installation_is_kept_without_being_stopped(made, whole, tmp_path):
    stack = Stack(made, throwaway=True)
    stack.claim()
    stack.start_database()
    try:
        with pytest.raises(StartError, match="being started"):
            backup.backup([str(tmp_path / "too-early.tar"), "--data", str(made)])
        stack._write_environment()
        backup.backup([str(tmp_path / "running.tar"), "--data", str(made)])
        assert client(stack, "SELECT COUNT(*) FROM kept").strip() == "2"
    finally:
        stack.stop()
    assert members(tmp_path / "running.tar").keys() == members(whole).keys()
    assert members(tmp_path / "running.tar")["database.sql.gz"] == members(whole)["database.sql.gz"]


def members(file):
    with tarfile.open(file) as tar:
        return {m.name: tar.extractfile(m).read() for m in tar}


def test_an_encrypted_one_needs_its_passphrase(made, whole, tmp_path):
    key, other = tmp_path / "key", tmp_path / "other"
    key.write_text("a long quiet phrase")
    other.write_text("another")
    backup.backup([str(tmp_path / "night.tar"), "--data", str(made), "--passphrase-file", str(key)])
    file = tmp_path / "night.tar.gpg"
    assert b"manifest" not in file.read_bytes()[:4096]
    for wrong in ([], ["--passphrase-file", str(other)], ["--passphrase-file", str(tmp_path / "none")]):
        with pytest.raises(StartError):
            backup.restore([str(file), "--data", str(tmp_path / "data"), *wrong])
    assert sorted(p.name for p in tmp_path.iterdir()) == ["key", "night.tar.gpg", "other"]
    backup.restore([str(file), "--data", str(tmp_path / "data"), "--passphrase-file", str(key)])
    assert content_of(tmp_path / "data") == content_of(made)


def test_so_many_are_kept_and_nothing_else_is_touched(made, tmp_path, monkeypatch):
    names = iter(f"fortimetra-2026-11-{day:02}-020000.tar" for day in (1, 2, 3))
    (tmp_path / "letter.tar").write_text("mine")
    for _ in range(3):
        monkeypatch.setattr(backup, "PATTERN", next(names))
        backup.backup([str(tmp_path), "--data", str(made), "--keep", "2"])
    assert sorted(p.name for p in tmp_path.iterdir()) == [
        "fortimetra-2026-11-02-020000.tar", "fortimetra-2026-11-03-020000.tar", "letter.tar"
    ]  # fmt: skip
    with pytest.raises(StartError, match="there already"):
        backup.backup([str(tmp_path), "--data", str(made), "--keep", "2"])


def packed(parts, digests=None, kind=tarfile.REGTYPE):
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as tar:
        given = {n: hashlib.sha256(c).hexdigest() for n, c in parts.items()} if digests is None else digests
        for name, content in {**parts, "digests.json": json.dumps(given).encode()}.items():
            member = tarfile.TarInfo(name)
            member.size, member.type = len(content), kind if name != "digests.json" else tarfile.REGTYPE
            member.linkname = "/etc/passwd"
            tar.addfile(member, io.BytesIO(content))
    return out.getvalue()


GOOD = {"manifest.json": json.dumps({"format": "fortimetra-backup", "version": 1, "made_at": "x"}).encode()}
BROKEN = {
    "no tar": b"Dear Ines, the dog ate my backup.",
    "empty": b"",
    "no manifest": packed({"media/takes/x": b"x"}),
    "of something else": packed({"manifest.json": b'{"format": "other", "version": 1}'}),
    "of a newer release": packed({"manifest.json": b'{"format": "fortimetra-backup", "version": 2}'}),
    "another digest": packed({**GOOD, "media/takes/x": b"x"}, digests={}),
    "out of the folder": packed({**GOOD, "media/../../x": b"x"}),
    "an absolute name": packed({**GOOD, "/etc/x": b"x"}),
    "a file of its own": packed({**GOOD, "secret_key": b"x"}),
    "a link": packed({**GOOD, "media/takes/x": b""}, kind=tarfile.SYMTYPE),
}


@pytest.mark.parametrize("how", [*BROKEN, "cut off", "a changed byte"])
def test_what_is_damaged_foreign_or_hostile_is_refused_whole(whole, tmp_path, how):
    content = bytearray(whole.read_bytes())
    if how == "cut off":
        del content[len(content) // 2 :]
    if how == "a changed byte":
        content[len(content) // 2] ^= 1
    file = tmp_path / "given.tar"
    file.write_bytes(BROKEN.get(how, bytes(content)))
    with pytest.raises(StartError) as refused:
        backup.restore([str(file), "--data", str(tmp_path / "data")])
    assert str(refused.value).endswith(".")
    assert refused.value.do
    assert [p.name for p in tmp_path.iterdir()] == ["given.tar"]


def test_a_folder_with_something_in_it_is_left_alone(whole, tmp_path):
    (tmp_path / "mine").write_text("x")
    with pytest.raises(StartError, match="something in"):
        backup.restore([str(whole), "--data", str(tmp_path)])
    with pytest.raises(StartError, match="no file"):
        backup.restore([str(tmp_path / "none.tar"), "--data", str(tmp_path / "data")])
    with pytest.raises(StartError, match="nothing in"):
        backup.backup([str(tmp_path / "b.tar"), "--data", str(tmp_path)])
    assert (tmp_path / "mine").read_text() == "x"


def test_what_cannot_be_written_leaves_nothing_behind(made, tmp_path, monkeypatch):
    def full(*_args):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(backup, "_write", full)
    with pytest.raises(StartError, match="No space left"):
        backup.backup([str(tmp_path / "b.tar"), "--data", str(made)])
    assert list(tmp_path.iterdir()) == []
    assert os.environ.get("MYSQL_PWD") is None
