"""Chapters and subtitles as WebVTT."""

from typing import Any

from vexel.core.recipes.cue import webvtt
from vexel.output.job.pictures import Pixels
from vexel.output.writers.writer import Writer


class CueWriter(Writer):
    """Writes texts with their times; it needs no picture."""

    needs_pictures = False

    def add(self, prepared: Any, number: int) -> None:
        """Nothing: no picture is asked for."""

    def prepare(self, pixels: Pixels) -> Any:
        """Nothing."""

    def end(self) -> bool:
        """Write the file."""
        self.part.write_text(webvtt(self.job.cues, self.job.timeline.rate.fps), encoding="utf-8")
        return False
