"""Which code of a project may run: what it is, and who says so."""

from pathlib import Path
from typing import TYPE_CHECKING

from vexel.core.document.shot import Shot
from vexel.core.errors import VexelError
from vexel.crew.planner import Gate, OpenGate
from vexel.sources.files import code_of, source_files
from vexel.store.consent import IDENTITY, Consent

if TYPE_CHECKING:
    # A capture without a project does not wait for the libraries of a database.
    from vexel.store.project import Project


def code_of_shot(shot: Shot, folder: Path) -> tuple[tuple[Path, ...], str]:
    """Files of a shot's source that would run, and the digest of their content; none where nothing runs.

    Parameters
    ----------
    folder : Path
        Where the shot's document lies.

    Raises
    ------
    Mistake
        When the source is not there.
    """
    source, main = shot.source, (folder / shot.source.file).resolve()
    options = source.options()
    return code_of(source.kind, main, options, source_files(source.kind, main, options))


def unseen_of(project: "Project", consent: Consent) -> dict[str, tuple[tuple[Path, ...], list[Shot]]]:
    """Sources that may not run yet, by the digests of their content: their files, and the shots that show them."""
    found: dict[str, tuple[tuple[Path, ...], list[Shot]]] = {}
    if consent.own:
        return found
    for shot_id in project.shots.ids():
        try:
            shot = project.shots.shot(shot_id)
            files, digest = code_of_shot(shot, project.shots.folder)
        except VexelError:
            continue
        if files and not consent.allows(digest):
            found.setdefault(digest, (files, []))[1].append(shot)
    return found


def gate_of(document: Path, trusted: bool) -> Gate:
    """Who says whether the code of a shot document may run: in a project its consent, else the person who named it."""
    home = document.absolute().parent.parent
    in_project = document.absolute().parent.name == "shots" and any(
        (home / name).exists() for name in ("vexel.db", IDENTITY)
    )
    return Consent(home) if in_project and not trusted else OpenGate()
