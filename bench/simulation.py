"""(h) Stepping a simulation through Vexel against the bare loop, and going to any frame of 5,000."""

import time
from pathlib import Path
from statistics import median

import numpy as np

from bench.common import few, folder, tell
from vexel.core.evaluate.source_facts import StatesAt
from vexel.demo import HERE
from vexel.sources.kinds.simulation import SimulationFile
from vexel.sources.protocols import FrameRequest

FRAMES, STEPS_A_FRAME, TURN = few(40, 1200), 20, 10
LONG, LOOKS = few(100, 5000), few(3, 20)


def asked(step: int) -> FrameRequest:
    """A small frame after a step."""
    return FrameRequest({}, {"step": step}, (96, 64), (96, 64), "#000000")


def through(source: SimulationFile, frames: range) -> float:
    """Processor seconds of stepping through Vexel, with its states kept, without showing."""
    begun = time.process_time()
    for frame in frames:
        source._reach((frame + 1) * STEPS_A_FRAME)
    return time.process_time() - begun


def overhead(file: Path) -> float:
    """How much longer Vexel takes than the loop that one writes by hand.

    In turns of a few frames, since the machine's speed drifts.
    """
    source = SimulationFile(file)
    source._set({})
    thing, state = source._code.marked.begun({}, np.random.default_rng(0))
    ours = bare = 0.0
    for turn in range(0, FRAMES, TURN):
        ours += through(source, range(turn, turn + TURN))
        begun = time.process_time()
        for _ in range(TURN * STEPS_A_FRAME):
            thing.advance(state)
        bare += time.process_time() - begun
    for name, values in state.items():
        np.testing.assert_array_equal(source._state[name], values, f"both have stepped to another {name}")
    assert np.ptp(state["height"]) > 0.001, "nothing moves in it"
    return ours / bare - 1


def main() -> None:
    """Time in turn and print the overhead, then the way to arbitrary frames."""
    with folder() as place:
        file = place / "ripples.py"
        file.write_bytes((HERE / "sources/ripples.py").read_bytes())
        over = overhead(file)
        tell(f"simulation, {FRAMES} frames of {STEPS_A_FRAME} steps, overhead", f"{over:.1%}", "5 %", over <= 0.05)
    with folder() as place:
        file = place / "ripples.py"
        file.write_bytes((HERE / "sources/ripples.py").read_bytes())
        states = StatesAt(place / "states", b"k" * 32)
        source = SimulationFile(file, states=states)
        source._set({})
        chosen = [int(frame) for frame in np.random.default_rng(1).integers(0, LONG, LOOKS)]
        heights = {}
        for frame in range(LONG):
            through(source, range(frame, frame + 1))
            if frame + 1 in chosen:
                heights[frame + 1] = source._state["height"].copy()
        taken = []
        for frame in chosen:
            fresh = SimulationFile(file, states=states)
            begun = time.perf_counter()
            fresh.show(asked(frame * STEPS_A_FRAME))
            taken.append(time.perf_counter() - begun)
            if frame:
                np.testing.assert_array_equal(fresh._state["height"], heights[frame], f"frame {frame} is another")
        figure = f"median {median(taken) * 1000:.0f} ms, longest {max(taken) * 1000:.0f} ms"
        tell(f"simulation, any frame of {LONG:,}", figure, "1 s", max(taken) <= 1)


if __name__ == "__main__":
    main()
