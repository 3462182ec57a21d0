"""Blueprint: the text of a source, for the editor, and what it printed."""

from pathlib import Path

from flask import Blueprint

from vexel.core.errors import Mistake
from vexel.core.shot import Shot
from vexel.core.source_plan import ModelSource, PageSource, SimulationSource, SketchSource
from vexel.store.write import write_whole
from vexel.web.bodies import CodeBody, CodeEdit, PrintedBody
from vexel.web.spec import answers, spec
from vexel.web.studio import studio

blueprint = Blueprint("code", __name__, url_prefix="/api/shots")
CODE = (ModelSource, SketchSource, SimulationSource, PageSource)
"""Kinds whose main file is a person's own text."""
LANGUAGES = {".py": "python", ".html": "html", ".htm": "html", ".svg": "html"}
MAX_BYTES = 2 * 1024 * 1024


@blueprint.get("/<shot_id>/code")
@spec.validate(resp=answers(CodeBody))
def get_code(shot_id: str) -> CodeBody:
    """The text of the shot's source."""
    file = _file(studio().project.shots.shot(shot_id))
    try:
        text = file.read_text()
    except (OSError, UnicodeDecodeError) as error:
        raise Mistake(f"{file.name} cannot be shown as text: {error}") from None
    return CodeBody(text=text, language=LANGUAGES[file.suffix.lower()], writable=_ours(file))


@blueprint.put("/<shot_id>/code")
@spec.validate(resp=answers(CodeBody))
def put_code(shot_id: str, json: CodeEdit) -> CodeBody:
    """Save the text of the shot's source, whole."""
    file = _file(studio().project.shots.shot(shot_id))
    if not _ours(file):
        raise Mistake(f"{file} lies outside the project, so it is not changed from here: edit it where it lies")
    data = json.text.encode()
    if len(data) > MAX_BYTES:
        raise Mistake(f"{file.name} would become {len(data) / 1e6:.1f} MB, more than an editor is good for")
    write_whole(file, data)
    return get_code(shot_id)  # type: ignore[no-any-return]


@blueprint.get("/<shot_id>/printed")
@spec.validate(resp=answers(PrintedBody))
def get_printed(shot_id: str) -> PrintedBody:
    """What the source's code printed for the last picture."""
    shot = studio().project.shots.shot(shot_id)
    _, at = studio().planner.source(shot, studio().project.shots.folder)
    return PrintedBody(text=studio().stage.printed(at))


def _file(shot: Shot) -> Path:
    file = (studio().project.shots.folder / shot.source.file).resolve()
    if not isinstance(shot.source, CODE) or file.suffix.lower() not in LANGUAGES:
        raise Mistake(f"{file.name} is no text that a person writes, so there is nothing to edit")
    return file


def _ours(file: Path) -> bool:
    return file.is_relative_to(studio().project.home.resolve())
