"""A running server, and a page of a browser before it."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Page
from tests.helpers import Server
from tests.screens.base import chromium

from bench.common import few


@contextmanager
def serving(home: Path) -> Iterator[Server]:
    """A server of a project, as a person starts it; for a quick look as a fork."""
    server = Server(None, home, python=few("", sys.executable))
    try:
        yield server
    finally:
        server.end()


@contextmanager
def page_before(server: Server) -> Iterator[Page]:
    """A page that the server lets in."""
    context = chromium().new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    try:
        (cookie,) = server.cookies
        context.add_cookies([{"name": cookie.name, "value": cookie.value, "url": server.base}])
        yield context.new_page()
    finally:
        context.close()
