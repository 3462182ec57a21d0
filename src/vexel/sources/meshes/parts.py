"""Parts: meshes with their look, as the stage draws them."""

import re
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import pyvista as pv
from numpy.typing import NDArray

from vexel.sources.meshes.splats import Splats

DIRECT_COLOURS = ("RGBA", "RGB", "rgba", "rgb", "colors", "Colors", "COLOR_0")


@dataclass(frozen=True)
class Part:
    """A surface and how it looks.

    Attributes
    ----------
    mesh : pyvista.PolyData
    colour : str
        ``#rrggbb``, or empty.
    scalars : str
        Array shown through `colour_map`; empty for none.
    direct : str
        Array of 3 or 4 uint8 a point or cell that is the colour itself; empty for none. A texture is multiplied by it.
    low, high : float or None
        Ends of the colour map; None takes the range over the shot.
    texture : ndarray or None
        Picture of shape (H, W, 3 or 4), uint8, placed by the mesh's texture coordinates.
    clamps : bool
        Whether the texture's edge continues outside it; else it repeats.
    filters : bool
        Whether texels are blended with their neighbours; else each is a sharp square.
    lit : bool
        Whether light falls on it; else its colours are shown unchanged.
    rigid : bool
        The same at every instant, so that it pays to learn more of it.
    name : str
        By which a lane drives its opacity.
    opacity : float
        0 to 1.
    cutoff : float
        Where its texture is less opaque than this, nothing is; 0 where all is.
    blends : bool
        Whether what is behind it is seen through its texture or colours.
    splats : Splats or None
        How its points look, where it has no surface.
    """

    mesh: pv.PolyData
    colour: str = ""
    scalars: str = ""
    direct: str = ""
    colour_map: str = "viridis"
    low: float | None = None
    high: float | None = None
    smooth: bool = True
    texture: NDArray[np.uint8] | None = None
    clamps: bool = False
    filters: bool = True
    lit: bool = True
    rigid: bool = False
    name: str = ""
    opacity: float = 1.0
    cutoff: float = 0.0
    blends: bool = False
    splats: Splats | None = None


def as_part(mesh: Any, *, colour: str, scalars: str, colour_map: str, **look: Any) -> Part:
    """Make a part of any PyVista data set, choosing what is shown.

    Raises
    ------
    TypeError, ValueError
        Naming what is wrong with the mesh or its look.
    """
    surface = _surface(mesh)
    if colour and not re.fullmatch(r"#[0-9a-fA-F]{6}", colour):
        raise ValueError(f"colour {colour!r} is not of the form #rrggbb")
    known = [*surface.point_data.keys(), *surface.cell_data.keys()]
    if scalars and scalars not in known:
        raise ValueError(f"the mesh has no array {scalars!r}; it has {', '.join(known) or 'none'}")
    _check_colour_map(colour_map)
    direct = ""
    if not colour and not scalars:
        direct = next((name for name in DIRECT_COLOURS if _is_direct(surface, name)), "")
        if not direct:
            scalars = _shown_scalars(surface)
    return Part(surface, colour, scalars, direct, colour_map, **look)


def as_parts(result: Any) -> list[Part]:
    """Make parts of what a model returned: a mesh, a part, or a list or MultiBlock of them.

    Parts without a name are named by their number, such as ``part 2``.
    """
    return [replace(part, name=part.name or f"part {n}") for n, part in enumerate(_listed(result), start=1)]


def _listed(result: Any) -> list[Part]:
    if isinstance(result, Part):
        return [result]
    if isinstance(result, pv.MultiBlock):
        blocks = zip(result.keys(), result, strict=True)
        return [replace(part, name=part.name or name) for name, block in blocks if block for part in _listed(block)]
    if isinstance(result, list | tuple):
        return [part for item in result if item is not None for part in _listed(item)]
    return [as_part(result, colour="", scalars="", colour_map="viridis")]


def with_clear_colours(part: Part) -> Part:
    """A part that is seen through where its own colours are clear, though nobody said so."""
    if part.blends or part.cutoff or not part.direct:
        return part
    codes = np.asarray(part.mesh[part.direct])
    return replace(part, blends=True) if codes.shape[1] == 4 and bool((codes[:, 3] < 255).any()) else part


def check_parts(parts: list[Part]) -> None:
    """Refuse parts that cannot be drawn or framed.

    Raises
    ------
    ValueError
        When nothing is there, or points are not finite.
    """
    if not parts or all(part.mesh.n_cells == 0 for part in parts):
        raise ValueError("there is nothing to draw: no part has a face, line or vertex")
    for part in parts:
        bad = np.flatnonzero(~np.isfinite(part.mesh.points).all(axis=1))
        if bad.size:
            raise ValueError(
                f"{bad.size:,} of {part.mesh.n_points:,} points are not finite numbers (NaN or infinite), "
                f"the first is point {bad[0]:,}"
            )


def ranges_of(parts: list[Part]) -> dict[str, tuple[float, float]]:
    """Range of each array that is shown through a colour map whose ends are not given."""
    found: dict[str, tuple[float, float]] = {}
    for part in parts:
        if part.scalars and (part.low is None or part.high is None):
            low, high = part.mesh.get_data_range(part.scalars)
            before = found.get(part.scalars, (low, high))
            found[part.scalars] = (float(min(low, before[0])), float(max(high, before[1])))
    return found


def _surface(mesh: Any) -> pv.PolyData:
    if isinstance(mesh, pv.PolyData):
        return mesh.copy(deep=False)
    if isinstance(mesh, pv.DataSet):
        return mesh.extract_surface(algorithm="dataset_surface", pass_pointid=False, pass_cellid=False)
    raise TypeError(f"expected a PyVista mesh, not {_named(mesh)}")


def _named(value: Any) -> str:
    return "None" if value is None else f"an object of type {type(value).__name__}"


def _is_direct(mesh: pv.PolyData, name: str) -> bool:
    for data in (mesh.point_data, mesh.cell_data):
        if name in data:
            array = data[name]
            return array.dtype == np.uint8 and array.ndim == 2 and array.shape[1] in (3, 4)
    return False


def _shown_scalars(mesh: pv.PolyData) -> str:
    name = mesh.active_scalars_name
    array = mesh.active_scalars
    if not name or array is None or array.ndim != 1 or name == "Normals":
        return ""
    return str(name)


def _check_colour_map(name: str) -> None:
    from matplotlib import colormaps

    if name not in colormaps:
        raise ValueError(f"there is no colour map {name!r}: use a matplotlib name such as viridis or copper")
