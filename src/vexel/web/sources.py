"""Blueprint: files that a person brings as sources."""

import shutil
from pathlib import Path

from flask import Blueprint, request
from werkzeug.datastructures import FileStorage
from werkzeug.utils import secure_filename

from vexel.core.errors import Mistake, VexelError
from vexel.core.naming import slug
from vexel.sources.recognise import kind_of
from vexel.web.bodies import UploadBody
from vexel.web.new_shot import shot_of_file
from vexel.web.spec import answers, spec
from vexel.web.studio import studio

blueprint = Blueprint("sources", __name__, url_prefix="/api")
MAX_FILES = 200


@blueprint.post("/sources")
@spec.validate(resp=answers(UploadBody))
def upload() -> UploadBody:
    """Take a source and the files that it needs beside it; nothing is kept when it cannot be shown."""
    files = [file for file in request.files.getlist("files") if file.filename]
    if not files:
        raise Mistake("no file came with the upload: choose a model (.py) or a mesh")
    if len(files) > MAX_FILES:
        raise Mistake(f"{len(files)} files are more than the {MAX_FILES} that one upload may hold")
    main = _main_of(files)
    folder = _new_folder(studio().project.sources, slug(Path(main.filename or "").stem))
    try:
        for file in files:
            file.save(folder / _safe_name(file))
        place = folder / _safe_name(main)
        studio().prepared(shot_of_file(place, studio().project.shots.folder))
    except VexelError:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    except OSError as error:
        shutil.rmtree(folder, ignore_errors=True)
        raise Mistake(f"{main.filename} cannot be kept: {error.strerror}") from None
    return UploadBody(path=str(place), kind=kind_of(place))


def _main_of(files: list[FileStorage]) -> FileStorage:
    """The file that is the source; materials, textures and buffers come beside it."""
    if len(files) == 1:
        kind_of(Path(files[0].filename or ""))
        return files[0]
    mains = [file for file in files if _is_source(file.filename or "")]
    if len(mains) != 1:
        names = ", ".join(file.filename or "" for file in mains) or "none"
        raise Mistake(f"one of the files must be the model or mesh, the others what it needs; found: {names}")
    return mains[0]


def _is_source(name: str) -> bool:
    try:
        kind_of(Path(name))
    except Mistake:
        return False
    return True


def _safe_name(file: FileStorage) -> str:
    name = secure_filename(Path(file.filename or "").name)
    if not name or name.startswith("."):
        raise Mistake(f"{file.filename!r} is no usable file name: rename the file with letters and digits")
    return name


def _new_folder(sources: Path, name: str) -> Path:
    number, folder = 2, sources / name
    while folder.exists():
        folder, number = sources / f"{name}-{number}", number + 1
    folder.mkdir(parents=True)
    return folder
