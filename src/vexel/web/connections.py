"""Connections: answers that go on without a worker, and ends for requests that never finish or hold too much.

waitress gives each request to one of its worker threads. News for an open page
goes on for hours, so such an answer is taken from its worker as soon as it has
begun, and written to from whichever thread has news.
"""

import json
import resource
import socket
import time
from collections.abc import Callable
from typing import Any

from flask import Flask
from waitress.channel import ClientDisconnected, HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import create_server
from waitress.task import WSGITask
from waitress.utilities import RequestEntityTooLarge

from vexel.web.request_limits import MAX_UPLOAD_BYTES, TOO_MUCH

TAKES_OVER = "vexel.takes_over"
"""In a request's environment: what gives its answer over to a function, as a `Stream`."""
THREADS = 24
MOST_CONNECTIONS = 1000
"""A browser opens six; a thousand are some attack, and what comes then waits."""
HEADER_SECONDS = 20
"""A request line and its headers come at once, or are no request."""
BODY_SECONDS, BODY_RATE = 60, 1024
"""After so many seconds a body must have come at so many bytes a second."""
MOST_BEHIND = 1 << 20
"""Bytes that a page may be behind with its news; it asks anew when it comes back."""
FORM_BYTES = 1 << 20
"""What an upload has beside its files."""


class Stream:
    """An answer that goes on after its worker has left."""

    def __init__(self, channel: Any, chunked: bool) -> None:
        self._channel, self._chunked = channel, chunked
        channel.streams = True

    def send(self, data: bytes) -> bool:
        """Send more; whether anybody is still there."""
        channel = self._channel
        if not channel.connected:
            return False
        if channel.total_outbufs_len > MOST_BEHIND:
            self.close()
            return False
        try:
            channel.write_soon(b"%X\r\n%b\r\n" % (len(data), data) if self._chunked else data)
        except (ClientDisconnected, OSError):
            return False
        return True

    def close(self) -> None:
        """End the connection."""
        self._channel.will_close = True
        self._channel.server.pull_trigger()


class _Task(WSGITask):  # type: ignore[misc]  # waitress has no types
    _taken: Callable[[Stream], None] | None = None

    def get_environment(self) -> dict[str, Any]:
        environ: dict[str, Any] = super().get_environment()
        environ[TAKES_OVER] = self._take_over
        return environ

    def _take_over(self, by: Callable[[Stream], None]) -> None:
        self._taken = by

    def finish(self) -> None:
        if self._taken is None:
            super().finish()
            return
        # The headers and what the application said first are written: the rest comes from elsewhere.
        self.close_on_finish = False
        self._taken(Stream(self.channel, self.chunked_response))


class _TooMuch(RequestEntityTooLarge):  # type: ignore[misc]
    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        return f"{self.code} {self.reason}", [("Content-Type", "application/json")], json.dumps(self.body).encode()


class _Parser(HTTPRequestParser):  # type: ignore[misc]
    def received(self, data: bytes) -> int:
        count: int = super().received(data)
        refused: Any = self.error  # type: ignore[has-type]
        if isinstance(refused, RequestEntityTooLarge):
            self.error = _TooMuch({"error": TOO_MUCH})
        return count


class _Channel(HTTPChannel):  # type: ignore[misc]
    task_class = _Task
    parser_class = _Parser
    streams = False
    _begun = 0.0

    def handle_write(self) -> None:
        if not self.streams:
            super().handle_write()
            return
        # Without a request under way waitress takes no lock here, and other threads write to a stream meanwhile.
        with self.outbuf_lock:
            super().handle_write()

    def received(self, data: bytes) -> bool:
        if self.streams:
            # Its answer goes on, so that no other can follow it.
            self.will_close = True
            return False
        if self.request is None:
            self._begun = time.monotonic()
        taken: bool = super().received(data)
        return taken

    def readable(self) -> bool:
        # Asked once a second at least, of every connection.
        if self.request is not None and self._is_stuck(self.request):
            self.will_close = True
        ready: bool = super().readable()
        return ready

    def _is_stuck(self, request: Any) -> bool:
        seconds = time.monotonic() - self._begun
        if not request.headers_finished:
            return seconds > HEADER_SECONDS
        return seconds > BODY_SECONDS and bool(request.body_bytes_received < BODY_RATE * seconds)


def wsgi_server(app: Flask, bound: socket.socket) -> Any:
    """A waitress server on a bound socket."""
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = 4 * MOST_CONNECTIONS
    resource.setrlimit(resource.RLIMIT_NOFILE, (wanted if most < 0 else min(wanted, most), most))
    server = create_server(
        app,
        sockets=[bound],
        threads=THREADS,
        # News must leave at once, so nothing is gathered before it is sent.
        send_bytes=1,
        connection_limit=MOST_CONNECTIONS,
        asyncore_use_poll=True,
        max_request_body_size=MAX_UPLOAD_BYTES + FORM_BYTES,
    )
    server.channel_class = _Channel
    return server
