"""Debian's Chromium without its windows, started once a stage process and kept."""

import atexit
import base64
import itertools
import os
import resource
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

from vexel.sources.contract import SourceError

PROGRAM = "chromium-headless-shell"
INTERVAL_MS = 1000 / 60
TRIES = 20
_TICKS = itertools.count(1000.0, INTERVAL_MS)
"""Times of frames for the browser's own clock, which no page sees."""
FLAGS = (
    "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--hide-scrollbars", "--force-color-profile=srgb",
    "--font-render-hinting=none", "--disable-lcd-text", "--enable-unsafe-swiftshader", "--mute-audio",
    "--autoplay-policy=no-user-gesture-required", "--disable-smooth-scrolling",
    # A page has no network: what it asks for is answered from its own folder, and nothing else resolves.
    "--host-resolver-rules=MAP * ~NOTFOUND", "--proxy-server=socks5://127.0.0.1:9", "--proxy-bypass-list=<-loopback>",
)  # fmt: skip


FRAME_FLAGS = (
    "--enable-begin-frame-control", "--run-all-compositor-stages-before-draw", "--disable-threaded-animation",
    "--disable-threaded-scrolling", "--disable-checker-imaging", "--disable-image-animation-resync",
)  # fmt: skip
"""With these, nothing is painted until a frame is asked for, and then once, whole, together with its picture."""


@cache
def _player() -> Any:
    from playwright.sync_api import sync_playwright

    # The driver's own program is read anew at every start; kept compiled, it is there in half the time.
    kept = Path(os.environ.get("XDG_CACHE_HOME", "~/.cache")).expanduser() / "vexel/driver"
    os.environ.setdefault("NODE_COMPILE_CACHE", str(kept))
    player = sync_playwright().start()
    atexit.register(player.stop)
    return player


@cache
def browser(by_frames: bool) -> Any:
    """A running browser, one that paints by frames or one that paints by itself.

    Raises
    ------
    SourceError
        When Chromium is not installed, or does not start.
    """
    from playwright.sync_api import Error

    program = shutil.which(PROGRAM)
    if program is None:
        raise SourceError(f"Pages are shown by {PROGRAM}, which is not installed: run apt-get install {PROGRAM}")
    # The sandbox of the browser needs rights that root gives up and containers do not have.
    with _without_memory_bound():
        flags = [*FLAGS, *(FRAME_FLAGS if by_frames else ()), "--no-sandbox"]
        try:
            return _player().chromium.launch(executable_path=program, args=flags)
        except Error as error:
            raise SourceError(f"Chromium does not start: {str(error).splitlines()[0]}") from None


def new_page(width: int, height: int, ratio: float, **options: Any) -> Any:
    """A page in a context of its own.

    Parameters
    ----------
    width, height : int
        In the page's own pixels.
    ratio : float
        Pixels of the picture for each of the page's own. At 1 the page paints
        only when a frame is taken, so that nothing is painted twice.
    """
    by_frames = ratio == 1
    started = browser(by_frames)
    devtools = started.new_browser_cdp_session()
    before = set(devtools.send("Target.getBrowserContexts")["browserContextIds"])
    size = {"width": width, "height": height}
    context = started.new_context(viewport=size, device_scale_factor=ratio, **options)
    (number,) = set(devtools.send("Target.getBrowserContexts")["browserContextIds"]) - before
    if by_frames:
        order = {"url": "about:blank", "browserContextId": number, "enableBeginFrameControl": True}
        with context.expect_page() as opened:
            devtools.send("Target.createTarget", order | size)
        page = opened.value
    else:
        page = context.new_page()
    devtools.detach()
    return page


def take_frame(devtools: Any, width: int, height: int, ratio: float) -> bytes:
    """A page's picture as a PNG file; see `new_page` for the parameters."""
    picture = {"format": "png", "optimizeForSpeed": True}
    if ratio == 1:
        taken = _painted(devtools, picture)
    else:
        # Without a clip, there is one pixel for each of the page's own, whatever its ratio.
        clip = {"x": 0, "y": 0, "width": width, "height": height, "scale": ratio}
        taken = devtools.send("Page.captureScreenshot", picture | {"clip": clip})["data"]
    return base64.b64decode(taken)


def _painted(devtools: Any, picture: dict[str, Any]) -> str:
    """A page painted once; again if the browser was still about to show its first frame."""
    for _ in range(TRIES):
        order = {"frameTimeTicks": next(_TICKS), "interval": INTERVAL_MS, "screenshot": picture}
        told = devtools.send("HeadlessExperimental.beginFrame", order)
        if "screenshotData" in told:
            return str(told["screenshotData"])
        time.sleep(0.01)
    raise SourceError("the browser painted nothing: capture again")


@contextmanager
def _without_memory_bound() -> Iterator[None]:
    """Chromium reserves far more address space than it uses, and would inherit the stage's bound."""
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    resource.setrlimit(resource.RLIMIT_AS, (hard, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (soft, hard))
