"""SVG as pixels: no entities, nothing from outside, fonts that come with Vexel."""

import re
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from xml.etree.ElementTree import Element, ParseError

import cv2
import numpy as np
from numpy.typing import NDArray

_OUTSIDE = re.compile(r"""url\(\s*['"]?(?!#|data:)([^'")\s]+)|@import\s+['"]([^'"]+)""")


def svg_pixels(text: str, size: tuple[int, int]) -> NDArray[np.uint8]:
    """Draw an SVG document as large as fits.

    Parameters
    ----------
    text : str
        The document.
    size : (int, int)
        Width and height to fit into, in pixels; the shape of the drawing is kept.

    Returns
    -------
    ndarray
        Shape (H, W, 4), uint8, sRGB with straight alpha.

    Raises
    ------
    ValueError
        Naming what is wrong with the document.
    """
    import resvg_py

    check_svg(text)
    wide, high = size
    picture = resvg_py.svg_to_bytes(
        svg_string=text, width=wide, height=high, skip_system_fonts=True, font_files=_fonts(),
        font_family="DejaVu Sans", sans_serif_family="DejaVu Sans", serif_family="DejaVu Serif",
        monospace_family="DejaVu Sans Mono",
    )  # fmt: skip
    pixels = cv2.imdecode(np.frombuffer(picture, np.uint8), cv2.IMREAD_UNCHANGED)
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGRA2RGBA), np.uint8)


def check_svg(text: str) -> None:
    """Refuse a document that is not well formed, declares entities or draws on anything outside itself.

    Raises
    ------
    ValueError
    """
    from defusedxml import ElementTree
    from defusedxml.common import DefusedXmlException

    try:
        root = ElementTree.fromstring(text)
    except ParseError as error:
        raise ValueError(f"it is not well-formed XML: {error}") from None
    except DefusedXmlException:
        raise ValueError("it declares XML entities: write their text in place") from None
    for outside in _outside(root):
        raise ValueError(f"it refers to {outside!r} outside itself: put it in as a data: address")


def _outside(root: Element) -> Iterator[str]:
    for element in root.iter():
        for name, value in element.attrib.items():
            local = name.rsplit("}", 1)[-1]
            # A link that can be followed draws nothing.
            link = isinstance(element.tag, str) and element.tag.rsplit("}", 1)[-1] == "a"
            if local == "href" and not link and not value.strip().startswith(("#", "data:")):
                yield value
            yield from _urls(value)
        yield from _urls(element.text or "")


def _urls(text: str) -> Iterator[str]:
    for found in _OUTSIDE.finditer(text):
        yield found[1] or found[2]


@cache
def _fonts() -> list[str]:
    """Font files that come with matplotlib, which is always here."""
    import matplotlib

    return [str(path) for path in sorted(Path(matplotlib.get_data_path()).glob("fonts/ttf/DejaVuS*.ttf"))]
