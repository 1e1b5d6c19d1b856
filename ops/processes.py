"""Child processes that end with us, and what is left of a run that was killed."""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

_PR_SET_PDEATHSIG = 1
PATIENCE_S = 30.0
_libc = ctypes.CDLL(None, use_errno=True)


def _end_with_parent() -> None:
    # Ctrl-C in the terminal is for the supervisor, which stops the others in order.
    os.setpgrp()
    _libc.prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


def spawn(
    arguments: Sequence[str | Path],
    *,
    log: Path,
    pid_file: Path | None = None,
    env: dict[str, str] | None = None,
    cwd: Path | None = None,
) -> subprocess.Popen[bytes]:
    """Start a program that gets SIGTERM when this process dies, however it dies."""
    log.parent.mkdir(parents=True, exist_ok=True)
    with log.open("ab") as out:
        process = subprocess.Popen(
            [str(a) for a in arguments],
            stdout=out,
            stderr=out,
            stdin=subprocess.DEVNULL,
            env=env,
            cwd=cwd,
            preexec_fn=_end_with_parent,
        )
    if pid_file is not None:
        pid_file.write_text(str(process.pid))
    return process


def stop_left_over(pid_file: Path, *, marker: str) -> None:
    """End what a killed run left behind of a process that was started here, with the children in its group: a master
    may be gone while its workers still hold its port. Only what has `marker` in its command line, for numbers come
    again.
    """
    try:
        group = int(pid_file.read_text())
    except (OSError, ValueError):
        pid_file.unlink(missing_ok=True)
        return
    for pid in _group(group, marker):
        _end(pid)
    pid_file.unlink(missing_ok=True)


def _group(group: int, marker: str) -> list[int]:
    """Processes of a group, the first first, whose command line has the marker."""
    found = []
    for proc in Path("/proc").glob("[0-9]*"):
        try:
            fields = (proc / "stat").read_text().rsplit(")", 1)[1].split()
            command = (proc / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
        except (OSError, IndexError):
            continue
        if (int(fields[2]) == group or int(proc.name) == group) and marker in command:
            found.append(int(proc.name))
    return sorted(found, key=lambda pid: pid != group)


def _end(pid: int) -> None:
    for sig, patience_s in ((signal.SIGTERM, PATIENCE_S), (signal.SIGKILL, 5.0)):
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, sig)
        deadline = time.monotonic() + patience_s
        while time.monotonic() < deadline:
            if not Path(f"/proc/{pid}").exists():
                return
            time.sleep(0.05)
