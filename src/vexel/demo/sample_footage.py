"""Footage of the demo that is drawn when it is laid out: survey stills with one missing, and a clip of the quay."""

from fractions import Fraction
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

Grid = NDArray[np.float32]
SIZE = (480, 270)
SURVEY = range(101, 137)
MISSING = 119
CLIP_FRAMES = 48
CLIP_RATE = 24


def draw_survey(folder: Path) -> None:
    """Stills of a mud flat while the tide comes in, numbered, with one missing."""
    from PIL import Image

    folder.mkdir(parents=True, exist_ok=True)
    for number in SURVEY:
        if number != MISSING:
            share = (number - SURVEY.start) / len(SURVEY)
            Image.fromarray(_flat(share)).save(folder / f"survey.{number:04d}.jpg", quality=88)


def draw_quay(file: Path) -> None:
    """A clip of a float that rides on the swell at the quay."""
    import av

    with av.open(str(file), "w") as container:
        stream = container.add_stream("libx264", CLIP_RATE, options={"crf": "20", "preset": "veryfast"})
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        for number in range(CLIP_FRAMES):
            frame = av.VideoFrame.from_ndarray(_quay(number / CLIP_FRAMES), format="rgb24")
            frame.pts, frame.time_base = number, Fraction(1, CLIP_RATE)
            container.mux(stream.encode(frame))
        container.mux(stream.encode())


@cache
def _grid() -> tuple[Grid, Grid]:
    x, y = np.meshgrid(np.arange(SIZE[0]) / SIZE[1], np.arange(SIZE[1]) / SIZE[1])
    return x.astype(np.float32), y.astype(np.float32)


def _mixed(a: tuple[int, ...], b: tuple[int, ...], share: Grid) -> Grid:
    low, high = np.array(a, np.float32), np.array(b, np.float32)
    return low + (high - low) * share[..., None]


def _flat(tide: float) -> NDArray[np.uint8]:
    x, y = _grid()
    far = np.clip((y - 0.3) / 0.7, 0, 1)
    ground = 0.9 - 0.75 * far + 0.06 * np.sin(9 * x + 4 * y) + 0.04 * np.sin(23 * x - 11 * y) * far
    depth = 0.15 + 0.75 * tide - ground
    mud = _mixed((122, 104, 84), (158, 140, 112), np.clip(ground + 0.3 * np.sin(60 * y / (far + 0.2)), 0, 1))
    water = _mixed((142, 164, 168), (46, 92, 104), np.clip(depth * 2.2, 0, 1))
    picture = np.where((depth > 0)[..., None], water, mud)
    picture += 40 * np.exp(-((depth / 0.012) ** 2))[..., None]
    sky = _mixed((170, 186, 196), (214, 219, 214), np.clip(y / 0.3, 0, 1))
    picture = np.where((y < 0.3)[..., None], sky, picture)
    for k, place in enumerate((0.35, 0.75, 1.15, 1.5)):
        post = (np.abs(x - place) < 0.008 + 0.002 * k) & (y > 0.34 + 0.05 * k) & (y < 0.62 + 0.1 * k)
        picture[post] = (58, 50, 44)
    return np.clip(picture, 0, 255).astype(np.uint8)


def _quay(phase: float) -> NDArray[np.uint8]:
    x, y = _grid()
    turn = 2 * np.pi * phase
    swell = 0.62 + 0.03 * np.sin(4 * x - 2 * turn) + 0.012 * np.sin(11 * x + 3 * turn)
    picture = _mixed((198, 208, 212), (150, 172, 184), np.clip(y / 0.6, 0, 1))
    sea = _mixed((64, 112, 122), (18, 48, 62), np.clip((y - swell) * 2.6, 0, 1))
    picture = np.where((y > swell)[..., None], sea, picture)
    wall = x < 0.34
    picture[wall] = (118, 112, 104)
    picture[wall & (np.mod(y, 0.12) < 0.008)] = (92, 86, 80)
    high = 0.62 + 0.03 * np.sin(4 * 1.05 - 2 * turn) + 0.012 * np.sin(11 * 1.05 + 3 * turn)
    ball = np.hypot(x - 1.05, y - high) < 0.075
    picture[ball] = (206, 82, 44)
    picture[ball & (np.abs(y - high) < 0.016)] = (240, 236, 226)
    return np.clip(picture, 0, 255).astype(np.uint8)
