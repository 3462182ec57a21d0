"""Passes: renderings of a frame, one record each; and a camera with a pass.

A take holds all camera passes of its shot. It counts pictures by frames, and
within a frame by camera passes, so that all that is seen of one instant is
made together.
"""

from dataclasses import dataclass
from typing import Final, Literal, NamedTuple

Pass = Literal["shaded", "edges", "wire", "hidden-line", "clay", "occlusion", "depth", "normal", "matte"]
ViewPass = Literal["shaded", "edges", "wire", "hidden-line", "clay", "occlusion"]
"""Passes that a saved view may be drawn as, since they fade into one another."""
FAR = 65535
"""Code of the largest distance in a pass of distances, and of where nothing is."""


@dataclass(frozen=True)
class PassTraits:
    """What is true of a pass; how it is drawn is in `vexel.stage.passes`.

    Attributes
    ----------
    label : str
        What people call it.
    data : bool
        Whether its pixels are numbers, on which nothing may be written or blurred.
    distances : bool
        Whether they are distances, which go from 0 to `FAR` over the whole shot.
    directions : bool
        Whether they are unit vectors.
    shares : bool
        Whether it is a picture of shares, whose samples are averaged as numbers and not as light.
    points : bool
        Whether it can show points without surfaces.
    """

    label: str
    data: bool = False
    distances: bool = False
    directions: bool = False
    shares: bool = False
    points: bool = False


PASSES: Final[dict[Pass, PassTraits]] = {
    "shaded": PassTraits("shaded", points=True),
    "edges": PassTraits("shaded with edges"),
    "wire": PassTraits("wireframe"),
    "hidden-line": PassTraits("hidden line"),
    "clay": PassTraits("clay"),
    "occlusion": PassTraits("ambient occlusion", shares=True),
    "depth": PassTraits("depth", data=True, distances=True, points=True),
    "normal": PassTraits("normals", data=True, directions=True),
    "matte": PassTraits("matte", data=True, points=True),
}


class CameraPass(NamedTuple):
    """One camera, and one rendering of what it sees."""

    camera: str
    render_pass: Pass

    @property
    def label(self) -> str:
        """For people."""
        return f"{self.camera}, {self.render_pass}"


class PictureIndex(NamedTuple):
    """One picture of a take.

    Attributes
    ----------
    picture : int
        Its number in the take.
    frame, camera_pass : int
        Counted from 0.
    camera : int
        Counted from the shot's own one on.
    render_pass : str
    """

    picture: int
    frame: int
    camera_pass: int
    camera: int
    render_pass: Pass
