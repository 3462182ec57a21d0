"""Figures of frames, and of the differences between them. All values are shares of full scale, 0 to 1."""

from dataclasses import dataclass

Three = tuple[float, float, float]


@dataclass(frozen=True)
class Figures:
    """Figures of one frame.

    Attributes
    ----------
    mean, low, high : float
        Of brightness: ITU-R BT.709's weights of encoded red, green and blue.
    channel_means, channel_lows, channel_highs : tuple of 3 floats
        Of red, green and blue.
    dark, light : float
        Share of pixels whose brightness is 0, and at full scale.
    near_light : float
        Share of pixels from 240 of 255 to below full scale.
    light_border : float
        Share of the outermost pixels whose brightness is at full scale: a white background is no highlight.
    sharpness : float
        Standard deviation of the Laplacian of brightness.
    noise : float
        Standard deviation of noise, estimated.
    clear : float
        Share of pixels that are fully transparent.
    """

    mean: float
    low: float
    high: float
    channel_means: Three
    channel_lows: Three
    channel_highs: Three
    dark: float
    light: float
    near_light: float
    light_border: float
    sharpness: float
    noise: float
    clear: float

    @property
    def is_empty(self) -> bool:
        """Whether nothing is seen: one colour alone, or all transparent."""
        return self.clear == 1.0 or self.channel_lows == self.channel_highs


@dataclass(frozen=True)
class Step:
    """The difference of a frame to another one.

    Attributes
    ----------
    mean, most : float
        Over all channels: the mean difference, and the largest.
    changed : float
        Share of pixels that differ.
    """

    mean: float
    most: float
    changed: float


@dataclass(frozen=True)
class Closer:
    """What is looked at in a few frames only.

    Attributes
    ----------
    banding : float
        Share of the frame that is a slow gradient in steps of one code.
    fringe : float
        How far colours at half transparent edges tend to black (1) or to white (-1), as if they had been mixed with it.
    """

    banding: float
    fringe: float


@dataclass(frozen=True)
class Measured:
    """Figures of a sequence of frames.

    Attributes
    ----------
    frames : tuple of Figures
    steps : tuple of Step
        From the frame before to each; that of the first is from the last one.
    skips : tuple of float
        Mean difference between the two neighbours of each frame; 0 for the first and the last.
    closer : dict of int to Closer
        Of some frames.
    """

    frames: tuple[Figures, ...]
    steps: tuple[Step, ...]
    skips: tuple[float, ...]
    closer: dict[int, Closer]
