"""./run test: the tests, all of them or what is named, on all cores.

What computes and what drives a browser run beside each other, each in processes of its own: a browser mostly waits.
A database that is migrated already is kept in the account's cache and copied for each run.
"""

from __future__ import annotations

import fcntl
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from ops import setup
from ops.say import StartError, call, say, step
from ops.services import SERVER, Stack

PARTS = ("core", "server", "security", "reference", "ops", "browser", "checks", "web")
NEED_DATABASE = {"server", "security", "browser"}
# Of ops, the licences of all packages are asked.
NEED_FRONT_END = {"browser", "checks", "ops", "web"}
MOST_PROCESSES = 4
UNUSED_S = 7 * 86_400.0
BROWSERS = 2
# A file in one process, so that what it prepares serves all of its tests, in the order of tests/conftest.py. A process
# that crashes ends the run: what it had left would be waited for in vain.
SHARED_OUT = ("--dist", "loadfile", "--no-loadscope-reorder", "--max-worker-restart", "0")
# What a whole run tells of its slowest tests: the first to be looked at when it grew.
SLOWEST = ("--durations", "20", "--durations-min", "2")
# Shared by all checkouts of one account: what is kept is named by a digest of all that it depends on.
CACHE = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
KEPT = Path(os.environ.get("FORTIMETRA_KEPT") or CACHE / "fortimetra-tests")
# Databases of a run: one for a process alone, one for each of several.
TEST_DATABASES = ("test_fortimetra", *(f"test_fortimetra_gw{n}" for n in range(MOST_PROCESSES)))


@dataclass(frozen=True)
class Asked:
    """What a command line asks for. parts: as named, or those the paths lie in; paths and options go to pytest."""

    parts: tuple[str, ...]
    paths: tuple[str, ...] = ()
    options: tuple[str, ...] = ()
    web_files: tuple[str, ...] = field(default=())

    @property
    def whole(self) -> bool:
        """Whole parts, on all cores; otherwise a few tests in one process."""
        return not self.paths and not self.options and not self.web_files

    def needs(self, parts: set[str]) -> bool:
        """One of these is among what is asked."""
        return bool(parts & set(self.parts))


def asked(arguments: Sequence[str]) -> Asked:
    """Read a command line: names of parts, files (with ::names), files of the front end, options of pytest."""
    parts: list[str] = []
    paths: list[str] = []
    web: list[str] = []
    options: list[str] = []
    for argument in arguments:
        place = argument.split("::")[0]
        if argument in PARTS:
            parts.append(argument)
        elif not argument.startswith("-") and place.startswith("web/") and (setup.ROOT / place).exists():
            web.append(place.removeprefix("web/"))
        elif not argument.startswith("-") and place.startswith("tests") and (setup.ROOT / place).exists():
            paths.append(argument)
            parts.append(Path(place).parts[1] if len(Path(place).parts) > 1 else "core")
        else:
            options.append(argument)
    if web:
        parts.append("web")
    return Asked(tuple(dict.fromkeys(parts)) or PARTS, tuple(paths), tuple(options), tuple(web))


def test(arguments: Sequence[str]) -> int:
    """Everything, or what is named. Exit status: the worst of what ran."""
    wanted = asked(arguments)
    setup.debian(setup.SERVER_PACKAGES | setup.TEST_PACKAGES)
    setup.python(tests=True)
    env = os.environ | setup.ONE_THREAD | {"NUMBA_CACHE_DIR": setup.compiled(), "FORTIMETRA_KEPT": str(KEPT)}
    # Compiling keeps one core busy: what else has to be there is made beside it.
    with ThreadPoolExecutor(1) as beside:
        stamp = Path(env["NUMBA_CACHE_DIR"]) / "stamp"
        compiling = beside.submit(_compile, env, stamp) if wanted.whole and not stamp.exists() else None
        if wanted.needs(NEED_FRONT_END):
            setup.front_end(build=wanted.needs({"browser"}))
        template = migrated() if wanted.needs(NEED_DATABASE) else None
        if compiling is not None:
            with step("compiled parts"):
                compiling.result()
    status = 0
    if wanted.web_files:
        status = subprocess.run(["npx", "--no-install", "vitest", "run", *wanted.web_files], cwd=setup.WEB).returncode
        if not wanted.paths:
            return status
    if template is None:
        return max(status, _run(wanted, env))
    with (
        tempfile.TemporaryDirectory(prefix="fortimetra-test-", dir=_memory_folder()) as folder,
        test_data(folder, template) as data,
    ):
        return max(status, _run(wanted, env | data))


def _compile(env: dict[str, str], stamp: Path) -> None:
    """Have the core's compiled parts made once, not by every process that begins at the same moment."""
    stamp.parent.mkdir(parents=True, exist_ok=True)
    call(
        [setup.PYTHON, "-c", "from fortimetra.warm_up import warm_up; warm_up()"],
        log=setup.LOGS / "compiled.log",
        what="Could not compile the measuring",
        do="read var/log/compiled.log",
        env=env,
    )
    stamp.touch()


def _run(wanted: Asked, env: dict[str, str]) -> int:
    # The front end's own unit tests are one of the checks.
    parts = [p for p in wanted.parts if p != "web" or "checks" not in wanted.parts]
    own = list(wanted.paths) or [_folder(part) for part in parts]
    reuse = ["--reuse-db"] if wanted.needs(NEED_DATABASE) else []
    if not wanted.whole:
        return _pytest([*own, *wanted.options, *reuse], env).wait()
    browser = [p for p in own if p == "tests/browser"]
    rest = [p for p in own if p not in browser]
    processes = min(os.cpu_count() or 1, MOST_PROCESSES)
    began = time.monotonic()
    # The browser's part is told when the rest has been: two reports at once cannot be read.
    with tempfile.TemporaryFile("w+") as told:
        beside = _pytest([*browser, "-n", str(BROWSERS), *SHARED_OUT, *SLOWEST], env, out=told) if browser else None
        computing = _pytest([*rest, "-n", str(processes), *SHARED_OUT, *SLOWEST, *reuse], env) if rest else None
        statuses = [] if computing is None else [computing.wait()]
        if beside is not None:
            if computing is not None:
                say(f"\nThe browser's tests, which ran beside these ({time.monotonic() - began:.0f} s so far) …")
            statuses.append(beside.wait())
            told.seek(0)
            shutil.copyfileobj(told, sys.stdout)
            sys.stdout.flush()
    say(f"Tests: {time.monotonic() - began:.0f} s.")
    return max(statuses)


def _folder(part: str) -> str:
    # "web" is the front end's own unit tests; they run as one of the checks.
    return "tests/checks/test_web.py" if part == "web" else f"tests/{part}"


def _pytest(arguments: Sequence[str], env: dict[str, str], *, out: object = None) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [setup.PYTHON, "-m", "pytest", *arguments],
        cwd=setup.ROOT,
        env=env,
        stdout=out,
        stderr=subprocess.STDOUT if out else None,
    )  # type: ignore[call-overload]


@contextmanager
def test_data(folder: str, template: Path) -> Iterator[dict[str, str]]:
    """A database server on a copy of the migrated databases, and a broker; their addresses."""
    stack = Stack(Path(folder), throwaway=True)
    for name in ("mariadb", "mariadb.ready", "mariadb.password"):
        source = template / name
        if source.is_dir():
            shutil.copytree(source, stack.data / name)
        else:
            shutil.copy2(source, stack.data / name)
    try:
        stack.start_database()
        stack.start_broker()
        yield stack.environment() | {"FORTIMETRA_TEST_LOGS": str(setup.VAR / "test-log"), "FORTIMETRA_FRONT": ""}
    finally:
        stack.stop()


def migrated() -> Path:
    """A data folder whose test databases have every table; made where migrations or packages have changed since."""
    sources = [
        *(SERVER / "apps").rglob("migrations/*.py"),
        setup.ROOT / "requirements" / "app.txt",
        SERVER / "config" / "settings.py",
        Path(__file__),
    ]
    place = KEPT / f"database-{setup.digest(sources)[:20]}"
    KEPT.mkdir(parents=True, exist_ok=True)
    with (KEPT / "database.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not place.exists():
            with step("test databases"):
                part = place.with_name(place.name + ".part")
                shutil.rmtree(part, ignore_errors=True)
                _migrate(part)
                part.rename(place)
        os.utime(place)
        for old in KEPT.glob("database-*"):
            if time.time() - old.stat().st_mtime > UNUSED_S:
                shutil.rmtree(old)
    return place


def _migrate(place: Path) -> None:
    stack = Stack(place, throwaway=True)
    log = stack.logs / "manage.log"
    try:
        stack.start_database()
        env = stack.environment() | {"FORTIMETRA_REDIS_SOCKET": ""}
        client = [
            "mariadb",
            "--no-defaults",
            "-h127.0.0.1",
            f"-P{stack.database.port}",
            f"-u{env['FORTIMETRA_DB_USER']}",
        ]
        env["MYSQL_PWD"] = env["FORTIMETRA_DB_PASSWORD"]
        what, do = "Could not prepare the test databases", f"read {log}"
        first, *others = TEST_DATABASES
        for name in TEST_DATABASES:
            statement = f"CREATE DATABASE {name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"
            call([*client, "-e", statement], log=log, what=what, do=do, env=env)
        call(
            [setup.PYTHON, SERVER / "manage.py", "migrate", "--verbosity", "0"],
            log=log, what=what, do=do, env=env | {"FORTIMETRA_DB_NAME": first},
        )  # fmt: skip
        dump = subprocess.run(
            ["mariadb-dump", *client[1:], "--skip-lock-tables", first], env=env, capture_output=True, check=False
        )
        if dump.returncode:
            raise StartError(f"{what}: {dump.stderr.decode(errors='replace').strip()}", do)
        for name in others:
            subprocess.run([*client, name], env=env, input=dump.stdout, check=True)
    finally:
        stack.stop()


def _memory_folder() -> str | None:
    memory = Path("/dev/shm")  # noqa: S108 - a private folder is made in it
    return str(memory) if memory.is_dir() and shutil.disk_usage(memory).free > 2_000_000_000 else None
