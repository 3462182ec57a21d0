"""The decorators that user code puts on its functions."""

import inspect
from collections.abc import Callable, Mapping
from dataclasses import fields, replace
from fractions import Fraction
from functools import update_wrapper
from typing import Any, ClassVar

from vexel.core.lanes.dial import Dial
from vexel.core.time.clock import Instant
from vexel.core.wording import nearest_name

OF_DATA = ("slice", "number", "slices")
"""What a series gives to the function that shows it: a slice, its number, and how many there are."""
SEEN = tuple(field.name for field in fields(Instant))


def _named(name: str, dial: Dial) -> Dial:
    return replace(dial, name=name)


class Decorated:
    """A marked function with its dials.

    Attributes
    ----------
    build : callable
        The function itself.
    dials : list of Dial
        In the order of its parameters.
    takes : list of str
        Its other parameters, that Vexel fills in by their names.
    """

    mark: ClassVar[str] = "sketch"
    marks: ClassVar[str] = "function"
    offers: ClassVar[tuple[str, ...]] = ("instant", *SEEN, *OF_DATA)

    def __init__(self, build: Callable[..., Any]) -> None:
        update_wrapper(self, build)
        self.build = build
        self.dials: list[Dial] = []
        self.takes: list[str] = []
        for name, parameter in inspect.signature(build).parameters.items():
            if isinstance(parameter.default, Dial):
                self.dials.append(_named(name, parameter.default))
            elif name in self.offers:
                self.takes.append(name)
            elif parameter.default is inspect.Parameter.empty:
                raise TypeError(
                    f"{build.__name__}({name}): give {name} a dial as its default, such as {name}=dial(1, low=0, "
                    f"high=2), or take one of {', '.join(self.offers)}; {nearest_name(name, self.offers)}"
                )

    @property
    def line(self) -> int:
        """Where the function begins in its file."""
        return self.build.__code__.co_firstlineno

    @property
    def time_inputs(self) -> tuple[str, ...]:
        """Attributes of the instant that the function takes."""
        return SEEN if "instant" in self.takes else tuple(name for name in SEEN if name in self.takes)

    def given(self, dials: Mapping[str, float], seen: Mapping[str, int | Fraction], **more: Any) -> dict[str, Any]:
        """Arguments by name: dials, and the parameters that the function takes from the instant and from `more`."""
        arguments: dict[str, Any] = dict(dials)
        for name in self.takes:
            if name == "instant":
                arguments[name] = Instant(**seen)  # type: ignore[arg-type]
            elif name in SEEN:
                value = seen[name]
                arguments[name] = value if isinstance(value, int) else float(value)
            elif name in OF_DATA and name not in more:
                raise ValueError(
                    f"takes {name}, which only a series gives: name the data as the source, "
                    "and this file in source.draw"
                )
            else:
                arguments[name] = more[name]
        return arguments

    def __call__(self, *given: Any, **named: Any) -> Any:
        """Call the function, with the dials' defaults for arguments that are not given."""
        bound = inspect.signature(self.build).bind_partial(*given, **named)
        for d in self.dials:
            bound.arguments.setdefault(d.name, d.default)
        return self.build(**bound.arguments)


class Model(Decorated):
    """A function that builds geometry."""

    mark = "model"


class PathFormula(Decorated):
    """A function that returns where the camera is."""

    mark = "camera_path"


class Sketch(Decorated):
    """A function that draws."""

    mark = "sketch"
    offers = ("canvas", "size", "random", *Decorated.offers)


class Simulation:
    """A class that starts, advances and shows a state.

    Attributes
    ----------
    build : type
        The class itself.
    step : Fraction
        Inner step in simulated seconds.
    settings : list of Dial
        Its class attributes: they decide the whole simulation, so they are constant over a shot.
    dials : list of Dial
        Its settings, and the dials that ``show`` takes, which lanes may drive.
    """

    mark: ClassVar[str] = "simulation"
    marks: ClassVar[str] = "class"

    def __init__(self, build: type, step: Fraction) -> None:
        for name in ("start", "advance", "show"):
            if not callable(getattr(build, name, None)):
                raise TypeError(f"{build.__name__} has no {name}(): a simulation has start, advance and show")
        self.build, self.step = build, step
        self.settings = [_named(name, value) for name, value in vars(build).items() if isinstance(value, Dial)]
        self.shown = ShowMethod(build.show)  # type: ignore[attr-defined]
        self.dials = [*self.settings, *self.shown.dials]

    @property
    def line(self) -> int:
        """Where ``show`` begins in its file."""
        return self.shown.line

    def begun(self, dials: Mapping[str, float], random: Any) -> tuple[Any, Any]:
        """An object with its settings, and its first state."""
        thing = self.build()
        for setting in self.settings:
            setattr(thing, setting.name, dials.get(setting.name, setting.default))
        takes = inspect.signature(self.build.start).parameters  # type: ignore[attr-defined]
        return thing, thing.start(**({"random": random} if "random" in takes else {}))


class ShowMethod(Decorated):
    """The function that shows a simulation's state."""

    mark = "show"
    offers = ("self", "state", "time", "step", "canvas", "size", "random")
