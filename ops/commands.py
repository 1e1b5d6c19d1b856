"""The commands of ./run."""

from __future__ import annotations

import argparse
import os
import shutil
import socket
import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import NoReturn

from ops import say as saying
from ops import setup
from ops.backup import backup, restore
from ops.doctor import doctor
from ops.licences import licences
from ops.say import StartError, report, say, step
from ops.services import SERVER, Stack, interrupt_on_term
from ops.testing import migrated, test, test_data
from ops.upgrade import upgrade

# Benchmarks that run the server's tests.
NEED_DATABASE = {"mutations"}
SHOW_PAGES = {"pages", "load", "spread"}


def main(arguments: Sequence[str], *, usage: str) -> int:
    """Dispatch; a known failure becomes a sentence and exit status 1."""
    name, rest = (arguments[0], list(arguments[1:])) if arguments else ("help", [])
    commands = {
        "start": start,
        "test": test,
        "check": lambda rest: test(["checks", "web", *rest]),
        "bench": bench,
        "analyse": lambda rest: tool("analyse", rest),
        "batch": lambda rest: tool("batch", rest),
        "play": lambda rest: tool("play", rest),
        "convert": lambda rest: tool("convert", rest),
        "python": python,
        "manage": manage,
        "schema": schema,
        "lock": lock,
        "licences": licences,
        "backup": backup,
        "restore": restore,
        "doctor": doctor,
        "upgrade": upgrade,
    }
    if name not in commands:
        print(usage.strip())
        return 0 if name in {"help", "-h", "--help"} else 2
    # Where this is set, each process would compile half of its packages anew: five seconds before it does anything.
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    try:
        return commands[name](rest)
    except StartError as error:
        return report(error)
    except KeyboardInterrupt:
        return 130


def start(arguments: Sequence[str]) -> int:
    """Set up what is missing, start everything, wait for Ctrl-C."""
    parser = argparse.ArgumentParser(prog="./run start")
    parser.add_argument("--port", type=int, default=8420, help="web port (default 8420)")
    parser.add_argument("--host", default="127.0.0.1", help="address to listen on (default 127.0.0.1)")
    parser.add_argument("--empty", action="store_true", help="without the demo data")
    parser.add_argument("--data", type=Path, default=setup.VAR / "data", help="folder for everything that is kept")
    options = parser.parse_args(arguments)
    if not 1 <= options.port <= 65535:
        parser.error(f"--port {options.port} is no port; use a number from 1024 to 65535")

    interrupt_on_term()
    # Whatever is written from here on is this account's alone.
    os.umask(0o077)
    try:
        options.data.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise StartError(
            f"Cannot use the data folder {options.data}: {error.strerror}.", "name another with --data"
        ) from error
    if shutil.disk_usage(options.data).free < 300_000_000:
        raise StartError(
            f"Less than 300 MB are free on the disk of {options.data}.",
            "free some space, or name another folder with --data",
        )
    stack = Stack(options.data.resolve(), options.host, options.port)
    say("Fortimetra")
    stack.claim()
    stack.check_port()
    setup.debian(setup.SERVER_PACKAGES)
    setup.python()
    setup.front_end()
    try:
        with step("database server"):
            stack.start_database()
        stack.start_broker()
        stack.prepare(demo=not options.empty)
        if stack.reached_by_others:
            stack.manage(
                "check_exposure",
                what="Fortimetra does not open itself to others",
                do="remove what the lines above name, or start for this machine alone: without --host and without "
                "FORTIMETRA_HOSTS, ORIGINS, PROXIES and HTTPS",
            )
        with step("worker and web server"):
            stack.start_worker()
            stack.start_web()
            stack.start_front()
            stack.until_it_answers()
        say(f"\nFortimetra is at  http://{options.host}:{options.port}/")
        say(_sign_in_hint(options.data, empty=options.empty))
        return stack.supervise()
    except KeyboardInterrupt:
        say("\nStopping …")
        return 130
    finally:
        stack.stop()


def _sign_in_hint(data: Path, *, empty: bool) -> str:
    hint = data / "run" / "sign_in.txt"
    if hint.exists():
        return hint.read_text().strip()
    if empty:
        return "No account yet? In another terminal: ./run manage create_teacher"
    return ""


def bench(arguments: Sequence[str]) -> int:
    """Benchmarks print tables; they need the packages of the tests. Options go to the one benchmark that is named."""
    folder = setup.ROOT / "benchmarks"
    known = sorted(f.stem for f in folder.glob("*.py") if not f.stem.startswith("_"))
    first = next((i for i, a in enumerate(arguments) if a.startswith("-")), len(arguments))
    names, options = arguments[:first], arguments[first:]
    unknown = set(names) - set(known)
    if unknown:
        raise StartError(f"There is no benchmark {', '.join(sorted(unknown))}.", f"choose from: {', '.join(known)}")
    setup.debian(setup.SERVER_PACKAGES | setup.TEST_PACKAGES)
    setup.bench_python()
    setup.front_end(build=not names or bool(SHOW_PAGES & set(names)))

    def run(name: str, env: dict[str, str]) -> int:
        return subprocess.run([setup.PYTHON, "-m", f"benchmarks.{name}", *options], cwd=setup.ROOT, env=env).returncode

    statuses = []
    for name in names or known:
        if name in NEED_DATABASE:
            with tempfile.TemporaryDirectory(prefix="fortimetra-bench-") as data, test_data(data, migrated()) as env:
                statuses.append(run(name, _tool_environment() | env))
        else:
            statuses.append(run(name, _tool_environment()))
    return max(statuses)


def _tool_environment() -> dict[str, str]:
    return (
        setup.ONE_THREAD
        | dict(os.environ)
        | {
            "NUMBA_CACHE_DIR": setup.compiled(),
            "PYTHONPATH": f"{SERVER}:{setup.ROOT}",
            "DJANGO_SETTINGS_MODULE": "config.settings",
        }
    )


def _quiet_python() -> None:
    # What these commands print is somebody else's input.
    saying.quiet = True
    setup.python()


def tool(name: str, arguments: Sequence[str]) -> NoReturn:
    """The command-line tool, after the set-up of the Python part alone."""
    _quiet_python()
    program = setup.VENV / "bin" / "fortimetra"
    os.execve(program, [str(program), name, *arguments], _tool_environment())  # noqa: S606


def python(arguments: Sequence[str]) -> NoReturn:
    """The project's interpreter."""
    _quiet_python()
    os.execve(setup.PYTHON, [str(setup.PYTHON), *arguments], _tool_environment())  # noqa: S606


def manage(arguments: Sequence[str]) -> int:
    """A management command on the default data folder, beside a running application or on its own."""
    parser = argparse.ArgumentParser(prog="./run manage", add_help=False)
    parser.add_argument("--data", type=Path, default=setup.VAR / "data")
    options, rest = parser.parse_known_args(arguments)
    _quiet_python()
    running = options.data / "run" / "environment"
    if not running.exists():
        raise StartError(
            f"Fortimetra does not run on {options.data}.", "start it first (./run start), then use a second terminal"
        )
    own = dict(line.split("=", 1) for line in running.read_text().splitlines() if "=" in line)
    database = own.get("FORTIMETRA_DB_HOST", ""), int(own.get("FORTIMETRA_DB_PORT", "0"))
    try:
        socket.create_connection(database, timeout=5.0).close()
    except OSError:
        raise StartError(
            f"Fortimetra on {options.data} is just being stopped, or was cut off.",
            "wait until its terminal is free again, then start it (./run start)",
        ) from None
    return subprocess.run([setup.PYTHON, SERVER / "manage.py", *rest], env=_tool_environment() | own).returncode


def schema(_arguments: Sequence[str]) -> int:
    """Everything that is generated: JSON Schemas, the page of the library, openapi.json, the client's types."""
    setup.python(tests=True)
    setup.front_end(build=False)
    env = _tool_environment() | {"FORTIMETRA_DATA": str(setup.VAR / "schema")}
    for command in (
        [str(setup.PYTHON), "-m", "fortimetra.cli", "schemas", "docs/formats"],
        [str(setup.PYTHON), "-m", "fortimetra.cli", "library", "docs/drills.md"],
        [str(setup.PYTHON), "-m", "fortimetra.cli", "settings", "docs/settings.md"],
        [str(setup.PYTHON), "server/manage.py", "write_openapi", "web/openapi.json"],
    ):
        if status := subprocess.run(command, cwd=setup.ROOT, env=env).returncode:
            return status
    return subprocess.run(["npm", "run", "--silent", "types"], cwd=setup.WEB).returncode


def lock(_arguments: Sequence[str]) -> int:
    """Resolve requirements/*.in into hashed files that name no host."""
    setup.python(tests=True)
    uv = setup.VAR / "uv"
    folder = setup.ROOT / "requirements"
    base = [
        str(uv),
        "pip",
        "compile",
        "-q",
        "--generate-hashes",
        "--no-header",
        "--no-config",
        "--python-version",
        "3.11",
    ]
    # aubio says what it needs only to a builder that has numpy: that of the environment, with what builds packages.
    setup.bench_python()
    here = ["--no-build-isolation", "--python", str(setup.PYTHON)]
    for name, extra in (
        ("bootstrap", []),
        ("build", []),
        ("app", []),
        ("test", ["-c", "app.txt"]),
        ("bench", ["-c", "test.txt", *here]),
    ):
        subprocess.run([*base, *extra, f"{name}.in", "-o", f"{name}.txt"], cwd=folder, check=True)
    return 0
