"""Why two takes differ, or a take and its shot now: settings, source lines, and the versions that made them."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.source_facts import PlanInputs
from vexel.core.merge_patch import difference
from vexel.core.review.differences import LATER, Difference, differences, lines_apart
from vexel.disk.named_place import named_place
from vexel.store.project import Project
from vexel.store.tables import RunRow
from vexel.store.takes import shot_of
from vexel.web.jobs.project_library import shot_as_run

TEXTS = (".py", ".html", ".htm", ".js", ".svg", ".css", ".csv", ".json", ".txt", ".glsl", ".mtl")
"""Endings of files whose lines are compared."""
MOST_BYTES = 200_000
"""Of larger files only that they differ is reported: comparing lines takes the square of their number."""
KEPT_APART = (*LATER, "sweep")
"""Parts of a document that a take's settings do not replace in its shot."""


@dataclass(frozen=True)
class LinesApart:
    """Lines of a file that differ, counted from 1."""

    file: str
    one: range
    other: range


@dataclass(frozen=True)
class Changes:
    """What differs between two sides.

    Attributes
    ----------
    one, other : str
        What they are.
    settings : tuple of Difference
    lines : tuple of LinesApart
    notes : tuple of str
        Other differences, as sentences.
    patch : dict
        A merge patch that gives the shot of now the settings of the first take; empty where there is no such shot.
    """

    one: str
    other: str
    settings: tuple[Difference, ...]
    lines: tuple[LinesApart, ...]
    notes: tuple[str, ...]
    patch: dict[str, Any]


@dataclass(frozen=True)
class _Side:
    name: str
    shot: Shot
    inputs: PlanInputs | None
    texts: dict[str, str]
    digest: str


def changes_between(project: Project, run_id: int, other_id: int, digest_now: str) -> Changes:
    """What differs between a take and another one, or its shot now.

    Parameters
    ----------
    other_id : int
        0 for the shot.
    digest_now : str
        Of the source of the shot now; empty where it cannot be read.

    Raises
    ------
    Missing
        When there is no such take.
    Mistake
        When its shot is gone.
    """
    run = project.ledger.run(run_id)
    one = _take(project, run)
    other = _take(project, project.ledger.run(other_id)) if other_id else _now(project, run, digest_now)
    mine, theirs = (side.shot.model_dump(mode="json") for side in (one, other))
    patch: dict[str, Any] = {}
    # What a draft or a variant has by its kind is no setting of the shot.
    now = shot_as_run(project.shots.shot(run.shot_id), run) if project.shots.has(run.shot_id) else None
    if now is not None:
        patch = difference(_settings(now.model_dump(mode="json")), _settings(mine))
    return Changes(one.name, other.name, differences(mine, theirs), _lines(one, other), _notes(one, other), patch)


def _settings(document: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in document.items() if name not in KEPT_APART}


def _take(project: Project, run: RunRow) -> _Side:
    inputs = PlanInputs.loads(run.plan) if run.plan else None
    digest = inputs.source.digest if inputs is not None else ""
    folder = project.copies / digest
    texts = {}
    if digest and folder.is_dir():
        for file in sorted(folder.rglob("*")):
            if (text := _text(file)) is not None:
                texts[str(file.relative_to(folder))] = text
    return _Side(f"take {run.id}", shot_of(run), inputs, texts, digest)


def _now(project: Project, run: RunRow, digest: str) -> _Side:
    if not project.shots.has(run.shot_id):
        raise Mistake(f"the shot of take {run.id} is gone: compare it with another take")
    shot = shot_as_run(project.shots.shot(run.shot_id), run)
    if shot is None:
        raise Mistake(f"the shot has no variant {run.variant} now: compare take {run.id} with another take")
    main = named_place(project.shots.folder, shot.source.file)
    text = _text(main)
    return _Side("the shot now", shot, None, {} if text is None else {main.name: text}, digest)


def _text(file: Path) -> str | None:
    if file.suffix.lower() not in TEXTS or not file.is_file() or file.stat().st_size > MOST_BYTES:
        return None
    return file.read_text("utf-8", "replace")


def _lines(one: _Side, other: _Side) -> tuple[LinesApart, ...]:
    if one.digest == other.digest:
        return ()
    return tuple(
        LinesApart(name, mine, theirs)
        for name in sorted(one.texts.keys() & other.texts.keys())
        for mine, theirs in lines_apart(one.texts[name], other.texts[name])
    )


def _notes(one: _Side, other: _Side) -> tuple[str, ...]:
    notes = []
    if one.digest != other.digest and not _lines(one, other):
        if not (one.digest and other.digest):
            side = one if not one.digest else other
            notes.append(f"The source of {side.name} is not known, so it was not compared")
        else:
            notes.append("The sources differ in files whose lines are not compared")
    if one.inputs is not None and other.inputs is not None:
        mine, theirs = one.inputs, other.inputs
        if mine.engine != theirs.engine:
            notes.append(f"Made by other versions: {mine.engine} against {theirs.engine}")
        if mine.backdrop != theirs.backdrop:
            notes.append("The images behind them differ")
        if mine.fonts != theirs.fonts:
            notes.append("Their fonts differ")
    return tuple(notes)
