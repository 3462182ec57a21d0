"""Blueprint: the text of a source, for the editor, and what it printed."""

from collections.abc import Iterator
from contextlib import contextmanager
from difflib import ndiff
from pathlib import Path
from typing import Any

from flask import Blueprint

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.disk.named_place import named_place
from vexel.disk.write import write_whole
from vexel.sources.code.syntax import syntax_of
from vexel.sources.detect_kind import mark_in
from vexel.sources.scripts import NoProposal, propose
from vexel.store.texts import KeptText
from vexel.web.routes.shots import saved_shot
from vexel.web.schemas.common import Based
from vexel.web.schemas.shots import ShotBody
from vexel.web.schemas.sources import CodeBody, CodeEdit, DiffLine, PrintedBody, ProposalBody
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("code", __name__, url_prefix="/api/shots")
LANGUAGES = {".py": "python", ".html": "html", ".htm": "html", ".svg": "html"}
MAX_BYTES = 2 * 1024 * 1024


@blueprint.get("/<shot_id>/code")
@spec.validate(resp=answers(CodeBody))
def get_code(shot_id: str) -> CodeBody:
    """The text of the shot's source."""
    file = _file(services().project.shots.shot(shot_id))
    if _ours(file):
        return _body(file, services().project.texts.get(file))
    try:
        text = file.read_text()
    except (OSError, UnicodeDecodeError) as error:
        raise Mistake(f"{file.name} cannot be shown as text: {error}") from None
    return _body(file, KeptText(text, 0, False, False))


@blueprint.put("/<shot_id>/code")
@spec.validate(resp=answers(CodeBody))
def put_code(shot_id: str, json: CodeEdit, query: Based) -> CodeBody:
    """Save the text of the shot's source, whole."""
    file = _own_file(shot_id)
    size = len(json.text.encode("utf-8", "replace"))
    if size > MAX_BYTES:
        raise Mistake(f"{file.name} would become {size / 1e6:.1f} MB, too large for the editor")
    with _trust_kept(shot_id):
        return _body(file, _saved(file, json.text, query.revision, json.burst))


@blueprint.post("/<shot_id>/code/undo")
@spec.validate(resp=answers(CodeBody))
def undo_code(shot_id: str, query: Based) -> CodeBody:
    """Restore the text before this one."""
    file = _own_file(shot_id)
    # An imported project's history is not what was reviewed: trust is asked for again.
    return _body(file, services().project.texts.undo(file, query.revision))


@blueprint.post("/<shot_id>/code/redo")
@spec.validate(resp=answers(CodeBody))
def redo_code(shot_id: str, query: Based) -> CodeBody:
    """Redo the text that was undone last."""
    file = _own_file(shot_id)
    # An imported project's history is not what was reviewed: trust is asked for again.
    return _body(file, services().project.texts.redo(file, query.revision))


@blueprint.post("/<shot_id>/wrapped")
@spec.validate(resp=answers(ShotBody))
def take_proposal(shot_id: str) -> ShotBody:
    """Let a plain script become the source that is proposed: its lines change, and with them the shot's kind."""
    shots = services().project.shots
    file = _file(shots.shot(shot_id))
    allowed = services().gate.allows(*services().code_of(shots.shot(shot_id)))
    made = propose(file.read_text())
    if isinstance(made, NoProposal):
        raise Mistake(f"{file.name}: {made.why}")
    place = _place_of(file)
    try:
        if place == file:
            services().project.texts.save(place, made.text)
        else:
            write_whole(place, made.text.encode())
    except OSError as error:
        raise Mistake(f"{place} cannot be written: {error.strerror}; upload the script, or copy it") from None
    named = str(place) if place != file else shots.shot(shot_id).source.file
    patch: dict[str, Any] = {"source": {"kind": made.mark, "file": named}}
    clock: dict[str, Any] = {"rate": made.rate} if made.rate else {}
    if made.frames:
        clock |= {"frames": made.frames, "seconds": None}
    kept = shots.edit(shot_id, patch | ({"clock": clock} if clock else {}), "the script as a source")
    if allowed:
        services().trust(kept.value)
    return saved_shot(kept)


@blueprint.get("/<shot_id>/printed")
@spec.validate(resp=answers(PrintedBody))
def get_printed(shot_id: str) -> PrintedBody:
    """What the source's code printed for the last picture."""
    shot = services().project.shots.shot(shot_id)
    _, at = services().planner.source(shot, services().project.shots.folder)
    return PrintedBody(text=services().stage.printed(at))


def _file(shot: Shot) -> Path:
    file = named_place(services().project.shots.folder, shot.source.file)
    if not shot.source.traits.own_text or file.suffix.lower() not in LANGUAGES:
        raise Mistake(f"{file.name} is not a text file, so it cannot be edited here")
    return file


@contextmanager
def _trust_kept(shot_id: str) -> Iterator[None]:
    """Code that may run may still run after the user has changed it here."""
    shot = services().project.shots.shot(shot_id)
    allowed = services().gate.allows(*services().code_of(shot))
    yield
    if allowed:
        services().trust(shot)


def _own_file(shot_id: str) -> Path:
    file = _file(services().project.shots.shot(shot_id))
    if not _ours(file):
        raise Mistake(f"{file} is outside the project, so it is not changed from here: edit it in place")
    return file


def _saved(file: Path, text: str, revision: int | None, burst: str) -> KeptText:
    try:
        return services().project.texts.save(file, text, revision, burst)
    except UnicodeEncodeError:
        raise Mistake(f"{file.name} would hold half a character, which no text file can: take it out") from None


def _body(file: Path, kept: KeptText) -> CodeBody:
    return CodeBody(
        text=kept.text,
        language=LANGUAGES[file.suffix.lower()],
        writable=_ours(file),
        revision=kept.revision,
        undo=kept.undo,
        redo=kept.redo,
        proposal=_proposal(file, kept.text),
    )


def _proposal(file: Path, text: str) -> ProposalBody | None:
    if file.suffix.lower() != ".py" or mark_in(syntax_of(file)):
        return None
    made = propose(text)
    if isinstance(made, NoProposal):
        return ProposalBody(mark="", lines=[], notes=[made.why], file=file.name)
    lines = [
        DiffLine(sign=line[0], text=line[2:])
        for line in ndiff(text.splitlines(), made.text.splitlines())
        if not line.startswith("?")
    ]
    return ProposalBody(mark=made.mark, lines=lines, notes=list(made.notes), file=_place_of(file).name)


def _place_of(file: Path) -> Path:
    """Where a changed script is written: beside a file outside the project, which does not change."""
    return file if _ours(file) else file.with_name(f"{file.stem}_vexel.py")


def _ours(file: Path) -> bool:
    return file.is_relative_to(services().project.home.resolve())
