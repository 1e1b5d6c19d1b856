"""./run backup and ./run restore: everything of an installation in one file, by open formats.

The file is a tar: manifest.json (what it is of), database.sql.gz (mariadb-dump, one consistent view), media/… as it
lies in the store, and digests.json last (SHA-256 of each member before it). With a passphrase that tar lies in an
OpenPGP message by GnuPG (AES-256). The database is dumped before files are read: files are never changed, so every
file a row of the dump names is there, but for those that were deleted while the backup was made.

Not in it: the key that signs sessions (everybody signs in again) and previews, which are made anew.
"""

from __future__ import annotations

import argparse
import datetime as dt
import hashlib
import io
import json
import os
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any

from ops import setup
from ops.say import StartError, say, step
from ops.services import Stack

FORMAT, VERSION = "fortimetra-backup", 1
LEFT_OUT = ("previews",)
CHUNK = 1 << 20
PATTERN = "fortimetra-%Y-%m-%d-%H%M%S.tar"
ENCRYPTED = ".gpg"
BROKEN = "fetch the file again, or take an earlier backup; nothing was changed"


def backup(arguments: Sequence[str]) -> int:
    """Write a backup, of a running installation or one that stands still."""
    parser = argparse.ArgumentParser(prog="./run backup")
    parser.add_argument("file", type=Path, help="the file to write; with --keep a folder that gets one a time")
    parser.add_argument("--data", type=Path, default=setup.VAR / "data")
    parser.add_argument("--passphrase-file", type=Path, help="encrypt it with the first line of this file")
    parser.add_argument("--keep", type=int, help="write into a folder, and keep so many there")
    options = parser.parse_args(arguments)
    data = options.data.resolve()
    if not (data / "mariadb").is_dir():
        raise StartError(f"There is nothing in {data} to be kept.", "name the data folder with --data")
    target: Path = options.file
    if options.keep is not None:
        if options.keep < 1:
            parser.error("--keep takes 1 or more")
        target.mkdir(parents=True, exist_ok=True)
        target = target / f"{dt.datetime.now():{PATTERN}}"
    if options.passphrase_file is not None and target.suffix != ENCRYPTED:
        target = target.with_name(target.name + ENCRYPTED)
    if target.exists():
        raise StartError(f"{target} is there already.", "name another file, or delete that one")
    part = target.with_name(target.name + ".part")
    try:
        with _database(data) as environment, _sink(part, options.passphrase_file) as out:
            _write(out, data, environment)
        part.replace(target)
    except OSError as error:
        raise StartError(
            f"The backup could not be written: {error.strerror or error}.", "free some space, or name another place"
        ) from error
    finally:
        part.unlink(missing_ok=True)
    _record(data, target, encrypted=options.passphrase_file is not None)
    if options.keep is not None:
        _tidy(target.parent, options.keep)
    say(f"{target}: {target.stat().st_size / 1e6:.1f} MB")
    return 0


@contextmanager
def _database(data: Path) -> Iterator[dict[str, str]]:
    """How to reach the database: the running one, or one that is started for this."""
    stack = Stack(data)
    try:
        stack.claim()
    except StartError:
        shutil.rmtree(stack.database.socket_folder, ignore_errors=True)
        if not stack.environment_file.exists():
            raise StartError("It is being started, or stopped.", "try again in a moment") from None
        yield dict(line.split("=", 1) for line in stack.environment_file.read_text().splitlines())
        return
    try:
        stack.start_database()
        yield stack.database.environment()
    finally:
        stack.stop()


@contextmanager
def _sink(path: Path, passphrase: Path | None) -> Iterator[IO[bytes]]:
    """Where the tar goes: a file of this account alone, through GnuPG where there is a passphrase."""
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
        if passphrase is None:
            yield out
            return
        with _gnupg(passphrase, ["--symmetric", "--cipher-algo", "AES256"], stdin=subprocess.PIPE, stdout=out) as run:
            assert run.stdin is not None
            yield run.stdin


@contextmanager
def _gnupg(passphrase: Path, what: Sequence[str], **pipes: Any) -> Iterator[subprocess.Popen[bytes]]:
    if shutil.which("gpg") is None:
        raise StartError("Encrypted backups need GnuPG.", "apt-get install gnupg")
    if not passphrase.is_file() or not passphrase.read_text().strip():
        raise StartError(f"There is no passphrase in {passphrase}.", "write one into its first line")
    with tempfile.TemporaryDirectory(prefix="fortimetra-gpg-") as home, tempfile.TemporaryFile() as errors:
        run = subprocess.Popen(
            ["gpg", "--homedir", home, "--batch", "--quiet", "--no-options", "--pinentry-mode", "loopback",
             "--passphrase-file", str(passphrase), *what],
            stderr=errors, **pipes,
        )  # fmt: skip
        try:
            yield run
            if run.stdin is not None:
                run.stdin.close()
            if run.wait():
                errors.seek(0)
                says = errors.read().decode(errors="replace").strip().splitlines()
                raise StartError(f"GnuPG: {says[-1] if says else 'it failed'}.", "look at the passphrase and the disk")
        finally:
            if run.poll() is None:
                run.kill()
                run.wait()
            subprocess.run(["gpgconf", "--homedir", home, "--kill", "all"], capture_output=True, check=False)


class _Read(io.RawIOBase):
    """A file whose bytes are digested as they are read."""

    def __init__(self, source: IO[bytes]) -> None:
        self.source, self.total = source, hashlib.sha256()

    def read(self, size: int = -1) -> bytes:
        chunk = self.source.read(size)
        self.total.update(chunk)
        return chunk


def _write(out: IO[bytes], data: Path, environment: dict[str, str]) -> None:
    digests: dict[str, str] = {}
    with tarfile.open(fileobj=out, mode="w|") as tar, tempfile.TemporaryFile() as dump:

        def add(name: str, source: IO[bytes], size: int, mtime: float) -> None:
            member = tarfile.TarInfo(name)
            member.size, member.mtime, member.mode = size, int(mtime), 0o600
            read = _Read(source)
            tar.addfile(member, read)
            digests[name] = read.total.hexdigest()

        with step("database"):
            _dump(environment, dump)
        manifest = {
            "format": FORMAT, "version": VERSION, "made_at": dt.datetime.now(dt.UTC).isoformat(timespec="seconds"),
            "core": _core_version(),
        }  # fmt: skip
        text = json.dumps(manifest, indent=1).encode()
        add("manifest.json", io.BytesIO(text), len(text), dt.datetime.now().timestamp())
        size = dump.seek(0, io.SEEK_END)
        dump.seek(0)
        add("database.sql.gz", dump, size, dt.datetime.now().timestamp())
        with step("recordings and results"):
            for path in _files(data / "media"):
                try:
                    source = path.open("rb")
                except FileNotFoundError:
                    continue  # deleted meanwhile
                with source:
                    about = os.fstat(source.fileno())
                    add(f"media/{path.relative_to(data / 'media')}", source, about.st_size, about.st_mtime)
        text = json.dumps(digests, indent=1).encode()
        add("digests.json", io.BytesIO(text), len(text), dt.datetime.now().timestamp())


def _files(media: Path) -> Iterator[Path]:
    for path in sorted(media.rglob("*")):
        if path.is_file() and path.relative_to(media).parts[0] not in LEFT_OUT:
            yield path


def client(environment: dict[str, str], program: str) -> tuple[list[str], dict[str, str]]:
    """A client program of MariaDB with how to reach the server; the password is in its environment, not in a list of
    processes.
    """
    arguments = [
        program, "--no-defaults", f"-h{environment['FORTIMETRA_DB_HOST']}", f"-P{environment['FORTIMETRA_DB_PORT']}",
        f"-u{environment['FORTIMETRA_DB_USER']}",
    ]  # fmt: skip
    return arguments, dict(os.environ) | {"MYSQL_PWD": environment["FORTIMETRA_DB_PASSWORD"]}


def _dump(environment: dict[str, str], out: IO[bytes]) -> None:
    program, env = client(environment, "mariadb-dump")
    arguments = [*program, "--single-transaction", "--quick", "--skip-lock-tables", "--hex-blob", "--skip-dump-date",
                 environment["FORTIMETRA_DB_NAME"]]  # fmt: skip
    with tempfile.TemporaryFile() as errors:
        dump = subprocess.Popen(arguments, env=env, stdout=subprocess.PIPE, stderr=errors)
        pack = subprocess.run(["gzip", "-n"], stdin=dump.stdout, stdout=out, check=False)
        if dump.wait() or pack.returncode:
            errors.seek(0)
            raise StartError(
                f"The database could not be read: {errors.read().decode(errors='replace').strip()}.",
                "see that it runs, then try again",
            )


def _core_version() -> str:
    told: dict[str, str] = {}
    exec((setup.ROOT / "core/fortimetra/version.py").read_text(), told)  # noqa: S102 - a file of ours with one line
    return told["__version__"]


def _record(data: Path, target: Path, *, encrypted: bool) -> None:
    """What the page of the server and its metrics say of the last backup."""
    told = {
        "at": dt.datetime.now(dt.UTC).isoformat(timespec="seconds"), "file": str(target),
        "bytes": target.stat().st_size, "encrypted": encrypted,
    }  # fmt: skip
    part = data / "last-backup.json.part"
    part.write_text(json.dumps(told))
    part.replace(data / "last-backup.json")


def _tidy(folder: Path, keep: int) -> None:
    """Only files of our own names go, the oldest first."""
    for old in sorted(folder.glob("fortimetra-????-??-??-??????.tar*"))[:-keep]:
        old.unlink()


# -- restore -------------------------------------------------------------------------------------------------------


def restore(arguments: Sequence[str]) -> int:
    """Put a backup into a data folder where nothing is."""
    parser = argparse.ArgumentParser(prog="./run restore")
    parser.add_argument("file", type=Path)
    parser.add_argument("--data", type=Path, default=setup.VAR / "data")
    parser.add_argument("--passphrase-file", type=Path)
    options = parser.parse_args(arguments)
    data = options.data.resolve()
    if data.exists() and any(data.iterdir()):
        raise StartError(f"There is something in {data} already.", "name an empty folder with --data")
    if not options.file.is_file():
        raise StartError(f"There is no file {options.file}.", "name the backup")
    setup.debian(setup.SERVER_PACKAGES)
    part = data.with_name(data.name + ".restoring")
    shutil.rmtree(part, ignore_errors=True)
    part.mkdir(parents=True, mode=0o700)
    try:
        with step("files"):
            manifest = _unpacked(options.file, options.passphrase_file, part)
        with step("database"):
            _load(part)
        if data.exists():
            data.rmdir()
        part.rename(data)
    finally:
        shutil.rmtree(part, ignore_errors=True)
    say(f"Restored what was kept on {manifest['made_at']} into {data}.")
    say(f"Start it with ./run start --data {data}; everybody signs in anew.")
    return 0


def _unpacked(file: Path, passphrase: Path | None, into: Path) -> dict[str, Any]:
    """Every member where it belongs, each checked by its digest; the manifest.

    Raises StartError for what is no backup, or not whole.
    """
    with file.open("rb") as source:
        if passphrase is None:
            return _members(source, into)
        with _gnupg(passphrase, ["--decrypt"], stdin=source, stdout=subprocess.PIPE) as run:
            assert run.stdout is not None
            return _members(run.stdout, into)


def _members(source: IO[bytes], into: Path) -> dict[str, Any]:
    digests: dict[str, str] = {}
    last: dict[str, str] = {}
    try:
        with tarfile.open(fileobj=source, mode="r|") as tar:
            for member in tar:
                content = tar.extractfile(member)
                if content is None or not member.isreg():
                    raise StartError(f"{member.name} in this backup is no file.", BROKEN)
                if member.name == "digests.json":
                    last = json.loads(content.read(64 * CHUNK))
                    continue
                place = _place(member.name, into)
                place.parent.mkdir(parents=True, exist_ok=True)
                read = _Read(content)
                with os.fdopen(os.open(place, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
                    shutil.copyfileobj(read, out, CHUNK)
                digests[member.name] = read.total.hexdigest()
    except (tarfile.TarError, EOFError, ValueError, UnicodeDecodeError) as error:
        raise StartError("This is no backup of Fortimetra, or not a whole one.", BROKEN) from error
    if last != digests:
        raise StartError("This backup is not whole: what is in it is not what was put in.", BROKEN)
    manifest: dict[str, Any] = json.loads((into / "manifest.json").read_text()) if "manifest.json" in last else {}
    if manifest.get("format") != FORMAT or manifest.get("version") != VERSION:
        raise StartError("This is no backup of Fortimetra, or one of a newer release.", BROKEN)
    (into / "manifest.json").unlink()
    return manifest


def _place(name: str, into: Path) -> Path:
    """Where a member goes. Raises StartError for a name that leads elsewhere."""
    parts = Path(name).parts
    known = name in {"manifest.json", "database.sql.gz"} or (len(parts) > 1 and parts[0] == "media")
    if not known or ".." in parts or Path(name).is_absolute():
        raise StartError(f"{name[:80]} does not belong into a backup.", BROKEN)
    return into / name


def _load(data: Path) -> None:
    stack = Stack(data)
    stack.claim()
    try:
        stack.start_database()
        environment = stack.database.environment()
        program, env = client(environment, "mariadb")
        with (data / "database.sql.gz").open("rb") as packed:
            unpack = subprocess.Popen(["gzip", "-dc"], stdin=packed, stdout=subprocess.PIPE)
            done = subprocess.run(
                [*program, environment["FORTIMETRA_DB_NAME"]], env=env, stdin=unpack.stdout, capture_output=True,
                check=False,
            )  # fmt: skip
        if unpack.wait() or done.returncode:
            raise StartError(
                f"The database of this backup could not be read: {done.stderr.decode(errors='replace').strip()}", BROKEN
            )
        (data / "database.sql.gz").unlink()
    finally:
        stack.stop()
