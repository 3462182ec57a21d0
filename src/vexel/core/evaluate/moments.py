"""The moments of a shot at which its source is asked: what it sees of a frame, and when its subject is measured."""

from fractions import Fraction

import numpy as np

from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import SimulationSource
from vexel.core.evaluate.frame_spec import TimeInputs, steady
from vexel.core.evaluate.lane_sampling import keys_of, shot_phases
from vexel.core.evaluate.motion import Motion
from vexel.core.evaluate.source_facts import Moment, SourceFacts
from vexel.core.time.substeps import Substeps

MEASURED_STRETCHES = 8
"""A changing subject is measured at the ends of this many equal stretches of the shot, and at every key."""
MEASURED_TIMES = 32
"""Further stretches that are measured where a lane does not simply run through its keys."""
MEASURED_SLICES = 2000
"""Data of no more frames than this is measured in all of them, so that its colours hold for all."""


def measured_frames(shot: Shot, facts: SourceFacts) -> list[int]:
    """Frames at which the subject is measured: one if it never changes."""
    shows = shot.camera.rig.traits.times_shot and any(view.shows for view in shot.camera.views)
    if not shot.lanes and not facts.time_inputs and not shows:
        return [0]
    clock = shot.clock.exact
    if facts.source_frames is not None and clock.frames <= MEASURED_SLICES:
        return list(range(clock.frames))
    marks = {i / MEASURED_STRETCHES for i in range(MEASURED_STRETCHES + 1)}
    marks.update(min(max(key.at, 0), 1) for lane in shot.lanes for key in keys_of(lane, clock))
    plain = all(lane.repeat == 1 and not lane.back and not lane.offset and lane.within == (0, 1) for lane in shot.lanes)
    if not plain or shows or shot.ease != "linear":
        marks.update(i / MEASURED_TIMES for i in range(MEASURED_TIMES))
    frames = clock.selection.frames_of(clock.motion)
    nearest = np.searchsorted(frames, [min(round(phase * clock.steps), clock.motion - 1) for phase in marks])
    return sorted({min(int(frame), clock.frames - 1) for frame in nearest})


def measured_moments(shot: Shot, facts: SourceFacts, motion: Motion) -> list[Moment]:
    """Dials and what is seen at the frames at which the subject is measured.

    Parameters
    ----------
    shot : Shot
    facts : SourceFacts
    motion : Motion
        At each frame's own instant.
    """
    clock, moments = shot.clock.exact, list[Moment]()
    for frame in measured_frames(shot, facts):
        moved = clock.selection.frame_of(frame, clock.motion)
        dials = {name: steady(values[frame]) for name, values in motion.dials.items()}
        moment = (dials, time_inputs_of(shot, Fraction(moved), moved, facts, int(motion.list_offsets[frame])))
        if not moments or moments[-1] != moment:
            moments.append(moment)
    return moments


def substeps_of(shot: Shot, facts: SourceFacts) -> Substeps | None:
    """How a simulation's steps stand to the frames of the motion's own time; None for any other kind."""
    if not isinstance(shot.source, SimulationSource):
        return None
    pace = Fraction(repr(shot.source.pace))
    return Substeps(Fraction(facts.step), pace, shot.clock.exact.rate.fps, shot.source.warm_up)


def time_inputs_of(shot: Shot, place: Fraction, frame: int, facts: SourceFacts, list_offset: int = 0) -> TimeInputs:
    """What a source sees at a place of the motion, in a look of the motion's frame of this number.

    A simulation continues where a loop would start again, since its states do.
    """
    clock = shot.clock.exact
    pace = substeps_of(shot, facts)
    if pace is not None:
        return {"step": pace.step_of(clock.own_frame(place))}
    instant = clock.instant_at(place, frame)
    values = {name: getattr(instant, name) for name in facts.time_inputs if name != "slot"}
    if "phase" in values and shot.ease != "linear":
        values["phase"] = Fraction(repr(steady(shot_phases(shot, np.array([float(instant.phase)]))[0])))
    found: TimeInputs = {name: value if isinstance(value, int) else str(value) for name, value in values.items()}
    if facts.source_frames is not None:
        slot, part = facts.source_frames.at(instant.seconds * clock.rate.fps, instant.seconds)
        slot, following = ((slot + n + list_offset) % facts.source_frames.count for n in (0, 1))
        found |= {"slot": slot, "stamp": facts.source_frames.stamp(slot)}
        if facts.source_frames.mixed and part:
            found |= {
                "part": str(part),
                "stamp": f"{facts.source_frames.stamp(slot)}|{facts.source_frames.stamp(following)}",
            }
    return found
