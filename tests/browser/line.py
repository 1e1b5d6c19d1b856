"""A line between the browser and the application that can be cut: what is sent to its port goes on to the other."""

from __future__ import annotations

import contextlib
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager


class Line:
    """Takes connections at `url` and passes them on to a port of this machine until it is cut."""

    def __init__(self, to_port: int) -> None:
        self._to = to_port
        self._open: set[socket.socket] = set()
        self._server = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._server.getsockname()[1])
        self.url = f"http://127.0.0.1:{self.port}"
        threading.Thread(target=self._take, daemon=True).start()

    def _take(self) -> None:
        while True:
            try:
                near, _ = self._server.accept()
                far = socket.create_connection(("127.0.0.1", self._to))
            except OSError:
                return
            self._open |= {near, far}
            for one, other in ((near, far), (far, near)):
                threading.Thread(target=self._pass_on, args=(one, other), daemon=True).start()

    def _pass_on(self, one: socket.socket, other: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while piece := one.recv(65_536):
                other.sendall(piece)
        for end in (one, other):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)

    def cut(self) -> None:
        """Nothing gets through any more; what is on its way is lost."""
        with contextlib.suppress(OSError):
            self._server.shutdown(socket.SHUT_RDWR)
        self._server.close()
        for end in list(self._open):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
            end.close()


@contextmanager
def line_to(port: int) -> Iterator[Line]:
    """A line, cut at the end."""
    line = Line(port)
    try:
        yield line
    finally:
        line.cut()
