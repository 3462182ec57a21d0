"""What is odd about a source, in words."""

from collections.abc import Callable, Mapping
from typing import Any

from vexel.core.evaluate.source_facts import SourceFinding, SourceOddity
from vexel.core.wording import counted

_GAPS = {
    "refuse": "no frame is made until that is settled",
    "hold": "the frame before is held",
    "blend": "the neighbours are blended",
}


def _missing(facts: Mapping[str, Any]) -> str:
    numbers = counted(facts["count"], "number is", "numbers are")
    return f"{numbers} missing ({facts['ranges']}): {_GAPS[facts['gaps']]}"


def _twice(facts: Mapping[str, Any]) -> str:
    return f"{counted(facts['count'], 'number is', 'numbers are')} there twice, such as {facts['file']}: it is left out"


def _unreadable(facts: Mapping[str, Any]) -> str:
    reason = str(facts["reason"])
    return reason if facts["count"] == 1 else f"{facts['count']:,} files cannot be read: {reason}"


def _other(facts: Mapping[str, Any]) -> str:
    pictures = counted(facts["count"], "picture is", "pictures are")
    return f"{pictures} {facts['found']}, not {facts['usual']}, such as {facts['file']}"


def _leftover(facts: Mapping[str, Any]) -> str:
    return (
        f"{counted(facts['count'], 'picture is', 'pictures are')} {facts['hours']:,.1f} hours older than the others, "
        f"such as {facts['file']}: perhaps left over from an earlier capture"
    )


_SENTENCES: Mapping[SourceOddity, Callable[[Mapping[str, Any]], str]] = {
    "frames-missing": _missing,
    "number-twice": _twice,
    "unreadable": _unreadable,
    "other-size": _other,
    "other-depth": _other,
    "leftover": _leftover,
    "written-backwards": lambda facts: (
        "the pictures were written from the last number to the first: perhaps they are to be reversed"
    ),
    "uneven-frames": lambda facts: (
        f"frame durations vary, from {facts['shortest']} to {facts['longest']} s: "
        "each instant shows the frame that is current then"
    ),
    "rotated": lambda facts: f"the file says that it is rotated by {facts['degrees']}°: it is shown upright",
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
