"""(d) Compiling 1080p H.264, against the encoder's own command line with the same settings and frames."""

from common import folder, object_shot, tell, timed, vexel
from vexel.output.mp4 import CRF, PRESET

FRAMES = 240
EXACT = "bicubic+accurate_rnd+full_chroma_inp"
ROUNDS = 2


def main() -> None:
    """Alternate the two and print the ratio of the best of each."""
    with folder() as place:
        shot = object_shot(place, FRAMES, samples=1)
        timed(*vexel("capture", shot, "--to", place / "take"))
        plain = [
            "ffmpeg", "-y", "-v", "error", "-framerate", "24", "-i", place / "take/ball.shaded.%04d.png",
            "-vf", f"scale=out_color_matrix=bt709:out_range=tv:flags={EXACT},format=yuv420p",
            "-c:v", "libx264", "-preset", PRESET, "-crf", CRF, "-movflags", "+faststart",
            "-colorspace", "bt709", "-color_primaries", "bt709", "-color_trc", "bt709", place / "plain.mp4",
        ]  # fmt: skip
        ours = vexel("compile", place / "take", "-o", place / "ours.mp4")
        times = [(timed(*plain), timed(*ours)) for _ in range(ROUNDS)]
        theirs, mine = (min(column) for column in zip(*times, strict=True))
        figure = f"{theirs:.1f} s / {mine:.1f} s = {theirs / mine:.2f} (receipt with a full decode included)"
        tell(
            f"compile, {FRAMES} frames 1080p H.264, against ffmpeg's command line",
            figure,
            "0.95",
            theirs / mine >= 0.95,
        )


if __name__ == "__main__":
    main()
