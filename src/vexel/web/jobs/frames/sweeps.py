"""Captures of sweeps: a run for each variant, or one run whose frames are the variants."""

from collections.abc import Sequence

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.lanes.dial import Dial
from vexel.core.sweep.variants import Variant, check_dials, chosen, swept_shot, variant_shot, variants
from vexel.store.project import Project
from vexel.store.tables import RunRow
from vexel.web.jobs.frames.captures import Captures, RunLimits

IN_ONE = "variants"
"""The variant of a run whose frames are all of them."""


class Sweeps:
    """Orders captures of sweeps, and finds what came of them."""

    def __init__(self, project: Project, captures: Captures) -> None:
        self._project, self._captures = project, captures

    def capture(
        self,
        shot_id: str,
        dials: Sequence[Dial],
        limits: RunLimits,
        draft: bool = False,
        to_file: bool = False,
        favourites: bool = False,
    ) -> list[int]:
        """Order all variants of a shot that are not left out; the runs' ids.

        All shots are made before the first is ordered, so that either all are captured or none.

        Parameters
        ----------
        dials : sequence of Dial
            Of the shot's source.
        limits : RunLimits
            Of each run.

        Raises
        ------
        Mistake
            When the shot has no sweep, none of its variants is left, or one is wrong.
        """
        shot = self._project.shots.shot(shot_id)
        if shot.sweep is None:
            raise Mistake("this shot has no variants: add an axis first")
        kept = chosen(shot.sweep, favourites)
        check_dials(kept, dials)
        if shot.sweep.makes == "shots":
            shots = [(variant_shot(shot, one), one.name) for one in kept]
        else:
            shots = [(swept_shot(shot, kept), IN_ONE)]
        shots = [(one.draft() if draft else one, name) for one, name in shots]
        return self._captures.capture_sweep(shot_id, shots, limits, draft, to_file)

    def newest(self, shot_id: str) -> dict[str, RunRow]:
        """The newest run of each variant of a shot, by the variants' names."""
        found: dict[str, RunRow] = {}
        for row in self._project.ledger.runs(shot_id):
            if row.variant and row.variant not in found:
                found[row.variant] = row
        return found


def variant_at(shot: Shot, number: int) -> Variant:
    """A variant of a shot by its number.

    Raises
    ------
    Mistake
        When there is none.
    """
    found = variants(shot.sweep) if shot.sweep is not None else []
    if not 1 <= number <= len(found):
        raise Mistake(f"this shot has no variant {number}: it has {len(found):,}")
    return found[number - 1]
