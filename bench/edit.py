"""(l) An edit of a shot whose geometry changes all the time: until all that the Bench asks for is there."""

import json
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from tests.helpers import HEADER, Server

from bench.browser import serving
from bench.common import few, folder, tell

SIDE, EDITS = few(40, 260), few(2, 6)
MODEL = f"""@model
def floor(deep=dial(1.0, low=0, high=9), steep=dial(1.0, low=0, high=9)):
    x, y = np.meshgrid(np.linspace(-9, 9, {SIDE}), np.linspace(-9, 9, {SIDE}), indexing="ij")
    return pv.StructuredGrid(x, y, deep * np.sin(x * steep) * np.cos(y))
"""
SEEN: list[bytes] = []
"""The pictures: each edit shows another, and the first is that of the unedited shot."""
VIEW = "/view?frame=0&quick=1"
ASKED = ("", "/source", "/camera-figures", VIEW, "/view?frame=0&width=300&quick=1", "/view?frame=47&width=300")


def main() -> None:
    """Edit a dial again and again, and ask at once for pictures, findings and figures; beside one picture alone."""
    with folder() as place:
        shots = place / "home/shots"
        shots.mkdir(parents=True)
        (shots / "floor.py").write_text(HEADER + MODEL)
        document = {
            "title": "Floor",
            "source": {"kind": "model", "file": "floor.py"},
            "clock": {"rate": "24", "frames": 48},
            "lanes": [{"drive": "dial:deep", "keys": [[0, 0.5], [1, 2]]}],
        }
        (shots / "floor.json").write_text(json.dumps(document))
        with serving(place / "home") as server:
            for way in ASKED:
                _ask(server, way)
            alone = [_edited(server, n, (VIEW,)) for n in range(EDITS)]
            together = [_edited(server, n, ASKED) for n in range(EDITS, 2 * EDITS)]
    assert len(set(SEEN)) == 2 * EDITS, "an edit did not change the picture"
    one, all_of_it = float(np.median(alone)), float(np.median(together))
    figure = f"{all_of_it:.2f} s for all, {one:.2f} s for a picture alone: {all_of_it / one:.2f} times"
    tell(f"edit of {2 * (SIDE - 1) ** 2:,} moving triangles", figure, "3 times", all_of_it <= 3 * one)


def _edited(server: Server, number: int, ways: tuple[str, ...]) -> float:
    patch = {"source": {"dials": {"steep": 1 + number / 10}}}
    begun = time.perf_counter()
    server.ask("/api/shots/floor", {"patch": patch, "what": "the slope"}, "PATCH")
    with ThreadPoolExecutor(len(ways)) as requests:
        list(requests.map(lambda way: _ask(server, way), ways))
    return time.perf_counter() - begun


def _ask(server: Server, way: str) -> None:
    status, answer = server.ask(f"/api/shots/floor{way}", {} if way == "/camera-figures" else None)
    assert status == 200 and answer, f"{way or 'the shot'} is answered with {status}: {answer}"
    if way == VIEW:
        SEEN.append(answer)


if __name__ == "__main__":
    main()
