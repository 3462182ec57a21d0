"""One stage of this process: what frames take without servers, workers and files."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from bench.common import drawn
from vexel.core.document.shot import read_shot_document
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import plan_by_measuring
from vexel.core.evaluate.source_facts import PlanInputs, SourceAt, Subject
from vexel.stage.renderer import Renderer


def frame_seconds(
    document: dict[str, Any], file: Path, frames: int, clock: Callable[[], float] = time.perf_counter
) -> list[float]:
    """Seconds by a clock of each of the first frames of a shot, PNG included; none may be empty."""
    shot, stage = read_shot_document(document), Renderer()
    at = SourceAt(shot.source.kind, file, shot.source.options())
    facts = stage.facts(at)
    size = shot.picture.width, shot.picture.height
    inputs = PlanInputs("e", SourceIdentity(shot.source.kind, file.name, "d"), facts, Subject(None))
    plan = plan_by_measuring(shot, inputs, lambda moments: stage.measure(at, moments, size) or Subject(None))
    took = []
    for frame in range(frames):
        spec = plan.frame_spec(frame)
        begun = clock()
        data = stage.encoded(at, spec)
        took.append(clock() - begun)
        codes = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
        assert codes is not None and codes.shape[:2] == size[::-1], f"frame {frame} is not a picture of {size}"
        assert drawn(codes.astype(np.float64)), f"frame {frame} is empty"
    return took
