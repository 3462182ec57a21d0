"""The cuts of a reel for other programs: a CMX 3600 edit list, and a table.

OpenTimelineIO's adapter for edit lists refuses a reel with an item that is played backward ("value cannot be
negative"), and says nothing of what it leaves out. It reads what is written here in the tests.
"""

import csv
import io
import re
from fractions import Fraction

from vexel.core.reel.played_item import HALF, Playing
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.time.clock import decimal
from vexel.core.time.rate import Rate
from vexel.core.time.timecode import frame_of, has_timecode, timecode
from vexel.core.wording import counted, one_line

MOST_EVENTS = 999
COLUMNS = (
    "item",
    "name",
    "first_frame",
    "frames",
    "seconds",
    "timecode",
    "transition",
    "transition_frames",
    "source",
    "source_frame",
)


def cmx3600(plan: ReelPlan) -> tuple[str, list[str]]:
    """A CMX 3600 edit list: one event an item, dissolves with their length; and what it has no place for.

    Cuts lie where the next item begins to be seen. Source times count the frames of the item at the reel's rate.
    """
    notes = []
    fps = round(plan.rate.fps)
    clock = plan.rate if has_timecode(plan.rate) else Rate.parse(str(fps))
    if not has_timecode(plan.rate):
        notes.append(f"{plan.rate.label} has no timecode: frames are counted at {fps} a second")
    drops = ";" in timecode(0, clock)
    lines = [f"TITLE: {one_line(plan.reel.title)[:70]}", f"FCM: {'DROP FRAME' if drops else 'NON-DROP FRAME'}"]
    # A record begins at one hour, by custom.
    starts, begin = [*plan.starts, plan.frames], frame_of("01:00:00;00" if drops else "01:00:00:00", clock)
    for number in range(len(plan.names)):
        if number >= MOST_EVENTS:
            notes.append(
                f"an edit list has {MOST_EVENTS} events: {counted(len(plan.names) - MOST_EVENTS, 'item')} left out"
            )
            break
        record = begin + starts[number], begin + starts[number + 1]
        source = _source(plan, number, starts[number + 1] - starts[number])
        transition = plan.sequence.transitions[number - 1] if plan.sequence and number else None
        overlap = plan.sequence.overlaps[number - 1] if plan.sequence and number else 0
        name = _reel_name(plan.names[number])
        event = f"{number + 1:03d}"
        if overlap and transition is not None:
            # A dissolve starts at the end of the item before, which lasts no frame here.
            at = timecode(record[0], clock)
            came = timecode(_source(plan, number - 1, starts[number] - starts[number - 1])[1], clock)
            lines.append(f"{event}  {_reel_name(plan.names[number - 1]):<8} V     C        {came} {came} {at} {at}")
            kind = f"D    {overlap:03d}"
            if transition.kind != "cross-dissolve":
                notes.append(f"{plan.names[number]}: its {transition.kind} is written as a dissolve")
        else:
            kind = "C       "
        times = " ".join(timecode(one, clock) for one in (*source, *record))
        lines += [f"{event}  {name:<8} V     {kind} {times}", f"* FROM CLIP NAME: {one_line(plan.names[number])}"]
        track = plan.sequence.tracks[number] if plan.sequence else None
        if isinstance(track, Playing) and (track.pace != 1 or track.item.order == "backward"):
            back = track.item.order == "backward"
            speed = float(track.pace * plan.rate.fps) * (-1 if back else 1)
            entry = timecode(source[1] - 1 if back else source[0], clock)
            lines.append(f"M2   {name:<8} {speed:06.1f}                {entry}")
    return "\n".join(lines) + "\n", notes


def cut_table(plan: ReelPlan) -> str:
    """The cuts as CSV (RFC 4180)."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(COLUMNS)
    starts = [*plan.starts, plan.frames]
    for number, name in enumerate(plan.names):
        begin, count = starts[number], starts[number + 1] - starts[number]
        transition = (
            plan.sequence.transitions[number] if plan.sequence and number < len(plan.sequence.transitions) else None
        )
        overlap = plan.sequence.overlaps[number] if plan.sequence and transition else 0
        track = plan.sequence.tracks[number] if plan.sequence else None
        source, first = (track.item.ref.label, track.first_shown()) if isinstance(track, Playing) else ("", "")
        table.writerow([
            number + 1, name, begin, count, decimal(begin / plan.rate.fps, 6),
            timecode(begin, plan.rate) if has_timecode(plan.rate) else "",
            transition.kind if transition else "", overlap, source, first,
        ])  # fmt: skip
    return out.getvalue()


def _source(plan: ReelPlan, number: int, count: int) -> tuple[int, int]:
    """The lowest frame of its media that an item shows while it is seen, and the one after its highest."""
    track = plan.sequence.tracks[number] if plan.sequence else None
    if not isinstance(track, Playing):
        return 0, count
    first = track.lowest(Fraction(0), Fraction(count - 1))
    return (first + HALF).__floor__(), (first + HALF).__floor__() + max((count * track.pace + HALF).__floor__(), 1)


def _reel_name(name: str) -> str:
    """Eight letters and digits, as the format wants."""
    return re.sub(r"[^A-Z0-9]", "", name.upper())[:8] or "AX"
