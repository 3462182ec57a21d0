"""A label laid out: shaped, in lines, and within its frame.

The lines are broken by the rules of Unicode (UAX 14), characters are ordered by its bidirectional algorithm (UAX 9,
each line by its first strong character), and glyphs are chosen by HarfBuzz; Skia's paragraphs do all three.
"""

import re
import threading
import unicodedata
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any

from vexel.core.document.background import rgb
from vexel.core.document.label import Label
from vexel.sources.pictures.fonts import EMOJI, EMOJI_FONT, Face, faces_for
from vexel.sources.pictures.typeface import typeface

LINE_HEIGHT = 1.3
"""From one line to the next, in sizes of the text."""
MARGIN = 0.01
"""Share of the frame's width that text keeps from its left and right edges."""
ASCENT, DESCENT = 0.97, 0.24
"""Of the usual font's letters above and below their base line, in sizes of the text."""
LEAST_ROOM = 0.1
"""Share of the frame's width that text always has."""
_SMALLER, _SMALLEST_STEP = 0.95, 0.1
_one_at_a_time = threading.RLock()
"""A collection of fonts remembers what it found, without looking out for other threads."""
_ISOLATE, _END = "\u2068", "\u2069"
"""Around each line, so that its first strong character decides its direction."""
_BREAKS = re.compile("\r\n|[\n\r\u0085\u2028\u2029]")


@dataclass(frozen=True)
class TextBlock:
    """Text laid out on a frame.

    Attributes
    ----------
    paragraph : skia.textlayout_Paragraph
    left, top : float
        Of the paragraph, in pixels.
    lines : int
    size : float
        Of the text, in pixels; smaller than the label's where that did not fit.
    """

    paragraph: Any
    left: float
    top: float
    lines: int
    size: float


def draw(canvas: Any, label: Label, width: int, height: int) -> None:
    """Draw a label on the ``skia.Canvas`` of a frame, whose width and height are in pixels."""
    with _one_at_a_time:
        block = lay_out(label, width, height)
        block.paragraph.paint(canvas, block.left, block.top)


def lay_out(label: Label, width: int, height: int) -> TextBlock:
    """Lay a label out in a frame.

    Text is broken into lines within its room: up to the frame's edges, or
    `Label.room`. It becomes smaller until its lines are as many as the label
    allows, and no taller than the frame. Several lines stand around the
    label's place; what would leave the frame is moved into it.

    Parameters
    ----------
    label : Label
    width, height : int
        Of the frame, in pixels.
    """
    share = {"left": 0.0, "middle": 0.5, "right": 1.0}[label.align]
    room = max(label.room or _room(label.at[0], share), LEAST_ROOM) * width
    size, most = label.size * height, max(height, LINE_HEIGHT * label.size * height)
    while True:
        with _one_at_a_time:
            paragraph = _paragraph(label.text, label.colour, size, room, label.align)
        lines = max(round(paragraph.Height / (LINE_HEIGHT * size)), 1)
        smaller = 1.0
        if lines * LINE_HEIGHT * size > most:
            # Half of the size is half as many lines, half as high.
            smaller = (most / (lines * LINE_HEIGHT * size)) ** 0.5
        if label.lines and lines > label.lines:
            wide = max(paragraph.MaxIntrinsicWidth, 1.0)
            smaller = min(smaller, max(room / wide, _SMALLEST_STEP) if label.lines == 1 else _SMALLER)
        if smaller == 1 or size < 1:
            break
        size *= min(smaller, _SMALLER)
    left = label.at[0] * width - share * room
    inked = left + share * (room - paragraph.LongestLine)
    left += _inwards(inked, inked + paragraph.LongestLine, width, MARGIN * width)
    base = label.at[1] * height + _capital_height(size) / 2 - (lines - 1) / 2 * LINE_HEIGHT * size
    last = base + (lines - 1) * LINE_HEIGHT * size
    base += _inwards(base - ASCENT * size, last + DESCENT * size, height, 0)
    return TextBlock(paragraph, left, base - paragraph.AlphabeticBaseline, lines, size)


def _inwards(begin: float, end: float, length: float, margin: float) -> float:
    """How far what reaches beyond an edge is moved to keep a margin from it; of what is too long, the begin is seen."""
    if begin < 0:
        return margin - begin
    return max(length - margin - end, margin - begin) if end > length else 0.0


def _room(at: float, share: float) -> float:
    """Share of the frame's width from a label's place to the edges towards which it grows."""
    left, right = at - MARGIN, 1 - MARGIN - at
    return right if share == 0 else left if share == 1 else 2 * min(left, right)


def _paragraph(text: str, colour: str, size: float, room: float, align: str) -> Any:
    import skia

    layout = skia.textlayout
    faces = faces_for(text)
    names = [face.name for face in faces]
    style = layout.ParagraphStyle()
    usual = _style(names, colour, size)
    style.setTextStyle(usual)
    style.setTextAlign(
        {"left": layout.TextAlign.kLeft, "middle": layout.TextAlign.kCenter, "right": layout.TextAlign.kRight}[align]
    )
    style.setStrutStyle(_strut(names[0], size))
    builder = layout.ParagraphBuilder.make(style, _collection(faces), _unicode())
    coloured = _style(sorted(names, key=lambda name: name != EMOJI_FONT), colour, size)
    for number, line in enumerate(_BREAKS.split(text)):
        place = 0
        builder.pushStyle(usual)
        builder.addText(("\n" if number else "") + _ISOLATE)
        for found in EMOJI.finditer(clean := _clean(line)):
            builder.addText(clean[place : found.start()])
            builder.pushStyle(coloured)
            builder.addText(found[0])
            builder.pop()
            place = found.end()
        builder.addText(clean[place:] + _END)
        builder.pop()
    made = builder.Build()
    made.layout(room)
    return made


def _style(names: list[str], colour: str, size: float) -> Any:
    import skia

    style = skia.textlayout.TextStyle()
    style.setFontFamilies(names)
    style.setFontSize(size)
    style.setColor(skia.Color(*rgb(colour)))
    return style


def _strut(name: str, size: float) -> Any:
    """Gives all lines the same height, with any fonts."""
    import skia

    strut = skia.textlayout.StrutStyle()
    strut.setFontFamilies([name])
    strut.setFontSize(size)
    strut.setHeight(LINE_HEIGHT)
    strut.setHeightOverride(True)
    strut.setStrutEnabled(True)
    strut.setForceStrutHeight(True)
    return strut


@lru_cache(32)
def _collection(faces: tuple[Face, ...]) -> Any:
    import skia

    fonts = skia.textlayout.TypefaceFontProvider()
    for face in faces:
        fonts.registerTypeface(face.typeface, face.name)
    found = skia.textlayout.FontCollection()
    found.setDefaultFontManager(fonts)
    return found


@cache
def _unicode() -> Any:
    import skia

    return skia.Unicodes.ICU.Make()


def _clean(line: str) -> str:
    """A line without what has no place in one: tabs become spaces, other control characters go."""
    spaced = line.replace("\t", "    ")
    return "".join(letter for letter in spaced if unicodedata.category(letter) not in ("Cc", "Cs"))


def _capital_height(size: float) -> float:
    import skia

    return float(skia.Font(typeface(), size).getMetrics().fCapHeight)
