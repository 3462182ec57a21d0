"""(h) Stepping a simulation through Vexel against the bare loop, and going to any frame of 5,000."""

import time
from statistics import median

import numpy as np

from common import folder, tell
from vexel.demo import HERE
from vexel.sources.contract import Asked
from vexel.sources.simulation import SimulationFile

FRAMES, STEPS_A_FRAME = 400, 20
LONG = 5000


def asked(step: int) -> Asked:
    """A small frame after a step."""
    return Asked({}, {"step": step}, (96, 64), (96, 64), "#000000")


def bare(source: SimulationFile, steps: int) -> float:
    """Processor seconds of the loop that one writes by hand."""
    code = source._code.marked
    thing, state = code.begun({}, np.random.default_rng(0))
    begun = time.process_time()
    for _ in range(steps):
        thing.advance(state)
    return time.process_time() - begun


def through(source: SimulationFile, frames: int) -> float:
    """Processor seconds of the same steps through Vexel, with its states kept, without showing."""
    source._set({})
    begun = time.process_time()
    for frame in range(1, frames + 1):
        source._reach(frame * STEPS_A_FRAME)
    return time.process_time() - begun


def main() -> None:
    """Time in turn and print the overhead, then the way to arbitrary frames."""
    ratios = []
    for _ in range(5):
        with folder() as place:
            file = place / "ripples.py"
            file.write_bytes((HERE / "sources/ripples.py").read_bytes())
            source = SimulationFile(file)
            loop = bare(source, FRAMES * STEPS_A_FRAME)
            whole = through(source, FRAMES)
            # Before and after, since the machine's speed drifts.
            ratios.append(whole / ((loop + bare(source, FRAMES * STEPS_A_FRAME)) / 2) - 1)
    over = median(ratios)
    tell(f"simulation, {FRAMES} frames of {STEPS_A_FRAME} steps, overhead", f"{over:.1%}", "5 %", over <= 0.05)
    with folder() as place:
        file = place / "ripples.py"
        file.write_bytes((HERE / "sources/ripples.py").read_bytes())
        source = SimulationFile(file)
        through(source, LONG)
        taken = []
        for frame in np.random.default_rng(1).integers(0, LONG, 20):
            fresh = SimulationFile(file)
            begun = time.perf_counter()
            fresh.show(asked(int(frame) * STEPS_A_FRAME))
            taken.append(time.perf_counter() - begun)
        figure = f"median {median(taken) * 1000:.0f} ms, longest {max(taken) * 1000:.0f} ms"
        tell(f"simulation, any frame of {LONG:,}", figure, "1 s", max(taken) <= 1)


if __name__ == "__main__":
    main()
