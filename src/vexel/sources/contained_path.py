"""Names of other files in a file: they must be in its folder, or are refused."""

import re
from os.path import normpath
from pathlib import Path, PurePath
from urllib.parse import unquote

from vexel.core.errors import Mistake

_APART = frozenset("/\\%\0")
"""Characters that lead out of a folder, or can encode those that do."""
_DATABASE = re.compile(r"vexel\.db(-\w+)?")


def is_private(name: str) -> bool:
    """Whether a name is of a hidden file, of one in a hidden folder, or of a project's own database.

    No source is made of these, none leaves with a hand-over, and none comes in with an archive.
    """
    parts = PurePath(name).parts
    return any(part.startswith(".") and part != ".." for part in parts) or any(map(_DATABASE.fullmatch, parts[-1:]))


def contained_file(folder: Path, name: str, by: str) -> Path:
    """The file of a folder that another file names; links are followed, and have to stay in the folder too.

    Parameters
    ----------
    folder : Path
        The folder that must contain every named file.
    name : str
        The name in the file; percent-encoded or not.
    by : str
        The file that contains the name.

    Returns
    -------
    Path
        Below `folder`, without ``..``; whether it is there is not asked.

    Raises
    ------
    Mistake
        When it lies elsewhere.
    """
    # Most names are of this kind, and takes have thousands: a single look tells that they are no links.
    if name not in ("", ".", "..") and not _APART & set(name) and not (plain := folder / name).is_symlink():
        return plain
    whole = folder.resolve()
    for spelled in {name, unquote(name)}:
        # Neither the name nor its links may leave the folder. A zero byte is in no name.
        told = Path(normpath(spelled.replace("\0", "")))
        outside = told.is_absolute() or told.parts[:1] == ("..",)
        if outside or not (whole / told).resolve().is_relative_to(whole):
            raise Mistake(
                f"{by} names {name}, which is outside its folder: put that file into the folder, "
                "and name it relative to it"
            )
    return folder / normpath(name)
