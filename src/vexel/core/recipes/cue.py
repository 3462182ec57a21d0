"""Cues: text that belongs to a stretch of a take, as chapters and subtitles have it."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

from vexel.core.recipes.retiming import Timeline


@dataclass(frozen=True)
class Cue:
    """A text and the frames that it belongs to.

    Attributes
    ----------
    text : str
    begin, end : int
        First frame, and the one after the last.
    """

    text: str
    begin: int
    end: int


def cues_on(timeline: Timeline, cues: Sequence[Cue], first: int = 0) -> list[Cue]:
    """Cues counted in the pictures of a file.

    Parameters
    ----------
    timeline : Timeline
    cues : sequence of Cue
        Counted in frames of the shot.
    first : int
        Frame of the shot at the timeline's position 0.

    Returns
    -------
    list of Cue
        Those that are seen, once for each time that the frames are played.
    """
    shown = [first + position for position, _ in timeline.picks]
    placed = []
    for play in range(timeline.repeats):
        for cue in cues:
            within = [n for n, frame in enumerate(shown) if cue.begin <= frame < cue.end]
            if within:
                offset = play * len(shown)
                placed.append(Cue(cue.text, offset + within[0], offset + within[-1] + 1))
    return placed


def webvtt(cues: Sequence[Cue], fps: Fraction) -> str:
    """A WebVTT file (W3C WebVTT, 4.1); times are rounded to the milliseconds that it has."""

    def block(number: int, cue: Cue) -> str:
        # An arrow would end the text, and its markup begins with these two.
        text = without_empty_lines(cue.text).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        return f"{number}\n{_clock(cue.begin / fps)} --> {_clock(cue.end / fps)}\n{text}\n"

    return "\n".join(["WEBVTT\n", *(block(n, cue) for n, cue in enumerate(cues, 1))])


def without_empty_lines(text: str) -> str:
    """A text as WebVTT can hold it: an empty line would end its cue."""
    return "\n".join(line for line in text.splitlines() if line.strip()) or "-"


def read_webvtt(text: str) -> Iterator[tuple[str, Fraction, Fraction]]:
    """Text, begin and end in seconds of each cue of a WebVTT file as `webvtt` writes it.

    Raises
    ------
    ValueError
        When it is not such a file.
    """
    for block in text.split("\n\n")[1:]:
        _, times, words = block.rstrip("\n").split("\n", 2)
        begin, end = (_seconds(part) for part in times.split(" --> "))
        yield words.replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&"), begin, end


def _clock(seconds: Fraction) -> str:
    whole = round(seconds * 1000)
    return f"{whole // 3_600_000:02d}:{whole // 60_000 % 60:02d}:{whole // 1000 % 60:02d}.{whole % 1000:03d}"


def _seconds(text: str) -> Fraction:
    hours, minutes, seconds = text.split(":")
    return int(hours) * 3600 + int(minutes) * 60 + Fraction(seconds)
