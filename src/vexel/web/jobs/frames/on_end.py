"""The command of the user's own that runs when a capture ends, fails or pauses."""

import os
import subprocess
import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from vexel.core.errors import VexelError
from vexel.store.settings import read_settings
from vexel.workers.planner import Gate

MOST_SECONDS = 60.0
"""A command that takes longer is ended."""


@dataclass(frozen=True)
class RunNews:
    """What the command receives about a run.

    Attributes
    ----------
    run : int
    title, state, sentence : str
        The state is ``done``, ``failed``, ``stopped`` or ``paused``.
    """

    run: int
    title: str
    state: str
    sentence: str


class OnEnd:
    """Runs the command of a project's settings, if it may run.

    Parameters
    ----------
    home : Path
    gate : Gate
    failed : callable
        Receives the run's id and a sentence when the command could not do its work.
    """

    def __init__(self, home: Path, gate: Gate, failed: Callable[[int, str], None]) -> None:
        self._home, self._gate, self._failed = home, gate, failed

    def tell(self, news: RunNews) -> threading.Thread | None:
        """Run the command beside all other work; the thread that waits for it, or None where none runs."""
        try:
            settings = read_settings(self._home)
            if not settings.on_end:
                return None
            self._gate.check((self._home / "settings.json",), settings.digest)
        except VexelError as error:
            self._failed(news.run, f"The command on_end did not run: {error}")
            return None
        thread = threading.Thread(target=self._run, args=(settings.on_end, news), name="on_end", daemon=True)
        thread.start()
        return thread

    def _run(self, command: list[str], news: RunNews) -> None:
        told = {"RUN": str(news.run), "TITLE": news.title, "STATE": news.state, "SENTENCE": news.sentence}
        environment = os.environ | {f"VEXEL_{name}": value for name, value in told.items()}
        try:
            done = subprocess.run(
                command,
                cwd=self._home,
                env=environment,
                stdin=subprocess.DEVNULL,
                capture_output=True,
                timeout=MOST_SECONDS,
                check=False,
            )
        except subprocess.TimeoutExpired:
            self._failed(news.run, f"The command on_end was ended after {MOST_SECONDS:g} s.")
        except OSError as error:
            self._failed(news.run, f"The command on_end cannot be run: {command[0]}: {error.strerror}.")
        else:
            if done.returncode:
                said = done.stderr.decode(errors="replace").strip().splitlines()
                self._failed(news.run, f"The command on_end ended with status {done.returncode}. {' '.join(said[-1:])}")
