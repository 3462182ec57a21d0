"""The fork server: loads what stages need, and forks one for each order; it runs no user code.

Started by `vexel.workers.fork_server` as ``python -m vexel.workers.fork_server_main FD``. It has one thread, and opens
neither window nor browser: only so may it be forked.
"""

import os
import select
import signal
import socket
import sys
import tempfile
from contextlib import suppress
from importlib import import_module

from vexel.stage.renderer import load
from vexel.workers.answering import run
from vexel.workers.fork_server import MOST_BYTES, NUMBER, STAGE_ENVIRONMENT, StageOrder, read_order


class Forks:
    """The stages that were forked, and the sockets by which their askers hear of them."""

    def __init__(self, orders: socket.socket) -> None:
        self._orders = orders
        self._told: dict[int, socket.socket] = {}
        self._woken, self._wake = os.pipe()
        for end in (self._woken, self._wake):
            os.set_blocking(end, False)
        signal.signal(signal.SIGCHLD, lambda *_: None)
        signal.set_wakeup_fd(self._wake)

    def serve(self) -> tuple[StageOrder, int] | None:
        """Fork until the asker is gone: then None; in each fork what it is to do, and its channel's descriptor."""
        while True:
            ready, _, _ = select.select([self._orders.fileno(), self._woken], [], [])
            if self._woken in ready:
                with suppress(BlockingIOError):
                    os.read(self._woken, 4096)
                self._reap()
            if self._orders.fileno() in ready:
                message, descriptors, _, _ = socket.recv_fds(self._orders, MOST_BYTES, 2)
                if not message:
                    return None
                order, (channel, told) = read_order(message), descriptors
                # A fork that is made after this one has it loaded as well.
                with suppress(Exception):
                    import_module(order.answers.partition(":")[0])
                    load(order.kind)
                pid = os.fork()
                if pid == 0:
                    os.close(told)
                    self._leave()
                    return order, channel
                os.close(channel)
                self._told[pid] = socket.socket(fileno=told)
                self._tell(pid, pid)

    def _reap(self) -> None:
        with suppress(ChildProcessError):
            while (ended := os.waitpid(-1, os.WNOHANG))[0]:
                pid, status = ended
                self._tell(pid, os.waitstatus_to_exitcode(status))
                self._told.pop(pid).close()

    def _tell(self, pid: int, number: int) -> None:
        # An asker that has stopped listening has closed the stage's channel, which ends it.
        with suppress(OSError):
            self._told[pid].send(NUMBER.pack(number), socket.MSG_NOSIGNAL)

    def _leave(self) -> None:
        """Let go, in a fork, of what is the fork server's."""
        signal.set_wakeup_fd(-1)
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        self._orders.close()
        for end in (self._woken, self._wake):
            os.close(end)
        for told in self._told.values():
            told.close()


def main() -> None:
    """Serve, and be the stage in each fork."""
    forked = Forks(socket.socket(fileno=int(sys.argv[1]))).serve()
    if forked is None:
        # Letting go of all that was loaded would take half a second of a core.
        os._exit(0)
    order, channel = forked
    # In a new session: ending its group ends a browser with it.
    os.setsid()
    os.environ.clear()
    os.environ.update(order.environment | STAGE_ENVIRONMENT)
    tempfile.tempdir = None
    run(order, channel)


if __name__ == "__main__":
    main()
