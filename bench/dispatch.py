"""(o) Four recipes at once, against the same four in turn: frames are read and decoded once."""

from pathlib import Path

from bench.common import difference, few, folder, object_shot, ratio_of, tell, vexel

FRAMES = few(6, 120)
ROUNDS = few(1, 1)
RECIPES = {"small": "h264-small", "page": "page-turn", "gif": "gif-640", "jpeg": "jpeg"}
ENDINGS = {"small": ".mp4", "page": ".html", "gif": ".gif", "jpeg": "/"}


def main() -> None:
    """Alternate the two and print the ratio of the round in the middle."""
    with folder() as place:
        shot = object_shot(place, FRAMES, samples=1)
        vexel("capture", shot, "--to", place / "take")
        times = []
        for number in range(ROUNDS):
            turn, once = place / f"turn{number}", place / f"once{number}"
            in_turn = sum(vexel("compile", place / "take", *order(turn, name)) for name in RECIPES)
            at_once = vexel("compile", place / "take", *[part for name in RECIPES for part in order(once, name)])
            times.append((in_turn, at_once))
            same(turn, once)
        theirs, mine, ratio = ratio_of(times)
        tell(
            f"four recipes of {FRAMES} frames 1080p at once, against in turn",
            f"{theirs:.1f} s / {mine:.1f} s = {ratio:.2f}, the same files",
            "1.5",
            ratio >= 1.5,
        )


def order(place: Path, name: str) -> list[object]:
    """The part of a call for one recipe."""
    return ["-o", f"{place}/{name}{ENDINGS[name]}", "--recipe", RECIPES[name]]


def same(one: Path, other: Path) -> None:
    """Both ways made the same: byte for byte, and where the encoder is not as exact, picture for picture."""
    for name in ("page.html", "gif.gif"):
        assert (one / name).read_bytes() == (other / name).read_bytes(), f"{name} differs"
    files = sorted(file.name for file in (one / "jpeg").iterdir())
    assert len(files) == FRAMES
    difference([(one / "jpeg" / name, other / "jpeg" / name) for name in files[:3]], 0)
    sizes = [(place / "small.mp4").stat().st_size for place in (one, other)]
    assert abs(sizes[0] / sizes[1] - 1) < 0.02, "the two videos differ in size"


if __name__ == "__main__":
    main()
