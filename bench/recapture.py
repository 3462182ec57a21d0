"""(c) Second capture of an unchanged shot: no frame is made."""

import json

from common import folder, object_shot, tell, timed, vexel

FRAMES = 360


def main() -> None:
    """Capture 360 frames twice and time the second."""
    with folder() as place:
        shot = object_shot(place, FRAMES, width=320, height=180, samples=1)
        first = timed(*vexel("capture", shot, "--to", place / "take"))
        second = timed(*vexel("capture", shot, "--to", place / "take", "--resume"))
        rows = json.loads((place / "take/take.json").read_text())["frames"]
        made = sum(row["state"] == "made" for row in rows)
        figure = f"{made} frames made, {second:.2f} s (the first took {first:.1f} s)"
        tell("second capture of 360 unchanged frames", figure, "0 frames, 2 s", made == 0 and second < 2)


if __name__ == "__main__":
    main()
