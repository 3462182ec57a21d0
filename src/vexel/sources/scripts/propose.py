"""Proposes how a plain Python script becomes a source: which lines move into a marked function, and which go.

A script draws once and saves, or draws in a loop, or hands a function to an
animation. Its imports and set-up stay; its drawing code moves into
a function under ``@sketch`` or ``@model``, which Vexel calls for every frame.
Nothing is run, and nothing is changed before the user has seen it.
"""

import ast
from dataclasses import dataclass

from vexel.sources.code.syntax import parsed
from vexel.sources.scripts import reading
from vexel.sources.scripts.lines import AS_IS, CannotWrapError, Lines
from vexel.sources.scripts.reading import Script, assigned, call_of, called, gives_away, is_setting, statements_in, used
from vexel.sources.scripts.results import result_of
from vexel.sources.scripts.stepping import Stepping, kept_statements, simulation_lines, stepping_in

DIALS = 6
"""Greatest number of a script's numbers that become dials."""
TIMES = {"t": "phase", "time": "seconds", "seconds": "seconds"} | dict.fromkeys(
    ("i", "n", "k", "frame", "index", "step", "frame_number", "num"), "frame"
)
"""What a parameter of this name is given."""


@dataclass(frozen=True)
class Proposal:
    """A script as a source.

    Attributes
    ----------
    mark : str
        ``sketch``, ``model`` or ``simulation``.
    text : str
        The whole file.
    notes : tuple of str
        What to look at, a sentence each.
    frames : int or None
        How many the script itself would make.
    rate : str
        Frames a second, where the script states it; else empty.
    """

    mark: str
    text: str
    notes: tuple[str, ...]
    frames: int | None = None
    rate: str = ""


@dataclass(frozen=True)
class NoProposal:
    """Why no change can be proposed, and what the user can do."""

    why: str


def mark_of(tree: ast.Module | None) -> str:
    """Which kind of source an unmarked file most likely is, by what it imports."""
    script = reading.read_script(tree) if tree else None
    if script is not None and _steps(script) is not None:
        return "simulation"
    library = script.library if script else ""
    return "sketch" if library and library != "pyvista" else "model"


def propose(text: str) -> Proposal | NoProposal:
    """Propose a change of an unmarked file."""
    try:
        script = reading.read_script(parsed(text.encode()))
    except (SyntaxError, ValueError, RecursionError) as error:
        return NoProposal(f"the code cannot be read yet: {error}")
    if not script.library and _steps(script) is None:
        known = ", ".join(reading.LIBRARIES)
        return NoProposal(
            f"it imports none of {known}: put @sketch or @model before the function that draws a frame, or @simulation "
            "before a class that steps a state"
        )
    try:
        made = _wrapped(script, text)
        parsed(made.text.encode())
    except CannotWrapError as error:
        return NoProposal(str(error))
    except SyntaxError:
        return NoProposal("its lines cannot be moved by rule: put @sketch before a function that returns the picture")
    return made


def _wrapped(script: Script, text: str) -> Proposal:
    acting = [statement for statement in script.body if not is_setting(statement)]
    if (stepping := _steps(script)) is not None:
        return _of_stepping(script, text, stepping)
    animation = next((found for found in (_animation(s, script) for s in acting) if found), None)
    if animation:
        return _of_animation(script, text, *animation)
    if not any(_draws(statement, script) for statement in acting):
        called_once = _only_call(script, acting)
        if called_once is None:
            return _of_function(script, text)
        return _of_body(script, text, called_once.body, called_once)
    return _of_body(script, text, script.body, None)


def _steps(script: Script) -> Stepping | None:
    """The class that a script steps, unless it draws without it."""
    found = stepping_in(script)
    if found is None:
        return None
    stepped = any(
        isinstance(node, ast.Call) and called(node) == found.method.name and isinstance(node.func, ast.Attribute)
        for statement in script.tree.body if statement is not found.build for node in ast.walk(statement)
    )  # fmt: skip
    acting = [statement for statement in script.body if not is_setting(statement)]
    return found if stepped or not any(_draws(statement, script) for statement in acting) else None


def _of_stepping(script: Script, text: str, found: Stepping) -> Proposal:
    """A class that steps its own state."""
    lines = Lines(text)
    kept = kept_statements(script, found)
    for statement in script.tree.body:
        if statement not in kept:
            lines.drop(statement)
    animation = next((made for made in (_animation(s, script) for s in script.body) if made), None)
    more = {keyword.arg: keyword.value for keyword in animation[1].keywords} if animation else {}
    interval = script.number(more["interval"]) if "interval" in more else None
    rate = str(1000 / interval) if interval and interval > 0 else ""
    loops = (s for s in script.body if isinstance(s, ast.For) and isinstance(s.iter, ast.Call) and s.iter.args)
    counted = more.get("frames") or next((s.iter.args[0] for s in loops if len(s.iter.args) == 1), None)  # type: ignore
    made, notes = simulation_lines(script, found, rate)
    if lines.dropped:
        notes.append(f"{', '.join(sorted(lines.dropped))} left out: Vexel steps the state and writes the frames")
    frames = script.whole_number(counted) if counted is not None else None
    return Proposal("simulation", _assembled(lines.all(script), ["simulation"], made), tuple(notes), frames, rate)


def _draws(statement: ast.stmt, script: Script) -> bool:
    """Whether a statement makes a figure, an image, a surface or a mesh, or hands one away."""
    if any(gives_away(inner, script) for inner, _ in statements_in([statement])):
        return True
    for node in ast.walk(statement):
        if isinstance(node, ast.Call):
            module = script.module_of(node.func)
            if module.startswith((*reading.PYPLOT, "matplotlib.figure", "PIL.Image", "PIL.ImageDraw", "skia.Surface")):
                return True
            if module.startswith("pyvista."):
                return True
    return False


def _only_call(script: Script, acting: list[ast.stmt]) -> ast.FunctionDef | None:
    """The function that the script calls and does all with, such as ``main()``."""
    calls = [call for call in map(call_of, acting) if call is not None]
    functions = script.functions()
    found = [functions[called(call)] for call in calls if called(call) in functions and not call.args]
    return found[-1] if found and not found[-1].args.args else None


def _of_body(script: Script, text: str, body: list[ast.stmt], within: ast.FunctionDef | None) -> Proposal:
    lines = Lines(text)
    notes: list[str] = []
    loop = next((s for s in body if isinstance(s, ast.For) and _makes_frames(s, script)), None)
    start = _start(script, body, loop, within)
    guarded = [s for g in script.tree.body if reading.is_main_guard(g) for s in getattr(g, "body", [])]
    before, moved = [s for s in body[:start] if s not in guarded], body[start:]
    set_up = [s for s in body[:start] if s in guarded]
    frames: int | None = None
    opening: list[str] = []
    parameters = ""
    if loop is not None:
        if name := reading.carried(loop.body, assigned(*before, *set_up, *moved[: moved.index(loop)])):
            raise CannotWrapError(
                f"its loop changes {name} from frame to frame, so that a frame cannot be made alone: work {name} out "
                "from the frame's number, or make it a @simulation"
            )
        frames, opening = _of_loop(script, loop, text)
        parameters = "frame"
        after = [s for s in moved[moved.index(loop) + 1 :] if not gives_away(s, script)]
        if after:
            notes.append(f"what came after the loop, from line {after[0].lineno} on, is left out")
        moved = [*set_up, *moved[: moved.index(loop)], *loop.body]
    else:
        parameters, opening, dials = _parameters(script, moved, lines)
        moved = [*set_up, *moved]
        if not parameters and script.library != "pyvista":
            notes.append("nothing in it changes with the time yet: let the function take phase, which goes from 0 to 1")
        elif dials:
            notes.append(f"its numbers {', '.join(dials)} are dials now, which lanes can drive")
    mark, result = result_of(script, moved, lines)
    pyplot = script.alias(*reading.PYPLOT)
    if pyplot and mark == "sketch":
        opening = [f'{pyplot}.close("all")', *opening]
    if lines.dropped:
        notes.append(f"{', '.join(sorted(lines.dropped))} left out: Vexel takes the picture and writes the frames")
    name = "shape" if mark == "model" else "picture"
    inner = [*opening, *lines.moved(moved), *result]
    function = [f"@{mark}", f"def {name}({parameters}):", *map(_indented, inner)]
    kept = lines.kept(script, body, start, within)
    needs = sorted(
        {mark, *(["dial"] if "dial(" in parameters else []), *(["part"] if "part(" in "".join(inner) else [])}
    )
    return Proposal(mark, _assembled(kept, needs, function), tuple(notes), frames)


def _indented(line: str) -> str:
    if line.startswith(AS_IS):
        return line.removeprefix(AS_IS)
    return f"    {line}" if line else ""


def _start(script: Script, body: list[ast.stmt], loop: ast.For | None, within: ast.FunctionDef | None) -> int:
    """From which statement on all moves: what draws, or is set for the time; before it, what is set up once."""
    if within is not None:
        return 0
    if loop is not None:
        return body.index(loop)
    numbers = _numbers(script, body)
    first = next(
        n for n, s in enumerate(body) if not is_setting(s) and (_draws(s, script) or assigned(s) & numbers.keys())
    )
    # A function that looks up a name which moves has to move as well.
    while True:
        names = assigned(*(s for s in body[first:] if not isinstance(s, ast.Import | ast.ImportFrom)))
        earlier = [
            n for n, s in enumerate(body[:first]) if isinstance(s, ast.FunctionDef | ast.ClassDef) and used(s) & names
        ]
        if not earlier:
            return first
        first = earlier[0]


def _makes_frames(loop: ast.For, script: Script) -> bool:
    counts = isinstance(loop.iter, ast.Call) and called(loop.iter) == "range" and isinstance(loop.target, ast.Name)
    inner = [statement for statement, _ in statements_in(loop.body)]
    return counts and any(gives_away(statement, script) or reading.gathered(statement, script) for statement in inner)


def _of_loop(script: Script, loop: ast.For, text: str) -> tuple[int | None, list[str]]:
    """How many frames a loop makes, and how its variable follows from the frame."""
    assert isinstance(loop.iter, ast.Call) and isinstance(loop.target, ast.Name)
    ends = [script.whole_number(argument) for argument in loop.iter.args]
    first, step = (ends[0] if len(ends) > 1 else 0), (ends[2] if len(ends) > 2 else 1)
    last = ends[1] if len(ends) > 1 else ends[0]
    if first is None or step is None:
        raise CannotWrapError(
            "its loop does not say in numbers where it begins: write range(120), or work it out from frame"
        )
    count = None if last is None else len(range(first, last, step))
    times = f" * {step}" if step != 1 else ""
    plus = f" + {first}" if first else ""
    variable = loop.target.id
    return count, [] if variable == "frame" and not times and not plus else [f"{variable} = frame{times}{plus}"]


def _numbers(script: Script, body: list[ast.stmt]) -> dict[str, float]:
    """Names that are set to one number with a point, or mean the time; each is set once."""
    found: dict[str, float] = {}
    for statement in body:
        if not isinstance(statement, ast.Assign) or not isinstance(statement.value, ast.Constant):
            continue
        value, names = statement.value.value, assigned(statement)
        plain = type(value) is float or (type(value) is int and names & reading.OF_TIME)
        if plain and len(names) == 1 and sum(bool(names & assigned(other)) for other in body) == 1:
            found[names.pop()] = float(value)  # type: ignore[arg-type]
    return found


def _parameters(script: Script, moved: list[ast.stmt], lines: Lines) -> tuple[str, list[str], list[str]]:
    """Parameters of the function, lines that it begins with, and names of its dials."""
    numbers = _numbers(script, moved)
    timely = [name for name in numbers if name in reading.OF_TIME]
    dials = [name for name in numbers if name not in timely][:DIALS]
    for statement in moved:
        if assigned(statement) & {*timely, *dials}:
            lines.drop(statement)
    parameters = ["phase"] if timely else []
    for name in dials:
        low, high = sorted((0.0, 2 * numbers[name])) if numbers[name] else (-1.0, 1.0)
        parameters.append(f"{name}=dial({numbers[name]:g}, low={low:g}, high={high:g})")
    return ", ".join(parameters), [f"{name} = phase" for name in timely if name != "phase"], dials


def _of_function(script: Script, text: str) -> Proposal:
    """A file of functions: the last one that gives something back is called for every frame."""
    giving = [f for f in script.functions().values() if _gives_back(f) and not f.name.startswith("_")]
    if not giving:
        raise CannotWrapError(
            "no function of it returns a picture or a mesh: let one return it, and put @sketch before it"
        )
    function = giving[-1]
    mark = mark_of(script.tree)
    needed = function.args.args[: len(function.args.args) - len(function.args.defaults)]
    given = {argument.arg: TIMES.get(argument.arg, "phase") for argument in needed}
    lines = text.splitlines()
    if all(argument == time for argument, time in given.items()):
        place = min([function.lineno, *(d.lineno for d in function.decorator_list)]) - 1
        marked = [*lines[:place], f"@{mark}", *lines[place:]]
        return Proposal(mark, _assembled(marked, [mark], []), (f"{function.name}() is called for every frame",))
    name = "picture" if mark == "sketch" else "shape"
    name = name if name not in script.functions() else f"{name}_of_frame"
    times = list(dict.fromkeys(given.values()))
    passed = ", ".join(f"{argument}={time}" for argument, time in given.items())
    wrapper = [f"@{mark}", f"def {name}({', '.join(times)}):", f"    return {function.name}({passed})"]
    notes = tuple(f"{argument} is {_told(time)}" for argument, time in given.items())
    return Proposal(mark, _assembled(lines, [mark], wrapper), notes)


def _told(time: str) -> str:
    return {
        "phase": "the phase, from 0 to 1 over the shot",
        "seconds": "the time in seconds",
        "frame": "the frame's number",
    }[time]


def _gives_back(function: ast.FunctionDef) -> bool:
    return any(isinstance(node, ast.Return) and node.value is not None for node in ast.walk(function))


def _animation(statement: ast.stmt, script: Script) -> tuple[ast.stmt, ast.Call] | None:
    call = call_of(statement)
    return (statement, call) if call is not None and called(call) == "FuncAnimation" and len(call.args) > 1 else None


def _of_animation(script: Script, text: str, statement: ast.stmt, call: ast.Call) -> Proposal:
    """A function that an animation calls with a frame's number, and the figure that it changes."""
    figure, update = call.args[:2]
    if not isinstance(update, ast.Name) or not isinstance(figure, ast.Name):
        raise CannotWrapError("its animation calls no function by name: define one, and put @sketch before it")
    more = {keyword.arg: keyword.value for keyword in call.keywords}
    frames = script.whole_number(more["frames"]) if "frames" in more else None
    if "frames" in more and frames is None:
        raise CannotWrapError(
            "its animation's frames are no plain number: write frames=120, and read the values in the function"
        )
    interval = script.number(more["interval"]) if "interval" in more else None
    lines = Lines(text)
    lines.drop(statement)
    kept = assigned(statement)
    for other in script.body:
        if gives_away(other, script) or (kept & used(other) and isinstance(other, ast.Expr)):
            lines.drop(other)
    wrapper = ["@sketch", "def picture(frame):", f"    {update.id}(frame)", f"    return {figure.id}"]
    notes = [f"{update.id}() gets the frame's number, and {figure.id} is the picture"]
    if lines.dropped:
        notes.append(f"{', '.join(sorted(lines.dropped))} left out: Vexel writes the frames")
    rate = str(1000 / interval) if interval and interval > 0 else ""
    return Proposal("sketch", _assembled(lines.all(script), ["sketch"], wrapper), tuple(notes), frames, rate)


def _assembled(kept: list[str], needs: list[str], function: list[str]) -> str:
    """The file: imports with Vexel's own after the last of them, what stays, and the function at the end."""
    tree = parsed("\n".join(kept).encode())
    last = 0
    for statement in tree.body:
        docstring = isinstance(statement, ast.Expr) and isinstance(statement.value, ast.Constant) and last == 0
        if isinstance(statement, ast.Import | ast.ImportFrom) or docstring:
            last = statement.end_lineno or statement.lineno
    head = [*kept[:last], f"from vexel.author import {', '.join(needs)}", *kept[last:]]
    while head and not head[-1].strip():
        head.pop()
    return "\n".join([*head, *(["", "", *function] if function else [])]) + "\n"
