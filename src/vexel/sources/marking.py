"""The mark that a model file puts on its building function."""

import inspect
from collections.abc import Callable
from functools import update_wrapper
from typing import Any

from vexel.core.dial import Dial


class Model:
    """A marked building function with its dials.

    Attributes
    ----------
    build : callable
        The function itself.
    dials : list of Dial
        In the order of its parameters.
    takes_instant : bool
        Whether it has a parameter named ``instant``.
    """

    def __init__(self, build: Callable[..., Any]) -> None:
        update_wrapper(self, build)
        self.build = build
        self.dials: list[Dial] = []
        self.takes_instant = False
        for name, parameter in inspect.signature(build).parameters.items():
            if name == "instant":
                self.takes_instant = True
            elif isinstance(parameter.default, Dial):
                d = parameter.default
                self.dials.append(Dial(name, d.default, d.low, d.high, d.unit, d.about))
            elif parameter.default is inspect.Parameter.empty:
                raise TypeError(
                    f"{build.__name__}({name}): give {name} a dial as its default, "
                    f"such as {name}=dial(1, low=0, high=2)"
                )

    def __call__(self, **given: Any) -> Any:
        """Build, with the dials' defaults for whatever is not given."""
        return self.build(**({d.name: d.default for d in self.dials} | given))
