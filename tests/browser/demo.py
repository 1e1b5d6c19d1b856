"""The demo's data folder, loaded and measured once; every process of the browser's tests begins with a copy.

The days of the demo count back from today, and it depends on the code that loads and measures it: the folder kept is
that of this day and this code.
"""

from __future__ import annotations

import datetime as dt
import fcntl
import json
import shutil
import subprocess
import sys
import time
from pathlib import Path

from tests import kept
from tests.browser.running import ROOT, start

PATIENCE_S = 600.0
# One is of a day, and another checkout may be copying its own.
UNUSED_S = 2 * 86_400.0
# One process that asks again and again: each ./run manage brings the whole server along.
UNTIL_MEASURED = f"""
import json, time
from apps.takes.models import Take
until = time.monotonic() + {PATIENCE_S}
while set(states := list(Take.objects.values_list("state", flat=True))) - {{"measured"}} and time.monotonic() < until:
    time.sleep(0.5)
print(json.dumps(states))
"""


def _place() -> Path:
    server = sorted(p for p in (ROOT / "server").rglob("*.py"))
    ops = sorted((ROOT / "ops").glob("*.py"))
    day = dt.datetime.now(dt.UTC).date().isoformat()
    return kept.FOLDER / f"demo-{kept.digest(day, [p.read_bytes() for p in (*server, *ops)])}"


def until_measured(data: Path) -> list[str]:
    """The state of every take in the database of a running application once all are measured, or patience is over."""
    told = subprocess.run(
        [sys.executable, str(ROOT / "run"), "manage", "--data", str(data), "shell", "-v", "0", "-c", UNTIL_MEASURED],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    return json.loads(told.stdout.strip().splitlines()[-1])


def _make(place: Path) -> None:
    part = place.with_name(place.name + ".part")
    shutil.rmtree(part, ignore_errors=True)
    running = start(part)
    try:
        found = until_measured(part)
        assert set(found) == {"measured"}, f"the demo's takes are not measured: {found}"
    finally:
        assert running.stop() == 0
    part.replace(place)


def copy_to(data: Path) -> None:
    """Put the demo's data, with every take measured, into a folder that is not there yet."""
    place = _place()
    place.parent.mkdir(parents=True, exist_ok=True)
    with (kept.FOLDER / "demo.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not place.exists():
            _make(place)
            for old in kept.FOLDER.glob("demo-*"):
                if time.time() - old.stat().st_mtime > UNUSED_S:
                    shutil.rmtree(old)
    shutil.copytree(place, data)
