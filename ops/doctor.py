"""./run doctor: what stands in an installation's way, and what to do about it. It changes nothing."""

from __future__ import annotations

import argparse
import json
import os
import shutil
import socket
import stat
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from ops import front, setup
from ops.say import StartError, say
from ops.services import LOOPBACK_NAMES

LEAST_FREE_BYTES = 2_000_000_000
LEAST_TEMPORARY_BYTES = 2_000_000_000  # a quarter of an hour in stereo takes one
OLD_BACKUP = timedelta(days=8)
# Clocks of one machine and its database may differ by so much.
CLOCK_S = 2.0
MAIL_S = 5.0
SIGNS = {"good": "ok   ", "mind": "mind ", "wrong": "WRONG"}


@dataclass(frozen=True)
class Finding:
    """One thing that was looked at. how: good, mind (it works, but) or wrong; do: what to do about it."""

    how: str
    says: str
    do: str = ""


def doctor(arguments: Sequence[str]) -> int:
    """Look at everything; status 1 where something is wrong."""
    parser = argparse.ArgumentParser(prog="./run doctor")
    parser.add_argument("--data", type=Path, default=setup.VAR / "data")
    data = parser.parse_args(arguments).data.resolve()
    looks: tuple[Callable[[], Iterator[Finding]], ...] = (
        versions, lambda: folder(data), temporary, settings, mail, lambda: running(data), lambda: backups(data),
    )  # fmt: skip
    worst = 0
    for look in looks:
        for finding in look():
            say(f"{SIGNS[finding.how]} {finding.says}" + (f"\n      {finding.do}" if finding.do else ""))
            worst = max(worst, int(finding.how == "wrong"))
    return worst


def versions() -> Iterator[Finding]:
    """Python, Node, Debian's programs, what is installed and built."""
    yield Finding("good", f"Python {sys.version.split()[0]}")
    for program, package in (("mariadbd", "mariadb-server"), ("redis-server", "redis-server"), ("nginx", "nginx")):
        there = shutil.which(program) or any((Path(p) / program).exists() for p in ("/usr/sbin", "/usr/bin"))
        yield (
            Finding("good", program)
            if there
            else Finding("wrong", f"{program} is missing.", f"apt-get install {package}")
        )
    if not setup.PYTHON.exists():
        yield Finding("mind", "The Python packages are not installed yet.", "./run start installs them")
    if not (setup.WEB / "dist" / "index.html").exists():
        yield Finding("mind", "The page is not built yet.", "./run start builds it")


def folder(data: Path) -> Iterator[Finding]:
    """The data folder: there, of this account alone, with room."""
    if not data.exists():
        yield Finding(
            "mind", f"There is no data folder {data} yet.", "./run start makes it, or name another with --data"
        )
        return
    about = data.stat()
    if about.st_uid != os.getuid():
        yield Finding("wrong", f"{data} belongs to another account.", "run this as that account")
    if stat.S_IMODE(about.st_mode) & 0o077:
        yield Finding("wrong", f"Other accounts may look into {data}.", f"chmod 700 {data}")
    key = data / "secret_key"
    if key.exists() and stat.S_IMODE(key.stat().st_mode) & 0o077:
        yield Finding("wrong", "Other accounts may read the key that signs sessions.", f"chmod 600 {key}")
    free = shutil.disk_usage(data).free
    kept = int(os.environ.get("FORTIMETRA_KEPT_FREE_MB", "300")) * 1_000_000
    says = f"{free / 1e9:.1f} GB are free for {data}"
    if free < kept:
        yield Finding("wrong", f"{says}: recordings are refused.", "free some space")
    else:
        yield Finding("mind", f"{says}.", "free some space soon") if free < LEAST_FREE_BYTES else Finding("good", says)


def temporary() -> Iterator[Finding]:
    """Room for the files in which long takes lie while they are measured."""
    place = tempfile.gettempdir()
    free = shutil.disk_usage(place).free
    says = f"{free / 1e9:.1f} GB are free for temporary files in {place}"
    if free < LEAST_TEMPORARY_BYTES:
        yield Finding(
            "mind", f"{says}; long takes are then measured in memory, 1 GB each.", "free some space, or set TMPDIR"
        )
    else:
        yield Finding("good", says)


def settings() -> Iterator[Finding]:
    """What the environment says, where one setting needs another."""
    named = {name: os.environ.get(f"FORTIMETRA_{name}", "") for name in ("HOSTS", "PROXIES", "HTTPS", "ORIGINS")}
    if named["HTTPS"] not in {"", "0", "1"}:
        yield Finding("wrong", "FORTIMETRA_HTTPS is neither 0 nor 1.", "set 1 where the proxy speaks HTTPS")
    try:
        trusted = front.proxies(named["PROXIES"])
    except StartError as error:
        yield Finding("wrong", str(error), error.do)
        return
    hosts = {h.strip() for h in named["HOSTS"].split(",") if h.strip()} - set(LOOPBACK_NAMES)
    if named["HTTPS"] == "1" and not trusted:
        yield Finding(
            "wrong", "HTTPS is set, but no proxy is believed: every page would be sent to HTTPS for ever.",
            "name the proxy's address in FORTIMETRA_PROXIES",
        )  # fmt: skip
    if hosts and named["HTTPS"] != "1":
        yield Finding(
            "mind", f"{', '.join(sorted(hosts))}: passwords go unencrypted.",
            "put a proxy with a certificate before it (deploy/nginx), then FORTIMETRA_HTTPS=1",
        )  # fmt: skip
    for origin in (o.strip() for o in named["ORIGINS"].split(",") if o.strip()):
        if not origin.startswith(("https://", "http://")):
            yield Finding("wrong", f"{origin} in FORTIMETRA_ORIGINS has no scheme.", f"write https://{origin}")
    yield Finding("good", "settings" + (f" for {', '.join(sorted(hosts))}" if hosts else " for this machine alone"))


def mail() -> Iterator[Finding]:
    """The mail server, where one is set."""
    host = os.environ.get("FORTIMETRA_MAIL_HOST", "")
    if not host:
        yield Finding("mind", "No mail server is set: links are shown to the teacher instead.", "FORTIMETRA_MAIL_HOST")
        return
    port = int(os.environ.get("FORTIMETRA_MAIL_PORT", "587"))
    try:
        with socket.create_connection((host, port), timeout=MAIL_S):
            yield Finding("good", f"mail server {host}")
    except OSError as error:
        says = f"The mail server {host} does not answer on port {port}: {error}."
        yield Finding("wrong", says, "look at both, and at the way there")


def running(data: Path) -> Iterator[Finding]:
    """What the running application says of itself, by its own environment."""
    file = data / "run" / "environment"
    if not file.exists():
        yield Finding("mind", f"Nothing runs on {data}.", f"./run start --data {data}")
        return
    told = dict(line.split("=", 1) for line in file.read_text().splitlines())
    began = time.monotonic()
    try:
        done = subprocess.run(
            [str(setup.PYTHON), str(setup.ROOT / "server/manage.py"), "examine"], env=_environment(data, told),
            capture_output=True, text=True, timeout=120, check=False,
        )  # fmt: skip
        found = json.loads(done.stdout.splitlines()[-1])
    except (subprocess.TimeoutExpired, ValueError, IndexError, OSError):
        yield Finding("wrong", "The running application cannot be asked.", f"read the logs in {data / 'log'}")
        return
    for how, says, do in found["findings"]:
        yield Finding(how, says, do)
    apart_s = abs(datetime.fromisoformat(found["database_time"]).timestamp() - time.time())
    if apart_s > CLOCK_S + time.monotonic() - began:
        yield Finding("wrong", f"The database's clock is {apart_s:.0f} s off this machine's.", "set both by NTP")


def _environment(data: Path, told: dict[str, str]) -> dict[str, str]:
    own = {"PYTHONPATH": f"{setup.ROOT / 'server'}:{setup.ROOT}", "DJANGO_SETTINGS_MODULE": "config.settings"}
    return dict(os.environ) | told | own | {"FORTIMETRA_DATA": str(data)}


def backups(data: Path) -> Iterator[Finding]:
    """When the last backup was made."""
    if not data.exists():
        return
    try:
        told = json.loads((data / "last-backup.json").read_text())
        age = datetime.now(UTC) - datetime.fromisoformat(told["at"])
    except (OSError, ValueError, KeyError, TypeError):
        yield Finding("mind", "No backup was made yet.", "./run backup FILE; by itself every night: deploy/systemd")
        return
    says = f"the last backup is {age.days} days old" if age.days else "the last backup is of today"
    yield Finding("mind", f"{says}.", "./run backup FILE") if age > OLD_BACKUP else Finding("good", says)
