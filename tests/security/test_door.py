"""What stands before the application: slow and half-open requests, limits, who asks, files in parts.

nginx as the start command configures it, before a stand-in for the application that says what reached it.
"""

import hashlib
import http.client
import json
import os
import socket
import socketserver
import threading
import time
from contextlib import contextmanager, suppress
from http.server import BaseHTTPRequestHandler

import pytest

from ops import front
from ops.database import free_port
from ops.processes import spawn
from ops.say import StartError

PATIENCE_S = 60.0


class StandIn(BaseHTTPRequestHandler):
    """Says what it was asked; /file has the front send a stored file."""

    protocol_version = "HTTP/1.1"

    def do_GET(self):
        body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
        self.server.seen.append(self.path)
        if self.path == "/file":
            self.send_response(200)
            self.send_header("X-Accel-Redirect", "/-/media/a%20take.flac")
            self.send_header("Content-Type", "audio/flac")
            self.send_header("Content-Length", "0")
            self.end_headers()
            return
        told = json.dumps({"headers": dict(self.headers), "sha256": hashlib.sha256(body).hexdigest()}).encode()
        self.send_response(200)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(told)))
        self.end_headers()
        self.wfile.write(told)

    do_POST = do_GET

    def address_string(self):
        return "front"

    def log_message(self, *_arguments):
        pass


class Application(socketserver.ThreadingMixIn, socketserver.UnixStreamServer):
    daemon_threads = True
    request_queue_size = 64


class Front:
    def __init__(self, port, application, process):
        self.port, self.application, self.process = port, application, process

    def connect(self, source="127.0.0.1"):
        return socket.create_connection(("127.0.0.1", self.port), PATIENCE_S, source_address=(source, 0))

    def ask(self, path="/", *, method="GET", headers=None, body=None, source="127.0.0.1"):
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=PATIENCE_S, source_address=(source, 0))
        connection.request(method, path, body=body, headers={"Connection": "close", **(headers or {})})
        answer = connection.getresponse()
        return answer, answer.read()


@contextmanager
def standing(folder, *, trusted=(), application=True):
    port, at = free_port(), folder / "web"
    media, under_way = folder / "media", folder / "a folder"
    media.mkdir()
    under_way.mkdir()
    (media / "a take.flac").write_bytes(bytes(range(256)) * 40)
    text = front.configuration(
        bind=f"127.0.0.1:{port}", application=at, folder=under_way, log=under_way / "front.log", media=media,
        upload_bytes=2_000_000, archive_bytes=5_000_000, trusted=trusted,
    )  # fmt: skip
    (under_way / "nginx.conf").write_text(text)
    server = None
    if application:
        server = Application(str(at), StandIn)
        server.seen = []
        threading.Thread(target=server.serve_forever, daemon=True).start()
    process = spawn(
        [front.NGINX, "-e", under_way / "front.log", "-c", under_way / "nginx.conf"], log=under_way / "out.log"
    )
    here = Front(port, server, process)
    until = time.monotonic() + PATIENCE_S
    try:
        while True:
            try:
                here.connect().close()
                break
            except OSError:
                assert time.monotonic() < until and process.poll() is None, (under_way / "front.log").read_text()
                time.sleep(0.02)
        yield here
    finally:
        process.terminate()
        process.wait(PATIENCE_S)
        if server is not None:
            server.shutdown()
            server.server_close()


@pytest.fixture(scope="module")
def here(tmp_path_factory):
    # A socket's path may have 107 characters.
    with standing(tmp_path_factory.mktemp("f")) as found:
        yield found


def test_two_hundred_slow_requests_hold_up_nobody(here):
    body = os.urandom(300_000)
    slow = []
    for n in range(200):
        s = here.connect("127.0.0.2")
        head = f"POST /slow{n} HTTP/1.1\r\nHost: x\r\n"
        s.sendall(head.encode() if n % 2 else f"{head}Content-Length: 1000000\r\n\r\nabc".encode())
        slow.append(s)
    try:
        honest = here.connect("127.0.0.3")
        honest.sendall(f"POST /upload HTTP/1.1\r\nHost: x\r\nContent-Length: {len(body)}\r\n\r\n".encode())
        for first in range(0, len(body), 10_000):
            honest.sendall(body[first : first + 10_000])
            slow[first // 10_000].sendall(b"X")
            answer, _ = here.ask(source="127.0.0.3")
            assert answer.status == 200
        told = b""
        while b"sha256" not in told or not told.endswith(b"}"):
            told += honest.recv(65_536)
        assert hashlib.sha256(body).hexdigest().encode() in told
        assert not [p for p in here.application.seen if p.startswith("/slow")]
    finally:
        for s in slow:
            s.close()


def test_an_address_holds_so_many_connections_and_others_still_come_in(here):
    held = []
    try:
        for _ in range(front.CONNECTIONS_OF_AN_ADDRESS):
            s = here.connect("127.0.0.4")
            s.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 10\r\n\r\n")
            held.append(s)
        until = time.monotonic() + PATIENCE_S
        while (answer := here.ask(source="127.0.0.4"))[0].status != 429:
            assert time.monotonic() < until
        assert answer[0].headers["Content-Type"] == "application/problem+json"
        assert json.loads(answer[1])["code"] == "too_many"
        assert here.ask(source="127.0.0.5")[0].status == 200
    finally:
        for s in held:
            s.close()


def test_what_is_too_large_is_refused_before_it_is_sent(here):
    for path, most in (("/api/v1/takes", 2_000_000), (front.ARCHIVE, 5_000_000)):
        for over in (False, True):
            s = here.connect()
            length = most + front.FORM_BYTES + over
            s.sendall(
                f"POST {path} HTTP/1.1\r\nHost: x\r\nContent-Length: {length}\r\nExpect: 100-continue\r\n\r\n".encode()
            )
            first = s.recv(4096)
            assert (b" 413 " in first) == over, first
            assert (b"too_large" in first or b"too_large" in s.recv(4096)) if over else b" 100 " in first
            s.close()


def test_headers_that_do_not_come_end_the_connection(tmp_path, monkeypatch):
    monkeypatch.setattr(front, "HEADERS_S", 1)
    monkeypatch.setattr(front, "BODY_PAUSE_S", 1)
    with standing(tmp_path) as here:
        headers, body = here.connect(), here.connect()
        headers.sendall(b"GET / HTTP/1.1\r\nHost:")
        body.sendall(b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 100\r\n\r\nabc")
        for s in (headers, body):
            s.settimeout(PATIENCE_S)
            with suppress(ConnectionResetError):
                assert s.recv(100) == b"" or b"408" in s.recv(100)
        assert here.application.seen == []


def test_nobody_says_for_themselves_who_they_are(here):
    forged = {"X-Forwarded-For": "203.0.113.9", "X-Forwarded-Proto": "https"}
    told = json.loads(here.ask(headers=forged, source="127.0.0.6")[1])["headers"]
    assert (told["X-Forwarded-For"], told["X-Forwarded-Proto"]) == ("127.0.0.6", "http")


def test_a_named_proxy_is_believed_as_far_as_it_reaches(tmp_path):
    with standing(tmp_path, trusted=front.proxies("127.0.0.7, 10.1.0.0/16")) as here:
        said = {"X-Forwarded-For": "203.0.113.9, 198.51.100.2, 10.1.2.3", "X-Forwarded-Proto": "https"}
        told = json.loads(here.ask(headers=said, source="127.0.0.7")[1])["headers"]
        assert (told["X-Forwarded-For"], told["X-Forwarded-Proto"]) == ("198.51.100.2", "https")
        told = json.loads(here.ask(headers=said, source="127.0.0.8")[1])["headers"]
        assert (told["X-Forwarded-For"], told["X-Forwarded-Proto"]) == ("127.0.0.8", "http")


@pytest.mark.parametrize("named", ["router", "10.0.0.0/40", "10.0.0.1;10.0.0.2"])
def test_a_proxy_that_is_no_address_is_said(named):
    with pytest.raises(StartError, match="no address and no network"):
        front.proxies(named)


def test_stored_files_go_out_in_parts_and_only_by_the_applications_word(here):
    answer, whole = here.ask("/file")
    assert (answer.status, answer.headers["Content-Type"], len(whole)) == (200, "audio/flac", 10_240)
    answer, part = here.ask("/file", headers={"Range": "bytes=1000-1009"})
    assert (answer.status, answer.headers["Content-Range"]) == (206, "bytes 1000-1009/10240")
    assert part == whole[1000:1010]
    for path in ("/-/media/a%20take.flac", "/-/too-large"):
        assert here.ask(path)[0].status == 404
    for path in ("/-/media/../a%20folder/nginx.conf", "/-/media/..%2fa%20folder/nginx.conf", "/-/media../web"):
        assert b"worker_processes" not in here.ask(path)[1]


def test_an_application_that_is_away_is_said(tmp_path):
    with standing(tmp_path, application=False) as here:
        answer, body = here.ask("/api/v1/me")
        assert answer.status == 503
        assert json.loads(body)["code"] == "away"
