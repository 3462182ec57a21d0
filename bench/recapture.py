"""(c) Second capture of an unchanged shot: no frame is made."""

import json

from bench.common import drawn, few, folder, object_shot, picture, tell, vexel

FRAMES = few(6, 360)


def main() -> None:
    """Capture 360 frames twice and time the second."""
    with folder() as place:
        shot = object_shot(place, FRAMES, width=320, height=180, samples=1)
        first = vexel("capture", shot, "--to", place / "take")
        files = sorted((place / "take").glob("*.png"))
        assert len(files) == FRAMES and drawn(picture(files[0])), "the first capture did not make its frames"
        before = [(file.stat().st_mtime_ns, file.read_bytes()) for file in files]
        second = vexel("capture", shot, "--to", place / "take", "--resume")
        rows = json.loads((place / "take/take.json").read_text())["frames"]
        made = sum(row["state"] == "made" for row in rows)
        after = [(file.stat().st_mtime_ns, file.read_bytes()) for file in files]
        assert [data for _, data in before] == [data for _, data in after], "the second capture changed frames"
        assert made or before == after, "frames were made though none is said to be"
        figure = f"{made} frames made, {second:.2f} s (the first took {first:.1f} s)"
        tell(f"second capture of {FRAMES} unchanged frames", figure, "0 frames, 2 s", made == 0 and second < 2)


if __name__ == "__main__":
    main()
