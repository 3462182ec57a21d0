"""One sample of a frame: what a pass shows of the scene, through a flat lens or all round."""

import numpy as np
from numpy.typing import NDArray

from vexel.core.document.background import TRANSPARENT
from vexel.core.document.passes import FAR, PASSES
from vexel.core.evaluate.frame_spec import CameraPose, FrameSpec, ShutterSample
from vexel.stage.equirectangular import Holds, equirectangular
from vexel.stage.passes import DRAWINGS
from vexel.stage.scene.draw_style import SOLID, DrawStyle
from vexel.stage.scene.light import NORMALS_HIGH, NORMALS_LOW
from vexel.stage.scene.scene import Scene
from vexel.stage.scene.shadows import Shadows
from vexel.stage.view import Sample, View

Pixels = NDArray[np.uint8]


class Sampler:
    """Takes samples of a scene.

    Parameters
    ----------
    scene : Scene
    """

    def __init__(self, scene: Scene) -> None:
        self._scene = scene
        self._shadows = Shadows(scene)

    def sample(self, spec: FrameSpec, look: ShutterSample, sample: Sample) -> Pixels:
        """A sample of a pass that is a picture, shape (H, W, 4), uint8, premultiplied by alpha, the top row first.

        Parameters
        ----------
        spec : FrameSpec
        look : ShutterSample
            With a camera.
        sample : Sample
        """
        look = self._scene.about_origin(look)
        camera, drawing = look.camera, DRAWINGS[spec.render_pass]
        assert camera is not None

        def draw(camera: CameraPose, size: tuple[int, int]) -> Pixels:
            view = View(self._scene, self._shadows, spec, look, camera, size, sample, drawing.lit, drawing.depths)
            # The graphics library counts rows from the bottom, files from the top.
            return drawing.draw(view)[::-1]

        if camera.panorama:
            traits, size = PASSES[spec.render_pass], (spec.width, spec.height)
            holds: Holds = "numbers" if traits.directions or traits.shares else "codes" if traits.data else "light"
            return equirectangular(self._scene, camera, size, draw, sample.pixel, holds)
        return draw(camera, (spec.width, spec.height))

    def distances(self, spec: FrameSpec, look: ShutterSample) -> NDArray[np.uint16]:
        """The pass of distances, from 0 to `FAR` over the range of the whole shot, shape (H, W), the top row first."""
        near, far = look.ranges["distance"]
        share = (self.depths(spec, look) - near) / (far - near)
        codes: NDArray[np.uint16] = np.rint(np.clip(share, 0, 1) * FAR).astype(np.uint16)
        return codes

    def normals(self, spec: FrameSpec, look: ShutterSample) -> NDArray[np.float32]:
        """Where surfaces face, in the camera's coordinates (+x right, +y up, +z to the viewer), and where any are.

        Returns
        -------
        ndarray, shape (H, W, 4)
            Unit vectors, worked out with 16 bits, and 1; all 0 where nothing is. The top row first.
        """
        scene = self._scene
        camera = scene.about_origin(look).camera
        assert camera is not None

        def draw(camera: CameraPose, size: tuple[int, int]) -> NDArray[np.float32]:
            scene.look(camera, *size, TRANSPARENT)
            scene.draw(DrawStyle(NORMALS_HIGH))
            # VTK reads into the same memory again.
            high = scene.pixels().astype(np.float32)
            scene.draw(DrawStyle(NORMALS_LOW))
            low = scene.pixels()[..., :3]
            there = high[..., 3:] > 0
            vectors = (256 * high[..., :3] + low) / np.float32(65535) * 2 - 1
            return np.concatenate([np.where(there, vectors, 0), there], axis=2, dtype=np.float32)[::-1]

        if camera.panorama:
            seen = equirectangular(scene, camera, (spec.width, spec.height), draw, np.zeros(2))
        else:
            seen = draw(camera, (spec.width, spec.height))
        seen[..., :3] /= np.maximum(np.linalg.norm(seen[..., :3], axis=2, keepdims=True), 1e-9)
        return np.asarray(seen, np.float32)

    def depths(self, spec: FrameSpec, look: ShutterSample) -> NDArray[np.float32]:
        """Distances in the source's units, infinite where nothing is, shape (H, W), the top row first.

        Through a flat lens they are counted along its axis, all round straight from the eye.
        """
        scene = self._scene
        camera = scene.about_origin(look).camera
        assert camera is not None

        def draw(camera: CameraPose, size: tuple[int, int]) -> NDArray[np.float32]:
            scene.look(camera, *size, TRANSPARENT)
            scene.draw(SOLID)
            scene.pixels()
            return scene.depths(camera)[::-1]

        if camera.panorama:
            seen = equirectangular(scene, camera, (spec.width, spec.height), draw, np.zeros(2))
        else:
            seen = draw(camera, (spec.width, spec.height))
        return np.asarray(seen, np.float32)
