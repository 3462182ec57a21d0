"""Connections: the web server, with ends for requests that never finish or hold too much."""

import json
import resource
import socket
import time
from typing import Any

from flask import Flask
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import create_server
from waitress.utilities import RequestEntityTooLarge

from vexel.web.events import MOST_STREAMS
from vexel.web.request_limits import MAX_UPLOAD_BYTES, TOO_MUCH

THREADS = 24 + MOST_STREAMS
"""A stream of news holds one: sixty threads that wait take 1.5 MB, and requests beside them no longer."""
MOST_CONNECTIONS = 1000
"""A browser opens six; a thousand are some attack, and what comes then waits."""
HEADER_SECONDS = 20
"""A request line and its headers come at once, or are no request."""
BODY_SECONDS, BODY_RATE = 60, 1024
"""After this number of seconds a body must have arrived at this number of bytes a second."""
MOST_BEHIND = 1 << 20
"""Bytes of an answer that wait for a slow page."""
FORM_BYTES = 1 << 20
"""What an upload has beside its files."""


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
    parser_class = _Parser
    _begun = 0.0

    def received(self, data: bytes) -> bool:
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
        # So that a stream notices when its page is closed.
        channel_request_lookahead=1,
        outbuf_high_watermark=MOST_BEHIND,
        max_request_body_size=MAX_UPLOAD_BYTES + FORM_BYTES,
    )
    server.channel_class = _Channel
    return server
