"""ZIP archives, checked before a byte of them is written."""

import calendar
import os
import shutil
import stat
import zipfile
import zlib
from dataclasses import dataclass
from lzma import LZMAError
from pathlib import Path, PurePosixPath

from vexel.sources.pictures.images import IMAGES
from vexel.sources.protocols import SourceError

MAX_MEMBERS = 20_000
MAX_BYTES = 2 * 1024**3
MAX_RATIO = 200
"""Data that shrinks more than this, in an archive of any size, is a trap and not a page."""
RATIO_FROM_BYTES = 50 * 1024**2
HANDED = "take/take.json"
"""In a hand-over."""
DAMAGE = (
    zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, ValueError, zlib.error, LZMAError,
    # A name that is both a file and a folder.
    IsADirectoryError, NotADirectoryError, FileExistsError,
)  # fmt: skip


@dataclass(frozen=True)
class Limits:
    """Files and bytes that an archive may unpack to."""

    members: int = MAX_MEMBERS
    bytes: int = MAX_BYTES


def unpack(archive: Path, folder: Path, limits: Limits = Limits()) -> list[Path]:
    """Unpack an archive into a folder.

    Returns
    -------
    list of Path
        The files, in order of name.

    Raises
    ------
    SourceError
        When it is damaged, when a path leaves the folder, or when it holds too much.
    """
    try:
        with zipfile.ZipFile(archive) as held:
            members = [m for m in held.infolist() if not m.is_dir() and not m.filename.startswith("__MACOSX/")]
            _check(archive.name, members, limits or Limits())
            folder.mkdir(parents=True, exist_ok=True)
            for member in members:
                target = folder / member.filename
                target.parent.mkdir(parents=True, exist_ok=True)
                with held.open(member) as source, target.open("wb") as file:
                    shutil.copyfileobj(source, file)
                # A file's time is part of what identifies it, and must not be that of its unpacking.
                written = calendar.timegm(member.date_time)
                os.utime(target, (written, written))
    except DAMAGE as error:
        raise SourceError(f"{archive.name} is damaged or locked ({error}): pack it again, without a password") from None
    return sorted(folder / member.filename for member in members)


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


def _check(name: str, members: list[zipfile.ZipInfo], limits: Limits) -> None:
    if len(members) > limits.members:
        raise SourceError(f"{name} holds {len(members):,} files, more than the {limits.members:,} that are taken")
    total = sum(member.file_size for member in members)
    packed = sum(member.compress_size for member in members)
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
