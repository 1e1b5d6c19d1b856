"""How measuring grows with worker hosts, and whether a host that dies or is cut off loses anything.

`./run bench scale [--takes 24] [--hosts 1 2]`. One database, one broker and one store on loopback; worker hosts are
celery processes of one child each, pinned to a core of their own as far as there are any. First each number of hosts
measures the same takes: takes an hour, and the share of what one host does times their number. Then, in the middle of
a batch, one host is killed (SIGKILL) and one is cut off (SIGSTOP, as a host whose network is gone: it comes back when
its claims have long been taken over): every take has to be measured, and what counts has to be one result.
"""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ops import setup
from ops.backup import client
from ops.database import DATABASE
from ops.services import SERVER, Stack

QUEUES = "quick,measure,batch"
PATIENCE_S = 900.0
LOOK_S = 0.5
STUDIO = """
from apps.people.services import create_studio, add_student
from apps.people.consents import Given
from apps.demo.studio import recording
from fortimetra import Drill
from fortimetra.player import Faults
teacher = create_studio(name="Scale", teacher_name="T", email="t@scale.example", password="a quiet mooring 7")
student = add_student(teacher, name="S", agreed=Given(by="student", way="word"))
drill = teacher.studio.drills.filter(family="alternate_picking").first()
sound = recording(Drill.model_validate(drill.current.content), Faults())
open("sound.flac", "wb").write(sound)
"""
RECEIVE = """
from apps.people.models import User, Student
from apps.drills.models import Drill
from apps.takes import services
from django.core.files.uploadedfile import SimpleUploadedFile
teacher, student = User.objects.get(email="t@scale.example"), Student.objects.get(name="S")
drill = Drill.objects.filter(studio=teacher.studio, family="alternate_picking").first()
sound = open({sound!r}, "rb").read()
for n in range({takes}):
    upload = SimpleUploadedFile(f"{{n}}.flac", sound)
    services.receive(teacher, student=student, drill=drill, upload=upload, invented=True)
"""
STATES = "SELECT state, COUNT(*) FROM takes_take GROUP BY state"
# What counts more than once, and what was kept beside it though another's claim had won.
TWICE = "SELECT COUNT(*) FROM (SELECT take_id FROM takes_analysis GROUP BY take_id HAVING COUNT(*) > 1) AS t"
FORGET = "from apps.takes.models import Take; Take.objects.update(current=None); Take.objects.all().delete()"


def shell(stack: Stack, code: str) -> str:
    """What a piece of Python says inside the application."""
    done = subprocess.run(
        [str(setup.PYTHON), str(SERVER / "manage.py"), "shell", "-v", "0", "-c", code], env=stack.environment(),
        capture_output=True, text=True, cwd=stack.data, check=False,
    )  # fmt: skip
    if done.returncode:
        raise RuntimeError(done.stderr[-2000:])
    return done.stdout


def asked(stack: Stack, statement: str) -> list[list[str]]:
    """Rows of the database; by its client, which costs next to nothing beside what is measured."""
    program, env = client(stack.database.environment(), "mariadb")
    done = subprocess.run(
        [*program, "-N", "-B", "-e", statement, DATABASE], env=env, capture_output=True, text=True, check=True
    )
    return [line.split("\t") for line in done.stdout.splitlines()]


def states(stack: Stack) -> dict[str, int]:
    """How many takes are in which state."""
    return {state: int(count) for state, count in asked(stack, STATES)}


def host(stack: Stack, number: int) -> subprocess.Popen[bytes]:
    """One worker host: a celery process of one child, on a core of its own."""
    core = number % (os.cpu_count() or 1)
    log = (stack.logs / f"host-{number}.log").open("ab")
    return subprocess.Popen(
        ["taskset", "-c", str(core), str(setup.PYTHON), "-m", "celery", "-A", "config", "worker", "--queues", QUEUES,
         "--hostname", f"host{number}@scale", "--concurrency", "1", "--loglevel", "INFO",
         "--without-gossip", "--without-mingle"],
        env=stack.environment(), cwd=stack.run, stdout=log, stderr=log, start_new_session=True,
    )  # fmt: skip


@contextmanager
def hosts(stack: Stack, count: int) -> Iterator[list[subprocess.Popen[bytes]]]:
    """So many of them, ready; all of them gone afterwards."""
    started = [host(stack, n) for n in range(count)]
    try:
        deadline = time.monotonic() + PATIENCE_S
        while not all(" ready." in (stack.logs / f"host-{n}.log").read_text() for n in range(count)):
            if time.monotonic() > deadline:
                raise RuntimeError("the worker hosts did not come up")
            time.sleep(LOOK_S)
        yield started
    finally:
        for process in started:
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGCONT)
                os.killpg(process.pid, signal.SIGKILL)
            process.wait()
        for log in stack.logs.glob("host-*.log"):
            log.unlink()


def until_measured(stack: Stack, takes: int) -> float:
    """Seconds until all are."""
    began = time.monotonic()
    while True:
        found = states(stack)
        if found == {"measured": takes}:
            return time.monotonic() - began
        if time.monotonic() - began > PATIENCE_S:
            raise RuntimeError(f"not measured: {found}")
        time.sleep(LOOK_S)


def growth(stack: Stack, counts: list[int], takes: int, sound: Path) -> None:
    """Takes an hour by number of hosts."""
    print("\n| worker hosts | takes an hour | of one host's, times their number |\n|---|---|---|")
    one = None
    for count in counts:
        with hosts(stack, count):
            shell(stack, RECEIVE.format(sound=str(sound), takes=1))
            until_measured(stack, 1)  # the first pays for what is loaded
            shell(stack, FORGET)
            shell(stack, RECEIVE.format(sound=str(sound), takes=takes))
            per_hour = 3600.0 * takes / until_measured(stack, takes)
        shell(stack, FORGET)
        one = one or per_hour / count
        print(f"| {count} | {per_hour:.0f} | {per_hour / (one * count):.2f} |", flush=True)


def loss(stack: Stack, takes: int, sound: Path) -> int:
    """Kill one host and cut one off in the middle of a batch; 1 where a take was lost or counted twice."""
    with hosts(stack, 3) as started:
        shell(stack, RECEIVE.format(sound=str(sound), takes=takes))
        while states(stack).get("measured", 0) < takes // 4:
            time.sleep(LOOK_S)
        os.killpg(started[0].pid, signal.SIGKILL)
        os.killpg(started[1].pid, signal.SIGSTOP)
        seconds = until_measured(stack, takes)
        os.killpg(started[1].pid, signal.SIGCONT)
        time.sleep(5.0)  # what it held it may still try to write
        found, twice = states(stack), int(asked(stack, TWICE)[0][0])
    whole = found == {"measured": takes} and twice == 0
    print(
        f"\nOne host killed, one cut off and back: {found}, all of them {seconds:.0f} s later; kept twice: {twice}. "
        + ("Nothing lost." if whole else "LOST OR COUNTED TWICE.")
    )
    return 0 if whole else 1


def main() -> int:
    """Print both."""
    parser = argparse.ArgumentParser(prog="./run bench scale")
    parser.add_argument("--takes", type=int, default=24)
    parser.add_argument("--hosts", type=int, nargs="+", default=[1, 2])
    options = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="fortimetra-scale-") as folder:
        stack = Stack(Path(folder) / "data", throwaway=True)
        try:
            stack.start_database()
            stack.start_broker()
            stack.prepare(demo=False)
            shell(stack, STUDIO)
            sound = stack.data / "sound.flac"
            growth(stack, options.hosts, options.takes, sound)
            return loss(stack, options.takes, sound)
        finally:
            stack.stop()


if __name__ == "__main__":
    sys.exit(main())
