"""What is odd about a source, in words."""

from collections.abc import Callable, Mapping
from typing import Any

from vexel.core.evaluate.source_facts import SourceFinding, SourceOddity
from vexel.core.wording import counted

_GAPS = {
    "refuse": "no frame is made until that is settled",
    "hold": "the frame before is held",
    "blend": "the neighbours are blended",
    "skip": "they are left out, and the motion jumps there",
}


def _missing(facts: Mapping[str, Any]) -> str:
    numbers = counted(facts["count"], "number is", "numbers are")
    return f"{numbers} missing ({facts['ranges']}): {_GAPS[facts['gaps']]}"


def _skipped(facts: Mapping[str, Any]) -> str:
    pictures = counted(facts["count"], "picture has", "pictures have")
    return f"{pictures} another ending than the sequence, such as {facts['file']}: not part of it, so left out"


def _twice(facts: Mapping[str, Any]) -> str:
    return f"{counted(facts['count'], 'number is', 'numbers are')} there twice, such as {facts['file']}: it is left out"


def _unreadable(facts: Mapping[str, Any]) -> str:
    reason = str(facts["reason"])
    return reason if facts["count"] == 1 else f"{facts['count']:,} files cannot be read: {reason}"


def _other(facts: Mapping[str, Any]) -> str:
    pictures = counted(facts["count"], "picture is", "pictures are")
    return f"{pictures} {facts['found']}, not {facts['usual']}, such as {facts['file']}"


_SHOWN = {
    "contain": "shown whole",
    "cover": "scaled to fill the frame, and cut off at two edges",
    "none": "shown without scaling, from the middle",
    "skip": "left out, and the motion jumps there",
}


def _sized(facts: Mapping[str, Any]) -> str:
    verb = "it is" if facts["count"] == 1 else "they are"
    return f"{_other(facts)}: {verb} {_SHOWN[facts['shown']]}"


def _leftover(facts: Mapping[str, Any]) -> str:
    return (
        f"{counted(facts['count'], 'picture is', 'pictures are')} {facts['hours']:,.1f} hours older than the others, "
        f"such as {facts['file']}: perhaps left over from an earlier capture"
    )


_SENTENCES: Mapping[SourceOddity, Callable[[Mapping[str, Any]], str]] = {
    "frames-missing": _missing,
    "files-skipped": _skipped,
    "number-twice": _twice,
    "unreadable": _unreadable,
    "other-size": _sized,
    "other-depth": _other,
    "leftover": _leftover,
    "written-backwards": lambda facts: (
        "the pictures were written from the last number to the first: you may want to reverse them"
    ),
    "uneven-frames": lambda facts: (
        f"frame durations vary, from {facts['shortest']} to {facts['longest']} s: "
        "each instant shows the frame that is current then"
    ),
    "rotated": lambda facts: f"the file says that it is rotated by {facts['degrees']}°: it is shown upright",
    "untimed": lambda facts: f"the file does not say when its frames are shown: {facts['rate']} is assumed",
    "times-jump": lambda facts: (
        f"the times in the file jump {counted(facts['count'], 'time')}, first before frame {facts['first']:,}: "
        "the frames follow each other there"
    ),
    "undecodable": lambda facts: (
        f"{counted(facts['count'], 'packet')} of the file cannot be decoded: their frames are left out"
    ),
    "stretched": lambda facts: f"its pixels are {facts['aspect']}, not square: it is stretched to {facts['size']}",
    "interlaced": lambda facts: "its frames are interlaced: what moves shows combed edges",
    "bright-colours": lambda facts: "it is HDR video, shown unconverted: it looks flat and pale",
    "wide-colours": lambda facts: "its colours are BT.2020, shown unconverted: they look dull",
    "profile": lambda facts: (
        f"{facts['file']} has the colour profile {facts['name']}: pictures with it are converted to sRGB, with 8 bits"
    ),
    "dates-guessed": lambda facts: (
        f"the dates of {facts['column']} may have the day or the month first: the day is assumed to be first"
    ),
    "rows-reversed": lambda facts: (
        f"the rows fall in {facts['column']}: they are shown from the last, which is the earliest"
    ),
    "not-drawn": lambda facts: f"the file has {facts['what']}, which are not drawn",
    "missing-beside": lambda facts: (
        f"{facts['files']} {'is' if facts['count'] == 1 else 'are'} missing beside the file"
    ),
    "animations": lambda facts: f"the file has several animations: {facts['first']} is shown, not {facts['others']}",
    "layers": lambda facts: f"the files have several layers: {facts['first']} is shown, not {facts['others']}",
    "no-point-colours": lambda facts: "the points have no colours that Vexel knows by name: they are grey",
    "linear-floats": lambda facts: (
        f"{facts['file']} holds floating-point numbers: they are read as linear light, not as sRGB codes"
    ),
    "untamed": lambda facts: (
        f"the page uses {facts['what']}, which keeps to the wall clock: frames may differ each time"
    ),
    "no-header": lambda facts: (
        f"the table has no header: its {counted(facts['columns'], 'column is', 'columns are')} named column 1 and so on"
    ),
    "value-unread": lambda facts: (
        f"line {facts['line']:,} of {facts['column']} is {facts['text']!r}, which is no number: the column is not drawn"
    ),
    "values-missing": lambda facts: (
        f"{facts['count']:,} of the values of {facts['column']} are missing: its line has gaps there"
    ),
    "not-finite": lambda facts: (
        f"{counted(facts['count'], 'value is', 'values are')} not finite (NaN or infinite): they are left clear"
    ),
    "uneven-times": lambda facts: "its times are unevenly spaced: each instant shows the slice that is current then",
}


def source_sentence(finding: SourceFinding) -> str:
    """The finding in words."""
    return _SENTENCES[finding.code](finding.facts)
