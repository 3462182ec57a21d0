"""What a source's code reads beside its own files, and so may change without its frames being made again."""

from collections.abc import Sequence
from pathlib import PurePosixPath

from vexel.core.document.source_spec import WithCode
from vexel.core.finding import Finding, Fix

MOST_SAID = 5
_ENVIRONMENT = "env:"
_WHAT = {
    "file": "reads the file {name}",
    "folder": "lists the folder {name}",
    "environment": "reads the environment variable {name}",
    "network": "opens the network",
    "program": "starts the program {name}",
    "clock": "asks for the time",
    "entropy": "draws random numbers from the system",
}
_BY_CHANCE = {
    "clock": "Frames that are made at another time may differ. Take seconds, phase or frame as an argument.",
    "entropy": "A frame that is made again will not match its neighbours. Take random as an argument.",
}


def reading_findings(
    source: WithCode, readings: Sequence[tuple[str, str]], declared: Sequence[str] = ()
) -> list[Finding]:
    """A finding for each reading that the source neither declares nor ignores.

    Parameters
    ----------
    readings : sequence of (str, str)
        See `vexel.sources.code.watch.Reading`.
    declared : sequence of str
        Whole paths of what the source declares to read.
    """
    told = {*source.reads, *source.ignores, *declared}
    left = [reading for reading in readings if not _is_told(told, *reading)]
    found = [_finding(source, kind, name) for kind, name in left[:MOST_SAID]]
    if len(left) > MOST_SAID:
        more = f"{source.name} reads {len(left) - MOST_SAID:,} more things beside its own files"
        found.append(Finding("reads-elsewhere", more, "A change of them is not detected."))
    return found


def _spelled(kind: str, name: str) -> str:
    if kind == "environment":
        return f"{_ENVIRONMENT}{name}"
    return name if kind in ("file", "folder") else kind


def _is_told(told: set[str], kind: str, name: str) -> bool:
    spelled = _spelled(kind, name)
    if kind not in ("file", "folder"):
        return spelled in told
    return any(str(place) in told for place in (PurePosixPath(spelled), *PurePosixPath(spelled).parents))


def _finding(source: WithCode, kind: str, name: str) -> Finding:
    spelled = _spelled(kind, name)
    ignore = Fix("Ignore it", {"source": {"ignores": [*source.ignores, spelled]}})
    declare = Fix("Declare it", {"source": {"reads": [*source.reads, spelled]}})
    if kind in _BY_CHANCE:
        return Finding("reads-elsewhere", f"{source.name} {_WHAT[kind]}", _BY_CHANCE[kind], (ignore,))
    declared = kind in ("file", "folder", "environment")
    cost = "Frames do not change when it changes, and a hand-over does not contain it. "
    cost += (
        "Declared, it is copied, and each change makes the frames again."
        if declared
        else "Keep what it gives in a file beside it."
    )
    what = f"{source.name} {_WHAT[kind].format(name=name)}"
    return Finding("reads-elsewhere", what, cost, (declare, ignore) if declared else (ignore,))
