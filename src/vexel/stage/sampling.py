"""One sample of a frame: what a pass shows of the scene, through a flat lens or all round."""

import numpy as np
from numpy.typing import NDArray

from vexel.core.picture import DATA_PASSES, FAR, TRANSPARENT
from vexel.core.recipe import CameraPose, FrameRecipe, Look
from vexel.stage.all_round import all_round
from vexel.stage.drawn_lines import inked, line_mask
from vexel.stage.light import NORMALS
from vexel.stage.manner import Manner, ink, manner_of, thickness
from vexel.stage.scene import Scene


def sample_of(
    scene: Scene, recipe: FrameRecipe, look: Look, pixel: NDArray[np.float64], lens: NDArray[np.float64]
) -> NDArray[np.uint8]:
    """A sample of a pass that is a picture, shape (H, W, 4), uint8, premultiplied by alpha, the top row first.

    Parameters
    ----------
    scene : Scene
        With the parts on it.
    recipe : FrameRecipe
    look : Look
        With a camera.
    pixel, lens : ndarray, shape (2,)
        See `Scene.shift`.
    """
    background = TRANSPARENT if recipe.render_pass in DATA_PASSES else recipe.background

    def draw(camera: CameraPose, size: tuple[int, int]) -> NDArray[np.uint8]:
        return _drawn(scene, recipe.render_pass, background, camera, size, pixel, lens)[::-1]

    camera = look.camera
    assert camera is not None
    if camera.panorama:
        return all_round(scene, camera, (recipe.width, recipe.height), draw, pixel)
    return draw(camera, (recipe.width, recipe.height))


def distances_of(scene: Scene, recipe: FrameRecipe, look: Look) -> NDArray[np.uint16]:
    """The pass of distances: codes from 0 to `FAR` over the range of the whole shot, shape (H, W), the top row first.

    Through a flat lens they are counted along its axis, all round straight from the eye.
    """
    camera = look.camera
    assert camera is not None

    def draw(camera: CameraPose, size: tuple[int, int]) -> NDArray[np.float32]:
        scene.look(camera, *size, TRANSPARENT)
        scene.draw(Manner())
        scene.pixels()
        return scene.depths(camera)[::-1]

    nothing = np.zeros(2)
    if camera.panorama:
        seen = all_round(scene, camera, (recipe.width, recipe.height), draw, nothing)
    else:
        seen = draw(camera, (recipe.width, recipe.height))
    near, far = look.ranges["distance"]
    codes: NDArray[np.uint16] = np.rint(np.clip((seen - near) / (far - near), 0, 1) * FAR).astype(np.uint16)
    return codes


def _drawn(
    scene: Scene,
    render_pass: str,
    background: str,
    camera: CameraPose,
    size: tuple[int, int],
    pixel: NDArray[np.float64],
    lens: NDArray[np.float64],
) -> NDArray[np.uint8]:
    scene.draw(manner_of(render_pass, background, size[1]))
    scene.look(camera, *size, TRANSPARENT if render_pass == "hidden-line" else background)
    scene.shift(pixel, lens, camera)
    pixels = scene.pixels()
    if render_pass not in ("edges", "hidden-line"):
        return pixels
    if render_pass == "edges":
        scene.draw(Manner(NORMALS))
        scene.look(camera, *size, TRANSPARENT)
        scene.shift(pixel, lens, camera)
        normals = scene.pixels()
        return inked(pixels, _lines(scene, normals, camera), ink("#ffffff"))
    lines = _lines(scene, pixels, camera)
    paper = np.zeros_like(pixels)
    if background != TRANSPARENT:
        paper[...] = [*bytes.fromhex(background[1:]), 255]
    return inked(paper, lines, ink(background))


def _lines(scene: Scene, normals: NDArray[np.uint8], camera: CameraPose) -> NDArray[np.bool_]:
    return line_mask(normals, scene.depths(camera), camera, thickness(len(normals)))
