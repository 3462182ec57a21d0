"""What the processes that show a project's sources may write and see."""

from vexel.store.project import Project
from vexel.store.user_files import secrets_of
from vexel.workers.bounds.isolation import Reach
from vexel.workers.planner import STATES


def reach_in(project: Project) -> Reach:
    """They write frames and the states of simulations, and see no secret of the project or the user."""
    writes = (project.home / "frames", project.copies / STATES)
    return Reach(tuple(map(str, writes)), secrets_of([project.home]))
