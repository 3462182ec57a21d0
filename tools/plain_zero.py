"""Draw the digit 0 of the interface's font without its slash: ``tools/plain_zero.py FOLDER``.

In running text a slash in each 0 disturbs reading; figures in columns keep it. The font has no other 0, so this one is
made of its outlines: the outer one, and of the inner ones the quarter that has no slash, mirrored.
"""

import sys
from pathlib import Path

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.recordingPen import RecordingPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont

FONTS = Path(__file__).parents[1] / "ui/node_modules/@fontsource/atkinson-hyperlegible-next/files"
WEIGHTS = (400, 600)
TABULAR = "feature tnum { sub zero by zero.tf; } tnum;"
OFL = "https://openfontlicense.org"
Point = tuple[float, float]


def drawn(font: TTFont, shift: float) -> TTGlyphPen:
    """The glyph, moved to the right."""
    recorded = RecordingPen()
    font.getGlyphSet()["zero"].draw(recorded)
    contours: list[list[tuple[str, tuple[Point, ...]]]] = []
    for operator, points in recorded.value:
        if operator == "moveTo":
            contours.append([])
        contours[-1].append((operator, points))
    outer, inner = contours[0], contours[1]
    ends = [points[-1] for operator, points in outer if operator == "qCurveTo"]
    across, down = (sum(point[axis] for point in ends) / len(ends) for axis in (0, 1))
    # The last curve of the lower left counter leads from its leftmost point to its lowest one.
    start, (*curve, end) = inner[-3][1][-1], inner[-2][1]
    assert inner[-2][0] == "qCurveTo", "the font has another outline, from which this 0 cannot be made"
    assert abs(end[0] - across) < 1 and abs(start[1] - down) < 1, "its counter is not symmetric"
    pen = TTGlyphPen(None)
    for operator, points in outer:
        getattr(pen, operator)(*((x + shift, y) for x, y in points))

    def mirrored(point: Point, x: bool, y: bool) -> Point:
        return (2 * across - point[0] if x else point[0]) + shift, 2 * down - point[1] if y else point[1]

    pen.moveTo(mirrored(start, False, False))
    for x, y in ((False, False), (True, False), (True, True), (False, True)):
        onward = (*curve, end) if x == y else (*reversed(curve), start)
        pen.qCurveTo(*(mirrored(point, x, y) for point in onward))
    pen.closePath()
    return pen


def made(weight: int) -> TTFont:
    """A font of that 0 alone, proportional and as wide as all figures, with the lines' height of the other."""
    font = TTFont(FONTS / f"atkinson-hyperlegible-next-latin-{weight}-normal.woff")
    widths = {name: font["hmtx"][name][0] for name in ("zero", "zero.tf")}
    shifts = {"zero": 0.0, "zero.tf": (widths["zero.tf"] - widths["zero"]) / 2}
    builder = FontBuilder(font["head"].unitsPerEm, isTTF=True)
    builder.setupGlyphOrder([".notdef", *widths])
    builder.setupCharacterMap({ord("0"): "zero"})
    glyphs = {name: drawn(font, shift).glyph() for name, shift in shifts.items()}
    builder.setupGlyf({".notdef": TTGlyphPen(None).glyph(), **glyphs})
    bearings = {name: round(min(x for x, _ in glyph.coordinates)) for name, glyph in glyphs.items()}
    builder.setupHorizontalMetrics({".notdef": (0, 0), **{name: (widths[name], bearings[name]) for name in widths}})
    lines = font["hhea"]
    builder.setupHorizontalHeader(ascent=lines.ascent, descent=lines.descent, lineGap=lines.lineGap)
    of = font["OS/2"]
    builder.setupOS2(
        sTypoAscender=of.sTypoAscender, sTypoDescender=of.sTypoDescender, sTypoLineGap=of.sTypoLineGap,
        usWinAscent=of.usWinAscent, usWinDescent=of.usWinDescent, usWeightClass=weight,
        fsSelection=of.fsSelection & 0x7F,
    )  # fmt: skip
    builder.setupPost()
    rights = font["name"].getDebugName(0)
    builder.setupNameTable(
        {"familyName": "Vexel Zero", "styleName": "Regular", "copyright": rights, "licenseInfoURL": OFL}
    )
    builder.addOpenTypeFeatures(TABULAR)
    builder.font.flavor = "woff"
    return builder.font


if __name__ == "__main__":
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for one in WEIGHTS:
        made(one).save(folder / f"zero-{one}.woff")
