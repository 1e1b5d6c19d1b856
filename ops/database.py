"""A private MariaDB server on loopback, with its data where the application's data is."""

from __future__ import annotations

import getpass
import os
import secrets
import shutil
import socket
import subprocess
import tempfile
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from ops.processes import spawn, stop_left_over
from ops.say import StartError, call

USER = "fortimetra"
DATABASE = "fortimetra"


# Below the ports the system gives to outgoing connections, so that none of those takes it before it is listened on.
PORTS = range(15_000, 32_000)
PORTS_TRIED = 3
PATIENCE_S = 240.0


def free_port() -> int:
    """A loopback port nobody listens on now. Another program may still take it: whoever listens looks whether it got
    it.
    """
    while True:
        port = secrets.choice(PORTS)
        with socket.socket() as s:
            s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                s.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port


@dataclass
class Database:
    """One server on one data directory. `throwaway` trades safety on power loss for speed (tests)."""

    folder: Path
    log: Path
    throwaway: bool = False

    def __post_init__(self) -> None:
        self.port = free_port()
        # A socket's path may have 107 characters at the most, a checkout's may have more.
        self.socket_folder = Path(tempfile.mkdtemp(prefix="fortimetra-db-"))
        self.socket = self.socket_folder / "s"
        # A server that begins clears its folder of temporary tables: in a shared one it takes another server's away.
        self.temporary = self.socket_folder / "tmp"
        self.temporary.mkdir()
        self.pid_file = self.folder.with_name(self.folder.name + ".pid")
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def secrets_file(self) -> Path:
        return self.folder.with_name(self.folder.name + ".password")

    def environment(self) -> dict[str, str]:
        """What the application needs to reach this server."""
        return {
            "FORTIMETRA_DB_HOST": "127.0.0.1",
            "FORTIMETRA_DB_PORT": str(self.port),
            "FORTIMETRA_DB_NAME": DATABASE,
            "FORTIMETRA_DB_USER": USER,
            "FORTIMETRA_DB_PASSWORD": self.secrets_file.read_text().strip(),
        }

    def start(self) -> None:
        """Create the data directory if there is none, start the server, wait until it answers."""
        stop_left_over(self.pid_file, marker=str(self.folder))
        fresh = not (self.folder / "mysql").is_dir()
        user = getpass.getuser()
        ready = self.folder.with_name(self.folder.name + ".ready")
        if fresh or not ready.exists():
            if self.folder.exists() and not ready.exists():
                shutil.rmtree(self.folder)  # a first set-up that was broken off: nothing of the user's is in it yet
            self.folder.parent.mkdir(parents=True, exist_ok=True)
            # The set-up script of MariaDB stumbles over spaces in a path; a link to the folder has none.
            link = self.socket_folder / "home"
            link.symlink_to(self.folder.parent)
            call(
                [
                    "mariadb-install-db",
                    "--no-defaults",
                    f"--datadir={link / self.folder.name}",
                    f"--user={user}",
                    f"--tmpdir={self.temporary}",
                    "--auth-root-authentication-method=normal",
                    "--skip-test-db",
                    "--skip-name-resolve",
                ],
                log=self.log,
                what="Could not create the database's data directory",
                do="look at the lines above; a full disk and a read-only folder are the usual reasons",
            )
            fresh = True
        fast = ["--innodb-flush-log-at-trx-commit=0", "--innodb-flush-method=nosync", "--skip-innodb-doublewrite",
                "--innodb-log-file-size=64M"] if self.throwaway else []  # fmt: skip
        for _ in range(PORTS_TRIED):
            self._run(user, fast)
            if self._answers() or not self._port_was_taken():
                break
            self.port = free_port()
        if not self._answers():
            raise StartError(
                f"The database server did not come up:\n    {self._tail()}",
                f"if it says that another process holds the data directory, end that process; whole log: {self.log}",
            )
        if fresh:
            self._first_set_up()
            ready.touch()

    def _run(self, user: str, fast: Sequence[str]) -> None:
        self.process = spawn(
            [
                "/usr/sbin/mariadbd",
                "--no-defaults",
                f"--user={user}",
                f"--datadir={self.folder}",
                f"--socket={self.socket}",
                f"--pid-file={self.socket_folder / 'pid'}",
                f"--tmpdir={self.temporary}",
                "--bind-address=127.0.0.1",
                f"--port={self.port}",
                "--character-set-server=utf8mb4",
                "--collation-server=utf8mb4_unicode_ci",
                "--skip-name-resolve",
                "--skip-log-bin",
                "--performance-schema=OFF",
                "--innodb-buffer-pool-size=128M",
                *fast,
            ],
            log=self.log,
            pid_file=self.pid_file,
        )

    def _answers(self) -> bool:
        """Wait until the server answers, or has ended."""
        deadline = time.monotonic() + PATIENCE_S
        assert self.process is not None
        while time.monotonic() < deadline and self.process.poll() is None:
            ping = subprocess.run(
                ["mariadb-admin", "--no-defaults", f"--socket={self.socket}", "-unobody", "ping"], capture_output=True
            )
            # "Access denied" is an answer too: the server is up and wants the password.
            if ping.returncode == 0 or b"Access denied" in ping.stderr:
                return True
            time.sleep(0.1)
        return False

    def _tail(self) -> str:
        return "\n    ".join(self.log.read_text(errors="replace").splitlines()[-6:])

    def _port_was_taken(self) -> bool:
        return "Address already in use" in self._tail()

    def _first_set_up(self) -> None:
        password, root = secrets.token_urlsafe(24), secrets.token_urlsafe(24)
        statements = f"""
            CREATE DATABASE `{DATABASE}`;
            CREATE USER '{USER}'@'127.0.0.1' IDENTIFIED BY '{password}';
            GRANT ALL ON `{DATABASE}`.* TO '{USER}'@'127.0.0.1';
            GRANT ALL ON `test\\_%`.* TO '{USER}'@'127.0.0.1';
            ALTER USER 'root'@'localhost' IDENTIFIED BY '{root}';
        """
        done = subprocess.run(
            ["mariadb", "--no-defaults", f"--socket={self.socket}", "-uroot"],
            input=statements.encode(),
            capture_output=True,
        )
        if done.returncode != 0:
            raise StartError(
                f"Could not set up the database: {done.stderr.decode(errors='replace').strip()}",
                f"delete {self.folder} if it holds nothing you need, and start again",
            )
        with os.fdopen(os.open(self.secrets_file, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
            file.write(password)

    def stop(self) -> None:
        """Shut the server down and wait until it is gone."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(30)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()
        self.pid_file.unlink(missing_ok=True)
        shutil.rmtree(self.socket_folder, ignore_errors=True)
