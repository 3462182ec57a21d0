"""Starts the server on this machine's own address."""

import logging
import os
import signal
import socket
from collections.abc import Callable
from pathlib import Path

import click

from vexel.core.errors import Failure, Mistake
from vexel.disk.home_lock import HomeLock
from vexel.disk.scratch import sweep_scratch
from vexel.store.consent import Consent, is_new, make_own
from vexel.store.project import Project
from vexel.web.app import create_app
from vexel.web.connections import wsgi_server
from vexel.web.guard import Guard
from vexel.web.services import Services
from vexel.workers.fork_server import start_fork_server


def serve_home(
    home: Path, port: int, *, trusted: bool = False, lay_out: Callable[[Path], None] = lambda home: None
) -> None:
    """Serve a project until interrupted.

    Parameters
    ----------
    trusted : bool
        Whether its code runs unasked, though it was not made here.
    lay_out : callable
        Puts first things into a new project.

    Raises
    ------
    Mistake
        When the port is taken.
    Failure
        When another server has the project, or it cannot be opened.
    """
    logging.basicConfig(level=logging.WARNING, format="%(asctime)s %(name)s %(message)s")
    signal.signal(signal.SIGTERM, _interrupt)
    start_fork_server()
    bound = _bound(port)
    port = bound.getsockname()[1]
    new = is_new(home)
    # Before anything of the project is opened or migrated.
    lock = HomeLock(home.absolute(), f"http://127.0.0.1:{port}")
    lay_out(home)
    project = Project(home)
    sweep_scratch()
    project.sweep()
    consent = Consent(project.home, trusted=trusted or (new and not _made_own(project.home)))
    if not consent.own:
        # The author of the project knows these.
        project.renew_secrets()
    services = Services(project, os.cpu_count() or 1, consent)
    guard = Guard(project.secret(), port, project.push_key())
    server = wsgi_server(create_app(services, guard), bound)
    click.echo(f"Vexel is ready with {project.home}\nOpen this address once: {guard.start_url}")
    if not consent.own:
        click.echo("You received this project: its code runs only after you have reviewed and trusted it.")
    click.echo(f"Programs may send frames to http://127.0.0.1:{port}/push/{project.push_key()}")

    def end(*_: object) -> None:
        # Streams of news would hold up the end of the server.
        services.events.close()
        raise KeyboardInterrupt

    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, end)
    try:
        server.run()
    except KeyboardInterrupt:
        click.echo("Vexel is ending; finished frames are kept.")
    finally:
        server.close()
        services.close()
        lock.release()


def _made_own(home: Path) -> bool:
    """Record that a new project is its user's own; where that cannot be stored, it holds for this session alone."""
    try:
        make_own(home)
    except Failure as error:
        click.echo(f"Vexel cannot remember that this project is yours: {error}", err=True)
        return False
    return True


def _bound(port: int) -> socket.socket:
    bound = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    bound.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        bound.bind(("127.0.0.1", port))
    except OSError:
        # Make sets MAKELEVEL for what it starts.
        other = f"PORT={port + 1} make demo" if os.environ.get("MAKELEVEL") else f"--port {port + 1}"
        raise Mistake(f"port {port} is taken: choose another, such as {other}") from None
    return bound


def _interrupt(*_: object) -> None:
    raise KeyboardInterrupt
