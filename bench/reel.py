"""(q) A reel of four takes with cross-dissolves and a layout of 2 × 2, 20 s at 1080p, against a filter graph."""

import json
import shutil
from pathlib import Path

import av
import numpy as np

from bench.common import few, folder, object_shot, ratio_of, tell, timed, vexel

FRAMES, FADE = few(6, 120), few(2, 12)
CELLS = few(4, 48)
ROUNDS = few(1, 3)
EXACT = "bicubic+accurate_rnd+full_chroma_inp"
MOST = 2.0
"""Mean difference in codes of 255 outside the fades, which the filter graph makes without linear light."""


def main() -> None:
    """Alternate the two and print the ratio of the round in the middle."""
    with folder() as place:
        # Once is enough to see that both sides work.
        for number in range(few(1, 4)):
            shot = object_shot(place, FRAMES, samples=1)
            document = json.loads(Path(shot).read_text())
            document["picture"]["background"] = ("#2b2f33", "#7c8790", "#445566", "#665544")[number]
            Path(shot).write_text(json.dumps(document))
            vexel("capture", shot, "--to", place / f"take{number}")
        for number in range(1, few(4, 1)):
            shutil.copytree(place / "take0", place / f"take{number}")
        fade = {"kind": "cross-dissolve", "frames": FADE}
        takes = [{"kind": "take", "take": f"take{number}", "transition": fade} for number in range(4)]
        cells = [{"item": {"kind": "take", "take": f"take{number}", "last": CELLS - 1}} for number in range(4)]
        layout = {"kind": "layout", "arrangement": "grid", "cells": cells}
        reel = {"title": "Reel", "width": 1920, "height": 1080, "items": [*takes, layout]}
        (place / "reel.json").write_text(json.dumps(reel))
        plain = [
            "ffmpeg", "-y", "-v", "error", *inputs(place), "-filter_complex", graph(), "-map", "[out]",
            "-c:v", "libx264", "-preset", "medium", "-crf", "18", "-movflags", "+faststart", place / "plain.mp4",
        ]  # fmt: skip
        ours = "reel", place / "reel.json", "-o", place / "ours.mp4", "--overwrite"
        times = [(timed(*plain), vexel(*ours)) for _ in range(ROUNDS)]
        count = 4 * FRAMES + CELLS - 4 * FADE
        differ = difference(place / "plain.mp4", place / "ours.mp4", count)
        theirs, mine, ratio = ratio_of(times)
        tell(
            f"a reel of {count} frames 1080p: four takes, fades, a layout of 2 × 2; against a filter graph",
            f"{theirs:.1f} s / {mine:.1f} s = {ratio:.2f} (receipt included; fades in linear light are ours alone), "
            f"pictures outside the fades differ by {differ:.2f} of 255",
            "1.0",
            ratio >= 1,
        )


def inputs(place: Path) -> list[object]:
    """The takes, read once each."""
    return [part for n in range(4) for part in ("-framerate", "24", "-i", place / f"take{n}/ball.shaded.%04d.png")]


def graph() -> str:
    """Fades between the takes, then the four at once."""
    steps = [f"[{n}:v]split[a{n}][b{n}]" for n in range(4)]
    steps += [f"[b{n}]trim=end_frame={CELLS},setpts=PTS-STARTPTS,scale=960:540:flags=area[c{n}]" for n in range(4)]
    steps.append("[c0][c1][c2][c3]xstack=inputs=4:layout=0_0|w0_0|0_h0|w0_h0[grid]")
    last, lasts = "a0", FRAMES
    for n, name in enumerate(("a1", "a2", "a3", "grid")):
        offset = (lasts - FADE) / 24
        steps.append(f"[{last}][{name}]xfade=duration={FADE / 24}:offset={offset}[x{n}]")
        last, lasts = f"x{n}", lasts + (FRAMES if name != "grid" else CELLS) - FADE
    steps.append(f"[{last}]scale=out_color_matrix=bt709:out_range=tv:flags={EXACT},format=yuv420p[out]")
    return ";".join(steps)


def difference(one: Path, other: Path, count: int) -> float:
    """Mean difference of the two films' pictures outside the fades; both must have all frames."""
    with av.open(str(one)) as first, av.open(str(other)) as second:
        pairs = [
            [frame.reformat(320, 180).to_ndarray(format="rgb24").astype(float) for frame in film.decode(video=0)]
            for film in (first, second)
        ]
    assert [len(film) for film in pairs] == [count, count], f"frames: {[len(film) for film in pairs]}, not {count}"
    step = FRAMES - FADE
    alone = [n for n in range(count) if n % step >= FADE or n < FADE]
    found = [float(np.abs(pairs[0][n] - pairs[1][n]).mean()) for n in alone]
    assert max(found) <= MOST, f"the two films show other pictures: they differ by {max(found):.2f} of 255"
    return float(np.mean(found))


if __name__ == "__main__":
    main()
