"""Blueprint: names and rules of the core that the interface asks, rather than repeats."""

from typing import get_args

from flask import Blueprint

from vexel.core.document.passes import PASSES, ViewPass
from vexel.core.evaluate.rigs import RIGS
from vexel.core.lanes.easing import CURVES, NAMES
from vexel.core.lanes.targets import TARGETS, Target
from vexel.core.recipes.shipped import RECIPES
from vexel.interchange.cut_formats import CUT_FORMATS
from vexel.sources.registry import KINDS
from vexel.web.file_manager import has_file_manager
from vexel.web.forms import forms
from vexel.web.routes.outputs import recipe_body
from vexel.web.schemas.vocabulary import (
    CutFormatBody,
    EasingBody,
    PassBody,
    RigKindBody,
    SourceKindBody,
    TargetBody,
    Vocabulary,
)
from vexel.web.spec import answers, spec

blueprint = Blueprint("vocabulary", __name__, url_prefix="/api")


@blueprint.get("/vocabulary")
@spec.validate(resp=answers(Vocabulary))
def vocabulary() -> Vocabulary:
    """All kinds, passes, recipes, easings and lane targets."""
    return known()


def known() -> Vocabulary:
    """The core's names and rules for the interface."""
    traits = {name: kind.spec.traits for name, kind in KINDS.items()}
    return Vocabulary(
        sources=[
            SourceKindBody(
                name=name,
                is_a=of.is_a,
                bring=of.bring,
                gives=of.gives,
                dials=of.dials,
                blurs=of.blurs,
                own_text=of.own_text,
                needs_rate=of.needs_rate,
            )
            for name, of in traits.items()
        ],
        rigs=[RigKindBody.model_validate({"kind": rig.kind_name(), "label": rig.traits.label}) for rig in RIGS],
        passes=[PassBody(name=name, label=of.label, in_view=name in get_args(ViewPass)) for name, of in PASSES.items()],
        recipes=[recipe_body(recipe) for recipe in RECIPES.values()],
        easings=[EasingBody(name=name, handles=list(CURVES[name]) if name in CURVES else None) for name in NAMES],
        targets=[_target(target) for target in TARGETS],
        cut_formats=[
            CutFormatBody(ending=one.ending.removeprefix("."), label=one.label, about=one.about)
            for one in CUT_FORMATS.values()
        ],
        file_manager=has_file_manager(),
        forms=forms(),
    )


def _target(target: Target) -> TargetBody:
    low, high = target.bounds or (None, None)
    return TargetBody(drive=target.drive, label=target.label, low=low, high=high)
