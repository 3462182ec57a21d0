"""(y) What a project of 100,000 frames takes on disk: the first look, and a later one after a change."""

import secrets
import time
from pathlib import Path
from statistics import median

from bench.common import few, folder, tell
from vexel.store.frame_states import FrameState
from vexel.store.project import Project
from vexel.store.storage.folder_sizes import FolderSizes
from vexel.store.storage.unused import GROUPS, unused
from vexel.store.storage.usage import groups_of, takes_of

FRAMES = few(300, 100_000)
BUDGET = 1.0


def laid_out(home: Path) -> Project:
    """A project with so many frames in three takes, of which a tenth is shared."""
    project = Project(home)
    document = {"title": "Many", "source": {"kind": "object", "file": "a.obj"}, "clock": {"rate": "24", "frames": 9}}
    keys = [secrets.token_hex(32) for _ in range(FRAMES)]
    for key in keys:
        place = project.ledger.frames.path(key)
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(b"frame")
    third = FRAMES // 3
    for begin in (0, third - third // 10, 2 * third):
        own = keys[begin : begin + third]
        run = project.ledger.begin("many", document, range(len(own)))
        states = [FrameState(n, key, "made", bytes=5, digest="d", written=1) for n, key in enumerate(own)]
        project.ledger.take(run).record(states)
    return project


def main() -> None:
    """Measure both looks, and check that they say the same as a walk of the disk."""
    with folder() as place:
        project, sizes = laid_out(place / "home"), FolderSizes()

        def look() -> tuple[float, int]:
            begun = time.perf_counter()
            size = sum(group.size.bytes for group in groups_of(project, sizes))
            takes_of(project)
            unused(project, [group.name for group in GROUPS])
            return time.perf_counter() - begun, size

        first, _ = look()
        later = []
        for number in range(5):
            (project.home / f"frames/aa/{number}.tmp").parent.mkdir(exist_ok=True)
            (project.home / f"frames/aa/{number}.tmp").write_bytes(b"x")
            seconds, size = look()
            later.append(seconds)
        walked = sum(one.lstat().st_size for one in [project.home, *project.home.rglob("*")])
        assert size == walked, (size, walked)
        tell(f"storage, {FRAMES:,} frames, first look", f"{first:.2f} s", f"{BUDGET:g} s", first <= BUDGET)
        tell("storage, a later look", f"{median(later):.2f} s", f"{BUDGET:g} s", median(later) <= BUDGET)


if __name__ == "__main__":
    main()
