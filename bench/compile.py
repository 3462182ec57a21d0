"""(d) Compiling 1080p H.264, against the encoder's own command line with the same settings and frames."""

from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from bench.common import drawn, few, folder, object_shot, ratio_of, tell, timed, vexel

FRAMES = few(6, 240)
EXACT = "bicubic+accurate_rnd+full_chroma_inp"
ROUNDS = few(1, 3)
MOST = 1.0
"""By so many codes of 255 the two films may differ in the mean: they are the same encoder's, with the same settings."""


def main() -> None:
    """Alternate the two and print the ratio of the round in the middle."""
    with folder() as place:
        shot = object_shot(place, FRAMES, samples=1)
        vexel("capture", shot, "--to", place / "take")
        plain = [
            "ffmpeg", "-y", "-v", "error", "-framerate", "24", "-i", place / "take/ball.shaded.%04d.png",
            "-vf", f"scale=out_color_matrix=bt709:out_range=tv:flags={EXACT},format=yuv420p",
            "-c:v", "libx264", "-preset", "medium", "-crf", "18", "-movflags", "+faststart",
            "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709", place / "plain.mp4",
        ]  # fmt: skip
        ours = "compile", place / "take", "-o", place / "ours.mp4", "--overwrite"
        times = [(timed(*plain), vexel(*ours)) for _ in range(ROUNDS)]
        differ = difference(place / "plain.mp4", place / "ours.mp4")
        theirs, mine, ratio = ratio_of(times)
        figure = f"{theirs:.1f} s / {mine:.1f} s = {ratio:.2f} (receipt with a full decode included), "
        figure += f"pictures differ by {differ:.2f} of 255"
        tell(
            f"compile, {FRAMES} frames 1080p H.264, against ffmpeg's command line",
            figure,
            "0.95",
            ratio >= 0.95,
        )


def difference(one: Path, other: Path) -> float:
    """Mean difference of two films' pictures, in codes of 255; both must have all frames."""
    films = [decoded(file) for file in (one, other)]
    assert [len(film) for film in films] == [FRAMES, FRAMES], "a film has not all frames"
    found = [float(np.abs(a - b).mean()) for a, b in zip(*films, strict=True)]
    assert all(drawn(frame) for film in films for frame in film[:1]), "a film is empty"
    assert max(found) <= MOST, f"the two films show other pictures: they differ by {max(found):.2f} of 255"
    return float(np.mean(found))


def decoded(file: Path) -> list[NDArray[np.float64]]:
    """The frames of a film, a sixth as wide."""
    with av.open(str(file)) as film:
        return [f.reformat(320, 180).to_ndarray(format="rgb24").astype(float) for f in film.decode(video=0)]


if __name__ == "__main__":
    main()
