"""Which files a VTK file of several parts consists of.

Collections (.pvd), multi-blocks (.vtm) and parallel files (.pvtu and the like) are XML. What they name is found without
the libraries of meshes, since a server asks too.
"""

from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path

from vexel.core.errors import Mistake, SourceError
from vexel.sources.contained_path import contained_file
from vexel.sources.pictures.sequence_members import COLLECTIONS, stamp_of

DEEPEST = 8
"""How many such files may name one another."""
_NAMING = ("file", "Source")
"""Attributes that name a part: of a data set in a collection or block, and of a piece of a parallel file."""


def with_pieces(file: Path, depth: int = 0) -> Iterator[Path]:
    """A file, and all that it is made of; a part that is missing is among them.

    Raises
    ------
    SourceError
        When it cannot be read, or names others without an end.
    Mistake
        When it names a file outside its folder.
    """
    yield file
    if file.suffix.lower() not in (".pvd", *COLLECTIONS) or not file.is_file():
        return
    if depth >= DEEPEST:
        raise SourceError(f"{file.name} is named through {DEEPEST} other files: name its parts directly")
    for name in _named(file, stamp_of(file)):
        yield from with_pieces(contained_file(file.parent, name, file.name), depth + 1)


@lru_cache(256)
def _named(file: Path, stamp: str) -> tuple[str, ...]:
    from defusedxml import ElementTree

    try:
        elements = ElementTree.fromstring(file.read_bytes()).iter()
        return tuple(element.attrib[key] for element in elements for key in _NAMING if key in element.attrib)
    except Mistake:
        raise
    except Exception as error:  # noqa: BLE001 (readers raise anything on damaged data)
        raise SourceError(f"{file.name} names no parts that can be read ({error}): export it again") from None


def stamp_of_all(file: Path) -> str:
    """What identifies the content of a file and of all its parts, without reading them."""
    return "|".join(stamp_of(one) if one.is_file() else f"{one.name}:missing" for one in with_pieces(file))
