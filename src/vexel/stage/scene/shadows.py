"""Shadows: of the key light, of hollows under an open sky, and of the subject on the ground.

All of them ask one question: what is seen from there? The scene is drawn from
where the light is, as depths, and points of the picture are looked up in it.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from cachetools import LRUCache
from numpy.typing import NDArray

from vexel.core.document.background import TRANSPARENT
from vexel.core.evaluate.frame_spec import CameraPose, ShutterSample
from vexel.stage.scene.draw_style import SOLID
from vexel.stage.scene.light import toward
from vexel.stage.scene.scene import Scene

Array = NDArray[np.float32]
KEY_MAP, SKY_MAP = 768, 384
"""Pixels along the side of a picture from the key light, and from a direction of the sky."""
KEPT = {KEY_MAP: 4, SKY_MAP: 128}
"""Number of remembered maps: a subject that does not move is seen from the same sky in every frame."""
BIAS_TEXELS = {KEY_MAP: 4.5, SKY_MAP: 1.6}
"""A point is in shadow only where it is this number of pixels behind what the light sees: at a slant, each of
them is as deep as several are wide. The sky's many directions even that out among themselves."""
SKY = 48
"""Directions in which the sky is looked for, over all samples of a frame, and more where a sample alone needs them."""
SKY_A_SAMPLE = 12
CONTACT_MAP = 384
"""Pixels along the side of the ground's picture."""
REACH = 4.0
"""The ground takes contact shadows this many radii around the subject."""
NEAR, WIDE = 0.05, 0.3
"""Heights above the ground, in radii, from which its contact shadow is dark, and still to be seen."""


@dataclass(frozen=True)
class Lens:
    """A flat view: the position of its pixels in the world.

    Attributes
    ----------
    origin, forward, right, up : ndarray, shape (3,)
    columns, rows : ndarray
        How far to the right, and up, each column and row lies a unit ahead; in
        parallel projection at any distance. Rows from the bottom.
    parallel : bool
    """

    origin: NDArray[np.float64]
    forward: NDArray[np.float64]
    right: NDArray[np.float64]
    up: NDArray[np.float64]
    columns: Array
    rows: Array
    parallel: bool

    def along(self, axis: NDArray[np.float64], depths: Array) -> Any:
        """How far along an axis of the world points at given depths lie, shape (H, W)."""
        aside = self.columns[None, :] * np.float32(self.right @ axis) + self.rows[:, None] * np.float32(self.up @ axis)
        ahead = np.float32(self.forward @ axis)
        start = np.float32(self.origin @ axis)
        return start + aside + depths * ahead if self.parallel else start + depths * (aside + ahead)


def lens_of(camera: CameraPose, size: tuple[int, int], centre: NDArray[np.float64]) -> Lens:
    """The flat view of a camera, with the frame's middle offset from the optical axis, in halves of its size."""
    width, height = size
    position = np.array(camera.position)
    forward = np.array(camera.target) - position
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, camera.up)
    right /= np.linalg.norm(right)
    high = camera.parallel_high / 2 or np.tan(np.radians(camera.view_high_deg) / 2)
    across = ((np.arange(width) + 0.5) / width * 2 - 1 + centre[0]) * high * width / height
    upward = ((np.arange(height) + 0.5) / height * 2 - 1 + centre[1]) * high
    columns, rows = across.astype(np.float32), upward.astype(np.float32)
    return Lens(position, forward, right, np.cross(right, forward), columns, rows, camera.parallel_high > 0)


def wants_shadows(look: ShutterSample) -> bool:
    """Whether a look has any."""
    return any(name in look.stage for name in ("shadow", "surround", "ground"))


def key_direction(look: ShutterSample) -> NDArray[np.float64]:
    """Unit vector toward the key light, in the world."""
    camera = look.camera
    assert camera is not None
    lens = lens_of(camera, (1, 1), np.zeros(2))
    x, y, z = toward(look.stage["light:azimuth"], look.stage["light:elevation"])
    direction: NDArray[np.float64] = x * lens.right + y * lens.up - z * lens.forward
    return direction


class Shadows:
    """Finds points in shadow; remembers the last few pictures from the light."""

    def __init__(self, scene: Scene) -> None:
        self._scene = scene
        self._maps: dict[int, LRUCache[tuple[float, ...], tuple[Lens, Array]]] = {}
        self._of: object = None
        self._dark: tuple[float, Array] | None = None

    def hidden(self, lens: Lens, depths: Array, toward: NDArray[np.float64], side: int = KEY_MAP) -> NDArray[np.bool_]:
        """Where a point of the view is hidden from a direction, shape (H, W); nowhere where nothing is."""
        from_light, seen = self._map(toward, side)
        # A tenth more than the sphere, so that outlines do not touch the map's edge, where everything is lit.
        size = self._scene.sphere.radius * 2.2
        texel = np.float32(side / size)
        there = np.where(np.isfinite(depths), depths, np.float32(0))
        x = (lens.along(from_light.right, there) - np.float32(from_light.origin @ from_light.right)) * texel
        y = (lens.along(from_light.up, there) - np.float32(from_light.origin @ from_light.up)) * texel
        away = lens.along(from_light.forward, there) - np.float32(from_light.origin @ from_light.forward)
        # The nearest texel, since a mean of two depths is a surface that is nowhere.
        first = cv2.remap(
            seen, x + side / 2 - 0.5, y + side / 2 - 0.5, cv2.INTER_NEAREST,
            borderMode=cv2.BORDER_CONSTANT, borderValue=float("inf"),
        )  # fmt: skip
        behind: NDArray[np.bool_] = (away - np.float32(BIAS_TEXELS[side] * size / side) > first) & np.isfinite(depths)
        return behind

    def open_sky(self, lens: Lens, depths: Array, normals: Array, number: int, count: int) -> Array:
        """Share of the light that comes from all round and reaches a point, by the cosine law; shape (H, W).

        Parameters
        ----------
        lens, depths
        normals : ndarray, shape (H, W, 3)
            In the view's coordinates: right, up, and to the viewer.
        number, count : int
            Which sample of how many, each with its own directions.
        """
        # 1e-6, so that a point that faces no direction divides nothing by nothing.
        seen = np.zeros_like(depths)
        whole = np.full_like(depths, 1e-6)
        for direction in sky(number, count):
            right, up, back = (np.float32(direction @ axis) for axis in (lens.right, lens.up, -lens.forward))
            facing = normals[..., 0] * right + normals[..., 1] * up + normals[..., 2] * back
            np.maximum(facing, 0, out=facing)
            whole += facing
            seen += facing * ~self.hidden(lens, depths, direction, SKY_MAP)
        share: Array = np.divide(seen, whole, dtype=np.float32)
        return share

    def contact(self, lens: Lens, depths: Array, ground: float) -> Array:
        """How near the subject is above points of the ground, 0 to 1, shape (H, W)."""
        below, _ = self._map(np.array([0.0, 0.0, -1.0]))
        dark = self._darkness(ground)
        there = np.where(np.isfinite(depths), depths, np.float32(0))
        texels = np.float32(CONTACT_MAP / (2 * REACH * self._scene.sphere.radius))
        x = (lens.along(below.right, there) - np.float32(below.origin @ below.right)) * texels
        y = (lens.along(below.up, there) - np.float32(below.origin @ below.up)) * texels
        middle = CONTACT_MAP / 2 - 0.5
        found = cv2.remap(
            dark, x + middle, y + middle, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=0.0
        )
        return np.asarray(found, dtype=np.float32)

    def _darkness(self, ground: float) -> Array:
        """The ground about the subject from below, darker where that is near above it, shape (CONTACT_MAP,) * 2."""
        below, seen = self._map(np.array([0.0, 0.0, -1.0]))
        if self._dark is not None and self._dark[0] == ground:
            return self._dark[1]
        # From below, the first visible point has this height above the ground.
        height = np.maximum(seen + np.float32(below.origin @ below.forward - ground), 0)
        radius, side = self._scene.sphere.radius, round(CONTACT_MAP * 1.1 / REACH)
        dark = np.zeros((CONTACT_MAP, CONTACT_MAP), np.float32)
        first = (CONTACT_MAP - side) // 2
        for reach, share in ((NEAR, 0.55), (WIDE, 0.45)):
            near = np.exp(-height / np.float32(reach * radius))
            layer = np.zeros_like(dark)
            layer[first : first + side, first : first + side] = cv2.resize(
                near, (side, side), interpolation=cv2.INTER_AREA
            )
            dark += np.float32(share) * cv2.GaussianBlur(layer, (0, 0), reach * CONTACT_MAP / (2 * REACH))
        self._dark = ground, dark
        return dark

    def _map(self, toward: NDArray[np.float64], side: int = KEY_MAP) -> tuple[Lens, Array]:
        """What is seen from a direction, as distances from there; rows from the bottom."""
        scene = self._scene
        if self._of is not scene.parts:
            self._maps = {number: LRUCache(most) for number, most in KEPT.items()}
            self._dark = None
            self._of = scene.parts
        kept, key = self._maps[side], tuple(np.round(toward, 9))
        if key in kept:
            return kept[key]
        radius, centre = scene.sphere.radius, np.array(scene.sphere.centre)
        # Straight from above or below the world's up would be no up.
        up = (0.0, 1.0, 0.0) if abs(toward[2]) > 0.99 else (0.0, 0.0, 1.0)
        camera = CameraPose(
            tuple(centre + 3 * radius * toward), tuple(centre), up, 30, radius, 5 * radius, parallel_high=2.2 * radius
        )
        scene.draw(SOLID)
        scene.look(camera, side, side, TRANSPARENT)
        scene.pixels()
        kept[key] = lens_of(camera, (side, side), np.zeros(2)), scene.depths(camera)
        return kept[key]


def sky(number: int, count: int) -> Iterator[NDArray[np.float64]]:
    """Directions all round for one of `count` samples: points of a sphere along a golden spiral, dealt out in order."""
    each = max(SKY_A_SAMPLE if count > 1 else 2 * SKY_A_SAMPLE, -(-SKY // count))
    whole = each * count
    for k in range(each):
        n = k * count + number
        z = 1 - 2 * (n + 0.5) / whole
        turn = n * np.pi * (3 - 5**0.5)
        flat = np.sqrt(1 - z * z)
        yield np.array([flat * np.cos(turn), flat * np.sin(turn), z])


def widened(toward: NDArray[np.float64], soft_deg: float, offset: NDArray[np.float64]) -> NDArray[np.float64]:
    """A direction within the light's disc; `offset` counts in its radii."""
    aside = np.cross(toward, [0.0, 0.0, 1.0] if abs(toward[2]) < 0.9 else [1.0, 0.0, 0.0])
    aside /= np.linalg.norm(aside)
    reach = np.tan(np.radians(soft_deg) / 2)
    moved = toward + reach * (offset[0] * aside + offset[1] * np.cross(toward, aside))
    unit: NDArray[np.float64] = moved / np.linalg.norm(moved)
    return unit


def ground_depths(lens: Lens, height: float, far: float) -> Array:
    """Depths at which a view meets the level ground; infinite where it does not, or looks at it from below."""
    up = np.array([0.0, 0.0, 1.0])
    above = float(lens.origin @ up) - height
    nothing = np.zeros((len(lens.rows), len(lens.columns)), np.float32)
    rising = lens.along(up, nothing + 1) - lens.along(up, nothing)
    start = lens.along(up, nothing) - np.float32(height)
    if above <= 0:
        return nothing + np.float32(np.inf)
    with np.errstate(divide="ignore", invalid="ignore"):
        depths = -start / rising
    return np.where((rising < 0) & (depths > 0) & (depths < far), depths, np.float32(np.inf))
