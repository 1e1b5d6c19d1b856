"""The start command: quick the second time, clean when stopped, unharmed when killed, clear when it cannot."""

from __future__ import annotations

import signal
import socket
import time

import pytest

from tests.browser.running import fails, processes_of, start, status_of


def until_gone(data, patience_s=60.0):
    """What a killed run left behind ends by itself; nothing may stay."""
    until = time.monotonic() + patience_s
    while processes_of(data) and time.monotonic() < until:
        time.sleep(0.1)
    assert processes_of(data) == []


@pytest.fixture(scope="module")
def data(tmp_path_factory):
    """A data folder on which the application ran once, without the demo."""
    data = tmp_path_factory.mktemp("a data folder")
    running = start(data, "--empty")
    assert "./run manage create_teacher" in running.printed
    assert status_of(running.url, "/api/v1/health") == 200
    assert running.stop() == 0
    assert processes_of(data) == []
    return data


def test_a_killed_run_leaves_nothing_that_blocks_the_next(data):
    killed = start(data, "--empty")
    killed.process.kill()
    killed.process.wait()
    running = start(data, "--empty", port=killed.port)
    assert status_of(running.url, "/api/v1/health") == 200
    assert running.stop(number=signal.SIGTERM) == 0
    until_gone(data)


def test_one_data_folder_is_run_once(data):
    running = start(data, "--empty")
    try:
        status, printed = fails(data, "--empty")
        assert status == 1
        assert "already running" in printed
        assert str(running.port) in printed
        assert "What to do" in printed
    finally:
        assert running.stop() == 0


def test_a_taken_port_is_said_with_another_to_try(data):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        status, printed = fails(data, "--empty", "--port", str(port))
    assert status == 1
    assert f"port {port}" in printed
    assert f"--port {port + 1}" in printed
    assert processes_of(data) == []


def test_a_data_folder_that_cannot_be_is_a_sentence(tmp_path):
    (tmp_path / "file").write_text("")
    status, printed = fails(tmp_path / "file" / "data", "--empty")
    assert status == 1
    assert "Cannot use the data folder" in printed


def test_it_does_not_listen_to_others_with_debug_settings(data, monkeypatch):
    monkeypatch.setenv("FORTIMETRA_DEBUG", "1")
    status, printed = fails(data, "--empty", "--host", "0.0.0.0")
    assert status == 1
    assert "debug settings" in printed
    assert processes_of(data) == []
