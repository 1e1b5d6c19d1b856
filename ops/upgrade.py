"""./run upgrade: a new release in the place of the old one, while pages are served.

The release itself is taken by whoever looks after the server (git pull, or unpacked over the old one). Then, in this
order: a backup; packages and the page; workers stop politely; the tables are changed; web processes are replaced one by
one; workers start. Between the tables and the web processes the release before still answers: what it does not find in
a table any more is dropped by the release after this one (`server/config/columns.py`).
"""

from __future__ import annotations

import argparse
import datetime as dt
import http.client
import os
import socket
import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

from ops import setup
from ops.backup import backup
from ops.say import StartError, say, step

WORKERS = "fortimetra-worker@*.service"
SHIPPED = [WORKERS.replace("*", queue) for queue in ("quick", "measure", "batch")]
WEB = "fortimetra-web.service"
ENVIRONMENT = Path("/etc/fortimetra/environment")
SOCKET = Path("/run/fortimetra/web")
READY_S = 120.0


def upgrade(arguments: Sequence[str]) -> int:
    """Bring an installation to this release."""
    parser = argparse.ArgumentParser(prog="./run upgrade")
    parser.add_argument("--data", type=Path, default=setup.VAR / "data")
    parser.add_argument("--backup", type=Path, help="file of the backup that is made first (default: beside the data)")
    parser.add_argument("--no-backup", action="store_true", help="there is one already")
    parser.add_argument("--systemd", action="store_true", help="a server of its own, with the units of deploy/systemd")
    parser.add_argument("--environment", type=Path, default=ENVIRONMENT, help="its settings")
    parser.add_argument("--socket", type=Path, default=SOCKET, help="where its web processes listen")
    options = parser.parse_args(arguments)
    settings = environment(options.environment) if options.systemd else {}
    data = Path(settings.get("FORTIMETRA_DATA", options.data)).resolve()
    if not options.no_backup and not options.systemd:
        kept = options.backup or data.parent / f"before-upgrade-{dt.datetime.now():%Y-%m-%d-%H%M%S}.tar"
        backup([str(kept), "--data", str(data)])
    elif not options.no_backup:
        call(["systemctl", "start", "fortimetra-backup.service"], what="The backup failed")
    setup.python()
    setup.front_end()
    if not options.systemd:
        say("This release is ready. Stop what runs with Ctrl-C; ./run start changes the tables and starts it.")
        return 0
    workers = running_workers()
    with step("workers stop"):
        call(["systemctl", "stop", WORKERS], what="The workers did not stop")
    try:
        with step("tables"):
            manage(["migrate", "--no-input", "--verbosity", "0"], settings)
        with step("web processes"):
            call(["systemctl", "reload", WEB], what="The web processes were not replaced")
            until_ready(options.socket, settings)
    finally:
        # Also where something went wrong: what was received is measured, by whichever release the tables are of.
        with step("workers start"):
            call(["systemctl", "start", *workers], what="No worker started")
    return 0


def environment(file: Path) -> dict[str, str]:
    """The settings of a server, as systemd reads them."""
    try:
        lines = file.read_text().splitlines()
    except OSError as error:
        raise StartError(f"{file} cannot be read: {error.strerror}.", "name it with --environment, as root") from error
    return dict(line.split("=", 1) for line in lines if "=" in line and not line.lstrip().startswith("#"))


def running_workers() -> list[str]:
    """The workers of this host: those that run, else those it is shipped with."""
    told = call(["systemctl", "list-units", "--plain", "--no-legend", "--state=active", WORKERS], what="No units")
    return [line.split()[0] for line in told.splitlines() if line.strip()] or SHIPPED


def call(arguments: Sequence[str], *, what: str) -> str:
    """A program of the system's; what it prints."""
    done = subprocess.run(arguments, capture_output=True, text=True, check=False)
    if done.returncode:
        raise StartError(f"{what}: {(done.stderr or done.stdout).strip()}", f"{' '.join(arguments)}, then look at it")
    return done.stdout


def manage(arguments: Sequence[str], settings: dict[str, str]) -> None:
    """A management command of this release with a server's settings."""
    own = {"PYTHONPATH": f"{setup.ROOT / 'server'}:{setup.ROOT}", "DJANGO_SETTINGS_MODULE": "config.settings"}
    done = subprocess.run(
        [str(setup.PYTHON), str(setup.ROOT / "server" / "manage.py"), *arguments],
        env=dict(os.environ) | settings | own, capture_output=True, text=True, check=False,
    )  # fmt: skip
    if done.returncode:
        last = (done.stderr.strip().splitlines() or ["it ended"])[-1]
        raise StartError(f"manage.py {arguments[0]}: {last}", "the release before still serves; mend it and call again")


class _Socket(http.client.HTTPConnection):
    """HTTP on a socket of this machine."""

    def __init__(self, path: Path) -> None:
        super().__init__("localhost", timeout=10)
        self.path = path

    def connect(self) -> None:
        self.sock = socket.socket(socket.AF_UNIX)
        self.sock.settimeout(self.timeout)
        self.sock.connect(str(self.path))


def until_ready(path: Path, settings: dict[str, str]) -> None:
    """Wait until the web processes say that they can do their work."""
    host = (settings.get("FORTIMETRA_HOSTS", "").split(",") or ["localhost"])[0] or "localhost"
    deadline = time.monotonic() + READY_S
    says = "they do not answer"
    while time.monotonic() < deadline:
        try:
            connection = _Socket(path)
            connection.request("GET", "/-/ready", headers={"Host": host, "X-Forwarded-Proto": "https"})
            answer = connection.getresponse()
            says = answer.read().decode(errors="replace")
            if answer.status == 200:
                return
        except (OSError, http.client.HTTPException) as error:
            says = str(error)
        time.sleep(0.2)
    raise StartError(f"The web processes are not ready: {says}", f"journalctl -u {WEB}")
