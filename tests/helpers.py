"""What several tests share: folders, shot documents, the command line and a running server."""

import atexit
import http.cookiejar
import json
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.error
import urllib.request
from functools import cache
from pathlib import Path
from types import MappingProxyType
from typing import Any

import urllib3
from click.testing import CliRunner

from tests.prepared_server import ForkedServer
from vexel.cli import main
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import plan_by_measuring
from vexel.core.evaluate.source_facts import PlanInputs, Subject
from vexel.demo import lay_out
from vexel.sources.protocols import FrameRequest

HEADER = "import numpy as np\nimport pyvista as pv\nfrom vexel.author import dial, model, part\n\n\n"


def scratch(case) -> Path:
    """A folder that is gone after the test, even when opening a source made it the current one."""
    folder = tempfile.TemporaryDirectory(prefix="vexel-test-")
    case.addCleanup(folder.cleanup)
    case.addCleanup(os.chdir, Path.cwd())
    return Path(folder.name)


@cache
def demo_home() -> Path:
    """The demo project, laid out once for all tests, to be copied."""
    folder = Path(tempfile.mkdtemp(prefix="vexel-demo-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    lay_out(folder / "home")
    return folder / "home"


def shot_document(source: dict, frames: int = 6, **parts) -> dict:
    """A small quick shot of a source."""
    return {
        "title": "Trial",
        "source": source,
        "clock": {"rate": "12", "frames": frames},
        "picture": {"width": 96, "height": 64, "samples": 2},
    } | parts


def write_shot(folder: Path, code: str = "", **document) -> Path:
    """A shot of a model with this code, in a folder of its own."""
    (folder / "thing.py").write_text(HEADER + (code or "@model\ndef thing():\n    return pv.Cone()\n"))
    file = folder / "shot.json"
    source = {"kind": "model", "file": "thing.py"}
    file.write_text(json.dumps(shot_document(document.pop("source", source), **document)))
    return file


def asked(seen=MappingProxyType({}), dials=MappingProxyType({}), size=(96, 64), background="#000000", layout=None):
    """What a frame asks of its source."""
    return FrameRequest(dials, seen, size, layout or size, background)


def plan_on(stage, shot, at, size):
    """A shot's plan, for which a stage of this process measures the subject."""
    inputs = PlanInputs("test", SourceIdentity(at.kind, at.file.name, "0"), stage.facts(at), Subject(None))
    return plan_by_measuring(shot, inputs, lambda moments: stage.measure(at, moments, size) or Subject(None))


def vexel(*arguments, **environment) -> subprocess.CompletedProcess:
    """Run the command line in this process, which has everything loaded."""
    kept = {number: signal.getsignal(number) for number in (signal.SIGINT, signal.SIGTERM)}
    try:
        done = CliRunner().invoke(main, [*map(str, arguments)], prog_name="vexel", env=environment)
    finally:
        for number, handler in kept.items():
            signal.signal(number, handler)
    if done.exception and not isinstance(done.exception, SystemExit):
        raise done.exception
    return subprocess.CompletedProcess(arguments, done.exit_code, done.stdout, done.stderr)


def vexel_process(*arguments, **environment) -> subprocess.CompletedProcess:
    """Run the command line as a process of its own, as a shell does."""
    return subprocess.run(
        [sys.executable, "-m", "vexel", *map(str, arguments)],
        capture_output=True,
        stdin=subprocess.DEVNULL,
        text=True,
        timeout=300,
        env=os.environ | environment,
    )


class Server:
    """`vexel serve` in a process of its own, with a client that is let in.

    With `python` it is started by that interpreter, as in a shell.
    """

    def __init__(
        self, case, home: Path, command: str = "serve --trust", python: str = "", port: int = 0, **environment
    ) -> None:
        self.home = home
        self._log = (home.parent / f"{home.name}.log").open("w+")
        arguments = [*command.split(), "--home", str(home), "--port", str(port)]
        # Own projects and trusted code are recorded outside the project: here beside it.
        environment = os.environ | {"PYTHONUNBUFFERED": "1", "XDG_STATE_HOME": str(home.parent / "state")} | environment
        if python:
            command = [python, "-m", "vexel", *arguments]
            self.process = subprocess.Popen(command, stdout=self._log, stderr=subprocess.STDOUT, env=environment)
        else:
            self.process = ForkedServer(arguments, Path(self._log.name), environment)
        if isinstance(case, unittest.TestCase):
            case.addCleanup(self.end)
        self.start_url = self._wait_for_start()
        self.base = self.start_url.split("/?")[0]
        self.cookies = http.cookiejar.CookieJar()
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.cookies))
        with self._opener.open(self.start_url):
            pass

    def _wait_for_start(self) -> str:
        # Until it says so or ends, however slow the machine is.
        while True:
            self._log.seek(0)
            text = self._log.read()
            if found := re.search(r"http://\S+token=\S+", text):
                return found[0]
            if self.process.poll() is not None:
                raise AssertionError(text)
            time.sleep(0.05)

    def ask(self, path: str, body=None, method: str = "") -> tuple[int, Any]:
        """Status and body of an operation; JSON is read."""
        data = None if body is None else json.dumps(body).encode()
        return self._answered(path, data, method or ("GET" if body is None else "POST"), "application/json")

    def send(self, path: str, files) -> tuple[int, Any]:
        """The same for files that are brought, as a form sends them."""
        fields = [("files", (file.name, file.read_bytes())) for file in files]
        data, kind = urllib3.encode_multipart_formdata(fields)
        return self._answered(path, data, "POST", kind)

    def _answered(self, path: str, data, method: str, kind: str) -> tuple[int, Any]:
        headers = {"Content-Type": kind, "Origin": self.base}
        request = urllib.request.Request(self.base + path, data=data, method=method, headers=headers)
        try:
            with self._opener.open(request) as answer:
                status, data, kind = answer.status, answer.read(), answer.headers.get_content_type()
        except urllib.error.HTTPError as error:
            status, data, kind = error.code, error.read(), error.headers.get_content_type()
        return status, json.loads(data) if kind == "application/json" else data

    def fetch(self, path: str, headers: dict):
        """The open answer of an address."""
        return self._opener.open(urllib.request.Request(self.base + path, headers=headers), timeout=60)

    def wait_for_run(self, run_id: int, ready, seconds: float = 120) -> dict:
        """The run, as soon as `ready` says so of it."""
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            run = self.ask(f"/api/runs/{run_id}")[1]
            if ready(run):
                return run
            time.sleep(0.1)
        raise AssertionError(f"the run came to nothing: {run}")

    def kill(self) -> None:
        """End at once, as a power cut would."""
        self.process.kill()
        self.process.wait()

    def end(self) -> None:
        """End as a person does."""
        if self.process.poll() is None:
            self.process.terminate()
            self.process.wait(60)
        self._log.close()
