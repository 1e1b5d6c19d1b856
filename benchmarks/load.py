"""How many people the server answers at once, and how soon. `./run bench load [--people 20] [--seconds 40]`.

The application runs as `./run start` does, on the demo with a crowd beside it (200 students, 20,000 takes); its worker
has nothing to do. People are threads of another process, each with a session of its own, who open the Desk and a sheet,
or as a student Today: first with a pause of two seconds between two pages, as people do, then without a
pause, ever more of them, until the slowest twentieth waits longer than a second. What asks runs on the same cores.
"""

from __future__ import annotations

import argparse
import gzip
import http.client
import json
import random
import sys
import tempfile
import threading
import time
from collections import defaultdict
from dataclasses import dataclass, field
from http.cookies import SimpleCookie
from pathlib import Path

import numpy as np

from benchmarks.pages import EMAIL, STUDENT, crowd
from tests.browser import demo
from tests.browser.running import Running, processes_of, start

AUTH = "/_allauth/browser/v1"
PASSWORD = "harbour-light-evening"
PAUSE_S = 2.0
# 95 % of the answers within these, ms: with pauses, and without.
MOST_MS, MOST_WITHOUT_PAUSE_MS = 250.0, 1000.0
STEP_S = 8.0
CROWDS = (1, 2, 4, 8, 16, 24, 32, 48)
PROCESSES = ("celery", "gunicorn", "mariadbd", "redis", "nginx")
# What a page asks for, by who opens it.
DESK = ("/takes/desk?limit=100", "/plans/proposals")


class Person:
    """Somebody signed in: one connection that stays open, and its cookies."""

    def __init__(self, port: int, email: str, *, password: str = PASSWORD, host: str = "127.0.0.1") -> None:
        self.origin = f"http://{host}:{port}"
        self.connection = http.client.HTTPConnection(host, port, timeout=60)
        self.cookies: dict[str, str] = {}
        self.get("/")  # the page comes with the token that a form has to show
        body = json.dumps({"email": email, "password": password}).encode()
        status, _ = self.ask("POST", f"{AUTH}/auth/login", body)
        if status != 200:
            raise RuntimeError(f"{email} cannot sign in: {status}")

    def get(self, path: str) -> bytes:
        """What an address answers.

        Raises RuntimeError for any other answer than 200.
        """
        status, content = self.ask("GET", path)
        if status != 200:
            raise RuntimeError(f"{path}: {status}")
        return content

    def ask(
        self, method: str, path: str, body: bytes | None = None, kind: str = "application/json"
    ) -> tuple[int, bytes]:
        """Status and content of an answer. Raises OSError where there is none."""
        headers = {"Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items()), "Accept-Encoding": "gzip"}
        if body is not None:
            headers |= {
                "Content-Type": kind, "X-CSRFToken": self.cookies.get("csrftoken", ""), "Origin": self.origin,
            }  # fmt: skip
        try:
            answer, content = self._once(method, path, body, headers)
        except (OSError, http.client.HTTPException):
            # A server ends connections that nobody uses; a browser opens another one.
            self.connection.close()
            try:
                answer, content = self._once(method, path, body, headers)
            except http.client.HTTPException as error:
                raise ConnectionError(str(error)) from error
        for line in answer.headers.get_all("Set-Cookie") or ():
            self.cookies |= {name: morsel.value for name, morsel in SimpleCookie(line).items()}
        packed = answer.headers.get("Content-Encoding") == "gzip"
        return answer.status, gzip.decompress(content) if packed else content

    def _once(
        self, method: str, path: str, body: bytes | None, headers: dict[str, str]
    ) -> tuple[http.client.HTTPResponse, bytes]:
        self.connection.request(method, path, body, headers)
        answer = self.connection.getresponse()
        return answer, answer.read()


@dataclass
class Waited:
    """How long people waited, ms, by page; what went wrong."""

    by_page: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    failed: list[str] = field(default_factory=list)

    def all_ms(self) -> np.ndarray:
        """Every page."""
        return np.array([ms for times in self.by_page.values() for ms in times])


def visit(person: Person, pages: dict[str, tuple[str, ...]], until: float, pause_s: float, waited: Waited) -> None:
    """Open one page after the other."""
    draw = random.Random(id(person))
    time.sleep(draw.uniform(0.0, pause_s))
    while time.monotonic() < until:
        name = draw.choice(list(pages))
        began = time.perf_counter()
        try:
            for path in pages[name]:
                person.get(f"/api/v1{path}")
        except (RuntimeError, OSError) as error:
            waited.failed.append(f"{name}: {error}")
            return
        waited.by_page[name].append(1000.0 * (time.perf_counter() - began))
        time.sleep(pause_s)


def together(
    people: list[tuple[Person, dict[str, tuple[str, ...]]]], seconds: float, pause_s: float
) -> tuple[Waited, float]:
    """All of them at once; how long they waited, and pages a second."""
    waited, until = Waited(), time.monotonic() + seconds
    threads = [threading.Thread(target=visit, args=(who, pages, until, pause_s, waited)) for who, pages in people]
    began = time.monotonic()
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return waited, len(waited.all_ms()) / (time.monotonic() - began)


def sheet_of(person: Person) -> tuple[str, ...]:
    """What a sheet asks for, of a measured take with sound."""
    rows = json.loads(person.get("/api/v1/takes?limit=500"))
    take = next(r for r in rows if r["state"] == "measured" and r["size_bytes"] > 1000)
    return f"/takes/{take['id']}", f"/takes/{take['id']}/analysis", f"/takes/{take['id']}/curves"


def memory(running: Running) -> None:
    """Print what each of its processes holds by itself (what others share with it counted in parts, PSS), MB."""
    print("\n## Memory, idle\n\n| process | shared counted in parts, MB | its own alone, MB |\n|---|---|---|")
    for line in processes_of(running.data):
        number, command = line.split(" ", 1)
        try:
            rows = dict(
                row.split(":", 1) for row in Path(f"/proc/{number}/smaps_rollup").read_text().splitlines()[1:]
            )  # fmt: skip
        except OSError:
            continue
        part, own = (
            sum(int(rows[name].split()[0]) for name in names) / 1024.0
            for names in (("Pss",), ("Private_Clean", "Private_Dirty"))
        )
        name = next((known for known in PROCESSES if known in command), command[:20])
        print(f"| {name} | {part:.0f} | {own:.0f} |")


def main() -> int:
    """Print the tables; 1 where a limit is passed."""
    parser = argparse.ArgumentParser(prog="./run bench load")
    parser.add_argument("--people", type=int, default=20)
    parser.add_argument("--seconds", type=float, default=40.0)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        demo.copy_to(data)
        running = start(data)
        try:
            crowd(running)
            memory(running)
            teacher = Person(running.port, EMAIL)
            pages = {"Desk": DESK, "sheet": sheet_of(teacher)}
            student = json.loads(Person(running.port, STUDENT).get("/api/v1/me"))["student_id"]
            today = (f"/plans/week?student_id={student}", f"/plans/log?student_id={student}&days=14")
            people = [
                (Person(running.port, STUDENT), {"Today": today})
                if number % 4 == 3
                else (Person(running.port, EMAIL), pages)
                for number in range(max(options.people, CROWDS[-1]))
            ]
            together(people[:4], 3.0, 0.0)  # what the first request loads is not counted
            return _told(people, options.people, options.seconds)
        finally:
            assert running.stop() == 0


def _told(people: list[tuple[Person, dict[str, tuple[str, ...]]]], count: int, seconds: float) -> int:
    waited, _ = together(people[:count], seconds, PAUSE_S)
    print(f"\n## {count} people, {PAUSE_S:g} s between two pages\n")
    print("| page | times | median, ms | 95 %, ms |\n|---|---|---|---|")
    for name, times in sorted(waited.by_page.items()):
        print(f"| {name} | {len(times)} | {np.median(times):.0f} | {np.percentile(times, 95):.0f} |")
    worst = float(np.percentile(waited.all_ms(), 95))
    print(f"| all | {len(waited.all_ms())} | {np.median(waited.all_ms()):.0f} | {worst:.0f} (at most {MOST_MS:.0f}) |")
    failed = list(waited.failed)
    print("\n## Without a pause\n\n| people | pages a second | requests a second | 95 %, ms |\n|---|---|---|---|")
    for crowd_of in CROWDS:
        waited, per_s = together(people[:crowd_of], STEP_S, 0.0)
        slow = float(np.percentile(waited.all_ms(), 95))
        asked = sum(
            len(times) * len(next(p for _, pages in people for n, p in pages.items() if n == name))
            for name, times in waited.by_page.items()
        )  # fmt: skip
        print(f"| {crowd_of} | {per_s:.0f} | {asked / STEP_S:.0f} | {slow:.0f} |", flush=True)
        failed += waited.failed
        if slow > MOST_WITHOUT_PAUSE_MS:
            break
    for line in failed[:5]:
        print(f"failed: {line}")
    return int(worst > MOST_MS or bool(failed))


if __name__ == "__main__":
    sys.exit(main())
