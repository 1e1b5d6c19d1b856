"""What becomes of recordings while processes are killed and the disk is full.

`./run bench faults [--takes N] [--only kills|disk]`. The real application, its own API, short takes of the simulated
student. *Kills*: every few seconds one of its processes is killed, in turn, while they are sent and measured. *Disk*:
the store lies on a disk of a few megabytes (a memory disk: needs root) that fills up, and gets room later. A sender
does what the page does: it keeps its recording and its own id, and sends again what was not answered with 201. Counted
at the end: lost (answered 201 and not there), failed for good, stuck, doubled, files nobody knows.
"""

from __future__ import annotations

import argparse
import http.client
import json
import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.player.faults import Faults

from tests.browser.conftest import _flac
from tests.browser.running import ROOT, Running, start
from tests.kept import render

EMAIL, PASSWORD = "teacher@harbour.example", "three lamps and a rope"
EVERY_S = 5.0
# Between two recordings: so that some of each are on their way when something dies.
PAUSE_S = 0.5
PATIENCE_S = 900.0
DISK_MB = 40
UNFINISHED = {"received", "queued", "measuring"}


@dataclass
class Sender:
    """Somebody with a recorder: a session, and what became of each recording."""

    running: Running
    cookies: dict[str, str] = field(default_factory=dict)
    answers: Counter[int] = field(default_factory=Counter)

    def ask(self, method: str, path: str, body: bytes = b"", kind: str = "application/json") -> tuple[int, bytes]:
        """Status (0: nobody answered) and body."""
        connection = http.client.HTTPConnection("127.0.0.1", self.running.port, timeout=60)
        headers = {
            "Content-Type": kind,
            "Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items()),
            "X-CSRFToken": self.cookies.get("csrftoken", ""),
        }
        try:
            connection.request(method, path, body, headers)
            answer = connection.getresponse()
            content = answer.read()
        except (OSError, http.client.HTTPException):
            return 0, b""
        finally:
            connection.close()
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                key, _, rest = value.partition("=")
                self.cookies[key] = rest.split(";")[0]
        return answer.status, content

    def read(self, path: str) -> Any:
        """JSON of a page that is asked for until it answers."""
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until:
            status, content = self.ask("GET", path)
            if status in (200, 404):
                return json.loads(content) if status == 200 else None
            time.sleep(0.3)
        raise TimeoutError(path)

    def sign_in(self) -> None:
        self.ask("GET", "/")
        body = json.dumps({"email": EMAIL, "password": PASSWORD}).encode()
        status, content = self.ask("POST", "/_allauth/browser/v1/auth/login", body)
        assert status == 200, (status, content)

    def send(self, content: bytes, *, student: int, drill: int) -> str | None:
        """Its id once the server has said that it has it; None where it was not taken in the end."""
        key = str(uuid.uuid4())
        edge = uuid.uuid4().hex
        fields = {"student_id": student, "drill_id": drill, "id": key}
        parts = [
            f'--{edge}\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n{v}\r\n'.encode() for k, v in fields.items()
        ]
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="t.flac"\r\n'
        body = (
            b"".join(parts)
            + head.encode()
            + b"Content-Type: audio/flac\r\n\r\n"
            + content
            + f"\r\n--{edge}--\r\n".encode()
        )
        for _ in range(200):
            status, _said = self.ask("POST", "/api/v1/takes", body, f"multipart/form-data; boundary={edge}")
            self.answers[status] += 1
            if status == 201:
                return key
            if status == 507:
                return None
            time.sleep(0.5)
        return None


def prepared(running: Running) -> tuple[Sender, int, int]:
    """A studio with a student, and the drill that is played."""
    subprocess.run(
        [sys.executable, ROOT / "run", "manage", "--data", running.data, "create_teacher", "--email", EMAIL,
         "--name", "Ines", "--studio", "Harbour", "--password-stdin"],
        input=PASSWORD, text=True, check=True, capture_output=True,
    )  # fmt: skip
    sender = Sender(running)
    sender.sign_in()
    status, content = sender.ask("POST", "/api/v1/students", json.dumps({"name": "Oda"}).encode())
    assert status == 201, content
    drill = next(d for d in sender.read("/api/v1/drills") if d["title"] == "String 3: full bend at fret 7")
    return sender, json.loads(content)["id"], drill["id"]


def kills(running: Running, stop: threading.Event) -> Counter[str]:
    """Kill one process after the other until told to stop."""
    killed: Counter[str] = Counter()
    names = ("worker", "web", "redis", "front", "database")
    while not stop.wait(EVERY_S):
        name = names[killed.total() % len(names)]
        file = running.data / "mariadb.pid" if name == "database" else running.data / "run" / f"{name}.pid"
        try:
            os.kill(int(file.read_text()), signal.SIGKILL)
        except (OSError, ValueError):
            continue
        killed[name] += 1
    return killed


def settled(sender: Sender, keys: list[str]) -> Counter[str]:
    """States of takes once none is on its way; lost: those that are not there."""
    until = time.monotonic() + PATIENCE_S
    while True:
        states: Counter[str] = Counter()
        for key in keys:
            row = sender.read(f"/api/v1/takes/{key}")
            states["lost" if row is None else row["state"]] += 1
        if not any(states[s] for s in UNFINISHED) or time.monotonic() > until:
            return states
        time.sleep(2.0)


def row(name: str, sender: Sender, sent: int, keys: list[str], states: Counter[str], more: str) -> bool:
    """Print a row; whether all is as it should be."""
    there = len(sender.read("/api/v1/takes?limit=500") or [])
    stuck = sum(states[s] for s in UNFINISHED)
    print(
        f"| {name} | {sent} | {len(keys)} | {states['measured'] + states['refused']} | {states['lost']} | "
        f"{states['failed']} | {stuck} | {there - len(keys)} | {more} |",
        flush=True,
    )
    return not (states["lost"] or states["failed"] or stuck or there - len(keys))


def main() -> int:
    parser = argparse.ArgumentParser(prog="./run bench faults")
    parser.add_argument("--takes", type=int, default=100)
    parser.add_argument("--only", choices=("kills", "disk"))
    options = parser.parse_args()
    drill = fretted_then_bend(title="t", string=3, fret=7, repeats=1, bpm=120)
    content = _flac(render(drill, Faults())[0])
    print("| fault | sent | taken | measured | lost | failed for good | stuck | doubled | |")
    print("|---|---|---|---|---|---|---|---|---|")
    good = []
    if options.only != "disk":
        with tempfile.TemporaryDirectory(prefix="fortimetra-faults-") as folder:
            good.append(through_kills(Path(folder), content, options.takes))
    if options.only != "kills":
        with tempfile.TemporaryDirectory(prefix="fortimetra-faults-") as folder:
            good.append(through_a_full_disk(Path(folder), content, options.takes))
    return 0 if all(good) else 1


def through_kills(data: Path, content: bytes, takes: int) -> bool:
    running = start(data, "--empty")
    try:
        sender, student, drill = prepared(running)
        stop, killed = threading.Event(), Counter[str]()
        killer = threading.Thread(target=lambda: killed.update(kills(running, stop)), daemon=True)
        killer.start()
        sent = []
        for _ in range(takes):
            sent.append(sender.send(content, student=student, drill=drill))
            time.sleep(PAUSE_S)
        keys = [k for k in sent if k is not None]
        stop.set()
        killer.join()
        states = settled(sender, keys)
        told = ", ".join(f"{n} {name}" for name, n in killed.items())
        answers = ", ".join(f"{n} × {status or 'no answer'}" for status, n in sorted(sender.answers.items()))
        return row("kills", sender, takes, keys, states, f"killed: {told}; answers: {answers}")
    finally:
        running.stop()


def through_a_full_disk(data: Path, content: bytes, takes: int) -> bool:
    store = data / "media"
    store.mkdir(parents=True)
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m", "tmpfs", store], check=True)
    # What is kept free is more than this disk has.
    running = start(data, "--empty", environment={"FORTIMETRA_KEPT_FREE_MB": "2"})
    try:
        sender, student, drill = prepared(running)
        ballast = store / "ballast"
        ballast.write_bytes(b"\0" * ((DISK_MB - 6) * 1_000_000))
        sent = [sender.send(content, student=student, drill=drill) for _ in range(takes)]
        keys = [k for k in sent if k is not None]
        full = len(sent) - len(keys)
        ballast.unlink()
        states = settled(sender, keys)
        sent += [sender.send(content, student=student, drill=drill) for _ in range(3)]
        keys = [k for k in sent if k is not None]
        states = settled(sender, keys)
        found = subprocess.run(
            [sys.executable, ROOT / "run", "manage", "--data", data, "check_store"], capture_output=True, text=True
        ).stdout.strip()
        return row(
            "full disk",
            sender,
            takes + 3,
            keys,
            states,
            f"{full} refused with a sentence (507); {found.splitlines()[-1]}",
        )
    finally:
        running.stop()
        subprocess.run(["umount", store], check=False)


if __name__ == "__main__":
    sys.exit(main())
