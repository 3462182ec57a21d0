"""What a shot says at which time: chapters of its saved views, and its labels as subtitles."""

from itertools import pairwise

from vexel.core.document.label import OF_TIME, fields_of, written
from vexel.core.document.shot import Shot
from vexel.core.evaluate.plan import frame_values
from vexel.core.recipes.cue import Cue


def chapters_of(shot: Shot) -> tuple[Cue, ...]:
    """A chapter a saved view, from the arrival there to the next; empty where the camera goes by no views."""
    rig, clock = shot.camera.rig, shot.clock.exact
    arrivals = rig.arrivals(shot.camera.views, clock.rate, clock.span)
    names = [view.name or f"View {n}" for n, view in enumerate(shot.camera.views, 1)]
    bounds = [*arrivals[: len(names)], clock.frames]
    return tuple(
        Cue(name, begin, end) for name, (begin, end) in zip(names, pairwise(bounds), strict=False) if begin < end
    )


def subtitles_of(shot: Shot) -> tuple[Cue, ...]:
    """The text of each label while it stays the same; one that counts says its number once a second.

    Labels that show a dial or a value of their own are left out: those are known frame by frame while capturing only.
    """
    clock = shot.clock.exact
    step = max(round(clock.playback.fps), 1)
    cues = []
    for label in shot.labels:
        fields = fields_of(label.text)
        if any(name not in OF_TIME for name in fields):
            continue
        starts = range(0, clock.frames, step if fields else clock.frames)
        for begin in starts:
            text = written(label.text, frame_values(shot, clock, begin))
            cues.append(Cue(text, begin, min(begin + starts.step, clock.frames)))
    return tuple(sorted(cues, key=lambda cue: (cue.begin, cue.end)))
