"""(p) A GIF at 640 px, against the encoder's command line with a palette of all frames."""

from pathlib import Path

import av

from bench.common import few, folder, object_shot, ratio_of, tell, timed, vexel

FRAMES = few(6, 1000)
ROUNDS = few(1, 1)


def main() -> None:
    """Alternate the two and print the ratio of the round in the middle, and of the sizes."""
    with folder() as place:
        shot = object_shot(place, FRAMES, samples=1, width=640, height=360)
        vexel("capture", shot, "--to", place / "take")
        plain = [
            "ffmpeg", "-y", "-v", "error", "-framerate", "24", "-i", place / "take/ball.shaded.%04d.png",
            "-filter_complex", "split[a][b];[a]palettegen=stats_mode=full[p];[b][p]paletteuse=diff_mode=rectangle",
            "-loop", "0", place / "plain.gif",
        ]  # fmt: skip
        ours = "compile", place / "take", "-o", place / "ours.gif", "--overwrite"
        times = [(timed(*plain), vexel(*ours)) for _ in range(ROUNDS)]
        theirs, mine, ratio = ratio_of(times)
        counts = [count(place / name) for name in ("plain.gif", "ours.gif")]
        assert counts == [FRAMES, FRAMES], f"frames in the files: {counts}"
        sizes = [(place / name).stat().st_size for name in ("plain.gif", "ours.gif")]
        tell(
            f"a GIF of {FRAMES} frames at 640 px, against ffmpeg's command line",
            f"{theirs:.1f} s / {mine:.1f} s = {ratio:.2f} (receipt included), size {sizes[1] / sizes[0]:.2f} of theirs",
            "1.0, no larger",
            ratio >= 1 and sizes[1] <= sizes[0],
        )


def count(file: Path) -> int:
    """Pictures of a GIF."""
    with av.open(str(file), options={"min_delay": "0"}) as film:
        return sum(1 for _ in film.decode(video=0))


if __name__ == "__main__":
    main()
