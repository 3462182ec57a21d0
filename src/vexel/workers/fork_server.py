"""Asks the fork server of this process for stages: it has loaded what they need, so each is there at once.

Importing what draws geometry takes some three seconds of a core, and a run starts a stage a worker.

The forkserver of `multiprocessing` would preload as much, and a fork of it is there after 20 ms in place of 12. But it
takes over the environment of its parent, in which a stage's time zone and allocation have no place, and runs the
parent's main module again in each fork.
"""

import json
import os
import select
import signal
import socket
import struct
import subprocess
import sys
import threading
import time
from contextlib import suppress
from dataclasses import asdict, dataclass
from typing import Any

NUMBER = struct.Struct("q")
"""The fork server's messages about a stage: its process, and its exit status."""
MOST_BYTES = 1 << 20
"""An order holds the environment, which may be long."""
STAGE_ENVIRONMENT = {
    # A frame is the same on each machine, in every time zone and language.
    "TZ": "UTC",
    "LC_ALL": "C.UTF-8",
    # A picture's arrays are some 30 MB; given back to the system after every frame, and
    # fetched again, they would cost as much as the rendering. The workers' own processes
    # are set to give back at once, and a child would inherit that.
    "MALLOC_MMAP_THRESHOLD_": str(256 * 1024 * 1024),
    "MALLOC_TRIM_THRESHOLD_": str(512 * 1024 * 1024),
    # Read once, when the libraries are loaded. A stage is one of several, and only what has no threads may be forked.
    "OMP_NUM_THREADS": "1",
    "OPENBLAS_NUM_THREADS": "1",
    # A set of strings has one order in all stages, today and tomorrow.
    "PYTHONHASHSEED": "0",
    # Matplotlib looks at it when it is imported, which the mesh library does.
    "MPLBACKEND": "Agg",
    "VTK_DEFAULT_OPENGL_WINDOW": "vtkEGLRenderWindow",
}
"""For the fork server, and for each fork: libraries that user code imports or starts later read it as well."""


@dataclass(frozen=True)
class StageOrder:
    """A stage's first message.

    Attributes
    ----------
    asker : int
        Process that will ask it.
    kind : str
        Of the source that it gets ready for; may be empty.
    stacks : str
        File into which it writes where its code is, when it is signalled to.
    memory_mb : int
        What the source may take beyond the stage's own memory.
    environment : dict of str
    writes, hidden : tuple of str
        See `vexel.workers.bounds.isolation.Reach`.
    answers : str
        The class that answers, as ``module:name``.
    """

    asker: int
    kind: str
    stacks: str
    memory_mb: int
    environment: dict[str, str]
    writes: tuple[str, ...] = ()
    hidden: tuple[str, ...] = ()
    answers: str = "vexel.workers.stage_commands:StageCommands"


class Fork:
    """A stage's process, from before it is there; a child of the fork server."""

    def __init__(self, told: socket.socket) -> None:
        self._told = told
        self._reading = threading.Lock()
        self._heard = b""
        self._gone = False

    def pid(self, seconds: float) -> int:
        """Its number, as soon as there is one.

        Raises
        ------
        TimeoutError
            When there is none within the time.
        EOFError
            When there will be none.
        """
        self._listen(1, seconds)
        found = self._number(0)
        if found is None:
            raise EOFError if self._gone else TimeoutError
        return found

    def poll(self) -> int | None:
        """Its exit status, minus the signal that ended it, or None while it lives."""
        self._listen(2, 0)
        status = self._number(1)
        # Without the fork server a stage ends as well, and its exit status is lost.
        return -signal.SIGKILL if status is None and self._gone else status

    def wait(self, seconds: float | None = None) -> int:
        """Its exit status, once it has ended; a `TimeoutError` if it has not by then."""
        self._listen(2, seconds)
        status = self.poll()
        if status is None:
            raise TimeoutError
        return status

    def send_signal(self, number: int) -> None:
        """Send it a signal, if it is there."""
        if self.poll() is None and (pid := self._number(0)) is not None:
            with suppress(ProcessLookupError):
                os.kill(pid, number)

    def kill(self) -> None:
        """End it with all that it started; one that is not there yet is not waited for."""
        self._listen(2, 0)
        pid = self._number(0)
        if pid is None:
            # Its asker learns that it will not come, and it ends by itself as its channel is closed.
            with suppress(OSError):
                self._told.shutdown(socket.SHUT_RDWR)
        elif self._number(1) is None:
            with suppress(ProcessLookupError):
                os.killpg(pid, signal.SIGKILL)

    def close(self) -> None:
        """Listen no more."""
        self._told.close()

    def _number(self, place: int) -> int | None:
        heard = self._heard[place * NUMBER.size : (place + 1) * NUMBER.size]
        return NUMBER.unpack(heard)[0] if len(heard) == NUMBER.size else None

    def _listen(self, numbers: int, seconds: float | None) -> None:
        """Read messages until `numbers` numbers have arrived, or the time is over."""
        until = None if seconds is None else time.monotonic() + seconds
        while len(self._heard) < numbers * NUMBER.size and not self._gone:
            left = None if until is None else max(until - time.monotonic(), 0)
            try:
                if not select.select([self._told], [], [], left)[0]:
                    return
                with self._reading:
                    part = self._told.recv(2 * NUMBER.size, socket.MSG_DONTWAIT)
                    self._heard += part
                    self._gone = not part
            except BlockingIOError:
                # Another thread took it.
                continue
            except (OSError, ValueError):
                # It was closed meanwhile.
                self._gone = True


class ForkServer:
    """Starts the fork server with the first order, and again after it was ended."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._orders: socket.socket | None = None
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it ahead of the first order."""
        with self._lock:
            if self._orders is None:
                self._start()

    def fork(self, order: StageOrder, channel: socket.socket) -> Fork:
        """Order a stage that answers at the end of a channel; it is on its way."""
        with self._lock:
            for attempt in (1, 2):
                if self._orders is None:
                    self._start()
                assert self._orders is not None
                ours, theirs = socket.socketpair()
                message = json.dumps(asdict(order)).encode()
                try:
                    socket.send_fds(self._orders, [message], [channel.fileno(), theirs.fileno()])
                    return Fork(ours)
                except OSError:
                    ours.close()
                    self.close()
                    if attempt == 2:
                        raise
                finally:
                    theirs.close()
        raise AssertionError

    def _start(self) -> None:
        self._orders, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        self._orders.setsockopt(socket.SOL_SOCKET, socket.SO_SNDBUF, MOST_BYTES)
        self._process = subprocess.Popen(
            [sys.executable, "-P", "-m", "vexel.workers.fork_server_main", str(theirs.fileno())],
            pass_fds=[theirs.fileno()],
            env=os.environ | STAGE_ENVIRONMENT,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            # An interrupt at the terminal is for the one who asks.
            start_new_session=True,
        )
        theirs.close()

    def close(self) -> None:
        """End it; the stages that it forked live until their askers are done with them."""
        if self._orders is not None:
            self._orders.close()
        if self._process is not None:
            self._process.kill()
            self._process.wait()
        self._orders = self._process = None


_SERVER = ForkServer()


def start_fork_server() -> None:
    """Start the fork server of this process ahead of the first order: it loads what all stages need meanwhile."""
    _SERVER.start()


def fork_stage(order: StageOrder, channel: socket.socket) -> Fork:
    """Order a stage of the fork server of this process.

    Parameters
    ----------
    order : StageOrder
    channel : socket.socket
        At which it answers; to be closed here.
    """
    return _SERVER.fork(order, channel)


def read_order(message: bytes) -> StageOrder:
    """The order that a message holds."""
    fields: dict[str, Any] = json.loads(message)
    return StageOrder(**fields)
