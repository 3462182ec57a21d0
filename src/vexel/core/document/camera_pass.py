"""Strands: a shot's frames through one camera and in one pass.

A take holds all camera passes of its shot. It counts pictures by frames, and within
a frame by camera passes, so that all that is seen of one instant is made together.
"""

from typing import NamedTuple


class CameraPass(NamedTuple):
    """One camera, and one rendering of what it sees."""

    camera: str
    render_pass: str

    @property
    def told(self) -> str:
        """For people."""
        return f"{self.camera}, {self.render_pass}"
