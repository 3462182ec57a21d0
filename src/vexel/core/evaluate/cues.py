"""What a shot says at which time: chapters of its saved views, and its labels as subtitles."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise

from vexel.core.document.label import OF_TIME, fields_of, written
from vexel.core.document.shot import Shot
from vexel.core.evaluate.lane_sampling import said_dials
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


def subtitles_of(shot: Shot) -> tuple[tuple[Cue, ...], tuple[str, ...]]:
    """The text of each label while it does not change; a counting label gives its number once a second.

    Returns
    -------
    tuple of Cue
    tuple of str
        Labels that are left out: they show values that are known while capturing only.
    """
    texts = [label.text for label in shot.labels]
    of_dials = any(name not in OF_TIME for text in texts for name in fields_of(text))
    dials = said_dials(shot) if of_dials else {}
    said = {text: all(name in OF_TIME or name in dials for name in fields_of(text)) for text in texts}
    cues = [cue for text in texts if said[text] for cue in _cues_of(shot, text, dials)]
    left_out = tuple(text for text in texts if not said[text])
    return tuple(sorted(cues, key=lambda cue: (cue.begin, cue.end))), left_out


def _cues_of(shot: Shot, text: str, dials: Mapping[str, Sequence[float]]) -> list[Cue]:
    clock, cues = shot.clock.exact, list[Cue]()
    starts = range(0, clock.frames, max(round(clock.playback.fps), 1) if fields_of(text) else clock.frames)
    for begin in starts:
        values = frame_values(shot, clock, begin) | {name: track[begin] for name, track in dials.items()}
        said, end = written(text, values), min(begin + starts.step, clock.frames)
        if cues and cues[-1].text == said:
            cues[-1] = replace(cues[-1], end=end)
        else:
            cues.append(Cue(said, begin, end))
    return cues
