"""Output of the command line: findings, receipts, JSON and progress."""

import json
import os
import sys
import time
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

import click

if TYPE_CHECKING:
    from vexel.core.finding import Finding
    from vexel.output.job.receipt import Receipt


def print_findings(findings: "Iterable[Finding]", err: bool = False) -> None:
    """Findings with their fixes, a line each."""
    for finding in findings:
        # A place of the interface is not at hand here.
        fixes = " Or: ".join(f"{fix.label}." for fix in finding.fixes if not fix.place)
        click.echo(f"  finding: {finding.what}. {finding.cost} {fixes}".rstrip(), err=err)


def print_receipt(receipt: "Receipt") -> None:
    """A receipt, a check a line."""
    click.echo(f"{receipt.file}: {receipt.bytes:,} bytes")
    for check in receipt.checks:
        meant = "as planned" if check.found == check.planned else f"planned {check.planned}" if check.planned else ""
        sign = meant if check.holds else f"BUT PLANNED {check.planned}"
        click.echo(f"  {check.what:9} {check.found:28} {sign}".rstrip())
    for note in receipt.notes:
        click.echo(f"  note: {note}")


_PRINTED, _OPEN = "vexel.json_is_printed", "vexel.line_is_open"


def print_json(document: Any) -> None:
    """Print a document as JSON on standard output."""
    click.echo(json.dumps(document, default=str))
    click.get_current_context().meta[_PRINTED] = True


def json_is_printed() -> bool:
    """Whether the running command has printed its document."""
    return _PRINTED in click.get_current_context().meta


class ProgressLine:
    """Progress on standard error: a line that is rewritten on a terminal, few lines in a pipe or file."""

    def __init__(self, unit: str) -> None:
        self._unit = unit
        self._last = 0.0
        self._paused = ""
        self._begun = time.monotonic()
        self._live = sys.stderr.isatty() and os.environ.get("TERM", "dumb") != "dumb"

    def __call__(self, progress: Any) -> None:
        """Show the progress of a run, and once why it pauses."""
        if progress.paused != self._paused:
            self._paused = progress.paused
            if progress.paused:
                self._last = 0.0
                self._say(progress.done, progress.count, progress.paused)
        if progress.paused:
            return
        left = "" if progress.seconds_left is None else f", {span(progress.seconds_left)} left"
        rate = f", {progress.rate:.2f} per second" if progress.rate else ""
        self._say(progress.done, progress.count, f"{progress.done:,} of {progress.count:,} {self._unit}{rate}{left}")

    def steps(self, done: int, count: int) -> None:
        """Show the steps of an encoding that are done."""
        rate = done / max(time.monotonic() - self._begun, 1e-6)
        self._say(
            done,
            count,
            f"{done:,} of {count:,} {self._unit}, {rate:.1f} per second, {span((count - done) / rate)} left",
        )

    def _say(self, done: int, count: int, text: str) -> None:
        now = time.monotonic()
        if done < count and now - self._last < (0.2 if self._live else 5.0):
            return
        self._last = now
        if not self._live:
            click.echo(text, err=True)
            return
        ended = done >= count
        click.echo(f"\r\x1b[K{text}", err=True, nl=ended)
        click.get_current_context().meta[_OPEN] = not ended


def end_line() -> None:
    """End a line of progress that would be rewritten, so that the next text begins a line."""
    if click.get_current_context().meta.pop(_OPEN, False):
        click.echo(err=True)


def span(seconds: float) -> str:
    """Minutes and seconds, with hours where it takes so long."""
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes // 60}:{minutes % 60:02d}:{rest:02d}" if minutes >= 60 else f"{minutes}:{rest:02d}"
