"""How much memory a process and its children take."""

from collections import defaultdict
from contextlib import suppress
from pathlib import Path


def peak_bytes(process: int) -> int:
    """The most memory that a process and those it started have taken so far; 0 where that is not known.

    Each process counts with its own peak, including memory that it shares.
    """
    children = defaultdict(list)
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with suppress(OSError, ValueError, IndexError):
            children[int(stat.read_text().rpartition(")")[2].split()[1])].append(int(stat.parent.name))
    found, waiting = 0, [process]
    while waiting:
        one = waiting.pop()
        waiting += children[one]
        found += _peak(one)
    return found


def _peak(process: int) -> int:
    with suppress(OSError, ValueError, IndexError):
        for line in Path(f"/proc/{process}/status").read_text().splitlines():
            if line.startswith("VmHWM:"):
                return int(line.split()[1]) * 1024
    return 0
