"""What is known of the files beside a reel that are no media: images that it names, and sounds."""

from fractions import Fraction
from pathlib import Path

from vexel.output.reel.draw_frame import image_of
from vexel.output.reel.reel_sound import seconds_of


class Beside:
    """Files by the paths that a reel has for them, read in this process.

    Parameters
    ----------
    folder : Path
        That paths are relative to.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def shows_image(self, name: str) -> bool:
        """Whether an image can be opened."""
        return image_of(self.folder, name) is not None

    def seconds(self, file: Path) -> Fraction:
        """How long a sound is.

        Raises
        ------
        Mistake
            When it is not there, or cannot be heard.
        """
        return seconds_of(file)
