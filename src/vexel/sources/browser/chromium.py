"""Debian's Chromium, started once a stage process and kept."""

import atexit
import resource
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from typing import Any

from vexel.sources.contract import SourceError

FLAGS = (
    "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--hide-scrollbars", "--force-color-profile=srgb",
    "--font-render-hinting=none", "--disable-lcd-text", "--enable-unsafe-swiftshader", "--mute-audio",
    "--autoplay-policy=no-user-gesture-required", "--disable-smooth-scrolling",
    # A page has no network: what it asks for is answered from its own folder, and nothing else resolves.
    "--host-resolver-rules=MAP * ~NOTFOUND", "--proxy-server=socks5://127.0.0.1:9", "--proxy-bypass-list=<-loopback>",
)  # fmt: skip


@cache
def browser() -> Any:
    """The running browser.

    Raises
    ------
    SourceError
        When Chromium is not installed, or does not start.
    """
    from playwright.sync_api import Error, sync_playwright

    program = shutil.which("chromium")
    if program is None:
        raise SourceError("Pages are shown by Chromium, which is not installed: run apt-get install chromium")
    # The sandbox of the browser needs rights that root gives up and containers do not have.
    with _without_memory_bound():
        player = sync_playwright().start()
        try:
            started = player.chromium.launch(executable_path=program, args=[*FLAGS, "--no-sandbox"])
        except Error as error:
            player.stop()
            raise SourceError(f"Chromium does not start: {str(error).splitlines()[0]}") from None
    atexit.register(player.stop)
    return started


@contextmanager
def _without_memory_bound() -> Iterator[None]:
    """Chromium reserves far more address space than it uses, and would inherit the stage's bound."""
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    resource.setrlimit(resource.RLIMIT_AS, (hard, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (soft, hard))
