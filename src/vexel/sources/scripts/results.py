"""What a script does with its picture or its meshes, and what its function gives back in place of that."""

import ast

from vexel.sources.scripts.lines import CannotWrapError, Lines
from vexel.sources.scripts.reading import (
    FIGURES,
    PYPLOT,
    Script,
    assigned,
    call_of,
    called,
    gathered,
    gives_away,
    statements_in,
    used,
)


def result_of(script: Script, moved: list[ast.stmt], lines: Lines) -> tuple[str, list[str]]:
    """Mark and last lines of the function; drops what the script did with its picture."""
    given = [(s, block) for s, block in statements_in(moved) if gives_away(s, script) or gathered(s, script)]
    if script.library == "pyvista":
        return "model", _meshes(script, moved, lines)
    answer = ""
    for statement, block in given:
        answer = _given(statement, script, lines) or answer
        lines.drop(statement, alone=len(block) == 1 and block is not moved)
    answer = answer or _made(script, moved)
    if not answer:
        raise CannotWrapError(
            "it is not clear which of its names is the picture: let a function return it, under @sketch"
        )
    return "sketch", [f"return {answer}"]


def _given(statement: ast.stmt, script: Script, lines: Lines) -> str:
    """What a statement hands away, as an expression."""
    call = call_of(statement)
    assert call is not None and isinstance(call.func, ast.Attribute)
    owner, name = call.func.value, call.func.attr
    if name == "append":
        return lines.source(call.args[0])
    module = script.module_of(owner)
    if name in ("imwrite", "imsave") and len(call.args) > 1:
        picture = lines.source(call.args[1])
        return f"{picture}[..., ::-1]" if module == "cv2" else picture
    if name in ("savefig", "show") and module in PYPLOT:
        return f"{script.alias(*PYPLOT)}.gcf()"
    if name in ("savefig", "save") and not module:
        surface = owner.func.value if isinstance(owner, ast.Call) and isinstance(owner.func, ast.Attribute) else owner
        return lines.source(surface) if isinstance(surface, ast.Name) else ""
    return ""


def _made(script: Script, moved: list[ast.stmt]) -> str:
    """The last name that is set to a figure, an image or a surface."""
    answer = ""
    for statement in moved:
        call = call_of(statement)
        if call is None or not isinstance(statement, ast.Assign):
            continue
        module = script.module_of(call.func)
        target = statement.targets[0]
        first = target.elts[0] if isinstance(target, ast.Tuple) else target
        makes = module.startswith(("PIL.Image.", "skia.Surface")) or (
            module.startswith(PYPLOT) and called(call) in FIGURES
        )
        if makes and isinstance(first, ast.Name):
            answer = first.id
    pyplot = script.alias(*PYPLOT)
    return answer or (f"{pyplot}.gcf()" if pyplot else "")


def _meshes(script: Script, moved: list[ast.stmt], lines: Lines) -> list[str]:
    """Gather what is shown: meshes that are plotted, and those that are added to a plotter."""
    plotters = {
        name for s in moved if isinstance(s, ast.Assign) and isinstance(s.value, ast.Call)
        and called(s.value) == "Plotter" for name in assigned(s)
    }  # fmt: skip
    shown: list[str] = []
    for statement, block in statements_in(moved):
        call = call_of(statement)
        alone = len(block) == 1 and block is not moved
        if call is not None and called(call) == "add_mesh" and call.args and used(call.func) & plotters:
            lines.replace(statement, f"parts.append({_part(call, lines)})")
            shown.append("parts")
        elif gives_away(statement, script) and call is not None and called(call) == "plot":
            assert isinstance(call.func, ast.Attribute)
            shown.append(lines.source(call.func.value))
            lines.drop(statement, alone)
        elif (used(statement) | assigned(statement)) & plotters and not isinstance(
            statement, ast.For | ast.If | ast.With
        ):
            lines.drop(statement, alone)
    if "parts" in shown:
        lines.begin("parts = []")
        return ["return parts"]
    if shown:
        return [f"return {shown[0]}" if len(shown) == 1 else f"return [{', '.join(shown)}]"]
    for statement in reversed(moved):
        call = call_of(statement)
        if call is not None and script.module_of(call.func).startswith("pyvista.") and assigned(statement):
            return [f"return {min(assigned(statement))}"]
    raise CannotWrapError("it is not clear which of its names is the mesh: let a function return it, under @model")


def _part(call: ast.Call, lines: Lines) -> str:
    """A mesh with as much of its look as a part has."""
    look = []
    for keyword in call.keywords:
        value = keyword.value.value if isinstance(keyword.value, ast.Constant) else None
        if keyword.arg in ("color", "colour") and isinstance(value, str):
            look.append(f'colour="{_hex(value)}"')
        elif keyword.arg == "opacity" and isinstance(value, int | float):
            look.append(f"opacity={value}")
        elif keyword.arg == "scalars" and isinstance(value, str):
            look.append(f"scalars={value!r}")
        elif keyword.arg == "cmap" and isinstance(value, str):
            look.append(f"colour_map={value!r}")
        elif keyword.arg in ("smooth_shading",) and isinstance(value, bool):
            look.append(f"smooth={value}")
    mesh = lines.source(call.args[0])
    return f"part({', '.join([mesh, *look])})" if look else mesh


def _hex(colour: str) -> str:
    from matplotlib.colors import to_hex

    try:
        return str(to_hex(colour))
    except ValueError:
        return "#c0c0c0"
