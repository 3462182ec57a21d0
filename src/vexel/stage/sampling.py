"""One sample of a frame: what a pass shows of the scene, through a flat lens or all round."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.document.picture import DATA_PASSES, FAR, TRANSPARENT, lens_offsets, rgb, sample_offsets
from vexel.core.evaluate.frame_recipe import CameraPose, FrameRecipe, Look
from vexel.stage.equirectangular import equirectangular
from vexel.stage.lines.compositing import inked, whole
from vexel.stage.lines.feature_edges import line_mask
from vexel.stage.scene.draw_style import SOLID, DrawStyle, draw_style_of, ink, thickness
from vexel.stage.scene.light import NORMALS, PLAIN
from vexel.stage.scene.scene import Scene
from vexel.stage.scene.shadows import Lens, Shadows, ground_depths, key_direction, lens_of, wants_shadows, widened

Pixels = NDArray[np.uint8]
_NONE = np.zeros((0, 0), np.float32)
LIT_PASSES = ("shaded", "edges", "clay")
KEY_SHARE = np.float32(0.55)
"""Share of the ground's brightness that is the key light's."""
HORIZON = 60.0
"""The ground is shaded up to so many radii away."""


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


class Sampler:
    """Takes samples of what stands in a scene.

    Parameters
    ----------
    scene : Scene
    """

    def __init__(self, scene: Scene) -> None:
        self._scene = scene
        self._shadows = Shadows(scene)

    def sample(self, recipe: FrameRecipe, look: Look, sample: Sample) -> Pixels:
        """A sample of a pass that is a picture, shape (H, W, 4), uint8, premultiplied by alpha, the top row first.

        Parameters
        ----------
        recipe : FrameRecipe
        look : Look
            With a camera.
        sample : Sample
        """
        camera = look.camera
        assert camera is not None

        def draw(camera: CameraPose, size: tuple[int, int]) -> Pixels:
            return _View(self._scene, self._shadows, recipe, look, camera, size, sample).drawn()[::-1]

        if camera.panorama:
            return equirectangular(self._scene, camera, (recipe.width, recipe.height), draw, sample.pixel)
        return draw(camera, (recipe.width, recipe.height))

    def distances(self, recipe: FrameRecipe, look: Look) -> NDArray[np.uint16]:
        """The pass of distances, from 0 to `FAR` over the range of the whole shot, shape (H, W), the top row first.

        Through a flat lens they are counted along its axis, all round straight from the eye.
        """
        camera, scene = look.camera, self._scene
        assert camera is not None

        def draw(camera: CameraPose, size: tuple[int, int]) -> NDArray[np.float32]:
            scene.look(camera, *size, TRANSPARENT)
            scene.draw(SOLID)
            scene.pixels()
            return scene.depths(camera)[::-1]

        if camera.panorama:
            seen = equirectangular(scene, camera, (recipe.width, recipe.height), draw, np.zeros(2))
        else:
            seen = draw(camera, (recipe.width, recipe.height))
        near, far = look.ranges["distance"]
        codes: NDArray[np.uint16] = np.rint(np.clip((seen - near) / (far - near), 0, 1) * FAR).astype(np.uint16)
        return codes


class _View:
    """One flat view of one sample; rows from the bottom."""

    def __init__(
        self,
        scene: Scene,
        shades: Shadows,
        recipe: FrameRecipe,
        look: Look,
        camera: CameraPose,
        size: tuple[int, int],
        sample: Sample,
    ) -> None:
        self._scene, self._shadows = scene, shades
        self._pass, self._look, self._camera, self._size = recipe.render_pass, look, camera, size
        self._background = TRANSPARENT if recipe.render_pass in DATA_PASSES else recipe.background
        self._sample = sample
        self._lit = self._pass in LIT_PASSES and wants_shadows(look)
        self._wants_depths = self._lit or self._pass in ("edges", "hidden-line", "occlusion")
        self._depths = _NONE

    def drawn(self) -> Pixels:
        """The pass, premultiplied by alpha."""
        if self._pass == "hidden-line":
            self._seen(DrawStyle(PLAIN), TRANSPARENT)
            return inked(self._paper(), self._lines(), ink(self._background))
        if self._pass == "wire":
            return self._wired()
        if self._pass == "occlusion":
            return self._occluded()
        manner = draw_style_of(self._pass)
        pixels = self._shaded(manner) if self._lit else self._seen(manner, self._background)
        if self._pass == "edges":
            pixels = inked(pixels, self._lines(), ink("#ffffff"))
        return pixels

    def _aim(self, background: str) -> None:
        self._scene.look(self._camera, *self._size, background)
        self._scene.shift(self._sample.pixel, self._sample.lens, self._camera)

    def _wired(self) -> Pixels:
        self._aim(self._background)
        pixels = self._paper()
        for lines, opacity in self._scene.wires(thickness(self._size[1])):
            pixels = inked(pixels, lines, ink(self._background), opacity)
        return pixels

    def _seen(self, manner: DrawStyle, background: str) -> Pixels:
        scene = self._scene
        scene.draw(manner)
        self._aim(background)
        pixels = scene.pixels()
        self._depths = scene.depths(self._camera) if self._wants_depths else _NONE
        return pixels

    def _flat(self) -> Lens:
        centre = np.array(self._camera.shift) + 2 * self._sample.pixel / self._size
        return lens_of(self._camera, self._size, centre)

    def _lines(self) -> NDArray[np.bool_]:
        """Outlines and creases of what was rendered last from the camera."""
        return line_mask(self._depths, self._camera, thickness(self._size[1]))

    def _paper(self) -> Pixels:
        width, height = self._size
        paper = np.zeros((height, width, 4), np.uint8)
        if self._background != TRANSPARENT:
            whole(paper)[...] = whole(np.array([*rgb(self._background), 255], np.uint8))
        return paper

    def _shaded(self, manner: DrawStyle) -> Pixels:
        """The lit picture with what its shadows take away, over the ground and the background."""
        stage = self._look.stage
        light = self._seen(manner, TRANSPARENT).copy()
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
            unlit = self._seen(manner, TRANSPARENT)
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
        key = widened(key_direction(self._look), self._look.stage["shadow:soft"], self._sample.lens)
        return self._shadows.hidden(flat, np.minimum(depths, ground), key)

    def _laid(self, light: Pixels, darkness: NDArray[np.float32]) -> Pixels:
        """The subject over a darkened background: source over, of premultiplied colours (Porter and Duff, 1984)."""
        laid = self._paper()
        if self._background == TRANSPARENT:
            laid[..., 3] = 255 * darkness + np.float32(0.5)
        else:
            left = 1 - darkness
            for channel, code in enumerate(rgb(self._background)):
                laid[..., channel] = code * left + np.float32(0.5)
        solid = light[..., 3] == 255
        np.copyto(whole(laid), whole(light), where=solid)
        partly = (light[..., 3] > 0) & ~solid
        if partly.any():
            over, under = light[partly].astype(np.float32), laid[partly].astype(np.float32)
            laid[partly] = np.rint(np.clip(over + under * (1 - over[:, 3:] / 255), 0, 255))
        return laid

    def _occluded(self) -> Pixels:
        """White where the sky is open, black in the deepest hollow."""
        flat = self._flat()
        self._seen(DrawStyle(NORMALS), TRANSPARENT)
        depths = self._depths
        share = np.where(np.isfinite(depths), self._sky(flat, depths), 1)
        grey = np.rint(255 * share).astype(np.uint8)
        cover = np.isfinite(depths) if self._background == TRANSPARENT else np.ones_like(depths, bool)
        return np.dstack([grey * cover] * 3 + [cover.astype(np.uint8) * 255])

    def _sky(self, flat: Lens, depths: NDArray[np.float32]) -> NDArray[np.float32]:
        # The normals of a facet of a panorama are told in its camera's coordinates: turn them back for a moment.
        turn = self._scene.turned
        self._scene.turn(None)
        normals = self._seen(DrawStyle(NORMALS), TRANSPARENT)[..., :3].astype(np.float32)
        self._scene.turn(turn)
        return self._shadows.open_sky(flat, depths, (normals - 127.5) / 127.5, self._sample.number, self._sample.count)
