"""A contact sheet of pictures with captions, as an image, a PDF or a page."""

import base64
import html
import io
from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil
from pathlib import Path

from matplotlib import get_data_path
from PIL import Image, ImageDraw, ImageFont

GAP, CAPTION, HEAD = 12, 34, 48
INK, QUIET, PAPER, WELL = "#1c1e21", "#5b6068", "#ffffff", "#777777"
ROWS_A_PAGE = 8
"""Rows on a page of a PDF."""
MOST_PIXELS = 120_000_000
"""Of one image; more pictures become smaller."""


@dataclass(frozen=True)
class SheetCell:
    """A picture of a contact sheet; without one there is an empty place.

    Attributes
    ----------
    caption : str
    picture : bytes or None
        PNG or JPEG.
    marked : bool
        Whether it is a favourite.
    """

    caption: str
    picture: bytes | None = None
    marked: bool = False


@dataclass(frozen=True)
class ContactSheet:
    """Pictures in rows.

    Attributes
    ----------
    title, note : str
    rows : sequence of sequence of SheetCell
    """

    title: str
    note: str
    rows: Sequence[Sequence[SheetCell]]

    @property
    def columns(self) -> int:
        """Cells of the longest row."""
        return max((len(row) for row in self.rows), default=1)


def sheet_png(sheet: ContactSheet) -> bytes:
    """The whole sheet as one PNG."""
    return _saved(_drawn(sheet, sheet.rows), "PNG")


def sheet_pdf(sheet: ContactSheet) -> bytes:
    """The sheet as a PDF, with some rows on each page."""
    pages = ceil(len(sheet.rows) / ROWS_A_PAGE)
    drawn = [
        _drawn(sheet, sheet.rows[page * ROWS_A_PAGE : (page + 1) * ROWS_A_PAGE], f"{page + 1} of {pages}")
        for page in range(pages)
    ]
    saved = io.BytesIO()
    drawn[0].save(saved, "PDF", save_all=True, append_images=drawn[1:], resolution=150, title=sheet.title)
    return saved.getvalue()


def sheet_html(sheet: ContactSheet) -> bytes:
    """The sheet as one self-contained page."""
    rows = "\n".join(f"<div class=row>{''.join(map(_cell_html, row))}</div>" for row in sheet.rows)
    title, note = html.escape(sheet.title), html.escape(sheet.note)
    style = (
        f"body{{font:15px system-ui,sans-serif;color:{INK};background:{PAPER};margin:24px}}p{{color:{QUIET}}}"
        f".row{{display:grid;grid-template-columns:repeat({sheet.columns},minmax(120px,1fr));gap:12px;margin:0 0 12px}}"
        f"figure{{margin:0}}img,.none{{width:100%;display:block;background:{WELL}}}.none{{aspect-ratio:16/9}}"
        "figcaption{padding:4px 0;overflow-wrap:anywhere}"
    )
    page = (
        f'<!doctype html><html lang="en"><meta charset="utf-8"><title>{title}</title>'
        f'<meta http-equiv="Content-Security-Policy" content="default-src \'none\'; img-src data:; style-src '
        f"'unsafe-inline'\"><style>{style}</style><h1>{title}</h1><p>{note}</p>\n{rows}</html>\n"
    )
    return page.encode()


def _cell_html(cell: SheetCell) -> str:
    caption = html.escape(("★ " if cell.marked else "") + cell.caption)
    if cell.picture is None:
        return f"<figure><div class=none></div><figcaption>{caption}</figcaption></figure>"
    kind = "png" if cell.picture.startswith(b"\x89PNG") else "jpeg"
    data = base64.b64encode(cell.picture).decode()
    shown = f'<img alt="{caption}" loading="lazy" src="data:image/{kind};base64,{data}">'
    return f"<figure>{shown}<figcaption>{caption}</figcaption></figure>"


def _drawn(sheet: ContactSheet, rows: Sequence[Sequence[SheetCell]], page: str = "") -> Image.Image:
    pictures = [[_opened(cell) for cell in row] for row in rows]
    sizes = [one.size for row in pictures for one in row if one is not None] or [(320, 180)]
    wide, high = max(size[0] for size in sizes), max(size[1] for size in sizes)
    across, down = sheet.columns, max(len(rows), 1)
    scale = min(1.0, (MOST_PIXELS / (across * down * (wide + GAP) * (high + CAPTION + GAP))) ** 0.5)
    wide, high = max(round(wide * scale), 16), max(round(high * scale), 16)
    image = Image.new("RGB", (GAP + across * (wide + GAP), HEAD + GAP + down * (high + CAPTION + GAP)), PAPER)
    draw, small, large = ImageDraw.Draw(image), _font(14), _font(20)
    draw.text((GAP, 10), sheet.title, INK, large)
    note = " · ".join(filter(None, [sheet.note, page]))
    draw.text((image.width - GAP - draw.textlength(note, small), 16), note, QUIET, small)
    for row, (cells, opened) in enumerate(zip(rows, pictures, strict=True)):
        for column, (cell, picture) in enumerate(zip(cells, opened, strict=True)):
            x, y = GAP + column * (wide + GAP), HEAD + GAP + row * (high + CAPTION + GAP)
            draw.rectangle((x, y, x + wide - 1, y + high - 1), WELL)
            if picture is not None:
                picture.thumbnail((wide, high), Image.Resampling.LANCZOS)
                image.paste(picture, (x + (wide - picture.width) // 2, y + (high - picture.height) // 2))
            caption = ("★ " if cell.marked else "") + cell.caption
            draw.text((x, y + high + 6), _cut(draw, caption, small, wide), INK, small)
    return image


def _opened(cell: SheetCell) -> Image.Image | None:
    if cell.picture is None:
        return None
    picture = Image.open(io.BytesIO(cell.picture))
    if picture.mode not in ("RGBA", "LA", "PA", "P"):
        return picture.convert("RGB")
    rgba = picture.convert("RGBA")
    ground = Image.new("RGBA", rgba.size, WELL)
    return Image.alpha_composite(ground, rgba).convert("RGB")


def _cut(draw: ImageDraw.ImageDraw, text: str, font: ImageFont.FreeTypeFont, wide: int) -> str:
    """A caption that fits a picture's width, with an ellipsis where it is cut."""
    if draw.textlength(text, font) <= wide:
        return text
    while text and draw.textlength(text + "…", font) > wide:
        text = text[:-1]
    return text + "…"


def _font(size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(Path(get_data_path()) / "fonts/ttf/DejaVuSans.ttf"), size)


def _saved(image: Image.Image, kind: str) -> bytes:
    saved = io.BytesIO()
    image.save(saved, kind)
    return saved.getvalue()
