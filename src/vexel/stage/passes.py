"""How each pass is drawn, one record each; what is true of it everywhere is in `vexel.core.document.passes`."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from vexel.core.document.background import TRANSPARENT
from vexel.core.document.passes import Pass
from vexel.stage.lines.compositing import inked
from vexel.stage.scene.draw_style import CLAY_STYLE, MATTE_STYLE, PLAINLY, SOLID, DrawStyle, ink
from vexel.stage.scene.light import NORMALS, PLAIN
from vexel.stage.view import Pixels, View


@dataclass(frozen=True)
class Drawing:
    """How a pass is drawn.

    Attributes
    ----------
    draw : callable
        Gives its pixels of one view, premultiplied by alpha.
    lit : bool
        Whether shadows fall in it.
    depths : bool
        Whether it needs depths beside colours.
    """

    draw: Callable[[View], Pixels]
    lit: bool = False
    depths: bool = False


def _surfaces(style: DrawStyle) -> Callable[[View], Pixels]:
    return lambda view: view.shaded(style) if view.lit else view.seen(style, view.background)


def _with_edges(view: View) -> Pixels:
    return inked(_surfaces(PLAINLY)(view), view.lines(), ink("#ffffff"))


def _hidden_line(view: View) -> Pixels:
    view.seen(DrawStyle(PLAIN), TRANSPARENT)
    return inked(view.paper(), view.lines(), ink(view.background))


DRAWINGS: Mapping[Pass, Drawing] = {
    "shaded": Drawing(_surfaces(PLAINLY), lit=True),
    "edges": Drawing(_with_edges, lit=True, depths=True),
    "wire": Drawing(lambda view: view.wired()),
    "hidden-line": Drawing(_hidden_line, depths=True),
    "clay": Drawing(_surfaces(CLAY_STYLE), lit=True),
    "occlusion": Drawing(lambda view: view.occluded(), depths=True),
    # A picture of it is made of the sampler's distances.
    "depth": Drawing(_surfaces(SOLID)),
    "normal": Drawing(_surfaces(DrawStyle(NORMALS))),
    "matte": Drawing(_surfaces(MATTE_STYLE)),
}
