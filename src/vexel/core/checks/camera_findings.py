"""Preflight of how the shot's own camera moves."""

from vexel.core.checks.framing_findings import coarse_coordinates, cut_off
from vexel.core.checks.panorama_findings import panorama_findings
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.rig_path import rig_path_of
from vexel.core.evaluate.rigs import rig_of
from vexel.core.finding import Finding

FEWEST_FRAMES = 3
"""A change of speed is visible from this number of frames on."""


def camera_findings(plan: Plan) -> list[Finding]:
    """What is off with it; nothing where no camera looks at the source."""
    if plan.sampled.path is None:
        return []
    moves = plan.shot.camera.rig.traits.travels and plan.clock.frames >= FEWEST_FRAMES
    of_rig = rig_of(plan.shot.camera).findings(rig_path_of(plan)) if moves else []
    return [*of_rig, *cut_off(plan), *coarse_coordinates(plan), *panorama_findings(plan)]
