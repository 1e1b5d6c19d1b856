"""Processes of one data folder: who holds it, what a killed run left behind, ports that are taken meanwhile."""

import fcntl
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

from ops import database, processes, services, testing
from ops.say import StartError
from ops.services import Stack

SLEEPER = "import time; print('ready', flush=True); time.sleep(600)"
STUBBORN = "import signal; signal.signal(signal.SIGTERM, signal.SIG_IGN); " + SLEEPER


def sleeper(code=SLEEPER, *arguments):
    """A process that does nothing, once it runs."""
    process = subprocess.Popen([sys.executable, "-c", code, *arguments], stdout=subprocess.PIPE, text=True)
    assert process.stdout.readline() == "ready\n"
    return process


@pytest.fixture
def pid_file(tmp_path):
    return tmp_path / "x.pid"


def test_what_a_killed_run_left_is_ended(pid_file):
    left = sleeper(SLEEPER, "marker-of-ours")
    # Nobody's child: as after the parent was killed. A zombie of ours would still have a number.
    pid_file.write_text(str(left.pid))
    reaper = _reaped(left)
    processes.stop_left_over(pid_file, marker="marker-of-ours")
    assert reaper() == -signal.SIGTERM
    assert not pid_file.exists()


def test_a_number_that_is_somebody_elses_by_now_is_left_alone(pid_file):
    other = sleeper()
    try:
        pid_file.write_text(str(other.pid))
        processes.stop_left_over(pid_file, marker="marker-of-ours")
        assert other.poll() is None
        assert not pid_file.exists()
    finally:
        other.kill()
        other.wait()


@pytest.mark.parametrize("content", ["", "no number", "999999999"])
def test_a_file_that_names_no_process_is_removed(pid_file, content):
    pid_file.write_text(content)
    processes.stop_left_over(pid_file, marker="python")
    assert not pid_file.exists()


def test_one_that_does_not_end_when_asked_is_killed(pid_file, monkeypatch):
    monkeypatch.setattr(processes, "PATIENCE_S", 0.2)
    left = sleeper(STUBBORN, "marker-of-ours")
    pid_file.write_text(str(left.pid))
    reaper = _reaped(left)
    processes.stop_left_over(pid_file, marker="marker-of-ours")
    assert reaper() == -signal.SIGKILL


def _reaped(process):
    """Collect a child as soon as it ends, as init does for what nobody waits for; its exit status."""
    import threading

    thread = threading.Thread(target=process.wait)
    thread.start()

    def status():
        thread.join(30)
        return process.returncode

    return status


def test_a_child_ends_with_its_parent(tmp_path):
    code = (
        "import sys, time; from pathlib import Path; from ops.processes import spawn; "
        f"p = spawn([sys.executable, '-c', 'import time; time.sleep(600)'], log=Path(r'{tmp_path}/log')); "
        "print(p.pid, flush=True); time.sleep(600)"
    )
    parent = subprocess.Popen(
        [sys.executable, "-c", code], stdout=subprocess.PIPE, text=True, cwd=Path(services.__file__).parents[1]
    )
    child = int(parent.stdout.readline())
    parent.kill()
    parent.wait()
    until = time.monotonic() + 30
    while _runs(child) and time.monotonic() < until:
        time.sleep(0.02)
    assert not _runs(child)


def _runs(pid):
    try:
        return "Z" not in Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except OSError:
        return False


@pytest.fixture
def stack(tmp_path):
    stack = Stack(tmp_path / "data", port=database.free_port())
    stack.database.secrets_file.write_text("invented")
    return stack


def test_a_folder_another_run_holds_is_refused_with_its_address(stack):
    with (stack.run / "lock").open("w") as held:
        held.write("http://127.0.0.1:8420/ process 17")
        held.flush()
        fcntl.flock(held, fcntl.LOCK_EX)
        with pytest.raises(StartError, match=r"already running on .*8420/ process 17") as caught:
            stack.claim()
        assert "--data" in caught.value.do
    stack.claim()
    assert str(os.getpid()) in (stack.run / "lock").read_text()


def test_a_lock_of_another_account_is_a_sentence(stack):
    lock = stack.run / "lock"
    lock.mkdir()  # as unreadable to root as another's file is to everybody else
    with pytest.raises(StartError, match="Cannot use the data folder") as caught:
        stack.claim()
    assert "--data" in caught.value.do


def test_a_taken_port_is_said_with_the_next(stack):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", stack.port))
        taken.listen()
        with pytest.raises(StartError, match=f"port {stack.port}: Address already in use") as caught:
            stack.check_port()
        assert f"--port {stack.port + 1}" in caught.value.do
    stack.check_port()


def test_the_broker_is_of_this_account_alone(stack):
    stack.start_broker()
    try:
        path = Path(stack.environment()["FORTIMETRA_REDIS_SOCKET"])
        assert path.stat().st_mode & 0o777 == 0o600
        assert path.parent.stat().st_mode & 0o777 == 0o700
        assert stack.data.stat().st_mode & 0o777 == 0o700
        listening = Path("/proc/net/tcp").read_text() + Path("/proc/net/tcp6").read_text()
        inodes = {line.split()[9] for line in listening.splitlines()[1:] if len(line.split()) > 9}
        own = {
            str(fd.readlink()) for fd in Path(f"/proc/{stack.processes['redis'].pid}/fd").iterdir() if fd.is_symlink()
        }
        assert not {f"socket:[{n}]" for n in inodes} & own
        assert str(path) in stack.environment_file.read_text()
    finally:
        stack.stop()
    assert not path.parent.exists()
    assert not stack.environment_file.exists()


def test_a_broker_that_does_not_come_up_is_said(stack, monkeypatch):
    monkeypatch.setattr(stack, "sockets", stack.data / "not" / "there")
    with pytest.raises(StartError, match="broker") as caught:
        stack.start_broker()
    assert "redis.log" in caught.value.do
    stack.stop()


def test_long_logs_begin_anew_and_old_letters_go(tmp_path, monkeypatch):
    monkeypatch.setattr(services, "LONG_LOG_BYTES", 10)
    data = tmp_path / "data"
    for folder in ("log", "mail"):
        (data / folder).mkdir(parents=True)
    (data / "log" / "web.log").write_text("a long one, with what happened")
    (data / "log" / "redis.log").write_text("short")
    old, young = data / "mail" / "old", data / "mail" / "young"
    for letter in (old, young):
        letter.write_text("a link")
    then = time.time() - services.LETTERS_S - 10
    os.utime(old, (then, then))
    Stack(data).claim()
    assert (data / "log" / "web.log.old").read_text().startswith("a long one")
    assert not (data / "log" / "web.log").exists()
    assert (data / "log" / "redis.log").read_text() == "short"
    assert (old.exists(), young.exists()) == (False, True)


def test_what_keeps_ending_is_started_again_in_longer_steps():
    restart, now = services.Restart(), 100.0
    assert [restart.ended(now) for _ in range(8)] == [0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 30.0, 30.0]
    assert restart.due_at == 130.0
    restart.runs(now + 60.0)
    assert restart.ended(now + 61.0) == 30.0
    restart.runs(now + 61.0 + services.RESTART_FORGOTTEN_S + 1.0)
    assert restart.ended(now + 400.0) == 0.5


def test_a_broker_that_dies_is_there_again_and_its_log_is_named(stack, capfd):
    stack.start_broker()
    try:
        first = stack.processes["redis"]
        first.kill()
        first.wait()
        restart = services.Restart()
        until = time.monotonic() + 60
        while stack.processes["redis"] is first and time.monotonic() < until:
            stack._look_after("redis", restart)
        assert stack.processes["redis"].poll() is None
        assert restart.times == 1
        told = capfd.readouterr().err
        assert "redis process ended by itself (status -9)" in told
        assert str(stack.logs / "redis.log") in told
    finally:
        stack.stop()


def test_workers_whose_master_is_gone_are_ended_with_it(pid_file):
    code = (
        "import os, subprocess, sys, time; os.setpgrp(); "
        f"p = subprocess.Popen([sys.executable, '-c', {SLEEPER!r}, 'marker-of-ours']); print(p.pid, flush=True); "
        "time.sleep(600)"
    )
    master = subprocess.Popen([sys.executable, "-c", code, "marker-of-ours"], stdout=subprocess.PIPE, text=True)
    worker = int(master.stdout.readline())
    pid_file.write_text(str(master.pid))
    master.kill()
    master.wait()
    assert _runs(worker)
    processes.stop_left_over(pid_file, marker="marker-of-ours")
    assert not _runs(worker)
    assert not pid_file.exists()


def test_names_of_the_environment_are_added_to_those_of_this_machine(stack, monkeypatch):
    for name in services.REACHED_BY_OTHERS:
        monkeypatch.delenv(name, raising=False)
    assert not stack.reached_by_others
    monkeypatch.setenv("FORTIMETRA_HOSTS", "guitar.school.example, other.example")
    hosts = stack.environment()["FORTIMETRA_HOSTS"].split(",")
    assert {"guitar.school.example", "other.example", "127.0.0.1", "localhost"} <= set(hosts)
    assert stack.reached_by_others


def test_a_database_that_does_not_come_up_shows_why(stack, monkeypatch):
    folder = stack.database.folder
    (folder / "mysql").mkdir(parents=True)
    folder.with_name("mariadb.ready").touch()
    (folder / "ibdata1").write_text("this is not a tablespace")
    with pytest.raises(StartError, match="did not come up") as caught:
        stack.database.start()
    assert str(stack.database.log) in caught.value.do
    stack.database.stop()


def test_free_ports_are_free_and_out_of_the_systems_way():
    low, _high = (int(n) for n in Path("/proc/sys/net/ipv4/ip_local_port_range").read_text().split())
    for _ in range(20):
        port = database.free_port()
        assert port < low
        with socket.socket() as s:
            s.bind(("127.0.0.1", port))


def test_a_command_line_of_the_tests_names_parts_files_or_options():
    assert testing.asked([]).parts == testing.PARTS
    assert testing.asked([]).whole
    assert testing.asked(["core", "web"]).parts == ("core", "web")
    one = testing.asked(["tests/server/test_voice.py::test_x", "-x"])
    assert (one.parts, one.paths, one.options) == (("server",), ("tests/server/test_voice.py::test_x",), ("-x",))
    assert one.needs(testing.NEED_DATABASE)
    assert not one.needs(testing.NEED_FRONT_END)
    core = testing.asked(["tests/core/test_units.py"])
    assert not core.needs(testing.NEED_DATABASE)
    page = testing.asked(["web/src/lib/axis.math.test.ts"])
    assert (page.parts, page.web_files) == (("web",), ("src/lib/axis.math.test.ts",))
    assert not testing.asked(["core", "-k", "pitch"]).whole
