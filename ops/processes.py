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
    """End the process a killed run left behind, if the file's number still is that process (its command line has
    `marker`).
    """
    try:
        pid = int(pid_file.read_text())
        command = Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
    except (OSError, ValueError):
        pid_file.unlink(missing_ok=True)
        return
    if marker in command:
        _end(pid)
    pid_file.unlink(missing_ok=True)


def _end(pid: int) -> None:
    for sig, patience_s in ((signal.SIGTERM, PATIENCE_S), (signal.SIGKILL, 5.0)):
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, sig)
        deadline = time.monotonic() + patience_s
        while time.monotonic() < deadline:
            if not Path(f"/proc/{pid}").exists():
                return
            time.sleep(0.05)
