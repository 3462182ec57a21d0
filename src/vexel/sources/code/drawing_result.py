"""Pictures from the result of a drawing function.

Libraries are looked up by the type's own module, so that none is imported
that the user's code did not import.
"""

import sys
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.imaging.light import Picture, light_of_codes
from vexel.sources.protocols import FrameRequest, Shown

MAX_SIDE = 16384
WANTED = "a picture is an array (H, W), (H, W, 3) or (H, W, 4) of uint8 or uint16, or of float from 0 to 1"


class DrawingSurface:
    """A skia canvas to draw on, clear at first; it counts in the layout, for every size of the frame."""

    def __init__(self, asked: FrameRequest) -> None:
        import skia

        wide, high = asked.size
        self.pixels = np.zeros((high, wide, 4), np.uint8)
        self._surface = skia.Surface(self.pixels)
        self.canvas = self._surface.getCanvas()
        self.canvas.scale(wide / asked.layout[0], high / asked.layout[1])


def drawing_result(result: Any, asked: FrameRequest) -> Shown:
    """The picture or the parts that a drawing function returned.

    Parameters
    ----------
    result : skia surface, picture or image; matplotlib figure; Pillow image; ndarray; SVG text; PyVista data
    asked : Asked

    Raises
    ------
    TypeError, ValueError
        Naming what was returned, and what is wanted.
    """
    if isinstance(result, np.ndarray):
        return array_pixels(result)
    if isinstance(result, str):
        return _svg_pixels(result, asked)
    geometry = isinstance(result, list | tuple) or _is(result, "pyvista", "DataSet", "MultiBlock")
    if geometry or _is(result, "vexel.sources.meshes.parts", "Part"):
        from vexel.sources.meshes.parts import as_parts, check_parts

        parts = as_parts(result)
        check_parts(parts)
        return parts
    if _is(result, "matplotlib.figure", "Figure"):
        return _figure_pixels(result, asked)
    if _is(result, "PIL.Image", "Image"):
        return _pillow_pixels(result)
    if _is(result, "skia", "Picture"):
        sheet = DrawingSurface(asked)
        sheet.canvas.drawPicture(result)
        return sheet.pixels
    if _is(result, "skia", "Surface", "Image"):
        return _skia_pixels(result)
    raise TypeError(
        f"an object of type {type(result).__name__}; return a skia surface or picture, a matplotlib figure, "
        f"a Pillow image, SVG text, PyVista data or a numpy array: {WANTED}"
    )


def array_pixels(array: NDArray[Any]) -> Picture:
    """An array as a picture: 8 bits, or of uint16 all 16.

    Raises
    ------
    TypeError, ValueError
        Naming shape, type or values that are no picture.
    """
    what = f"an array of shape {array.shape} and type {array.dtype}"
    if array.ndim not in (2, 3) or (array.ndim == 3 and array.shape[2] not in (3, 4)) or 0 in array.shape:
        raise ValueError(f"{what}; {WANTED}")
    if max(array.shape[:2]) > MAX_SIDE:
        raise ValueError(f"{what}; a picture has at most {MAX_SIDE:,} pixels a side")
    if np.issubdtype(array.dtype, np.floating):
        array = _from_unit(array, what)
    elif array.dtype == bool:
        array = array.astype(np.uint8) * 255
    elif array.dtype not in (np.uint8, np.uint16):
        raise TypeError(f"{what}; {WANTED}: convert it with astype(np.uint8), or divide it by its largest value")
    pixels = np.full((*array.shape[:2], 4), np.iinfo(array.dtype).max, array.dtype)
    if array.ndim == 2:
        pixels[..., :3] = array[..., None]
    else:
        pixels[..., : array.shape[2]] = array
    return light_of_codes(pixels) if array.dtype == np.uint16 else pixels


def _from_unit(array: NDArray[Any], what: str) -> NDArray[np.uint8]:
    low, high = float(array.min()), float(array.max())
    if not np.isfinite(low) or not np.isfinite(high):
        bad = np.argwhere(~np.isfinite(array))
        raise ValueError(f"{what} with {len(bad):,} values that are not finite, the first at {tuple(map(int, bad[0]))}")
    if low < -1e-6 or high > 1 + 1e-6:
        raise ValueError(f"{what} with values from {low:.4g} to {high:.4g}; floats of a picture lie between 0 and 1")
    return np.clip(array * 255 + 0.5, 0, 255).astype(np.uint8)


def _pillow_pixels(image: Any) -> Picture:
    """An image of any mode; the deep ones keep their bits, and their numbers are taken as those of an array."""
    if image.mode.startswith("I;16"):
        return array_pixels(np.asarray(image).astype(np.uint16))
    if image.mode == "F":
        return array_pixels(np.asarray(image))
    if image.mode == "I":
        raise TypeError(
            "a Pillow image of mode I, whose numbers have no stated range: "
            "return np.asarray(image).astype(np.uint16) for 16 bits, or convert it to L"
        )
    return np.array(image.convert("RGBA"))


def _is(value: Any, module: str, *names: str) -> bool:
    """Whether a value is of one of a library's classes, without importing the library."""
    known = sys.modules.get(module)
    return known is not None and isinstance(value, tuple(getattr(known, name) for name in names))


def _figure_pixels(figure: Any, asked: FrameRequest) -> NDArray[np.uint8]:
    """A figure keeps its size in inches, so that its text keeps its share of the picture."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg

    # Artists that are drawn over a kept background in a window are marked so, and left out of a figure drawn whole.
    for artist in figure.findobj(lambda one: one.get_animated()):
        artist.set_animated(False)
    wide, high = figure.get_size_inches()
    figure.set_dpi(min(asked.size[0] / wide, asked.size[1] / high) * (1 + 1e-9))
    canvas = FigureCanvasAgg(figure)
    canvas.draw()
    pixels = np.array(canvas.buffer_rgba())
    if pyplot := sys.modules.get("matplotlib.pyplot"):
        pyplot.close(figure)
    return pixels


def _skia_pixels(drawing: Any) -> NDArray[np.uint8]:
    import skia

    image = drawing.makeImageSnapshot() if isinstance(drawing, skia.Surface) else drawing
    pixels: NDArray[np.uint8] = image.toarray(colorType=skia.kRGBA_8888_ColorType)
    return pixels


def _svg_pixels(text: str, asked: FrameRequest) -> NDArray[np.uint8]:
    from vexel.sources.pictures.svg import svg_pixels

    if "<svg" not in text:
        raise ValueError(f"text that is not SVG: it begins with {text.strip()[:30]!r}")
    try:
        return svg_pixels(text, asked.size)
    except ValueError as error:
        raise ValueError(f"SVG that cannot be drawn: {error}") from None
