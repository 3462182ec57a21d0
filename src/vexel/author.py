"""The few names that your code imports.

A model file marks the function that builds its geometry, and declares its dials
as that function's defaults::

    import pyvista as pv
    from vexel.author import dial, model, part

    @model
    def buoy(height=dial(2.0, low=1.0, high=4.0, unit="m")):
        return part(pv.Cone(height=height), colour="#c8442e")

The function stays an ordinary one: ``buoy()`` uses the dials' defaults and
``buoy(height=3)`` another value, so the file runs without Vexel too.
"""

import warnings
from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import TYPE_CHECKING, Any, overload

from vexel.core.lanes.dial import Dial
from vexel.core.time.clock import Instant
from vexel.sources.code.decorators import Model, PathFormula, Simulation, Sketch
from vexel.sources.pictures.typeface import typeface

if TYPE_CHECKING:
    from vexel.sources.meshes.parts import Part

__all__ = ["Instant", "Part", "camera_path", "dial", "flight", "model", "part", "simulation", "sketch", "typeface"]


def __getattr__(name: str) -> Any:
    """Load the libraries for geometry only for code that builds some."""
    if name == "Part":
        from vexel.sources.meshes.parts import Part

        return Part
    raise AttributeError(f"module 'vexel.author' has no attribute {name!r}")


def dial(default: float, low: float, high: float, *, unit: str = "", about: str = "") -> Any:
    """Declare a dial as the default of a model function's parameter.

    Parameters
    ----------
    default, low, high : float
        In `unit`; low ≤ default ≤ high.
    unit, about : str
        Shown to users.
    """
    numbers = [default, low, high]
    if any(isinstance(n, bool) or not isinstance(n, int | float) for n in numbers):
        raise TypeError(f"dial({default!r}, low={low!r}, high={high!r}): all three must be numbers")
    if not low <= default <= high:
        raise ValueError(f"dial({default:g}, low={low:g}, high={high:g}): the default lies outside low to high")
    return Dial("", float(default), float(low), float(high), unit, about)


def part(
    mesh: Any,
    *,
    colour: str = "",
    scalars: str = "",
    colour_map: str = "viridis",
    low: float | None = None,
    high: float | None = None,
    smooth: bool = True,
    name: str = "",
    opacity: float = 1.0,
) -> "Part":
    """Describe how a mesh looks; a model may return one part or a list of them.

    Parameters
    ----------
    mesh : pyvista.DataSet
    colour : str
        ``#rrggbb`` for the whole part. Left out, the mesh's own colours or its
        active scalars are shown.
    scalars : str
        Name of a point or cell array to show through `colour_map`.
    colour_map : str
        A matplotlib colour map's name.
    low, high : float, optional
        Ends of the colour map. Left out, the range over the whole shot.
    smooth : bool
        Shade through point normals; the mesh's own if it has them.
    name : str
        By which a lane may drive its opacity; left out, its number, such as ``part 2``.
    opacity : float
        0 to 1.
    """
    from vexel.sources.meshes.parts import as_part

    if not 0 <= opacity <= 1:
        raise ValueError(f"part(opacity={opacity!r}): an opacity lies between 0 and 1")
    look = {"low": low, "high": high, "smooth": smooth, "name": name, "opacity": opacity}
    return as_part(mesh, colour=colour, scalars=scalars, colour_map=colour_map, **look)


@overload
def model(build: Callable[..., Any]) -> Model: ...
@overload
def model(*, reads: Sequence[str]) -> Callable[[Callable[..., Any]], Model]: ...
def model(build: Callable[..., Any] | None = None, *, reads: Sequence[str] = ()) -> Any:
    """Mark the function that builds the geometry.

    Its parameters are dials, and any of these names, for a model that depends
    on the time by itself: ``seconds``, ``phase``, ``frame``, ``count``,
    ``rate``, or ``instant`` for all of them as exact fractions. Take no more
    than is needed: frames in which nothing changes that it takes are one frame.

    Parameters
    ----------
    build : callable
    reads : sequence of str, optional
        What the code reads beside its own files, written as texts: paths
        relative to its file, or ``env:`` with the name of a variable. A change
        of it makes the frames again.
    """
    return Model if build is None else Model(build)


def camera_path(place: Callable[..., Any]) -> PathFormula:
    """Mark the function that returns where the camera is.

    It takes any names of the time as for `model`, and returns a place
    ``(x, y, z)``, or a place and what the camera looks at. Lengths are the
    source's units, +z is up. ``vexel path SHOT.json --from FILE.py`` makes a
    path of it.
    """
    return PathFormula(place)


def flight(place: Callable[..., Any]) -> PathFormula:
    """`camera_path` under its former name."""
    warnings.warn("@flight is named @camera_path now; both are read", DeprecationWarning, stacklevel=2)
    return camera_path(place)


@overload
def sketch(draw: Callable[..., Any]) -> Sketch: ...
@overload
def sketch(*, reads: Sequence[str]) -> Callable[[Callable[..., Any]], Sketch]: ...
def sketch(draw: Callable[..., Any] | None = None, *, reads: Sequence[str] = ()) -> Any:
    """Mark the function that draws the picture.

    Its parameters are dials, the names of the time as for `model`, and any of

    canvas
        A ``skia.Canvas`` to draw on, cleared to the shot's background.
    size
        Width and height that the drawing counts in.
    random
        A NumPy generator that begins alike in every frame.

    It draws on the canvas, or returns a skia surface, picture or image, a
    matplotlib figure, a Pillow image, an array (H, W), (H, W, 3) or (H, W, 4)
    of uint8 or of float from 0 to 1, SVG text, or PyVista data, which is
    then rendered by the shot's camera.

    Parameters
    ----------
    draw : callable
    reads : sequence of str, optional
        As for `model`.
    """
    return Sketch if draw is None else Sketch(draw)


def simulation(*, step: float | str, reads: Sequence[str] = ()) -> Callable[[type], Simulation]:
    """Mark the class of a simulation, whose state moves on by a fixed inner step.

    The class has three methods::

        @simulation(step=0.01)
        class Pond:
            depth = dial(2.0, low=0.5, high=8, unit="m")

            def start(self, random):
                return {"height": random.random((64, 64)), "speed": np.zeros((64, 64))}

            def advance(self, state):
                ...  # one step on: change the state in place, or return the next

            def show(self, state, canvas, size):
                ...  # draw, or return anything that a sketch may return

    Dials of the class affect all steps and stay constant over a
    shot; dials that ``show`` takes may be driven. The state is anything that
    can be pickled, such as arrays in a dictionary. ``show`` may also take
    ``time`` (simulated seconds), ``step`` (how many were done) and ``random``.

    Parameters
    ----------
    step : float or str
        Simulated seconds per step; ``"1/3"`` is exact.
    reads : sequence of str, optional
        As for `model`.
    """
    exact = Fraction(step) if isinstance(step, str) else Fraction(repr(step))
    if exact <= 0:
        raise ValueError(f"simulation(step={step!r}): a step must be above 0 seconds")
    return lambda build: Simulation(build, exact)
