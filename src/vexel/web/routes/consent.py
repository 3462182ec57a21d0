"""Blueprint: code of an imported project, reviewed and trusted before it runs."""

from pathlib import Path

from flask import Blueprint

from vexel.core.errors import Mistake, VexelError
from vexel.sources.archive import text_of
from vexel.web.schemas.news import ConsentGiven
from vexel.web.schemas.runs import RunningFile
from vexel.web.schemas.sources import ConsentBody, TrustOrder, UnseenSource
from vexel.web.services import services
from vexel.web.spec import answers, spec
from vexel.workers.bounds.isolation import writes_are_bounded
from vexel.workers.code_gate import shots_in, unseen_of

blueprint = Blueprint("consent", __name__, url_prefix="/api")
SHOWN_BYTES = 200_000


@blueprint.get("/consent")
@spec.validate(resp=answers(ConsentBody))
def consent() -> ConsentBody:
    """Which code of this project is not trusted yet, with the text of its files."""
    return _body()


@blueprint.post("/consent")
@spec.validate(resp=answers(ConsentBody))
def trust(json: TrustOrder) -> ConsentBody:
    """Let code of this content run; code that has changed since it was shown is asked about again."""
    unseen = _unseen()
    if unknown := set(json.digests) - unseen.keys():
        raise Mistake(f"{len(unknown)} of these sources have changed since they were shown: review them again")
    services().gate.trust(json.digests)
    services().events.send(ConsentGiven())
    return _body()


def _body() -> ConsentBody:
    unseen = list(_unseen().values())
    return ConsentBody(own=services().consent.own, writes_bounded=writes_are_bounded(), unseen=unseen)


def _unseen() -> dict[str, UnseenSource]:
    """Sources of all shots that may not run yet, by the digests of their content."""
    return {
        digest: UnseenSource(
            digest=digest,
            kind=shots[0].source.kind,
            shots=[shot.title for shot in shots],
            files=[_file(file) for file in files],
        )
        for digest, (files, shots) in unseen_of(shots_in(services().project.shots.folder), services().gate).items()
    }


def _file(file: Path) -> RunningFile:
    size = file.stat().st_size
    try:
        text = text_of(file, SHOWN_BYTES)
    except (VexelError, OSError, UnicodeDecodeError):
        text = ""
    return RunningFile(name=file.name, path=str(file), bytes=size, text=text)
