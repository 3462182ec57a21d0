"""Images in a folder that do not belong to the rest: of another size, or left from an earlier export."""

import shutil
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from statistics import median

from vexel.core.errors import Failure, Mistake
from vexel.core.wording import counted

PAUSE_SECONDS, PAUSE_TIMES = 600.0, 30.0
"""A pause this long, in seconds and in usual intervals, separates files of an earlier export from the rest."""


@dataclass(frozen=True)
class Leftovers:
    """Files that do not belong to the rest.

    Attributes
    ----------
    other_sizes : tuple of Path
        Of another width or height than most.
    older : tuple of Path
        Written long before the others.
    hours : float
        How long before.
    """

    other_sizes: tuple[Path, ...] = ()
    older: tuple[Path, ...] = ()
    hours: float = 0.0

    @property
    def all(self) -> frozenset[Path]:
        """All of them."""
        return frozenset((*self.other_sizes, *self.older))

    @property
    def findings(self) -> list[str]:
        """What is wrong, as sentences."""
        said = []
        if self.other_sizes:
            said.append(
                f"{counted(len(self.other_sizes), 'file has', 'files have')} another size than most, such as "
                f"{self.other_sizes[0].name}"
            )
        if self.older:
            said.append(
                f"{counted(len(self.older), 'file is', 'files are')} {self.hours:.1f} h older than the rest, such as "
                f"{self.older[0].name}: they may be left from an earlier export"
            )
        return said


def leftovers_in(files: Sequence[Path], sizes: Mapping[Path, tuple[int, int] | None]) -> Leftovers:
    """Find them.

    Parameters
    ----------
    files : sequence of Path
    sizes : mapping of Path to (int, int) or None
        Width and height of each; None where they are not known.
    """
    known = Counter(size for size in sizes.values() if size is not None)
    usual = known.most_common(1)[0][0] if known else None
    other = tuple(file for file in files if sizes.get(file) not in (usual, None))
    written = {file: file.stat().st_mtime for file in files}
    times = sorted(written.values())
    steps = [after - before for before, after in pairwise(times)]
    if len(steps) < 3:
        return Leftovers(other)
    widest = max(range(len(steps)), key=steps.__getitem__)
    pause, before = steps[widest], widest + 1
    if pause < PAUSE_SECONDS or pause < PAUSE_TIMES * median(steps) or before > len(times) // 2:
        return Leftovers(other)
    return Leftovers(other, tuple(file for file in files if written[file] <= times[widest]), pause / 3600)


def clean_copy(
    files: Sequence[Path], left_out: frozenset[Path], target: Path, on_progress: Callable[[int, int], None]
) -> int:
    """Copy all files but some into a new folder, which appears once it is whole; how many.

    Raises
    ------
    Mistake
        When the folder exists, or nothing would be in it.
    Failure
        When it cannot be written.
    """
    kept = [file for file in files if file not in left_out]
    if not kept:
        raise Mistake("no file would be left: the folder has nothing in common")
    if any(file.parent.resolve() in (target.resolve(), *target.resolve().parents) for file in kept[:1]):
        raise Mistake(f"{target} is within the folder that is copied: name a place outside of it")
    if target.exists():
        raise Mistake(f"{target} exists: name a new folder for the clean copy")
    part = target.with_name(f".{target.name}.part")
    try:
        shutil.rmtree(part, ignore_errors=True)
        part.mkdir(parents=True)
        for done, file in enumerate(kept, 1):
            shutil.copy2(file, part / file.name)
            on_progress(done, len(kept))
        part.rename(target)
    except OSError as error:
        raise Failure(f"{target} cannot be written: {error.strerror}") from None
    finally:
        shutil.rmtree(part, ignore_errors=True)
    return len(kept)
