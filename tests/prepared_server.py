"""Servers as forks of a process that has loaded all they need: each starts in a tenth of the time."""

import multiprocessing
import os
import signal
from functools import cache
from pathlib import Path

LOADED = ["vexel.cli", "vexel.web.serve", "vexel.demo", "tests.prepared_server", "tests.prepared_stages"]


@cache
def _context():
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(LOADED)
    return context


def _run(arguments: list[str], log: Path, environment: dict[str, str]) -> None:
    from vexel.cli import main

    written = os.open(log, os.O_WRONLY | os.O_APPEND)
    os.dup2(written, 1)
    os.dup2(written, 2)
    os.environ.clear()
    os.environ.update(environment)
    main(arguments, prog_name="vexel")


class ForkedServer:
    """A process of its own that runs the command line, with what a `Popen` has."""

    def __init__(self, arguments: list[str], log: Path, environment: dict[str, str]) -> None:
        # Not a daemon: it starts stages of its own.
        self._process = _context().Process(target=_run, args=(arguments, log, environment), daemon=False)
        self._process.start()
        self.pid = self._process.pid

    def poll(self) -> int | None:
        """Its exit status, or None while it runs."""
        return self._process.exitcode

    def wait(self, seconds: float | None = None) -> int:
        """Its exit status, when it has ended."""
        self._process.join(seconds)
        if self._process.exitcode is None:
            raise TimeoutError(f"the server did not end within {seconds} s")
        return self._process.exitcode

    def send_signal(self, number: int) -> None:
        """Send it a signal."""
        if self.poll() is None:
            os.kill(self.pid, number)

    def terminate(self) -> None:
        """End it as a person does."""
        self.send_signal(signal.SIGTERM)

    def kill(self) -> None:
        """End it at once."""
        self.send_signal(signal.SIGKILL)
