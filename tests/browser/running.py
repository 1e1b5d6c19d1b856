"""The application as ./run start runs it: real database, broker, worker and web server."""

from __future__ import annotations

import http.client
import os
import signal
import subprocess
import sys
import time
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from ops.database import free_port

ROOT = Path(__file__).parents[2]


@dataclass
class Running:
    """One run of ./run start; `began_s` is how long it took to be ready."""

    process: subprocess.Popen[str]
    port: int
    data: Path
    began_s: float
    printed: str

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def stop(self, *, number: int = signal.SIGINT) -> int:
        self.process.send_signal(number)
        return self.process.wait(300)


def start(
    data: Path,
    *arguments: str,
    port: int | None = None,
    timeout_s: float = 900.0,
    environment: Mapping[str, str] | None = None,
) -> Running:
    """Start on a data folder of its own and wait until it says that it is there."""
    port = port or free_port()
    env = {k: v for k, v in os.environ.items() if not k.startswith(("FORTIMETRA_", "DJANGO_"))}
    env |= environment or {}
    began = time.monotonic()
    process = subprocess.Popen(
        [sys.executable, str(ROOT / "run"), "start", "--data", str(data), "--port", str(port), *arguments],
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env=env, cwd="/",
    )  # fmt: skip
    assert process.stdout is not None
    printed = ""
    while time.monotonic() - began < timeout_s:
        line = process.stdout.readline()
        printed += line
        if "Ctrl-C" in line:
            return Running(process, port, data, time.monotonic() - began, printed)
        if not line and process.poll() is not None:
            break
    process.kill()
    raise AssertionError(f"./run start did not come up:\n{printed}")


def fails(data: Path, *arguments: str) -> tuple[int, str]:
    """Exit status and output of a start that is expected to fail."""
    done = subprocess.run(
        [sys.executable, str(ROOT / "run"), "start", "--data", str(data), *arguments],
        capture_output=True, text=True, timeout=600, cwd="/",
    )  # fmt: skip
    return done.returncode, done.stdout + done.stderr


def processes_of(data: Path) -> list[str]:
    """Command lines of processes whose command line or working folder lies in the data folder."""
    found = []
    for proc in Path("/proc").glob("[0-9]*"):
        try:
            command = (proc / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
            folder = str((proc / "cwd").readlink())
        except OSError:
            continue
        if command and "run start" not in command and (str(data) in command or folder.startswith(str(data))):
            found.append(f"{proc.name} {command}")
    return found


def status_of(url: str, path: str) -> int:
    connection = http.client.HTTPConnection(url.removeprefix("http://"), timeout=120)
    connection.request("GET", path)
    return connection.getresponse().status
