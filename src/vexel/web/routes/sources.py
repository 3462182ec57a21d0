"""Blueprint: files that the user imports as sources."""

import base64
import shutil
from pathlib import Path

from flask import Blueprint, request

from vexel.core.checks.source_sentences import source_sentence
from vexel.core.document.shot import Shot
from vexel.core.errors import Failure, Mistake, VexelError
from vexel.core.evaluate.source_facts import SourceFacts, SourceFinding
from vexel.core.time.rate import USUAL_RATE
from vexel.disk.named_place import named_place
from vexel.imaging.images import IMAGES
from vexel.sources.archive import unpacked_stills
from vexel.sources.detect_kind import kind_of
from vexel.sources.new_shot import is_fixable, shot_of_file
from vexel.sources.registry import KINDS
from vexel.web.received import is_handover, receive
from vexel.web.schemas.common import NamedValue
from vexel.web.schemas.news import ConsentGiven
from vexel.web.schemas.sources import SourceOddityBody, SourcePath, UploadBody
from vexel.web.services import services
from vexel.web.spec import answers, spec
from vexel.web.uploads import kept_files

blueprint = Blueprint("sources", __name__, url_prefix="/api")


@blueprint.post("/sources")
@spec.validate(resp=answers(UploadBody))
def upload() -> UploadBody:
    """Take a source and what it needs beside it; what cannot be shown is not kept, unless it is a text to be fixed."""
    files = [file for file in request.files.getlist("files") if file.filename]
    if not files:
        raise Mistake("the upload holds no file: choose code, a mesh, data, a page, pictures or a video")
    with kept_files(files, services().project.sources) as (folder, places):
        if len(places) == 1 and is_handover(places[0]):
            shot_id = receive(places[0], services().project)
            shutil.rmtree(folder, ignore_errors=True)
            services().events.send(ConsentGiven())
            received = services().project.shots.shot(shot_id).source.kind
            return UploadBody(path="", kind=received, about=[], frames=None, shot=shot_id)
        main = _main_of(places)
        kind = kind_of(main)
        needs_rate = KINDS[kind].spec.traits.needs_rate
        if needs_rate and main.suffix.lower() == ".zip":
            main = _first_picture(main)
        shot = shot_of_file(main, services().project.shots.folder, rate=USUAL_RATE if needs_rate else "")
        services().trust(shot)
        facts = _facts(shot)
    return _looked_at(shot, main, facts)


@blueprint.post("/sources/inspect")
@spec.validate(resp=answers(UploadBody))
def inspect(json: SourcePath) -> UploadBody:
    """Look at a source on this machine before a shot of it is made; nothing is copied, and no code runs."""
    main = named_place(services().project.home, json.path)
    if not main.is_file():
        raise Mistake(f"there is no file {json.path}: check the path")
    kind = kind_of(main)
    traits = KINDS[kind].spec.traits
    shot = shot_of_file(main, services().project.shots.folder, rate=USUAL_RATE if traits.needs_rate else "")
    return _looked_at(shot, main, _facts(shot) if traits.needs_rate else None)


def _looked_at(shot: Shot, main: Path, facts: SourceFacts | None) -> UploadBody:
    about = [NamedValue(name=name, value=value) for name, value in facts.about] if facts else []
    frames = facts.source_frames.count if facts and facts.source_frames else None
    odd = [_oddity(main.parent, one) for one in (facts.findings if facts else ())]
    return UploadBody(path=str(main), kind=shot.source.kind, about=about, frames=frames, findings=odd)


def _oddity(folder: Path, found: SourceFinding) -> SourceOddityBody:
    """What is odd, with the picture that shows it."""
    name = str(found.facts.get("file", ""))
    sentence, picture = source_sentence(found), ""
    if name and (folder / name).is_file() and (folder / name).suffix.lower() in IMAGES:
        try:
            with services().media.asked() as process:
                small = base64.b64encode(process.thumbnail(folder / name)).decode()
            picture = f"data:image/jpeg;base64,{small}"
        except VexelError:
            # The sentence says that it cannot be read.
            picture = ""
    return SourceOddityBody(name=found.code, what=sentence[0].upper() + sentence[1:], file=name, picture=picture)


def _facts(shot: Shot) -> SourceFacts | None:
    """What the source is; None while the text of the source has an error, which is fixed in the editor."""
    try:
        services().prepared(shot)
        return services().facts(shot)
    except Failure:
        if not is_fixable(shot):
            raise
        return None


def _main_of(places: list[Path]) -> Path:
    """The file that is the source; materials, textures, buffers and further pictures come beside it."""
    if len(places) == 1:
        kind_of(places[0])
        return places[0]
    by_kind: dict[str, list[Path]] = {}
    for place in places:
        if place.suffix.lower() != ".mtl":
            by_kind.setdefault(_kind_or_none(place), []).append(place)
    kind = next((kind for kind in KINDS if kind in by_kind), "")
    mains = sorted(by_kind.get(kind, []))
    collections = [place for place in mains if place.suffix.lower() == ".pvd" or place.stem.lower() == "index"]
    if collections or (kind and KINDS[kind].several):
        return (collections or mains)[0]
    if len(mains) != 1:
        names = ", ".join(place.name for place in mains) or "none"
        raise Mistake(f"one of the files must be the source, the others its dependencies; found: {names}")
    return mains[0]


def _kind_or_none(place: Path) -> str:
    try:
        return kind_of(place)
    except Mistake:
        return ""


def _first_picture(archive: Path) -> Path:
    """Unpack an archive of pictures beside itself; its first picture."""
    first = unpacked_stills(archive, archive.with_suffix(""))
    archive.unlink()
    return first
