"""Headers of PLY files (Turk, 1994): elements, their numbers, and how many bytes follow at least.

A header alone is read, since reading whole files in Python takes seconds: a
mesh of 1.3 million triangles took a general PLY library 12 s, and its header
0.3 ms. The bodies are read by NumPy or by the mesh library.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from vexel.sources.contained_path import contained_file

MOST_BYTES: Final = 100_000
"""A header of more bytes is none."""
_TYPES: Final = {
    **dict.fromkeys(("char", "int8"), "i1"),
    **dict.fromkeys(("uchar", "uint8"), "u1"),
    **dict.fromkeys(("short", "int16"), "i2"),
    **dict.fromkeys(("ushort", "uint16"), "u2"),
    **dict.fromkeys(("int", "int32"), "i4"),
    **dict.fromkeys(("uint", "uint32"), "u4"),
    **dict.fromkeys(("float", "float32"), "f4"),
    **dict.fromkeys(("double", "float64"), "f8"),
}
_TEXTURE: Final = "texturefile"
LEAST_IN_LIST: Final = 3
"""Fewest items of a list: the corners of a triangle."""


@dataclass(frozen=True)
class PlyElement:
    """One element of a file, such as its vertices.

    Attributes
    ----------
    name : str
    count : int
    numbers : tuple of (str, str)
        Type and name of each number, in order, such as ``("f4", "x")``; a list has the types of its length and items.
    """

    name: str
    count: int
    numbers: tuple[tuple[str, str], ...]

    @property
    def names(self) -> set[str]:
        """Of its numbers."""
        return {name for _, name in self.numbers}

    @property
    def least_bytes(self) -> int:
        """How many bytes of a binary file it takes at least."""
        return self.count * sum(_least_size(kind) for kind, _ in self.numbers)


@dataclass(frozen=True)
class PlyHeader:
    """The header of a file.

    Attributes
    ----------
    form : str
        ``ascii``, ``binary_little_endian`` or ``binary_big_endian``.
    elements : tuple of PlyElement
    size : int
        Bytes of the header.
    textures : tuple of str
        Pictures that its comments name, as many programs write them: ``comment TextureFile wood.png``.
    """

    form: str
    elements: tuple[PlyElement, ...]
    size: int
    textures: tuple[str, ...] = ()

    @property
    def is_binary(self) -> bool:
        """Whether numbers are stored as bytes and not as text."""
        return self.form != "ascii"

    @property
    def vertex(self) -> PlyElement:
        """Its vertices, none where it has no such element."""
        return next((element for element in self.elements if element.name == "vertex"), PlyElement("vertex", 0, ()))

    def count_of(self, name: str) -> int:
        """How many of an element there are."""
        return sum(element.count for element in self.elements if element.name == name)

    @property
    def least_bytes(self) -> int:
        """How many bytes follow the header at least; of text, two for each row."""
        return sum(element.least_bytes if self.is_binary else 2 * element.count for element in self.elements)


def read_ply_header(file: Path) -> PlyHeader:
    """Read the header of a PLY file.

    Raises
    ------
    ValueError
        When it has none, or names a type that there is not.
    """
    form, size, elements, textures = "", 0, [], []
    for words, size in _lines(file):
        if words[0] == "comment":
            if [word.lower() for word in words[1:2]] == [_TEXTURE]:
                textures.append(" ".join(words[2:]))
        elif words[0] == "format":
            form = words[1]
        elif words[0] == "element":
            elements.append(PlyElement(words[1], int(words[2]), ()))
        elif words[0] == "property" and elements:
            last = elements[-1]
            elements[-1] = PlyElement(last.name, last.count, (*last.numbers, _number(words)))
        elif words[0] == "end_header":
            return PlyHeader(form, tuple(elements), size, tuple(filter(None, textures)))
    raise ValueError("its header has no end")


def _lines(file: Path) -> Iterator[tuple[list[str], int]]:
    """Words of each line that says something, and how many bytes end with it."""
    size = 0
    with file.open("rb") as lines:
        for line in lines:
            size += len(line)
            words = line.decode("ascii", "replace").split()
            if words and words[0] not in ("ply", "obj_info"):
                yield words, size
            if size > MOST_BYTES:
                return


def _number(words: list[str]) -> tuple[str, str]:
    try:
        kinds = [_TYPES[word] for word in (words[2:4] if words[1] == "list" else words[1:2])]
    except KeyError as unknown:
        raise ValueError(f"its header names the type {unknown.args[0]}, which does not exist") from None
    return " ".join(kinds), words[-1]


def _least_size(kind: str) -> int:
    length, _, item = kind.partition(" ")
    return int(length[1:]) + (LEAST_IN_LIST * int(item[1:]) if item else 0)


def ply_textures(file: Path) -> list[tuple[str, Path]]:
    """Pictures that a file names, each with its place; none of a file that is no PLY.

    Raises
    ------
    Mistake
        When one leads outside the file's folder.
    """
    try:
        names = read_ply_header(file).textures
    except (ValueError, IndexError, OSError):
        return []
    return [(name, contained_file(file.parent, name.replace("\\", "/"), file.name)) for name in names]
