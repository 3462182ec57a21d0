"""Easing: how a value goes from one key to the next.

Named curves, ``cubic-bezier()`` and ``steps()`` are those of the W3C CSS Easing
Functions specification, written as there; the rest are described at `Easing`.
"""

import re
from dataclasses import dataclass
from functools import lru_cache
from math import exp, log, sqrt
from typing import Final

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake

Array = NDArray[np.float64]
CURVES: Final[dict[str, tuple[float, float, float, float]]] = {
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": (0.42, 0.0, 0.58, 1.0),
}
NAMES: Final = ("linear", "hold", *CURVES, "smooth", "spring", "step-start", "step-end")
"""Easings that need no numbers."""
CELLS = 16_384
"""Equal stretches at whose ends a curve is evaluated; a straight line between them is off by less than 1e-7."""
BLOCK = 8192
"""Values looked up at once: they stay in the processor's cache, which halves the time."""
BOUNCE = 0.4
SETTLED = 1e-3
"""A spring's swing has died down to this share at the end."""
JUMPS: Final[dict[str, tuple[int, int]]] = {
    "jump-end": (0, 0), "end": (0, 0), "jump-start": (1, 0), "start": (1, 0), "jump-none": (0, -1), "jump-both": (1, 1),
}  # fmt: skip
"""Where steps() jumps: whether at its beginning, and how many jumps more than steps there are."""
STEP_NAMES: Final[dict[str, tuple[float, ...]]] = {"step-start": (1, 1, 0), "step-end": (1, 0, 0)}
NEARLY = 1e-9
"""What rounding may lose of a step; far below a frame of the longest shot, a millionth."""
_CALL = re.compile(r"(cubic-bezier|steps|spring|linear)\(([^()]*)\)")


@dataclass(frozen=True)
class Easing:
    """An easing, read from its text.

    Attributes
    ----------
    kind : str
        ``linear``; ``hold``, which keeps the value until the next key; ``bezier``;
        ``steps``; ``points``, straight from point to point; ``smooth``, which goes
        through the keys in one curve without overshoot; ``spring``, which swings about the next key's value.
    numbers : tuple of float
        Control points of a bezier; count of steps, whether the first jump is at the
        beginning, and how many jumps more there are; inputs and outputs of points
        in turn; or bounce of a spring.
    """

    kind: str
    numbers: tuple[float, ...] = ()

    @classmethod
    @lru_cache(1024)
    def parse(cls, text: str) -> "Easing":
        """Read an easing.

        Raises
        ------
        Mistake
            When it is none.
        """
        name = text.strip().lower()
        if name in CURVES:
            return cls("bezier", CURVES[name])
        if name in STEP_NAMES:
            return cls("steps", STEP_NAMES[name])
        if name in NAMES:
            return cls(name, (BOUNCE,) if name == "spring" else ())
        call = _CALL.fullmatch(name)
        if call is None:
            raise Mistake(
                f"easing {text!r} is not known: write {', '.join(NAMES)}, cubic-bezier(0.4, 0, 0.2, 1), "
                "steps(4, jump-end) or linear(0, 0.25 75%, 1)"
            )
        arguments = [part.strip() for part in call[2].split(",")]
        if call[1] == "linear":
            return cls("points", _points(text, arguments))
        jumps = (0, 0)
        if call[1] == "steps" and len(arguments) == 2:
            if arguments[1] not in JUMPS:
                raise Mistake(f"easing {text!r} jumps at {arguments[1]!r}: write one of {', '.join(JUMPS)}")
            jumps = JUMPS[arguments.pop()]
        try:
            numbers = tuple(float(number) for number in arguments)
        except ValueError:
            raise Mistake(f"easing {text!r} contains something that is not a number") from None
        kind, numbers = _checked(text, call[1], numbers)
        return cls(kind, _steps(text, numbers[0], jumps) if kind == "steps" else numbers)

    def __call__(self, progress: Array) -> Array:
        """Output progress for input progress of 0 to 1, shape (N,), as a new array or in place of the input.

        0 and 1 map to themselves, but of steps that jump there, and of points that begin or end elsewhere.
        """
        if self.kind == "hold":
            return np.where(progress < 1 - NEARLY, 0.0, 1.0)
        if self.kind == "steps":
            count, begins, more = self.numbers
            step = np.floor(progress * count + NEARLY) + begins
            return np.clip(step, 0, count + more) / (count + more)
        if self.kind == "points":
            return _along(self.numbers[::2], self.numbers[1::2], progress)
        if self.kind in ("linear", "smooth"):
            return progress
        values, rises = _table(self)
        eased = np.empty_like(progress)
        for begin in range(0, len(progress), BLOCK):
            place = progress[begin : begin + BLOCK] * CELLS
            cell = place.astype(np.intp)
            place -= cell
            place *= np.take(rises, cell, mode="clip")
            place += np.take(values, cell, mode="clip")
            eased[begin : begin + BLOCK] = place
        return eased


def _checked(text: str, name: str, numbers: tuple[float, ...]) -> tuple[str, tuple[float, ...]]:
    if name == "cubic-bezier":
        if len(numbers) != 4 or not (0 <= numbers[0] <= 1 and 0 <= numbers[2] <= 1 and np.isfinite(numbers).all()):
            raise Mistake(f"easing {text!r} needs four numbers, the first and third of them 0 to 1")
        return "bezier", numbers
    if name == "steps":
        if len(numbers) != 1 or not 1 <= numbers[0] <= 1e6 or numbers[0] != int(numbers[0]):
            raise Mistake(f"easing {text!r} needs one whole number of steps, 1 or more")
        return "steps", numbers
    if len(numbers) != 1 or not 0 <= numbers[0] <= 0.95:
        raise Mistake(f"easing {text!r} needs its bounce, 0 to 0.95")
    return "spring", numbers


def _steps(text: str, count: float, jumps: tuple[int, int]) -> tuple[float, ...]:
    if count + jumps[1] < 1:
        raise Mistake(f"easing {text!r} has no jump: with jump-none there are at least 2 steps")
    return count, *jumps


def _points(text: str, arguments: list[str]) -> tuple[float, ...]:
    """Inputs and outputs of ``linear()``, as CSS Easing Functions 2 fills them in."""
    stops: list[tuple[float | None, float]] = []
    for argument in arguments:
        words = argument.split()
        outputs = [word for word in words if not word.endswith("%")]
        inputs = [word[:-1] for word in words if word.endswith("%")]
        try:
            if len(outputs) != 1 or len(inputs) > 2:
                raise ValueError
            output = float(outputs[0])
            stops += [(float(percent) / 100, output) for percent in inputs] or [(None, output)]
        except ValueError:
            raise Mistake(f"easing {text!r} holds {argument!r}: write values with places, such as 0.25 75%") from None
    if len(stops) < 2 or not all(np.isfinite(value) for stop in stops for value in stop if value is not None):
        raise Mistake(f"easing {text!r} needs at least two values, such as linear(0, 0.25 75%, 1)")
    places: list[float | None] = [place for place, _ in stops]
    places[0] = 0.0 if places[0] is None else places[0]
    places[-1] = 1.0 if places[-1] is None else places[-1]
    largest = -np.inf
    for n, place in enumerate(places):
        if place is not None:
            places[n] = largest = max(place, largest)
    known = [n for n, place in enumerate(places) if place is not None]
    filled = np.interp(np.arange(len(places)), known, [place for place in places if place is not None])
    return tuple(float(value) for pair in zip(filled, (output for _, output in stops), strict=True) for value in pair)


def _along(inputs: tuple[float, ...], outputs: tuple[float, ...], progress: Array) -> Array:
    """Straight from point to point, and on beyond the outer ones; at a jump the later one, before it the earlier one.

    See CSS Easing Functions 2, section 2.2.2 on the output of a linear easing function.
    """
    x, y = np.array(inputs), np.array(outputs)
    a = np.clip(np.searchsorted(x, progress + NEARLY, side="right") - 1, 0, len(x) - 2)
    width = x[a + 1] - x[a]
    share = np.divide(progress - x[a], width, out=(progress + NEARLY >= x[a]).astype(np.float64), where=width > 0)
    along: Array = y[a] + share * (y[a + 1] - y[a])
    return along


@lru_cache(maxsize=64)
def _table(easing: Easing) -> tuple[Array, Array]:
    """Output at equal steps of the input, and how far it rises to the next."""
    inputs = np.linspace(0.0, 1.0, CELLS + 1)
    if easing.kind == "spring":
        values = spring(inputs, easing.numbers[0])
    else:
        x1, y1, x2, y2 = easing.numbers
        values = cubic_bezier(x1, y1, x2, y2, inputs)
    return values, np.append(np.diff(values), 0.0)


def cubic_bezier(x1: float, y1: float, x2: float, y2: float, progress: Array) -> Array:
    """Output of ``cubic-bezier(x1, y1, x2, y2)`` for an array of inputs.

    The curve's parameter is looked up between points of the curve, in whose x
    it rises, and made exact by three steps of Newton's method between them.
    """
    grid = np.linspace(0.0, 1.0, CELLS + 1)
    x = _bernstein(x1, x2, grid)
    cell = np.clip(np.searchsorted(x, progress, side="right") - 1, 0, CELLS - 1)
    low, high = grid[cell], grid[cell + 1]
    s = np.interp(progress, x, grid)
    for _ in range(3):
        slope = 3 * ((1 - s) ** 2 * x1 + 2 * s * (1 - s) * (x2 - x1) + s * s * (1 - x2))
        s = np.clip(s - (_bernstein(x1, x2, s) - progress) / np.maximum(slope, 1e-9), low, high)
    out = _bernstein(y1, y2, s)
    return np.where(progress <= 0, 0.0, np.where(progress >= 1, 1.0, out))


def _bernstein(a: float, b: float, s: Array) -> Array:
    """One coordinate of the cubic Bézier curve from 0 to 1 with controls a and b."""
    r = 1 - s
    result: Array = 3 * r * r * s * a + 3 * r * s * s * b + s * s * s
    return result


def spring(progress: Array, bounce: float) -> Array:
    """Step response of a damped oscillator, settled at the end.

    Parameters
    ----------
    progress : ndarray, shape (N,)
    bounce : float
        One less the damping ratio; at 0 it does not overshoot.

    Notes
    -----
    With damping ratio ζ and natural frequency ω (any text on control):
    1 − e^(−ζωt) (cos ω_d t + ζ/√(1−ζ²) sin ω_d t), ω_d = ω √(1−ζ²); critically
    damped, 1 − e^(−ωt) (1 + ωt). What is left at the end is spread over the way.
    """
    damping = 1 - bounce
    if damping == 1:
        speed = 9.233  # (1 + x) e^-x falls to SETTLED here
        value = 1 - np.exp(-speed * progress) * (1 + speed * progress)
        return value + progress * (1 + speed) * exp(-speed)
    root = sqrt(1 - damping * damping)
    decay = -log(SETTLED * root)
    turn = decay / damping * root
    swing = np.cos(turn * progress) + damping / root * np.sin(turn * progress)
    value = 1 - np.exp(-decay * progress) * swing
    left = 1 - float(1 - exp(-decay) * (np.cos(turn) + damping / root * np.sin(turn)))
    result: Array = value + progress * left
    return result
