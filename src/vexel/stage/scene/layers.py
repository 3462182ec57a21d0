"""Surfaces that are seen through one another: drawn a layer at a time, and blended in linear light.

The nearest surface of every pixel is one picture, the nearest behind that the next, and so on (Everitt, "Interactive
order-independent transparency", 2001). The graphics library has a mode for that too, which blends sRGB codes in 8 bits.
"""

from collections.abc import Sequence

import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from vtkmodules.util.misc import calldata_type
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonCore import VTK_FLOAT, VTK_OBJECT, vtkFloatArray, vtkUnsignedCharArray
from vtkmodules.vtkRenderingCore import vtkPolyDataMapper
from vtkmodules.vtkRenderingOpenGL2 import vtkOpenGLRenderWindow, vtkShaderProgram, vtkTextureObject

from vexel.imaging.transfer import LINEAR

MOST = 1000
"""Layers that are drawn at most; what is behind them is left out."""
FAINT = 1 / 1024
"""What is left of the light behind a layer, from which on nothing more is seen."""
GL_ONE, GL_ZERO = 1, 0
"""Of OpenGL, for blending."""
VTK_SCALAR_MODE_USE_CELL_DATA = 2
VTK_SCALAR_MODE_USE_POINT_FIELD_DATA, VTK_SCALAR_MODE_USE_CELL_FIELD_DATA = 3, 4
"""Of vtkMapper, which names them for its own language alone."""
DECLARED = "uniform sampler2D nearer;\n"
BEHIND = """
  // A depth is kept in 24 bits.
  if (peels > 0 && gl_FragCoord.z <= texelFetch(nearer, ivec2(gl_FragCoord.xy), 0).r + 1.2e-7) { discard; }
"""
"""Fragment code that leaves out a surface of the layers before."""
_TO_LIGHT = np.ascontiguousarray(LINEAR[0])


def surface_mapper(actor: pv.Actor, mesh: pv.PolyData) -> vtkPolyDataMapper:
    """A mapper with the settings of an actor's own, of a kind that tells when its shader is used."""
    mapper, own = vtkPolyDataMapper(), actor.GetMapper()
    mapper.ShallowCopy(own)
    mapper.SetInputData(mesh)
    if name := own.GetArrayName():
        of_faces = own.GetScalarMode() == VTK_SCALAR_MODE_USE_CELL_DATA
        mapper.SetScalarMode(VTK_SCALAR_MODE_USE_CELL_FIELD_DATA if of_faces else VTK_SCALAR_MODE_USE_POINT_FIELD_DATA)
        mapper.SelectColorArray(name)
    return mapper


class Layers:
    """Draws the layers of a window's surfaces.

    Parameters
    ----------
    window : vtkOpenGLRenderWindow

    Attributes
    ----------
    solid : ndarray, shape (H, W)
        Depths of the first opaque surfaces of what was drawn last, as in a depth buffer; 1 where there is none.
    """

    def __init__(self, window: vtkOpenGLRenderWindow) -> None:
        self._window = window
        self._nearer = vtkTextureObject()
        self._draws = self._is_ready = False
        self.solid: NDArray[np.float32] = np.ones((0, 0), np.float32)

    def add(self, actor: pv.Actor) -> None:
        """Prepare an actor whose shader has `DECLARED` and `BEHIND` in it."""

        @calldata_type(VTK_OBJECT)  # type: ignore[untyped-decorator]
        def give_depths(mapper: object, event: str, program: vtkShaderProgram) -> None:
            if self._draws:
                self._nearer.Activate()
                program.SetUniformi("nearer", self._nearer.GetTextureUnit())

        def replace_pixels(*_: object) -> None:
            if self._draws:
                self._window.GetState().vtkglBlendFuncSeparate(GL_ONE, GL_ZERO, GL_ONE, GL_ZERO)

        actor.GetShaderProperty().GetFragmentCustomUniforms().SetUniformi("peels", 0)
        actor.mapper.AddObserver("UpdateShaderEvent", give_depths)
        # The last event before the graphics library draws.
        actor.mapper.AddObserver("EndEvent", replace_pixels)

    def light(self, actors: Sequence[pv.Actor]) -> NDArray[np.float32]:
        """Draw some actors over nothing.

        Returns
        -------
        ndarray, shape (H, W, 4)
            Linear light, premultiplied by alpha, the bottom row first.
        """
        width, height = self._window.GetSize()
        light = np.zeros((height * width, 4), np.float32)
        left = np.ones(height * width, np.float32)
        nearer, self.solid = np.zeros((height, width), np.float32), np.ones((height, width), np.float32)
        if not self._is_ready:
            # Before its first picture the window does not know what its graphics library can do.
            self._window.Render()
            self._is_ready = True
        self._peel(actors, True)
        try:
            for _ in range(MOST):
                codes, depths = self._drawn(nearer)
                there = np.flatnonzero((depths < 1) & (nearer < 1))
                if not there.size:
                    break
                seen = codes.reshape(-1, 4)[there]
                share = left[there] * _TO_LIGHT[seen[:, 3], 3]
                light[there, :3] += share[:, None] * np.stack([_TO_LIGHT[seen[:, n], 0] for n in range(3)], axis=-1)
                left[there] -= share
                opaque = there[seen[:, 3] == 255]
                self.solid.reshape(-1)[opaque] = depths.reshape(-1)[opaque]
                nearer = np.where(left.reshape(height, width) > FAINT, depths, np.float32(1))
        finally:
            self._peel(actors, False)
        light[:, 3] = 1 - left
        return light.reshape(height, width, 4)

    def _peel(self, actors: Sequence[pv.Actor], on: bool) -> None:
        self._draws = on
        for actor in actors:
            actor.GetShaderProperty().GetFragmentCustomUniforms().SetUniformi("peels", int(on))
        if not on:
            self._nearer.ReleaseGraphicsResources(self._window)

    def _drawn(self, nearer: NDArray[np.float32]) -> tuple[NDArray[np.uint8], NDArray[np.float32]]:
        """The nearest surfaces behind some depths: straight codes and alpha, and their depths."""
        height, width = nearer.shape
        self._window.MakeCurrent()
        self._nearer.SetContext(self._window)
        self._nearer.Create2DFromRaw(width, height, 1, VTK_FLOAT, np.ascontiguousarray(nearer))
        self._window.Render()
        # Else it keeps its unit, of which the graphics library has a few dozen.
        self._nearer.Deactivate()
        codes, depths = vtkUnsignedCharArray(), vtkFloatArray()
        self._window.GetRGBACharPixelData(0, 0, width - 1, height - 1, 0, codes)
        self._window.GetZbufferData(0, 0, width - 1, height - 1, depths)
        return (
            vtk_to_numpy(codes).reshape(height, width, 4),
            np.asarray(vtk_to_numpy(depths).reshape(height, width), np.float32),
        )
