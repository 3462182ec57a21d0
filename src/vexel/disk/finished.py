"""What is known of a file that was finished, so that it is noticed when it has changed since."""

from dataclasses import dataclass
from pathlib import Path

from vexel.disk.digests import digest_of_file


@dataclass(frozen=True)
class Finished:
    """A finished file.

    Attributes
    ----------
    bytes : int
    digest : str
        BLAKE3 of its bytes; empty where an older version of Vexel made it.
    written : int
        When it was last written, in nanoseconds: as long as that and the size
        are the same, the bytes are not read again.
    """

    bytes: int = 0
    digest: str = ""
    written: int = 0


def finished(path: Path) -> Finished:
    """Look at a file that is finished.

    Raises
    ------
    OSError
        When it is not there.
    """
    stat = path.stat()
    return Finished(stat.st_size, digest_of_file(path), stat.st_mtime_ns)


def is_whole(path: Path, known: Finished, *, deep: bool = False) -> bool:
    """Whether a file is what it was; `deep` reads its bytes even where nothing speaks against it.

    Raises
    ------
    OSError
        When it is there and cannot be read.
    """
    try:
        stat = path.stat()
        if stat.st_size != known.bytes:
            return False
        doubtful = stat.st_mtime_ns != known.written
        return not known.digest or not (deep or doubtful) or digest_of_file(path) == known.digest
    except (FileNotFoundError, NotADirectoryError):
        # What cannot be read, since it is closed or its disk failed, may be whole: it is not made again over that.
        return False


def set_aside(path: Path, into: Path) -> Path | None:
    """Move a damaged file into a folder, beside those of its name that are there; None where it is gone."""
    number, place = 1, into / path.name
    while place.exists():
        place, number = into / f"{path.stem}.{number}{path.suffix}", number + 1
    try:
        into.mkdir(parents=True, exist_ok=True)
        path.rename(place)
    except FileNotFoundError:
        return None
    return place
