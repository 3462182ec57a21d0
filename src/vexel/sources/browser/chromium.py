"""Debian's Chromium without its windows, started once a stage process and kept."""

import atexit
import fcntl
import os
import resource
import shutil
import signal
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from vexel.core.errors import SourceError
from vexel.sources.browser.protocol import Protocol, ProtocolError

PROGRAM = "chromium-headless-shell"
SANDBOX = "VEXEL_PAGE_SANDBOX"
START_SECONDS = 60
FLAGS = (
    "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--hide-scrollbars", "--force-color-profile=srgb",
    "--font-render-hinting=none", "--disable-lcd-text", "--enable-unsafe-swiftshader", "--mute-audio",
    "--autoplay-policy=no-user-gesture-required", "--disable-smooth-scrolling", "--disable-breakpad",
    "--disable-field-trial-config", "--disable-extensions", "--no-default-browser-check", "--disable-dev-shm-usage",
    "--disable-hang-monitor", "--disable-ipc-flooding-protection", "--disable-background-timer-throttling",
    "--disable-backgrounding-occluded-windows", "--disable-renderer-backgrounding",
    # A page has no network: what it asks for is answered from its own folder, and nothing else resolves.
    "--host-resolver-rules=MAP * ~NOTFOUND", "--proxy-server=socks5://127.0.0.1:9", "--proxy-bypass-list=<-loopback>",
    # WebRTC would bypass the proxy by UDP, and show a page this machine's addresses.
    "--force-webrtc-ip-handling-policy=disable_non_proxied_udp",
    "--remote-debugging-pipe",
)  # fmt: skip
_BY_FRAMES = (
    "--enable-begin-frame-control", "--run-all-compositor-stages-before-draw", "--disable-threaded-animation",
    "--disable-threaded-scrolling", "--disable-checker-imaging", "--disable-image-animation-resync",
)  # fmt: skip
"""With these, nothing is painted until a frame is asked for, and then once, whole, together with its picture.

A browser that paints by itself paints each frame twice: 52 ms of processor in place of 43 for a page of SVG, 79 in
place of 57 for a canvas.
"""
_IN, _OUT = 3, 4
"""Where the browser looks for its pipes."""
_ABOVE = 10


_running: list[Protocol] = []


def browser() -> Protocol:
    """A running browser that paints by frames; restarted if it has ended.

    Raises
    ------
    SourceError
        When Chromium is not installed, or does not start.
    """
    if _running and not _running[0].ended:
        return _running[0]
    program = shutil.which(PROGRAM)
    if program is None:
        raise SourceError(f"Pages are shown by {PROGRAM}, which is not installed: run apt-get install {PROGRAM}")
    boxed = sandboxed()
    protocol = _start(program, [*FLAGS, *_BY_FRAMES, *(() if boxed else ("--no-sandbox",))])
    try:
        protocol.send("Browser.getVersion", seconds=START_SECONDS)
    except ProtocolError as error:
        cure = (
            f", perhaps for want of user namespaces for its sandbox: allow them, or set {SANDBOX}=off" if boxed else ""
        )
        raise SourceError(f"Chromium does not start: {error}{cure}") from None
    _running[:] = [protocol]
    return protocol


def sandboxed() -> bool:
    """Whether Chromium's own sandbox is on: always but for root, whom it refuses, and where the user turned it off."""
    return os.geteuid() != 0 and os.environ.get(SANDBOX, "on") != "off"


def _start(program: str, flags: list[str]) -> Protocol:
    profile = tempfile.mkdtemp(prefix="vexel-browser-")
    # The ends are moved out of the way of the numbers that the browser wants to see them under.
    (theirs_in, orders), (answers, theirs_out) = (map(_moved_up, os.pipe()) for _ in range(2))
    with _without_memory_bound():
        process = os.posix_spawn(
            program,
            [program, *flags, f"--user-data-dir={profile}", "about:blank"],
            os.environ,
            file_actions=[
                (os.POSIX_SPAWN_DUP2, theirs_in, _IN),
                (os.POSIX_SPAWN_DUP2, theirs_out, _OUT),
                (os.POSIX_SPAWN_OPEN, 2, os.devnull, os.O_WRONLY, 0),
            ],
        )
    os.close(theirs_in)
    os.close(theirs_out)
    atexit.register(_end, process, Path(profile))
    return Protocol(orders, answers)


def _moved_up(descriptor: int) -> int:
    moved: int = fcntl.fcntl(descriptor, fcntl.F_DUPFD_CLOEXEC, _ABOVE)
    os.close(descriptor)
    return moved


def _end(process: int, profile: Path) -> None:
    with suppress(OSError):
        os.kill(process, signal.SIGKILL)
        os.waitpid(process, 0)
    shutil.rmtree(profile, ignore_errors=True)


@contextmanager
def _without_memory_bound() -> Iterator[None]:
    """Chromium reserves far more address space than it uses, and would inherit the stage's bound."""
    soft, hard = resource.getrlimit(resource.RLIMIT_AS)
    resource.setrlimit(resource.RLIMIT_AS, (hard, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (soft, hard))
