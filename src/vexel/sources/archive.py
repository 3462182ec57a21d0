"""ZIP archives, checked before a byte of them is written."""

import calendar
import os
import shutil
import stat
import struct
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from lzma import LZMAError
from pathlib import Path, PurePosixPath

from vexel.core.errors import SourceError
from vexel.disk.write import make_folder, part_of, publish
from vexel.imaging.images import IMAGES
from vexel.sources.contained_path import is_private

MAX_MEMBERS = 20_000
MAX_BYTES = 2 * 1024**3
MAX_RATIO = 200
"""Data that shrinks more than this, in an archive of any size, is a trap and not a page."""
RATIO_FROM_BYTES = 50 * 1024**2
MAX_ENTRY_BYTES = 1024
"""What the directory of an archive may hold of a file, on average: its name and some notes."""
SPARED_BYTES = 1_000_000_000
"""Disk space that stays free when an archive is unpacked."""
TEXTS = (".html", ".htm", ".svg", ".css", ".js", ".mjs", ".json")
"""Endings of what a page may run, or name other files in."""
HANDED = "take/take.json"
"""In a hand-over."""
_HEAD = struct.Struct("<4s5H3L2H")
"""A member's own head: 30 bytes, of which the last two numbers are the lengths of its name and its notes."""
_FIRST_YEAR = 1980
"""ZIP knows no earlier one, and programs that know no time write zeros."""
DAMAGE = (
    zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, ValueError, zlib.error, LZMAError, struct.error,
    # A name that is both a file and a folder.
    IsADirectoryError, NotADirectoryError, FileExistsError,
)  # fmt: skip


@dataclass(frozen=True)
class Limits:
    """Files and bytes that an archive may unpack to."""

    members: int = MAX_MEMBERS
    bytes: int = MAX_BYTES


def unpack(archive: Path, folder: Path, limits: Limits = Limits()) -> list[Path]:
    """Unpack an archive into a new folder, which is there whole or not at all; hidden files are left out.

    Returns
    -------
    list of Path
        The files, in order of name.

    Raises
    ------
    SourceError
        When it is damaged, when a path leaves the folder, when it holds too much, or when it cannot be written.
    """
    try:
        with zipfile.ZipFile(_with_short_directory(archive, limits)) as held:
            members = [m for m in held.infolist() if not m.is_dir() and not _is_left_out(m.filename)]
            _check(archive, members, limits)
            make_folder(folder.parent)
            partial = part_of(folder)
            partial.mkdir(mode=0o700)
            try:
                for member in members:
                    _write(held, member, partial / member.filename)
                # In place of an empty folder too, but never of one that holds anything.
                partial.chmod(0o755)
                publish(partial, folder)
            finally:
                shutil.rmtree(partial, ignore_errors=True)
    except DAMAGE as error:
        raise SourceError(f"{archive.name} is damaged or locked ({error}): pack it again, without a password") from None
    except OSError as error:
        raise SourceError(f"{archive.name} cannot be unpacked into {folder}: {error.strerror}") from None
    return sorted(folder / member.filename for member in members)


def _is_left_out(name: str) -> bool:
    return name.startswith("__MACOSX/") or is_private(name.replace("\\", "/"))


def names_in(archive: Path) -> list[str]:
    """Names of the files in an archive.

    Raises
    ------
    SourceError
        When it is damaged, or its directory is larger than one of that many files may be.
    """
    try:
        with zipfile.ZipFile(_with_short_directory(archive, Limits())) as held:
            return [m.filename for m in held.infolist() if not m.is_dir() and not _is_left_out(m.filename)]
    except DAMAGE as error:
        raise SourceError(f"{archive.name} is damaged and cannot be unpacked ({error}): pack it again") from None


def _write(held: zipfile.ZipFile, member: zipfile.ZipInfo, target: Path) -> None:
    target.parent.mkdir(parents=True, exist_ok=True)
    with held.open(member) as source, target.open("xb") as file:
        shutil.copyfileobj(source, file)
    # A file's time is part of what identifies it, and must not be that of its unpacking.
    year, month, day, *time = member.date_time
    written = calendar.timegm((max(year, _FIRST_YEAR), max(month, 1), max(day, 1), *time))
    os.utime(target, (written, written))


def _with_short_directory(archive: Path, limits: Limits) -> Path:
    """The archive, if its directory is not too long for the files allowed: all of it is read into memory."""
    find: Callable[..., list[int] | None] = zipfile._EndRecData  # type: ignore[attr-defined]  # has no public way
    with archive.open("rb") as file:
        end = find(file)
    if end is None:
        raise zipfile.BadZipFile("it has no directory")
    if end[5] > limits.members * MAX_ENTRY_BYTES:
        raise SourceError(
            f"{archive.name} has a directory of {end[5] / 1e6:,.0f} MB, more than {limits.members:,} files need: "
            "pack fewer files into it"
        )
    return archive


def text_of(file: Path, most: int) -> str:
    """A text to be reviewed: of a file, or of all texts in an archive with the names of its other files.

    Raises
    ------
    SourceError, OSError, UnicodeDecodeError
    """
    if file.suffix.lower() != ".zip":
        return file.read_text() if file.stat().st_size <= most else ""
    parts = []
    for name in names_in(file):
        with zipfile.ZipFile(file) as held, held.open(name) as member:
            data = member.read(most) if name.lower().endswith(TEXTS) else b""
        parts.append(f"=== {name} ===\n{data.decode('utf-8', 'replace')}")
    return "\n".join(parts)[:most]


def unpacked_page(archive: Path, folder: Path) -> Path:
    """Unpack a page; its HTML file.

    Raises
    ------
    SourceError
        When there is not one page in it.
    """
    files = unpack(archive, folder)
    pages = [file for file in files if file.suffix.lower() in (".html", ".htm")]
    first = [file for file in pages if file.name.lower() in ("index.html", "index.htm")] or pages
    if not first:
        if (folder / HANDED).is_file():
            raise SourceError(
                f"{archive.name} is a hand-over: make a project of it by vexel unpack {archive.name} --to FOLDER"
            )
        raise SourceError(f"{archive.name} holds no HTML file: put the page's index.html into it")
    top = min(first, key=lambda file: len(file.parts))
    if len(first) > 1 and [len(file.parts) for file in first].count(len(top.parts)) > 1:
        names = ", ".join(file.name for file in first[:4])
        raise SourceError(f"{archive.name} holds several pages ({names}): name the one to be shown index.html")
    return top


def unpacked_stills(archive: Path, folder: Path) -> Path:
    """Unpack numbered pictures; the first of them.

    Raises
    ------
    SourceError
        When there are none in it.
    """
    pictures = [file for file in unpack(archive, folder) if file.suffix.lower() in IMAGES]
    if not pictures:
        raise SourceError(f"{archive.name} holds no pictures: put numbered PNG, JPEG, TIFF, WebP or EXR files into it")
    return pictures[0]


def _check(archive: Path, members: list[zipfile.ZipInfo], limits: Limits) -> None:
    name = archive.name
    if len(members) > limits.members:
        raise SourceError(f"{name} holds {len(members):,} files, more than the {limits.members:,} that are taken")
    total, packed = sum(member.file_size for member in members), archive.stat().st_size
    if total > limits.bytes or (total > RATIO_FROM_BYTES and total > MAX_RATIO * max(packed, 1)):
        raise SourceError(
            f"{name} would unpack to {total / 1e6:,.0f} MB from {packed / 1e6:,.1f} MB, more than is taken: "
            "pack less into it"
        )
    for member in members:
        path = PurePosixPath(member.filename.replace("\\", "/"))
        if not path.parts:
            raise SourceError(f"{name} holds {member.filename!r}, which is not a regular file: pack it again")
        if path.is_absolute() or ".." in path.parts or ":" in path.parts[0] or "\0" in member.filename:
            raise SourceError(f"{name} holds {member.filename!r}, a path that leaves the folder: pack it again")
        if stat.S_ISLNK(member.external_attr >> 16):
            raise SourceError(f"{name} holds the link {member.filename!r}: pack the file itself")
    _refuse_overlap(archive, members)


def _refuse_overlap(archive: Path, members: list[zipfile.ZipInfo]) -> None:
    """Refuse members that share bytes: a few of them could represent any number of files."""
    spans = []
    with archive.open("rb") as file:
        for member in sorted(members, key=lambda one: one.header_offset):
            file.seek(member.header_offset)
            *_, name_length, notes_length = _HEAD.unpack(file.read(_HEAD.size))
            begin = member.header_offset
            spans.append((begin, begin + _HEAD.size + name_length + notes_length + member.compress_size))
    if any(end > begin for (_, end), (begin, _) in pairwise(spans)):
        raise SourceError(f"{archive.name} holds files that share bytes, as traps do: pack it again")
