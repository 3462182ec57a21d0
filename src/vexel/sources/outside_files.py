"""What a source declares to read beyond its own folder: identified by its content, and copied."""

import hashlib
import os
import shutil
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import partial
from itertools import islice
from pathlib import Path, PurePath
from types import MappingProxyType

from vexel.core.errors import Mistake
from vexel.core.evaluate.source_facts import OutsideAt
from vexel.sources.contained_path import is_private
from vexel.sources.content_copy import digest_of_files, new_copy, sha256

ENVIRONMENT = "env:"
"""Begins the name of a variable among what a source declares to read."""
MOST_READ, MOST_READ_BYTES = 5000, 2 * 10**9
"""Files of a folder that a source declares to read, and bytes of them."""
OUTSIDE = "outside"
"""Folder among the copies, for these."""
_CONTENT = "content"
"""Name of the file or folder in a copy: the same content may lie under several names."""
_NOTHING = "nothing"
"""In the path of a copy: the place is empty."""
_NO_FILES = ("/proc/", "/sys/", "/dev/")
"""Places whose files have no end, or wait for somebody."""


@dataclass(frozen=True)
class OutsideReads:
    """Files and folders beyond a source's own, and variables of the environment, that it declares to read.

    Attributes
    ----------
    places : mapping of str to Path
        Where each lies, by the name by which it is declared.
    variables : tuple of str
        The declarations: ``env:`` and a name.
    """

    places: Mapping[str, Path]
    variables: tuple[str, ...] = ()

    @classmethod
    def of(
        cls,
        declared: Iterable[tuple[Path, Iterable[str]]],
        held: Mapping[str, Path] = MappingProxyType({}),
        secrets: Iterable[str] = (),
    ) -> "OutsideReads":
        """Collect what lies beyond the folders of files.

        Parameters
        ----------
        declared : iterable of (Path, iterable of str)
            Files, and what each declares: paths relative to it, absolute ones, or ``env:`` with a name.
        held : mapping of str to Path
            What is read in place of some of them.
        secrets : iterable of str
            Files and folders that no code is to read; a last part alone means a file of this name anywhere.

        Raises
        ------
        Mistake
            When one begins at the home of nobody or holds a secret, or `held` names what is not declared.
        """
        places, variables = {}, {}
        for file, names in declared:
            for name in names:
                if name.startswith(ENVIRONMENT):
                    variables[name] = True
                elif not is_below(name):
                    places[name] = held.get(name) or _place(file.parent, name)
        if unknown := sorted(held.keys() - places.keys()):
            raise Mistake(f"source.reads_from names {unknown[0]}, which nothing declares: add it to source.reads")
        for name, place in places.items():
            if any(_shows(place, secret) for secret in secrets):
                raise Mistake(f"source.reads: {name} holds secrets of Vexel: name the files that are read")
        return cls(places, tuple(variables))

    def stamps(self) -> dict[str, str]:
        """What identifies the content of each; empty where there is nothing.

        Raises
        ------
        Mistake
            When one cannot be read, or is more than is read for each look at a shot.
        """
        found = {name: _stamp_of_place(place, name) for name, place in self.places.items()}
        for name in self.variables:
            value = os.environ.get(name.removeprefix(ENVIRONMENT))
            found[name] = "" if value is None else hashlib.sha256(value.encode(errors="surrogateescape")).hexdigest()
        return found

    def copy_to(self, copies: Path, stamps: Mapping[str, str]) -> None:
        """Copy each place, once for each content.

        Raises
        ------
        Mistake
            When one does not hold what its stamp says any more.
        """
        for name, place in self.places.items():
            stamp = stamps[name]
            target = copies / OUTSIDE / stamp
            if not stamp or _holds(target, stamp):
                continue
            with new_copy(copies / OUTSIDE, target, partial(_holds, stamp=stamp)) as unfinished:
                for inner in files_of(place):
                    copied = unfinished / _CONTENT / inner
                    copied.parent.mkdir(parents=True, exist_ok=True)
                    shutil.copyfile(place / inner, copied)
                if not _holds(unfinished, stamp):
                    raise Mistake(f"source.reads: {name} changed while it was read: try again")


def is_below(name: str) -> bool:
    """Whether a path leads below the folder that it is relative to."""
    path = PurePath(name)
    return bool(path.parts) and not path.is_absolute() and ".." not in path.parts and not name.startswith("~")


def outside_at(code: Path, stamps: Mapping[str, str], copies: Path) -> tuple[OutsideAt, ...] | None:
    """From where a stage reads what `OutsideReads.copy_to` copied; None where a copy is gone.

    Parameters
    ----------
    code : Path
        The copy of the code, from whose folder relative names are asked for.
    stamps : mapping of str to str
        See `OutsideReads.stamps`.
    copies : Path
    """
    found = []
    for name, stamp in stamps.items():
        if name.startswith(ENVIRONMENT):
            continue
        place = os.path.normpath(code.parent / Path(name).expanduser())
        target = copies / OUTSIDE / (stamp or _NOTHING)
        if stamp and not _holds(target, stamp):
            return None
        found.append(OutsideAt(name, place, target / _CONTENT, stamp))
    return tuple(found)


def files_of(place: Path) -> tuple[str, ...]:
    """Files of a folder that are not hidden, by name, or one empty name for a file.

    Links that lead out of the folder are left out. Where there are too many, one more than are read.
    """
    if not place.is_dir():
        return ("",) if place.is_file() else ()
    whole = place.resolve()
    there = (one for one in place.rglob("*") if one.is_file() and _stays_in(one, whole))
    found = (str(one.relative_to(place)) for one in there)
    return tuple(sorted(islice((name for name in found if not is_private(name)), MOST_READ + 1)))


def stamp_of(place: Path) -> str:
    """Identify what a file or folder holds; empty where that is nothing."""
    names = files_of(place)
    return sha256(place) if names == ("",) else digest_of_files(place, names) if names else ""


def _stamp_of_place(place: Path, name: str) -> str:
    """The stamp of what is declared by a name, if it is not too much.

    Raises
    ------
    Mistake
    """
    try:
        if str(place).startswith(_NO_FILES):
            raise Mistake(f"source.reads: {name} is a file of the system, which is never the same: leave it out")
        names = files_of(place)
        if len(names) > MOST_READ or sum((place / one).stat().st_size for one in names) > MOST_READ_BYTES:
            raise Mistake(
                f"source.reads: {name} holds more than {MOST_READ:,} files or {MOST_READ_BYTES // 10**6:,} MB: "
                "name the files that are read"
            )
        return stamp_of(place)
    except OSError as error:
        raise Mistake(f"source.reads: {name} cannot be read: {error.strerror}") from None


def _stays_in(file: Path, folder: Path) -> bool:
    return not file.is_symlink() or file.resolve().is_relative_to(folder)


def _shows(place: Path, secret: str) -> bool:
    """Whether a place is a secret, part of one, or a folder that holds one."""
    if os.sep not in secret:
        return place.name == secret
    hidden = Path(secret).resolve()
    return place.is_relative_to(hidden) or hidden.is_relative_to(place)


def _place(folder: Path, name: str) -> Path:
    """Where what is declared lies, links followed.

    Raises
    ------
    Mistake
    """
    try:
        return (folder / Path(name).expanduser()).resolve()
    except (OSError, RuntimeError) as error:
        raise Mistake(f"source.reads: {name} cannot be read: {getattr(error, 'strerror', None) or error}") from None


def _holds(target: Path, stamp: str) -> bool:
    """Whether a copy holds the content of a stamp."""
    return not target.is_symlink() and not (target / _CONTENT).is_symlink() and stamp_of(target / _CONTENT) == stamp
