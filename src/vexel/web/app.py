"""The Flask application."""

import logging
from pathlib import Path
from typing import Any

from flask import Flask, Response, request, send_from_directory
from werkzeug.exceptions import HTTPException, NotFound, RequestEntityTooLarge

from vexel.core.errors import Conflict, Failure, Missing, Mistake, VexelError
from vexel.disk.disk_errors import disk_trouble, os_sentence
from vexel.store.consent import Unseen
from vexel.web.connections import FORM_BYTES
from vexel.web.guard import Guard
from vexel.web.request_limits import MAX_DOCUMENT_BYTES, MAX_FILES, MAX_UPLOAD_BYTES, TOO_LARGE_DOCUMENT, TOO_MUCH
from vexel.web.routes import (
    code,
    consent,
    dispatch,
    event_stream,
    frame_intake,
    frames,
    outputs,
    reels,
    review_notes,
    reviews,
    runs,
    shots,
    sources,
    storage,
    sweeps,
    vocabulary,
)
from vexel.web.routes.bench import cameras, lanes, proofs, viewfinder
from vexel.web.services import Services, services
from vexel.web.spec import BoundedInt, spec
from vexel.workers.bounded_process import LimitReached

PARTS = (
    event_stream,
    consent,
    shots,
    cameras,
    lanes,
    sources,
    code,
    frame_intake,
    viewfinder,
    vocabulary,
    proofs,
    sweeps,
    storage,
    runs,
    frames,
    dispatch,
    outputs,
    reels,
    reviews,
    review_notes,
)
BLUEPRINTS = tuple(part.blueprint for part in PARTS)
DIST = Path(__file__).parent / "dist"
log = logging.getLogger("vexel")


def create_app(made_services: Services, guard: Guard) -> Flask:
    """The application for one project, behind one guard."""
    app = Flask("vexel", static_folder=None)
    app.config["MAX_CONTENT_LENGTH"] = MAX_UPLOAD_BYTES + FORM_BYTES
    app.config["MAX_FORM_PARTS"] = MAX_FILES + 10
    app.extensions["vexel"] = made_services
    app.url_map.converters["int"] = BoundedInt
    guard.watch(app)
    app.before_request(_refuse_large_documents)
    for blueprint in BLUEPRINTS:
        app.register_blueprint(blueprint)
    app.get("/api/events")(_events)
    app.get("/")(_page)
    app.get("/<path:name>")(_page)
    app.route("/<path:name>", methods=["POST", "PUT", "PATCH", "DELETE"])(_nothing)
    app.register_error_handler(Exception, _refused)
    spec.register(app)
    return app


def _events() -> Response:
    """News of runs, files and shots, as server-sent events."""
    gone = request.environ.get("waitress.client_disconnected")
    if gone is None:
        # Without it a stream would hold its thread for ever.
        raise Failure("this server cannot send news as it comes: ask for it at /api/news")
    return Response(services().events.listen(gone), mimetype="text/event-stream", headers={"Cache-Control": "no-store"})


def _page(name: str = "index.html") -> Response:
    """A file of the interface; any other address is a place within it."""
    if name.startswith("api/"):
        return _nothing(name)
    if not (DIST / "index.html").is_file():
        return Response("The interface has not been built: run make ui.", 503, mimetype="text/plain")
    try:
        known = (DIST / name).is_file()
    except (OSError, ValueError):
        raise Missing(f"there is no page {name[:80]}") from None
    if known and name != "index.html":
        return send_from_directory(DIST, name, max_age=31_536_000 if name.startswith("assets/") else 0)
    return send_from_directory(DIST, "index.html", max_age=0)


def _refuse_large_documents() -> None:
    """A document is read into memory as a whole, unlike an upload."""
    if request.mimetype == "application/json" and (request.content_length or 0) > MAX_DOCUMENT_BYTES:
        raise Mistake(TOO_LARGE_DOCUMENT)


def _nothing(name: str) -> Response:
    raise Missing(f"there is no operation /{name}")


def _refused(error: Exception) -> tuple[dict[str, Any], int]:
    """Every error of an operation, as one sentence."""
    if isinstance(error, RequestEntityTooLarge):
        return {"error": TOO_MUCH}, 413
    if isinstance(error, NotFound):
        return {"error": f"there is no operation {request.path[:200]}"}, 404
    if isinstance(error, HTTPException):
        return {"error": error.description or error.name}, error.code or 500
    if isinstance(error, RecursionError):
        return {"error": "the request is wrong: its values are nested too deeply"}, 400
    if isinstance(error, Conflict):
        return {"error": str(error), "changed": list(error.changed)}, 409
    if isinstance(error, Missing):
        return {"error": str(error)}, 404
    if isinstance(error, VexelError):
        limited = isinstance(error, LimitReached)
        unseen = isinstance(error, Unseen)
        return {"error": str(error), "line": getattr(error, "line", 0), "limited": limited, "unseen": unseen}, 422
    if isinstance(error, PermissionError) and error.filename:
        return {"error": os_sentence(error)}, 422
    if trouble := disk_trouble(error, services().project.home):
        return {"error": trouble}, 507
    log.exception("internal error")
    return {"error": f"Internal error ({type(error).__name__}: {error}); see the log."}, 500
