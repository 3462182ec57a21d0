"""Blueprint: files that a person brings as sources."""

import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from flask import Blueprint, request
from werkzeug.datastructures import FileStorage
from werkzeug.utils import secure_filename

from vexel.core.errors import Failure, Mistake, VexelError
from vexel.core.naming import slug
from vexel.core.shot import Shot
from vexel.core.source_plan import OWN_TEXT
from vexel.sources.archive import unpack
from vexel.sources.images import IMAGES
from vexel.sources.recognise import kind_of
from vexel.web.bodies import Told, UploadBody
from vexel.web.new_shot import shot_of_file
from vexel.web.spec import answers, spec
from vexel.web.studio import studio

blueprint = Blueprint("sources", __name__, url_prefix="/api")
MAX_FILES = 20_000
TRIAL_RATE = "24"
"""Stills are looked at with some rate; the person says theirs with the shot."""
MAIN = ("simulation", "sketch", "page", "model", "object", "series", "clip", "stills")
"""Of several files the first of these kinds is the source, and the others belong to it."""


@blueprint.post("/sources")
@spec.validate(resp=answers(UploadBody))
def upload() -> UploadBody:
    """Take a source and what it needs beside it; what cannot be shown is not kept, unless it is a text to be mended."""
    files = [file for file in request.files.getlist("files") if file.filename]
    if not files:
        raise Mistake("no file came with the upload: choose code, a mesh, data, a page, pictures or a video")
    with _new_folder(slug(Path(files[0].filename or "").stem)) as folder:
        places = [folder / _safe_name(file) for file in files]
        for file, place in zip(files, places, strict=True):
            file.save(place)
        main = _main_of(places)
        if main.suffix.lower() == ".zip" and kind_of(main) == "stills":
            main = _first_picture(main)
        kind = kind_of(main)
        shot = shot_of_file(main, studio().project.shots.folder, rate=TRIAL_RATE if kind == "stills" else "")
        about = _about(shot)
    return UploadBody(path=str(main), kind=kind, about=about)


def _about(shot: Shot) -> list[Told]:
    """What the source is; nothing while a person's own text is wrong, which is mended in the editor."""
    try:
        studio().prepared(shot)
        return [Told(name=name, value=value) for name, value in studio().facts(shot).about]
    except Failure:
        if not isinstance(shot.source, OWN_TEXT):
            raise
        return []


def _main_of(places: list[Path]) -> Path:
    """The file that is the source; materials, textures, buffers and further pictures come beside it."""
    if len(places) == 1:
        kind_of(places[0])
        return places[0]
    by_kind: dict[str, list[Path]] = {}
    for place in places:
        if place.suffix.lower() != ".mtl":
            by_kind.setdefault(_kind_or_none(place), []).append(place)
    kind = next((kind for kind in MAIN if kind in by_kind), "")
    mains = sorted(by_kind.get(kind, []))
    collections = [place for place in mains if place.suffix.lower() == ".pvd" or place.stem.lower() == "index"]
    if collections or kind in ("stills", "series"):
        return (collections or mains)[0]
    if len(mains) != 1:
        names = ", ".join(place.name for place in mains) or "none"
        raise Mistake(f"one of the files must be the source, the others what it needs; found: {names}")
    return mains[0]


def _kind_or_none(place: Path) -> str:
    try:
        return kind_of(place)
    except Mistake:
        return ""


def _first_picture(archive: Path) -> Path:
    """Unpack an archive of pictures beside itself; its first picture."""
    pictures = [place for place in unpack(archive, archive.parent) if place.suffix.lower() in IMAGES]
    archive.unlink()
    return pictures[0]


def _safe_name(file: FileStorage) -> str:
    name = secure_filename(Path(file.filename or "").name)
    if not name or name.startswith("."):
        raise Mistake(f"{file.filename!r} is no usable file name: rename the file with letters and digits")
    return name


@contextmanager
def _new_folder(name: str) -> Iterator[Path]:
    """A new folder among the sources, which is gone again when what came cannot be shown."""
    sources = studio().project.sources
    number, folder = 2, sources / name
    while folder.exists():
        folder, number = sources / f"{name}-{number}", number + 1
    folder.mkdir(parents=True)
    try:
        yield folder
    except VexelError:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    except OSError as error:
        shutil.rmtree(folder, ignore_errors=True)
        raise Mistake(f"the upload cannot be kept: {error.strerror}") from None
