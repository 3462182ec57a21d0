"""Starts the server on this machine's own address."""

import logging
import os
import signal
import socket
from pathlib import Path

import click

from vexel.core.errors import Mistake
from vexel.store.consent import Consent, is_new, make_own
from vexel.store.home_lock import HomeLock
from vexel.store.project import Project
from vexel.store.scratch import sweep_scratch
from vexel.web.app import create_app
from vexel.web.guard import Guard
from vexel.web.studio import Studio
from vexel.web.wire import wsgi_server


def serve_home(home: Path, port: int, *, trusted: bool = False) -> None:
    """Serve a project until interrupted.

    Parameters
    ----------
    trusted : bool
        Whether its code runs unasked, though it was not made here.

    Raises
    ------
    Mistake
        When the port is taken.
    Failure
        When another server has the project, or it cannot be opened.
    """
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s %(name)s %(message)s")
    signal.signal(signal.SIGTERM, _interrupt)
    bound = _bound(port)
    port = bound.getsockname()[1]
    if is_new(home):
        make_own(home)
    project = Project(home)
    lock = HomeLock(project.home, f"http://127.0.0.1:{port}")
    sweep_scratch()
    project.sweep()
    consent = Consent(project.home, trusted=trusted)
    if not consent.own:
        # Whoever made the project knows these.
        project.renew_secrets()
    studio = Studio(project, os.cpu_count() or 1, consent)
    guard = Guard(project.secret(), port, project.push_key())
    server = wsgi_server(create_app(studio, guard), bound)
    click.echo(f"Vexel is ready with {project.home}\nOpen this address once: {guard.start_url}")
    if not consent.own:
        click.echo("This project comes from elsewhere: its code runs only after you have looked at it and agreed.")
    click.echo(f"Programs may hand over frames at http://127.0.0.1:{port}/push/{project.push_key()}")
    try:
        server.run()
    except KeyboardInterrupt:
        click.echo("Vexel is ending; finished frames are kept.")
    finally:
        server.close()
        studio.close()
        lock.release()


def _bound(port: int) -> socket.socket:
    bound = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    bound.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        bound.bind(("127.0.0.1", port))
    except OSError:
        raise Mistake(f"port {port} is taken: choose another, such as --port {port + 1}") from None
    return bound


def _interrupt(*_: object) -> None:
    raise KeyboardInterrupt
