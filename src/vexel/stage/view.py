"""One flat view of the scene in one sample, and what passes are made of: colours, lines, shadows, open sky."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.sample_positions import lens_offsets, light_offsets, sample_offsets
from vexel.core.document.background import TRANSPARENT, rgb
from vexel.core.document.passes import PASSES
from vexel.core.evaluate.frame_spec import CameraPose, FrameSpec, ShutterSample
from vexel.imaging.codes import whole
from vexel.imaging.premultiplied import over_colour, over_shadow
from vexel.stage.lines.compositing import inked
from vexel.stage.lines.feature_edges import line_mask
from vexel.stage.scene.draw_style import DrawStyle, ink, thickness
from vexel.stage.scene.light import NORMALS
from vexel.stage.scene.scene import Scene
from vexel.stage.scene.shadows import Lens, Shadows, ground_depths, key_direction, lens_of, wants_shadows, widened

Pixels = NDArray[np.uint8]
_NONE = np.zeros((0, 0), np.float32)
KEY_SHARE = np.float32(0.55)
"""Share of the ground's brightness that is the key light's."""
HORIZON = 60.0
"""The ground is shaded up to this number of radii away."""


@dataclass(frozen=True)
class Sample:
    """Which sample of how many of a frame; each looks from beside the pixel's and the lens's middle."""

    number: int
    count: int

    @property
    def pixel(self) -> NDArray[np.float64]:
        """See `Scene.shift`."""
        return np.asarray(sample_offsets(self.count)[self.number])

    @property
    def lens(self) -> NDArray[np.float64]:
        """See `Scene.shift`; the middle for a sample alone."""
        return np.asarray(lens_offsets(self.count)[self.number])

    @property
    def light(self) -> NDArray[np.float64]:
        """See `widened`; the middle for a sample alone."""
        return np.asarray(light_offsets(self.count)[self.number])


class View:
    """One flat view of one sample; rows from the bottom.

    Parameters
    ----------
    lit : bool
        Whether shadows fall in its pass.
    depths : bool
        Whether its pass needs depths beside colours.
    """

    def __init__(
        self,
        scene: Scene,
        shadows: Shadows,
        spec: FrameSpec,
        look: ShutterSample,
        camera: CameraPose,
        size: tuple[int, int],
        sample: Sample,
        lit: bool,
        depths: bool,
    ) -> None:
        self._scene, self._shadows = scene, shadows
        self._look, self._camera, self._size = look, camera, size
        self.background = TRANSPARENT if PASSES[spec.render_pass].data else spec.background
        self._sample = sample
        self.lit = lit and wants_shadows(look)
        self._wants_depths = self.lit or depths
        self._depths = _NONE

    def _aim(self, background: str) -> None:
        self._scene.look(self._camera, *self._size, background)
        self._scene.shift(self._sample.pixel, self._sample.lens, self._camera)

    def wired(self) -> Pixels:
        """The edges of all faces as lines."""
        self._aim(self.background)
        pixels = self.paper()
        for lines, opacity in self._scene.wires(thickness(self._size[1])):
            pixels = inked(pixels, lines, ink(self.background), opacity)
        return pixels

    def seen(self, style: DrawStyle, background: str) -> Pixels:
        """All parts in a style, without shadows."""
        scene = self._scene
        scene.draw(style)
        # What is behind a surface is blended with it in light, which the renderer does not do.
        beneath = TRANSPARENT if scene.blends else background
        self._aim(beneath)
        pixels = scene.pixels()
        self._depths = scene.depths(self._camera) if self._wants_depths else _NONE
        return pixels if beneath == background else over_colour(pixels, rgb(background))

    def _flat(self) -> Lens:
        centre = np.array(self._camera.shift) + 2 * self._sample.pixel / self._size
        return lens_of(self._camera, self._size, centre)

    def lines(self) -> NDArray[np.bool_]:
        """Outlines and creases of what was rendered last from the camera."""
        return line_mask(self._depths, self._camera, thickness(self._size[1]))

    def paper(self) -> Pixels:
        """Nothing but the background."""
        width, height = self._size
        paper = np.zeros((height, width, 4), np.uint8)
        if self.background != TRANSPARENT:
            whole(paper)[...] = whole(np.array([*rgb(self.background), 255], np.uint8))
        return paper

    def shaded(self, style: DrawStyle) -> Pixels:
        """The lit picture with what its shadows take away, over the ground and the background."""
        stage = self._look.stage
        light = self.seen(style, TRANSPARENT).copy()
        depths, flat = self._depths, self._flat()
        there = np.isfinite(depths)
        ground = self._ground(flat, there)
        darkness = np.zeros_like(depths)
        if "surround" in stage:
            taken = 1 - np.float32(stage["surround"]) * (1 - self._sky(flat, depths))
            light[..., :3] = np.rint(light[..., :3] * np.where(there, taken, 1)[..., None])
        if "shadow" in stage:
            hidden = self._shadow(flat, depths, ground)
            # What is unlit is drawn as a whole, and looked at where the light is barred.
            self._scene.key(on=False)
            unlit = self.seen(style, TRANSPARENT)
            self._scene.key(on=True)
            share = stage["shadow"]
            barred = cv2.addWeighted(light, 1 - share, unlit, share, 0)
            np.copyto(whole(light), whole(barred), where=hidden & there)
            darkness = (hidden & ~there) * np.float32(share * KEY_SHARE)
        if "ground" in stage:
            contact = self._shadows.contact(flat, ground, stage["ground"]) * np.float32(stage["ground:contact"])
            darkness = np.where(np.isfinite(ground), 1 - (1 - darkness) * (1 - contact), 0)
        return self._laid(light, darkness)

    def _ground(self, flat: Lens, there: NDArray[np.bool_]) -> NDArray[np.float32]:
        """Depths of the ground where it is seen; infinite elsewhere."""
        if "ground" not in self._look.stage:
            return np.full(there.shape, np.inf, np.float32)
        far = float(self._camera.far) + HORIZON * self._scene.sphere.radius
        return np.where(there, np.float32(np.inf), ground_depths(flat, self._look.stage["ground"], far))

    def _shadow(self, flat: Lens, depths: NDArray[np.float32], ground: NDArray[np.float32]) -> NDArray[np.bool_]:
        """Where the key light is kept from subject and ground."""
        key = widened(key_direction(self._look), self._look.stage["shadow:soft"], self._sample.light)
        return self._shadows.hidden(flat, np.minimum(depths, ground), key)

    def _laid(self, light: Pixels, darkness: NDArray[np.float32]) -> Pixels:
        """The subject over a darkened background: source over, in light (Porter and Duff, 1984)."""
        if self.background == TRANSPARENT:
            return over_shadow(light, darkness)
        return over_colour(light, rgb(self.background), darkness)

    def occluded(self) -> Pixels:
        """White where the sky is open, black in the deepest hollow."""
        flat = self._flat()
        self.seen(DrawStyle(NORMALS), TRANSPARENT)
        depths = self._depths
        share = np.where(np.isfinite(depths), self._sky(flat, depths), 1)
        grey = np.rint(255 * share).astype(np.uint8)
        cover = np.isfinite(depths) if self.background == TRANSPARENT else np.ones_like(depths, bool)
        return np.dstack([grey * cover] * 3 + [cover.astype(np.uint8) * 255])

    def _sky(self, flat: Lens, depths: NDArray[np.float32]) -> NDArray[np.float32]:
        # The normals of a facet of a panorama are in its camera's coordinates: turn them back for a moment.
        turn = self._scene.turned
        self._scene.turn(None)
        normals = self.seen(DrawStyle(NORMALS), TRANSPARENT)[..., :3].astype(np.float32)
        self._scene.turn(turn)
        return self._shadows.open_sky(flat, depths, (normals - 127.5) / 127.5, self._sample.number, self._sample.count)
