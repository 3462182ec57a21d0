"""Proposes how a plain class that steps a state becomes a simulation."""

import ast
import builtins
from dataclasses import dataclass
from fractions import Fraction

from vexel.sources.scripts.lines import CannotWrapError
from vexel.sources.scripts.reading import Script, assigned, call_of, called, is_setting, used

STEPS = ("step", "advance", "update")
"""Methods that move a state on by one step."""
OF_STEP = {"dt", "h", "delta", "delta_t", "timestep", "time_step"}
"""Parameters that mean the length of a step."""
PICTURES = ("image", "picture", "frame", "render", "to_image", "as_image", "draw", "show")
"""Methods that give a picture, or draw on axes or a canvas."""
SHOWN_AS_GRID = {
    "imshow",
    "pcolormesh",
    "matshow",
    "contourf",
    "set_data",
    "set_array",
    "fromarray",
    "imsave",
    "imwrite",
}
SHOWN_AS_POINTS = {"scatter", "set_offsets"}
POINTS = {"pos", "position", "positions", "points", "xy", "xyz", "particles", "coords"}
USUAL_RATE = 24


@dataclass(frozen=True)
class Stepping:
    """A class whose method steps it, and the name that the script gives to its object; empty where there is none."""

    build: ast.ClassDef
    method: ast.FunctionDef
    made: ast.Call | None
    name: str


def stepping_in(script: Script) -> Stepping | None:
    """The class that a script steps, or that it only defines; None where it has none."""
    classes = {node.name: node for node in script.tree.body if isinstance(node, ast.ClassDef)}
    found = {name: method for name, node in classes.items() if (method := _step_of(node)) is not None}
    made = [
        (next(iter(assigned(statement)), ""), call) for statement in ast.walk(script.tree)
        if isinstance(statement, ast.Assign) and (call := call_of(statement)) is not None and called(call) in found
    ]  # fmt: skip
    if made:
        name, call = made[-1]
        return Stepping(classes[called(call)], found[called(call)], call, name)
    if not found:
        return None
    last = list(found)[-1]
    return Stepping(classes[last], found[last], None, "")


def simulation_lines(script: Script, found: Stepping, rate: str) -> tuple[list[str], list[str]]:
    """The lines of a simulation around the class, and what to look at.

    Parameters
    ----------
    rate : str
        Frames a second of the script's own animation; empty where it has none.

    Raises
    ------
    CannotWrapError
        When it cannot be made by rule.
    """
    name = found.build.name
    if any("__slots__" in assigned(statement) for statement in found.build.body):
        raise CannotWrapError(f"{name} has __slots__, so that its state cannot be copied: remove them")
    step, passed = _length_of_step(script, found, rate)
    begun = _begun(found)
    show, notes = _shown(script, found)
    notes.insert(0, f"one step of {name}.{found.method.name}() is {step} s of simulated time")
    if any(isinstance(node, ast.Attribute) and node.attr == "random" for node in ast.walk(script.tree)):
        notes.append("random numbers must come from a fixed seed, or each capture differs")
    lines = [
        "def _of_state(state):",
        f'    """The {name} whose attributes are the state."""',
        f"    thing = {name}.__new__({name})",
        "    thing.__dict__ = state",
        "    return thing",
        "",
        "",
        f'@simulation(step="{step}")',
        f"class {name}Steps:",
        "    def start(self, random):",
        f"        return vars({begun})",
        "",
        "    def advance(self, state):",
        f"        _of_state(state).{found.method.name}({passed})",
        "",
        *(f"    {line}" if line else "" for line in show),
    ]
    return lines, notes


def _step_of(node: ast.ClassDef) -> ast.FunctionDef | None:
    methods = {one.name: one for one in node.body if isinstance(one, ast.FunctionDef)}
    return next((methods[name] for name in STEPS if name in methods), None)


def _needed(function: ast.FunctionDef) -> list[str]:
    """Parameters without a default, other than the object itself."""
    arguments = [*function.args.posonlyargs, *function.args.args][1:]
    return [one.arg for one in arguments[: len(arguments) - len(function.args.defaults)]]


def _begun(found: Stepping) -> str:
    """The expression that makes the object, as the script does."""
    if found.made is not None:
        return ast.unparse(found.made)
    begin = next((one for one in found.build.body if isinstance(one, ast.FunctionDef) and one.name == "__init__"), None)
    if begin is not None and _needed(begin):
        raise CannotWrapError(
            f"{found.build.name}() needs {', '.join(_needed(begin))}: give each a default, such as "
            f"{_needed(begin)[0]}=1"
        )
    return f"{found.build.name}()"


def _length_of_step(script: Script, found: Stepping, rate: str) -> tuple[str, str]:
    """Simulated seconds of a step as exact text, and what the method is given."""
    needed, arguments = _needed(found.method), found.method.args.args[1:]
    usual = str(1 / Fraction(rate)) if rate else f"1/{USUAL_RATE}"
    if len(needed) > 1 or (needed and needed[0] not in OF_STEP):
        raise CannotWrapError(
            f"{found.build.name}.{found.method.name}() needs {', '.join(needed)}: give each a default, or let it take "
            "dt alone"
        )
    calls = [
        node for node in ast.walk(script.tree)
        if isinstance(node, ast.Call) and called(node) == found.method.name and isinstance(node.func, ast.Attribute)
    ]  # fmt: skip
    stated = [script.number(node.args[0]) for node in calls if node.args]
    own = dict(zip([one.arg for one in arguments][len(needed) :], found.method.args.defaults, strict=False))
    default = next((script.number(value) for name, value in own.items() if name in OF_STEP), None)
    known = next((value for value in (*stated, default) if value is not None and value > 0), None)
    if not needed and default is None:
        return usual, ""
    exact = known or Fraction(usual)
    return str(exact), _decimal(exact) if needed else ""


def _decimal(value: Fraction) -> str:
    return repr(float(value)) if Fraction(repr(float(value))) == value else f"{value.numerator} / {value.denominator}"


def _shown(script: Script, found: Stepping) -> tuple[list[str], list[str]]:
    """Lines of the method that shows a state, and what to look at in it."""
    methods = {one.name: one for one in found.build.body if isinstance(one, ast.FunctionDef)}
    for name in PICTURES:
        if name not in methods:
            continue
        needed = _needed(methods[name])
        if not needed and _gives_back(methods[name]):
            return ["def show(self, state):", f"    return _of_state(state).{name}()"], [f"{name}() gives the picture"]
        if needed == ["canvas"]:
            return ["def show(self, state, canvas):", f"    _of_state(state).{name}(canvas)"], []
        if needed in (["ax"], ["axes"]):
            return [
                "def show(self, state):",
                "    from matplotlib.figure import Figure",
                "",
                "    figure = Figure()",
                f"    _of_state(state).{name}(figure.add_subplot())",
                "    return figure",
            ], [f"{name}() draws on axes of a new figure"]
    attribute, as_points = _attribute_shown(script, found)
    if as_points:
        return [
            "def show(self, state):",
            "    from matplotlib.figure import Figure",
            "",
            "    figure = Figure()",
            "    axes = figure.add_subplot()",
            f"    axes.scatter(*_of_state(state).{attribute}.T[:2], s=4)",
            '    axes.set_aspect("equal")',
            "    return figure",
        ], [f"{attribute} is drawn as points: set the limits of the axes, or they follow the points"]
    return [
        "def show(self, state):",
        "    import numpy",
        "",
        f"    values = numpy.asarray(_of_state(state).{attribute})",
        "    if values.ndim == 3 or values.dtype in (bool, numpy.uint8):",
        "        return values",
        "    low, high = float(values.min()), float(values.max())",
        "    return (values - low) / ((high - low) or 1.0)",
    ], [f"{attribute} is shown from black to white between its own least and greatest value in each frame: set them"]


def _gives_back(function: ast.FunctionDef) -> bool:
    return any(isinstance(node, ast.Return) and node.value is not None for node in ast.walk(function))


def _attribute_shown(script: Script, found: Stepping) -> tuple[str, bool]:
    """The attribute that holds what is seen, and whether it is points."""
    for node in ast.walk(script.tree):
        if not isinstance(node, ast.Call) or called(node) not in SHOWN_AS_GRID | SHOWN_AS_POINTS:
            continue
        for inner in (one for argument in node.args for one in ast.walk(argument)):
            match inner:
                case ast.Attribute(value=ast.Name(id=owner), attr=name) if owner in {found.name, "self"} - {""}:
                    return name, called(node) in SHOWN_AS_POINTS
    arrays = [
        target.attr for node in ast.walk(found.build) if isinstance(node, ast.Assign)
        for target in node.targets
        if isinstance(target, ast.Attribute) and isinstance(target.value, ast.Name) and target.value.id == "self"
        and any(isinstance(one, ast.Call) for one in ast.walk(node.value))
    ]  # fmt: skip
    if not arrays:
        raise CannotWrapError(
            f"it is not clear which attribute of {found.build.name} is the picture: give it a method "
            "image() that returns the picture"
        )
    return arrays[0], arrays[0] in POINTS


def kept_statements(script: Script, found: Stepping) -> list[ast.stmt]:
    """Top statements that the simulation needs: imports, functions, classes, and what these and its begin look up.

    Raises
    ------
    CannotWrapError
        When the object is made of something that is set where the file runs as a script.
    """
    # A function that looks up the object drives or draws it: that is what Vexel does.
    driving = {found.name} - {""}
    kept = [one for one in script.tree.body if is_setting(one) and not used(one) & driving]
    wanted = set().union(*(used(one) for one in kept), used(found.made) if found.made is not None else set())
    settings = [one for one in script.tree.body if isinstance(one, ast.Assign | ast.AnnAssign) and one not in kept]
    # From the last to the first: what a setting looks up is set before it.
    for one in reversed(settings):
        if assigned(one) & wanted and not (found.name and found.name in assigned(one)):
            kept.append(one)
            wanted |= used(one)
    known = assigned(*kept) | script.modules.keys() | set(dir(builtins))
    if found.made is not None and (missing := used(found.made) - known):
        name = min(missing)
        raise CannotWrapError(
            f"{found.build.name}() is made of {name}, which is set where the script runs: set {name} above"
        )
    return kept
