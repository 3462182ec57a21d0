"""The shot's own camera as its rig judges it: with the figures of its movement."""

import numpy as np

from vexel.core.camera.path_figures import PathFigures, path_figures
from vexel.core.evaluate.camera_table import camera_of
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.rigs import RigPath


def figures_of(plan: Plan) -> PathFigures:
    """Figures of the shot's own camera.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    camera, sphere, picture = camera_of(plan), plan.inputs.subject.sphere, plan.shot.picture
    assert sphere is not None
    highs = camera.parallel_highs if plan.shot.camera.lens.projection == "parallel" else None
    return path_figures(
        camera.path,
        camera.views_high_deg,
        (picture.width, picture.height),
        sphere,
        highs,
        camera.shifts,
        np.array(plan.inputs.subject.hull).reshape(-1, 3),
    )


def rig_path_of(plan: Plan) -> RigPath:
    """The shot's own camera in all frames.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    return RigPath(plan.shot, plan.clock, plan.inputs.subject, camera_of(plan), figures_of(plan))
