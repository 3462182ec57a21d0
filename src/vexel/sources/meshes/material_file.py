"""Material files of OBJ: which are missing, and what of them is not drawn."""

import re
from pathlib import Path

from vexel.sources.contained import contained_file

TEXTURE = "map_Kd"
_NOT_DRAWN = {
    "map_d": "opacity maps", "map_Bump": "bump maps", "map_bump": "bump maps", "bump": "bump maps",
    "map_Ks": "reflection maps", "map_Ke": "emission", "norm": "normal maps", "refl": "reflections",
}  # fmt: skip


def missing_beside(file: Path) -> list[str]:
    """Material files and textures that an OBJ names and that are not there."""
    missing = []
    for library in _named(file, "mtllib"):
        held = contained_file(file.parent, library, file.name)
        if not held.is_file():
            missing.append(library)
            continue
        textures = (name.split()[-1] for name in _named(held, TEXTURE))
        missing += [name for name in textures if not contained_file(file.parent, name, library).is_file()]
    return missing


def mtl_left_out(file: Path) -> tuple[str, ...]:
    """What the material files of an OBJ say and the stage does not draw."""
    found: dict[str, None] = {}
    for library in _named(file, "mtllib"):
        held = contained_file(file.parent, library, file.name)
        if held.is_file():
            found |= dict.fromkeys(words for key, words in _NOT_DRAWN.items() if _named(held, key))
    return tuple(found)


def _named(file: Path, key: str) -> list[str]:
    pattern = re.compile(rb"^[ \t]*" + key.encode() + rb"[ \t]+(.+?)[ \t]*\r?$", re.MULTILINE)
    return [name.decode("utf-8", "replace") for name in pattern.findall(file.read_bytes())]
