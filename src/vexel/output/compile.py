"""Compiles footage to a file and proves it by a receipt."""

import errno
from collections.abc import Callable
from pathlib import Path

from vexel.core.document.recipes import Recipe
from vexel.core.errors import Failure, Stopped
from vexel.core.time.clock import decimal
from vexel.output.colours import colours_check
from vexel.output.encoders import ENCODERS
from vexel.output.footage import DamagedFrame, Footage
from vexel.output.pictures import Sized
from vexel.output.readback import video_facts
from vexel.output.receipt import Check, Receipt, check, fps
from vexel.store.disk.write import arriving


def compile_footage(
    footage: Footage,
    file: Path,
    recipe: Recipe,
    on_progress: Callable[[int, int], None] = lambda done, of: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Receipt:
    """Compile to `file`; it appears whole, or not at all.

    Parameters
    ----------
    on_progress : callable
        Called with steps done and steps in all.
    stopped : callable
        Asked after each step whether to end.

    Raises
    ------
    DamagedFrame
        When a frame is no longer what was made; it is set aside.
    Failure
        When a frame is missing or cannot be read, a size does not fit, or the disk is full.
    Stopped
    """
    encoder = ENCODERS[recipe.encoder]
    footage = footage if recipe.loops else footage.times_over()
    steps = len(footage.files) * encoder.passes

    def step(done: int) -> None:
        if stopped():
            raise Stopped("Compiling was stopped; no file was left.")
        on_progress(done, steps)

    try:
        with arriving(file) as part:
            sized = Sized.of(footage, recipe.long_side)
            notes = encoder.write(footage, sized, part, step)
    except DamagedFrame as error:
        footage.set_aside(error.file)
        raise
    except OSError as error:
        full = error.errno == errno.ENOSPC
        reason = "the disk is full: free some space" if full else f"{error.strerror or error}"
        raise Failure(f"{file} cannot be written: {reason}, then compile again") from None
    return receipt_of(file, recipe, footage, sized, notes)


def receipt_of(file: Path, recipe: Recipe, footage: Footage, sized: Sized, notes: list[str]) -> Receipt:
    """Read the file back and hold it against the plan."""
    looked_at = sorted({0, len(footage.files) // 2, len(footage.files) - 1})
    found, encoder = video_facts(file, looked_at), ENCODERS[recipe.encoder]
    clock = footage.clock
    # Held against the shot, and not against what the encoder made of it: rounding moves the end by half a grain.
    lasts = abs(found.seconds - clock.seconds) <= encoder.grain / 2
    rate = found.rate == clock.rate.fps if encoder.grain == 0 else lasts
    checks = [
        check("frames", f"{len(footage.files):,}", f"{found.frames:,}"),
        Check("rate", fps(clock.rate.fps), fps(found.rate), rate),
        Check("duration", f"{decimal(clock.seconds)} s", f"{decimal(found.seconds)} s", lasts),
        check("size", f"{sized.width} × {sized.height}", f"{found.width} × {found.height}"),
        colours_check(footage, sized, found, encoder.colours_within),
        *encoder.checks(footage, found),
    ]
    return Receipt(str(file), recipe.name, file.stat().st_size, tuple(checks), tuple(notes))
