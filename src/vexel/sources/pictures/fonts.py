"""Fonts for text on frames: DejaVu, then the fonts that Vexel ships for other scripts, then those of the system."""

import hashlib
import os
import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

from vexel.sources.pictures.typeface import typeface

SHIPPED = Path(__file__).parents[2] / "fonts"
"""Copied there by ``make``; see tools/ship-fonts."""
EMOJI_FONT = "NotoColorEmoji.ttf"
_SHIPPED_NAMES = ("Lohit-Devanagari.ttf", "wqy-microhei.ttc", EMOJI_FONT)
"""In the order in which they are asked for a character."""
_PICTURE, _BEFORE_SELECTOR = "[\U0001f000-\U0001faff]", "[\u00a9\u00ae\u203c-\u3299]"
_ONE = f"(?:{_PICTURE}|{_BEFORE_SELECTOR}\ufe0f)(?!\ufe0e)[\U0001f3fb-\U0001f3ff\ufe0f\u20e3\U000e0020-\U000e007f]*"
EMOJI = re.compile(f"[\U0001f1e6-\U0001f1ff]{{2}}|[0-9#*]\ufe0f?\u20e3|{_ONE}(?:\u200d(?:{_ONE}|{_BEFORE_SELECTOR}))*")
"""Characters that are drawn in colour: flags, key caps, pictures and sequences of them (Unicode TS 51, 1.4)."""
_INVISIBLE = frozenset(("Cc", "Cf", "Zs", "Zl", "Zp", "Mn", "Me", "Cs"))
"""Categories that need no glyph: marks without one are dropped by the shaper, or joined to what has one."""


@dataclass(frozen=True)
class Face:
    """A font file.

    Attributes
    ----------
    name : str
    typeface : skia.Typeface
    identity : str
        Digest of its header, in which it has a checksum of the whole file; empty for DejaVu.
    """

    name: str
    typeface: Any = field(compare=False)
    identity: str = ""

    def has(self, character: str) -> bool:
        """Whether it has a glyph for a character."""
        return bool(self.typeface.unicharToGlyph(ord(character)))


@lru_cache(512)
def faces_for(text: str) -> tuple[Face, ...]:
    """The faces that it takes to write a text, DejaVu first."""
    faces = [_usual()]
    left = _lacking(text, faces)
    coloured = {character for found in EMOJI.finditer(text) for character in found[0]}
    for name in _SHIPPED_NAMES:
        wanted = left | coloured if name == EMOJI_FONT else left
        face = _shipped(name) if wanted else None
        if face is not None and any(map(face.has, wanted)):
            faces.append(face)
            left = _lacking(text, faces)
    while left and (other := _of_system(min(left))) is not None:
        faces.append(other)
        left = _lacking(text, faces)
    return tuple(faces)


def missing_in(text: str) -> str:
    """The characters of a text that no font here has, each once."""
    return "" if text.isascii() else "".join(sorted(_lacking(text, faces_for(text))))


def fonts_of(texts: Iterable[str]) -> tuple[str, ...]:
    """What identifies the fonts beside DejaVu that it takes to write some texts."""
    found = {face.identity for text in texts if not text.isascii() for face in faces_for(text)}
    return tuple(sorted(found - {""}))


def _lacking(text: str, faces: Iterable[Face]) -> set[str]:
    return {
        character
        for character in set(text)
        if unicodedata.category(character) not in _INVISIBLE and not any(face.has(character) for face in faces)
    }


@cache
def _usual() -> Face:
    return Face("DejaVu Sans", typeface())


@cache
def _shipped(name: str) -> Face | None:
    """A font of ours; None where Vexel was set up without it."""
    import skia

    found = skia.Typeface.MakeFromFile(str(SHIPPED / name)) if (SHIPPED / name).is_file() else None
    return None if found is None else Face(name, found, _identity(found))


@lru_cache(512)
def _of_system(character: str) -> Face | None:
    """The system's font for a character; None where it has none."""
    import skia

    found = _system_fonts().matchFamilyStyleCharacter("", skia.FontStyle(), [], ord(character))
    # Some systems give a font without it.
    if found is None or not found.unicharToGlyph(ord(character)):
        return None
    return Face(f"{found.getFamilyName()} {_identity(found)}", found, _identity(found))


@cache
def _system_fonts() -> Any:
    import skia

    # The library that finds fonts comes with skia, and complains of settings of a newer one to standard error.
    kept = os.dup(2)
    try:
        with open(os.devnull, "w") as nowhere:
            os.dup2(nowhere.fileno(), 2)
        fonts = skia.FontMgr()
        # It reads them when it is asked for the first time.
        fonts.matchFamilyStyleCharacter("", skia.FontStyle(), [], ord("a"))
        return fonts
    finally:
        os.dup2(kept, 2)
        os.close(kept)


def _identity(found: Any) -> str:
    head = bytes(found.copyTableData(int.from_bytes(b"head", "big")) or b"")
    return hashlib.sha256(found.getFamilyName().encode() + head).hexdigest()
