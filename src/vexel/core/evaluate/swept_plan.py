"""The plan of a take whose frames are the variants of a sweep, one each."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction

from vexel.core.document.passes import PictureIndex
from vexel.core.document.shot import Shot
from vexel.core.evaluate.frame_spec import FrameSpec, steady
from vexel.core.evaluate.moments import time_inputs_of
from vexel.core.evaluate.motion import motion_of
from vexel.core.evaluate.plan import Plan, make_plan
from vexel.core.evaluate.source_facts import Moment, PlanInputs, Subject
from vexel.core.sweep.variants import shots_in

KEPT = 64
"""Plans of variants that are remembered: frames are asked for in order."""


@dataclass(frozen=True)
class SweptPlan(Plan):
    """A plan whose every frame is that of another shot, before the same subject.

    Attributes
    ----------
    shots : tuple of (Shot, int)
        The shot of each frame, and its frame there.
    """

    shots: tuple[tuple[Shot, int], ...] = ()
    _plans: dict[int, Plan] = field(default_factory=dict, compare=False, repr=False)

    def _spec(self, index: PictureIndex) -> FrameSpec:
        return self._of(index.frame).frame_spec(self.shots[index.frame][1], index.camera_pass)

    def _of(self, number: int) -> Plan:
        plan = self._plans.get(number)
        if plan is None:
            plan = make_plan(self.shots[number][0], self.inputs)
            if len(self._plans) >= KEPT:
                self._plans.clear()
            self._plans[number] = plan
        return plan

    def course_place(self, number: int) -> int:
        """See `Plan.course_place`."""
        return self.shot.picture_index(number).frame


def plan_of_sweep(shot: Shot, inputs: PlanInputs, measure: Callable[[list[Moment]], Subject] | None = None) -> Plan:
    """Work out a swept shot; its subject is measured over all variants, so that all have the same view.

    Parameters
    ----------
    shot : Shot
    inputs : PlanInputs
    measure : callable, optional
        Measures the subject at moments; without it, the inputs have a subject.

    Raises
    ------
    Mistake
        As `make_plan` does, naming the variant.
    """
    shots = shots_in(shot)
    if measure is not None and not inputs.facts.pictures:
        moments = list({repr(one): one for one in (_moment(*pair, inputs) for pair in shots)}.values())
        inputs = replace(inputs, subject=measure(moments))
    plain = make_plan(shot.model_copy(update={"sweep": None}), inputs)
    return SweptPlan(shot, plain.clock, inputs, plain.sampled, shots=tuple(shots))


def _moment(shot: Shot, frame: int, inputs: PlanInputs) -> Moment:
    clock, facts = shot.clock.exact, inputs.facts
    motion = motion_of(shot, facts, clock.phases_at(range(frame, frame + 1), 1))
    moved = clock.selection.frame_of(frame, clock.motion)
    dials = {name: steady(values[0]) for name, values in motion.dials.items()}
    return dials, time_inputs_of(shot, Fraction(moved), moved, facts, int(motion.list_offsets[0]))
