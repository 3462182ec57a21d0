"""What the sheets of the interface show: rows of fields, whose bounds, units and titles come from the documents."""

from functools import cache

from vexel.web.forms.form import Forms
from vexel.web.forms.recipe_forms import recipe_forms
from vexel.web.forms.reel_forms import reel_forms
from vexel.web.forms.shot_forms import shot_forms


@cache
def forms() -> Forms:
    """All forms, by the names that the interface asks for."""
    return {**shot_forms(), **reel_forms(), **recipe_forms()}
