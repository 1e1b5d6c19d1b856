"""The application's processes on one machine: database, broker, worker, web server and what stands before it. Started
in order, stopped in reverse.
"""

from __future__ import annotations

import contextlib
import fcntl
import http.client
import os
import secrets
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from types import FrameType
from typing import IO

from ops import front
from ops.database import Database
from ops.processes import spawn, stop_left_over
from ops.say import StartError, call, say, step, warn
from ops.setup import ONE_THREAD, PYTHON, ROOT, VENV, compiled

SERVER = ROOT / "server"
# How long a process that is alive may take to answer: a busy machine takes its time.
PATIENCE_S = 240.0
LOOK_EVERY_S = 0.3
LONG_LOG_BYTES = 20_000_000
LETTERS_S = 30 * 86_400.0
RESTARTS_S = (0.5, 1.0, 2.0, 5.0, 10.0, 30.0)
RESTART_FORGOTTEN_S = 120.0
LOGS = {"database": "mariadb.log"}
LOOPBACK = {"127.0.0.1", "localhost", "::1"}
LOOPBACK_NAMES = ("127.0.0.1", "localhost", "[::1]")
# Any of these says that others reach this server by a name or through something else.
REACHED_BY_OTHERS = ("FORTIMETRA_HOSTS", "FORTIMETRA_ORIGINS", "FORTIMETRA_PROXIES", "FORTIMETRA_HTTPS")


@dataclass
class Restart:
    """How often a process has ended lately, and when it is due again."""

    times: int = 0
    ended_at: float = 0.0
    due_at: float | None = None

    def runs(self, now: float) -> None:
        """It is there; one that has been for long has ended for the last time long ago."""
        if self.times and now - self.ended_at > RESTART_FORGOTTEN_S:
            self.times = 0

    def ended(self, now: float) -> float:
        """It ended: after how long it is due."""
        pause_s = RESTARTS_S[min(self.times, len(RESTARTS_S) - 1)]
        self.times, self.ended_at, self.due_at = self.times + 1, now, now + pause_s
        return pause_s


@dataclass
class Stack:
    """Everything that runs for one data directory."""

    data: Path
    host: str = "127.0.0.1"
    port: int = 8420
    throwaway: bool = False
    extra_env: dict[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.data.mkdir(parents=True, exist_ok=True)
        self.run = self.data / "run"
        self.logs = self.data / "log"
        for folder in (self.run, self.logs):
            folder.mkdir(exist_ok=True)
        for folder in (self.data, self.run, self.logs, self.data / "mail"):
            if folder.is_dir():
                # Recordings, letters and addresses of minors: of no other account of this machine.
                folder.chmod(0o700)
        self.database = Database(self.run.parent / "mariadb", self.logs / "mariadb.log", self.throwaway)
        self.processes: dict[str, subprocess.Popen[bytes]] = {}
        self._lock: IO[str] | None = None

    @cached_property
    def counted(self) -> Path:
        """Where the processes of this run count together; what the last run counted is over."""
        folder = self.run / "counted"
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir()
        return folder

    @cached_property
    def sockets(self) -> Path:
        """Folder of this run's sockets, where only this account gets in. A socket's path may have 107 characters at the
        most, a checkout's may have more.
        """
        return Path(tempfile.mkdtemp(prefix="fortimetra-run-"))

    def _tidy(self) -> None:
        """Logs begin anew when they are long, one old one is kept; letters nobody fetched go."""
        for log in self.logs.glob("*.log"):
            if log.stat().st_size > LONG_LOG_BYTES:
                log.replace(log.with_suffix(".log.old"))
        for letter in (self.data / "mail").glob("*"):
            if time.time() - letter.stat().st_mtime > LETTERS_S:
                letter.unlink()

    # -- one run per data directory ------------------------------------------------------------

    def claim(self) -> None:
        """Hold the data directory for this run, or say who has it."""
        try:
            lock = (self.run / "lock").open("a+")
        except OSError as error:
            raise StartError(
                f"Cannot use the data folder {self.data}: {self.run / 'lock'}: {error.strerror}.",
                "it may belong to another account; name another folder with --data",
            ) from error
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.seek(0)
            raise StartError(
                f"Fortimetra is already running on {self.data} ({lock.read().strip() or 'address unknown'}).",
                "use that one, stop it with Ctrl-C in its terminal, or name another folder with --data",
            ) from None
        lock.truncate(0)
        lock.write(f"http://{self.host}:{self.port}/ process {os.getpid()}")
        lock.flush()
        self._lock = lock
        self._tidy()

    @property
    def environment_file(self) -> Path:
        """Where ./run manage finds how to reach the running database."""
        return self.run / "environment"

    def check_port(self) -> None:
        """Say so before anything is started if the web address is taken."""
        family = socket.AF_INET6 if ":" in self.host else socket.AF_INET
        with socket.socket(family) as s:
            s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                s.bind((self.host, self.port))
            except OSError as error:
                raise StartError(
                    f"Cannot listen on {self.host} port {self.port}: {error.strerror}.",
                    f"choose another port, for example: ./run start --port {self.port + 1}",
                ) from error

    @property
    def named_hosts(self) -> list[str]:
        """What FORTIMETRA_HOSTS names: under which names this server is reached."""
        return [h.strip() for h in os.environ.get("FORTIMETRA_HOSTS", "").split(",") if h.strip()]

    @property
    def reached_by_others(self) -> bool:
        """Whether anybody but this machine's people gets to see a sign-in page."""
        return self.host not in LOOPBACK or any(os.environ.get(name) for name in REACHED_BY_OTHERS)

    # -- the parts -----------------------------------------------------------------------------

    def environment(self) -> dict[str, str]:
        """The environment of every process of the application."""
        key = self.data / "secret_key"
        if not key.exists():
            with os.fdopen(os.open(key, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
                file.write(secrets.token_urlsafe(48))
        return (
            dict(os.environ)
            | self.database.environment()
            | {
                "PATH": f"{VENV / 'bin'}:{os.environ.get('PATH', '')}",
                "PYTHONPATH": f"{SERVER}:{ROOT}",
                "DJANGO_SETTINGS_MODULE": "config.settings",
                "FORTIMETRA_SECRET_KEY": key.read_text(),
                "FORTIMETRA_DATA": str(self.data),
                "FORTIMETRA_REDIS_SOCKET": str(self.sockets / "redis"),
                "FORTIMETRA_HOSTS": ",".join(sorted({self.host, *LOOPBACK_NAMES, *self.named_hosts})),
                "FORTIMETRA_FRONT": "1",
                "PROMETHEUS_MULTIPROC_DIR": str(self.counted),
                "NUMBA_CACHE_DIR": compiled(),
            }
            | ONE_THREAD
            | self.extra_env
        )

    def _spawn(self, name: str, arguments: list[str | Path], *, marker: str) -> None:
        pid_file = self.run / f"{name}.pid"
        stop_left_over(pid_file, marker=marker)
        env = None if name in {"redis", "front"} else self.environment()
        self.processes[name] = spawn(arguments, log=self.logs / f"{name}.log", pid_file=pid_file, env=env, cwd=self.run)

    def start_database(self) -> None:
        """MariaDB."""
        self.database.start()
        assert self.database.process is not None
        self.processes["database"] = self.database.process

    def _write_environment(self) -> None:
        """For ./run manage, once all ports are known."""
        kept = {k: v for k, v in self.environment().items() if k.startswith("FORTIMETRA_")}
        with os.fdopen(os.open(self.environment_file, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.writelines(f"{k}={v}\n" for k, v in kept.items())

    def start_broker(self) -> None:
        """Redis: wakes workers; holds nothing that would be missed. Only this account reaches it."""
        path = self.sockets / "redis"
        path.unlink(missing_ok=True)
        self._spawn(
            "redis",
            ["redis-server", "--port", "0", "--unixsocket", path, "--unixsocketperm", "600", "--save", "",
             "--appendonly", "no", "--dir", self.run],
            marker="redis-server",
        )  # fmt: skip
        if not self._broker_answers(path):
            raise StartError("The message broker (redis-server) did not come up.", f"see {self.logs / 'redis.log'}")
        self._write_environment()

    def _broker_answers(self, path: Path) -> bool:
        """Wait until it answers; False where it ended."""
        deadline = time.monotonic() + PATIENCE_S
        while time.monotonic() < deadline and self.processes["redis"].poll() is None:
            with contextlib.suppress(OSError), socket.socket(socket.AF_UNIX) as s:
                s.settimeout(1.0)
                s.connect(str(path))
                s.sendall(b"PING\r\n")
                if s.recv(64).startswith(b"+PONG"):
                    return True
            time.sleep(0.05)
        return False

    def start_worker(self) -> None:
        """Celery: one process that measures per core; their parent queues again what was lost."""
        cores = os.cpu_count() or 1
        self._spawn(
            "worker",
            [PYTHON, "-m", "celery", "-A", "config", "worker",
             "--concurrency", str(max(1, min(cores, 4))), "--without-gossip", "--without-mingle",
             "--loglevel", "INFO", "-Q", "quick,measure,batch"],
            marker="celery",
        )  # fmt: skip

    def start_web(self) -> None:
        """gunicorn, behind which Django serves the API and the built page."""
        path = self.sockets / "web"
        path.unlink(missing_ok=True)
        self._spawn(
            "web",
            [PYTHON, "-m", "gunicorn", "config.wsgi", "--bind", f"unix:{path}", "--umask", "077", "--workers", "2",
             "--threads", "4", "--timeout", "120", "--preload", "--worker-tmp-dir", self.run],
            marker="gunicorn",
        )  # fmt: skip

    def until_it_answers(self) -> None:
        """Wait until a page can be opened."""
        host = "127.0.0.1" if self.host == "0.0.0.0" else self.host  # noqa: S104 - compared, not bound
        deadline = time.monotonic() + PATIENCE_S
        while time.monotonic() < deadline and all(self.processes[n].poll() is None for n in ("web", "front")):
            try:
                connection = http.client.HTTPConnection(host, self.port, timeout=10)
                connection.request("GET", "/api/v1/health", headers={"Host": "localhost"})
                if connection.getresponse().status == 200:
                    return
            except (OSError, http.client.HTTPException):
                pass
            time.sleep(0.1)
        raise StartError(
            "The web server did not come up.", f"read the ends of {self.logs / 'web.log'} and {self.logs / 'front.log'}"
        )

    def start_front(self) -> None:
        """nginx, which takes requests in and passes them on whole."""
        folder = self.run / "front"
        folder.mkdir(exist_ok=True)
        text = front.configuration(
            bind=f"[{self.host}]:{self.port}" if ":" in self.host else f"{self.host}:{self.port}",
            application=self.sockets / "web",
            folder=folder,
            log=self.logs / "front.log",
            media=self.data / "media",
            upload_bytes=int(os.environ.get("FORTIMETRA_UPLOAD_MAX_MB", "100")) * 1_000_000,
            archive_bytes=int(os.environ.get("FORTIMETRA_ARCHIVE_MAX_MB", "2000")) * 1_000_000,
            trusted=front.proxies(os.environ.get("FORTIMETRA_PROXIES", "")),
        )
        written = folder / "nginx.conf"
        written.write_text(text)
        self._spawn("front", [front.NGINX, "-e", self.logs / "front.log", "-c", written], marker="nginx")

    def manage(self, *arguments: str, what: str, do: str = "read the lines above") -> None:
        """A Django management command."""
        call(
            [PYTHON, SERVER / "manage.py", *arguments],
            log=self.logs / "manage.log",
            what=what,
            do=do,
            env=self.environment(),
        )

    def prepare(self, *, demo: bool) -> None:
        """Tables, static files, and the demo data once."""
        with step("database tables" + (", demo data" if demo else "")):
            self.manage("prepare", *(["--demo"] if demo else []), what="Could not prepare the database")

    # -- the run -------------------------------------------------------------------------------

    def supervise(self) -> int:
        """Wait for Ctrl-C, and start again what ends by itself: at once, then in longer steps while it keeps ending."""
        steps = {name: Restart() for name in self.processes}
        try:
            say("Ctrl-C stops it.")
            while True:
                for name, step_of in steps.items():
                    self._look_after(name, step_of)
                time.sleep(LOOK_EVERY_S)
        except KeyboardInterrupt:
            say("\nStopping …")
            return 0

    def _look_after(self, name: str, step_of: Restart) -> None:
        status = self.processes[name].poll()
        now = time.monotonic()
        if status is None:
            step_of.runs(now)
            return
        if step_of.due_at is None:
            pause_s = step_of.ended(now)
            warn(
                f"the {name} process ended by itself (status {status}); it is started again"
                + (f" in {pause_s:g} s" if pause_s else "")
                + f". No recording is lost. Its log: {self.logs / LOGS.get(name, name + '.log')}"
            )
        if now < (step_of.due_at or 0.0):
            return
        step_of.due_at = None
        try:
            self._start_again(name)
        except StartError as error:
            warn(f"{name} did not start again: {error}")

    def _start_again(self, name: str) -> None:
        if name == "database":
            port = self.database.port
            self.start_database()
            if self.database.port != port:  # somebody took it meanwhile: who knows the old one begins anew
                self._write_environment()
                self.start_worker()
                self.start_web()
            return
        {"redis": self.start_broker, "worker": self.start_worker, "web": self.start_web, "front": self.start_front}[
            name
        ]()

    def stop(self) -> None:
        """Web first, so that nothing new comes in; the database last."""
        previous = [signal.signal(s, signal.SIG_IGN) for s in (signal.SIGINT, signal.SIGTERM)]
        for name in ("front", "web", "worker", "redis"):
            process = self.processes.get(name)
            if process is not None and process.poll() is None:
                process.terminate()
                try:
                    process.wait(20)
                except subprocess.TimeoutExpired:
                    os.killpg(process.pid, signal.SIGKILL)
                    process.wait()
            (self.run / f"{name}.pid").unlink(missing_ok=True)
        self.database.stop()
        self.environment_file.unlink(missing_ok=True)
        shutil.rmtree(self.sockets, ignore_errors=True)
        for s, handler in zip((signal.SIGINT, signal.SIGTERM), previous, strict=True):
            signal.signal(s, handler)
        if self._lock is not None:
            self._lock.truncate(0)
            self._lock.close()


def interrupt_on_term() -> None:
    """A polite kill is a Ctrl-C. And so is a Ctrl-C where a shell started this in the background, which ignores it."""

    def handler(_number: int, _frame: FrameType | None) -> None:
        raise KeyboardInterrupt

    signal.signal(signal.SIGINT, handler)
    signal.signal(signal.SIGTERM, handler)
    signal.signal(signal.SIGHUP, handler)
