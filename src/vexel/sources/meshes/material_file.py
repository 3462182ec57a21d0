"""Material files of OBJ (MTL): their materials with the textures that they name, and the parts that are not drawn.

See Wavefront's MTL format (Bourke, 1995). Files name textures in many spellings: keys in any case, options before the
name, names with spaces, ``%20`` or the separators of another system; what is there decides.
"""

import re
import shlex
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from urllib.parse import unquote

from vexel.sources.contained_path import contained_file
from vexel.sources.pictures.sequence_members import stamp_of

TEXTURES = ("map_kd", "map_ka", "map_d", "map_bump", "bump")
"""Keys that name files, in small letters."""
_NOT_DRAWN = {
    "map_d": "opacity maps", "map_bump": "bump maps", "bump": "bump maps", "map_ks": "reflection maps",
    "map_ke": "emission", "norm": "normal maps", "refl": "reflections",
}  # fmt: skip
_ARGUMENTS = {"-s": 3, "-o": 3, "-t": 3, "-mm": 2, "-bm": 1, "-boost": 1, "-texres": 1, "-clamp": 1, "-blendu": 1,
              "-blendv": 1, "-imfchan": 1, "-type": 1, "-cc": 1}  # fmt: skip
"""Options of a texture, and how many words follow each at most."""
_USUAL = {"-blendu": "on", "-blendv": "on", "-clamp": "off", "-cc": "off", "-texres": None, "-imfchan": None}
"""Options that change nothing with this word; None for any."""


@dataclass(frozen=True)
class Texture:
    """A picture that a material names.

    Attributes
    ----------
    name : str
        As the file writes it.
    file : Path
        Where it is, or would be.
    scale, offset : (float, float)
        Of texture coordinates.
    left_out : tuple of str
        Options that are not drawn.
    """

    name: str
    file: Path
    scale: tuple[float, float] = (1.0, 1.0)
    offset: tuple[float, float] = (0.0, 0.0)
    left_out: tuple[str, ...] = ()


@dataclass(frozen=True)
class Material:
    """A material by its name: lines by their keys in small letters, and the picture of its colour."""

    name: str
    lines: tuple[tuple[str, str], ...]
    texture: Texture | None = None

    @property
    def colour(self) -> tuple[float, float, float] | None:
        """Its diffuse colour, 0 to 1; None where it says none, or black, which would hide its texture."""
        words = next((value.split() for key, value in self.lines if key == "kd"), [])
        try:
            red, green, blue = (min(max(float(word), 0.0), 1.0) for word in words[:3])
        except ValueError:
            return None
        return (red, green, blue) if max(red, green, blue) > 0 else None


def libraries(file: Path) -> list[tuple[str, Path]]:
    """Material files that an OBJ names, each with its place: several lines, or several names in one."""
    found: dict[str, Path] = {}
    for line in _lines_of(file, "mtllib", stamp_of(file)):
        whole = _place(file.parent, line, file.name)
        names = [line] if whole.is_file() else line.split()
        found |= {name: _place(file.parent, name, file.name) for name in names}
    return list(found.items())


def materials_of(file: Path) -> dict[str, Material]:
    """All materials of an OBJ by their names; of two of one name the first."""
    found: dict[str, Material] = {}
    for _, library in libraries(file):
        if library.is_file():
            for material in _read(library, stamp_of(library)):
                found.setdefault(material.name, material)
    return found


def textures_of(file: Path) -> list[tuple[str, Path]]:
    """Pictures that the materials of an OBJ name, each with its place."""
    found: dict[str, Path] = {}
    for _, library in libraries(file):
        if library.is_file():
            for material in _read(library, stamp_of(library)):
                for key, value in material.lines:
                    if key in TEXTURES and (texture := _texture(library, value)) is not None:
                        found.setdefault(texture.name, texture.file)
    return list(found.items())


def missing_beside(file: Path) -> list[str]:
    """Material files and textures of colour that an OBJ names and that are not there."""
    missing = [name for name, place in libraries(file) if not place.is_file()]
    textures = [material.texture for material in materials_of(file).values() if material.texture]
    return missing + list(dict.fromkeys(texture.name for texture in textures if not texture.file.is_file()))


def mtl_left_out(file: Path) -> tuple[str, ...]:
    """What the material files of an OBJ say and the stage does not draw."""
    found: dict[str, None] = {}
    for material in materials_of(file).values():
        found |= dict.fromkeys(_NOT_DRAWN[key] for key, _ in material.lines if key in _NOT_DRAWN)
        options = material.texture.left_out if material.texture else ()
        found |= dict.fromkeys(f"the texture option {option}" for option in options)
    return tuple(found)


@lru_cache(256)
def _lines_of(file: Path, key: str, stamp: str) -> tuple[str, ...]:
    # A mesh is asked at every picture, and reading 20 MB of it each time would hold up a drag.
    pattern = re.compile(rb"^[ \t]*" + key.encode() + rb"[ \t]+(.+?)[ \t]*\r?$", re.MULTILINE | re.IGNORECASE)
    return tuple(name.decode("utf-8", "replace") for name in pattern.findall(file.read_bytes()))


@lru_cache(64)
def _read(library: Path, stamp: str) -> tuple[Material, ...]:
    found: list[tuple[str, list[tuple[str, str]]]] = []
    for line in library.read_text("utf-8", "replace").splitlines():
        key, _, value = line.strip().replace("\t", " ").partition(" ")
        key, value = key.lower(), value.strip()
        if key == "newmtl":
            found.append((value, []))
        elif found and key and not key.startswith("#"):
            found[-1][1].append((key, value))
    return tuple(Material(name, tuple(lines), _colour_map(library, lines)) for name, lines in found)


def _colour_map(library: Path, lines: list[tuple[str, str]]) -> Texture | None:
    value = next((value for key, value in lines if key == "map_kd"), "")
    return _texture(library, value) if value else None


def _texture(library: Path, value: str) -> Texture | None:
    """A texture's name after its options."""
    try:
        words = shlex.split(value, posix=False)
    except ValueError:
        words = value.split()
    pairs = {"-s": (1.0, 1.0), "-o": (0.0, 0.0)}
    left_out: list[str] = []
    while words and (option := words[0].lower()) in _ARGUMENTS:
        most, words = _ARGUMENTS[option], words[1:]
        taken: list[str] = []
        numbers = option in ("-s", "-o", "-t", "-mm", "-bm", "-boost", "-texres")
        while words and len(taken) < most and (not numbers or _is_number(words[0])):
            taken.append(words.pop(0))
        if option in pairs and taken:
            first, second = (float(taken[n]) if n < len(taken) else pairs[option][n] for n in (0, 1))
            pairs[option] = first, second
        elif option not in _USUAL or _USUAL[option] not in (None, *map(str.lower, taken)):
            left_out.append(option)
    name = " ".join(words).strip("\"'")
    if not name:
        return None
    return Texture(name, _place(library.parent, name, library.name), pairs["-s"], pairs["-o"], tuple(left_out))


def _is_number(word: str) -> bool:
    try:
        float(word)
    except ValueError:
        return False
    return True


def _place(folder: Path, name: str, by: str) -> Path:
    """The file of a name: exactly, or in another spelling that exists."""
    spellings = dict.fromkeys(
        (name, unquote(name), name.replace("\\", "/"), unquote(name).replace("\\", "/")),
    )
    places = [contained_file(folder, spelling, by) for spelling in spellings]
    return next((place for place in places if place.is_file()), places[0])


class Resolver:
    """Hands a reader of OBJ files their materials in one spelling, and their textures by short names.

    Parameters
    ----------
    file : Path
        The OBJ file.
    """

    def __init__(self, file: Path) -> None:
        self._materials = materials_of(file)
        self._textures: dict[str, Path] = {}

    def get(self, name: str) -> bytes:
        """A texture by its short name, or else all materials, for every name of a material file.

        Raises
        ------
        OSError
            When it is not there.
        """
        if name in self._textures:
            return self._textures[name].read_bytes()
        text = []
        for number, material in enumerate(self._materials.values()):
            text.append(f"newmtl {material.name}")
            text += [f"{_SPELLED.get(key, key)} {value}" for key, value in material.lines if key not in TEXTURES]
            if material.texture is not None and material.texture.file.is_file():
                short = f"texture{number}{material.texture.file.suffix}"
                self._textures[short] = material.texture.file
                text.append(f"map_Kd {short}")
        return "\n".join(text).encode()

    def __getitem__(self, name: str) -> bytes:
        """See `get`."""
        return self.get(name)


_SPELLED = {"kd": "Kd", "ka": "Ka", "ks": "Ks", "ke": "Ke", "ns": "Ns", "ni": "Ni", "tr": "Tr"}
