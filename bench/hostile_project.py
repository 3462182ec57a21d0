"""Opens a project from elsewhere that tries each known way to run code, to read outside, and to write outside.

    python -m bench.hostile_project

Every command and every address of the server is asked of it before its code is trusted. Nothing of it may run, no
secret may be in an answer or a file, and nothing outside may change. Then its code is trusted, and runs: so a project
that tries nothing is noticed. The kernel's isolation is off meanwhile, which would hold it back as well.
"""

import hashlib
import io
import json
import os
import pickle
import shutil
import tempfile
import zipfile
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from unittest import mock

from click.testing import CliRunner

from vexel.cli import main as command_line
from vexel.store.consent import Consent
from vexel.store.project import Project
from vexel.web.app import create_app
from vexel.web.guard import Guard
from vexel.web.openapi import document as openapi
from vexel.web.services import Services
from vexel.workers.bounds.isolation import OFF

PORT = 8137
HOST = {"Host": f"127.0.0.1:{PORT}"}
OWN = HOST | {"Origin": f"http://127.0.0.1:{PORT}"}
SECRET = "SECRET-of-the-person-7f3a"
KINDS = ("model", "sketch", "simulation", "series")
BODIES = {
    "model": "import pyvista as pv\nfrom vexel.author import model\n@model\ndef m():\n    return pv.Cone()\n",
    "sketch": "from vexel.author import sketch\n@sketch\ndef s(canvas):\n    pass\n",
    "simulation": (
        "from vexel.author import simulation\n@simulation(step=0.1)\nclass S:\n    def start(self):\n        return 0\n"
        "    def advance(self, state):\n        return state + 1\n    def show(self, canvas, state):\n        pass\n"
    ),
    "series": "from vexel.author import sketch\n@sketch\ndef s(canvas, slice):\n    pass\n",
}


class Ran:
    """A pickle that leaves a mark when it is read."""

    def __init__(self, mark: str) -> None:
        self.mark = mark

    def __reduce__(self) -> tuple[Any, ...]:
        return open, (self.mark, "w")


@dataclass
class Attack:
    """A hostile project beside a person's own things.

    Attributes
    ----------
    folder : Path
    breaches : list of str
        What it came to.
    asked : int
        Commands and addresses.
    """

    folder: Path
    breaches: list[str] = field(default_factory=list)
    asked: int = 0

    @property
    def home(self) -> Path:
        """The project."""
        return self.folder / "theirs"

    @property
    def mark(self) -> Path:
        """Left by code that ran."""
        return self.folder / "ran"

    def make(self) -> None:
        """Lay it all out."""
        person = self.folder / "person"
        person.mkdir(parents=True)
        (person / "id_rsa").write_text(SECRET)
        (person / "film.mp4").write_bytes(b"film")
        for name in ("shots", "reels", "sources"):
            (self.home / name).mkdir(parents=True)
        # Its own database, with runs that claim copies of other code, and texts in a history.
        project = Project(self.home)
        for name in (".project", ".session", ".push"):
            (self.home / name).write_text("x" * 43)
        evil = f"open({str(self.mark)!r}, 'w').close()\n"
        (self.home / "sources/t.csv").write_text("a,b\n1,2\n3,4\n")
        for kind in KINDS:
            (self.home / f"sources/{kind}.py").write_text(evil + BODIES[kind])
            source: dict[str, Any] = {"kind": kind, "file": f"../sources/{kind}.py"}
            if kind == "series":
                source = {"kind": kind, "file": "../sources/t.csv", "draw": "series.py"}
            self._shot(kind, source)
        page = f"<script>fetch('file://{person}/id_rsa').then(r=>r.text()).then(t=>document.title=t)</script>"
        (self.home / "sources/evil.html").write_text(page)
        self._shot("page", {"kind": "page", "file": "../sources/evil.html"})
        self._shot("outside", {"kind": "stills", "file": "../../person/id_rsa", "rate": "24"})
        playlist = f"#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nfile://{person}/id_rsa\n#EXT-X-ENDLIST\n"
        (self.home / "sources/list.mp4").write_text(playlist)
        self._shot("playlist", {"kind": "clip", "file": "../sources/list.mp4"})
        (self.home / "sources/leak.obj").write_text(f"mtllib ../../person/id_rsa\nmtllib {person}/id_rsa\nv 0 0 0\n")
        self._shot("mesh", {"kind": "object", "file": "../sources/leak.obj"})
        (self.home / "sources/link.py").symlink_to(person / "id_rsa")
        (self.home / "shots/linked.json").symlink_to(person / "id_rsa")
        (self.home / "elsewhere").mkdir()
        (self.home / "elsewhere/m.py").write_text(evil + BODIES["model"])
        document = _shot({"kind": "model", "file": "m.py"})
        (self.home / "elsewhere/evil.json").write_text(json.dumps(document))
        for place, shot in (("a", "../elsewhere/evil.json"), ("b", "../shots/x/../model.json"), ("c", "model.json")):
            items = [{"kind": "shot", "shot": shot}, {"kind": "reel", "reel": "a.json"}]
            reel = {"title": place, "rate": "12", "width": 96, "height": 64, "items": items[: 1 + (place == "b")]}
            (self.home / f"reels/{place}.json").write_text(json.dumps(reel))
        self._copies(evil)
        for kind in KINDS:
            run = project.ledger.begin(kind, _shot({"kind": kind, "file": f"../sources/{kind}.py"}), range(2))
            project.ledger.set(run, state="stopped")
        project.texts.save(self.home / "sources/model.py", (self.home / "sources/model.py").read_text() + "# theirs\n")
        self._archives()

    def _shot(self, name: str, source: dict[str, Any]) -> None:
        (self.home / f"shots/{name}.json").write_text(json.dumps(_shot(source) | {"title": name}))

    def _copies(self, evil: str) -> None:
        """Copies of each source with more in them than was shown."""
        from vexel.sources.files import source_files

        for kind in KINDS[:3]:
            main = self.home / f"sources/{kind}.py"
            digest = source_files(kind, main).digest
            for states in (f"copies/{digest}/.states", f"copies/states/{digest}"):
                for n in range(3):
                    (self.home / states / f"{n:024x}").mkdir(parents=True, exist_ok=True)
                    state = self.home / states / f"{n:024x}/{n + 1:012d}.state"
                    state.write_bytes(pickle.dumps(Ran(str(self.mark))))
            copy = self.home / "copies" / digest
            shutil.copyfile(main, copy / main.name)
            for name in ("numpy.py", "pyvista.py", "sitecustomize.py", ".names.json"):
                (copy / name).write_text(evil if name.endswith(".py") else json.dumps([main.name]))

    def _archives(self) -> None:
        with zipfile.ZipFile(self.folder / "hand.zip", "w") as held:
            for file in sorted(self.home.rglob("*")):
                if file.is_file() and not file.is_symlink():
                    held.write(file, str(file.relative_to(self.home)))
        for name, member in (("up.zip", "../person/film.mp4"), ("root.zip", "/tmp/film.mp4")):
            with zipfile.ZipFile(self.folder / name, "w") as held:
                held.writestr(member, "theirs")

    def outside(self) -> dict[str, str]:
        """What lies outside of it, by digest."""
        return {
            str(path): hashlib.sha256(path.read_bytes()).hexdigest()
            for path in (self.folder / "person").rglob("*")
            if path.is_file()
        }

    def note(self, what: str, said: str) -> None:
        """Look at what one command or address came to."""
        self.asked += 1
        if self.mark.exists():
            self.breaches.append(f"code ran by {what}")
            self.mark.unlink()
        if SECRET in said:
            self.breaches.append(f"the secret was read by {what}")
        if "Traceback" in said:
            self.breaches.append(f"a traceback by {what}")

    def by_commands(self) -> None:
        """Every command on every document."""
        out = self.folder / "out"
        shots, reels = sorted(self.home.rglob("shots/*.json")), sorted((self.home / "reels").glob("*.json"))
        orders: list[list[object]] = [["check", self.home, "--deep"], ["trust", self.home]]
        others = [self.home / "elsewhere/evil.json", self.home / "shots/../shots/model.json"]
        for number, shot in enumerate([*shots, *others]):
            take, files = out / f"t{number}", out / f"m{number}"
            orders += [["plan", shot], ["capture", shot, "--to", take], ["make", shot, "-o", f"{files}.mp4"]]
            orders += [["path", shot, "-o", f"{files}.csv"], ["path", shot, "--from", self.home / "sources/model.py"]]
            orders += [["handover", shot, "--take", take, "-o", f"{files}.zip"]]
        for number, reel in enumerate(reels):
            orders += [["plan", reel], *(["reel", reel, "-o", out / f"r{number}.{end}"] for end in ("mp4", "otio"))]
        for file in sorted((self.home / "sources").iterdir()):
            orders += [["inspect", file], ["compile", file, "-o", out / "c.mp4", "--rate", "24"]]
        for name in ("hand", "up", "root"):
            orders.append(["unpack", self.folder / f"{name}.zip", "--to", self.folder / f"unpacked-{name}"])
        orders += [
            ["capture", self.folder / f"unpacked-hand/shots/{kind}.json", "--to", out / f"u{kind}"] for kind in KINDS
        ]
        for order in orders:
            done = CliRunner().invoke(command_line, [str(word) for word in order], prog_name="vexel")
            odd = done.exception is not None and not isinstance(done.exception, SystemExit)
            said = done.output + (f"Traceback {done.exception!r}" if odd else "")
            self.note(f"vexel {' '.join(map(str, order))}", said)

    def by_server(self) -> None:
        """Every address of the server, with the names of its documents."""
        services = Services(Project(self.home), 1, Consent(self.home))
        guard = Guard("secret", PORT)
        client = create_app(services, guard).test_client()
        client.set_cookie(guard.cookie, "secret", domain="127.0.0.1")
        names = {"shot_id": [p.stem for p in (self.home / "shots").glob("*.json")], "reel_id": ["a", "b", "c"]}
        try:
            for path, operations in json.loads(openapi())["paths"].items():
                for method in operations:
                    # Consent and what the person brings are theirs to give.
                    if path.endswith(("/consent", "/code", "/sources", "/wrapped")) and method != "get":
                        continue
                    self._ask(client, method, path, names)
            self._settle(services)
        finally:
            services.close()

    def _ask(self, client: Any, method: str, path: str, names: dict[str, list[str]]) -> None:
        for name in names["shot_id"] if "{shot_id}" in path else names["reel_id"] if "{reel_id}" in path else [""]:
            address = path.replace("{shot_id}", name).replace("{reel_id}", name).replace("{name}", "h264")
            for part in ("run_id", "output_id", "frame", "number", "item", "which", "camera"):
                address = address.replace(f"{{{part}}}", "1")
            if "{" in address or (method == "delete"):
                continue
            body = {} if method == "get" else {"json": {"patch": {}, "what": "x", "recipes": [], "kind": "orbit"}}
            answer = getattr(client, method)(address, headers=HOST if method == "get" else OWN, **body)
            self.note(f"{method} {address}", answer.get_data().decode("utf-8", "replace")[:200_000])
            if answer.status_code >= 500 and answer.status_code != 507:
                self.breaches.append(f"status {answer.status_code} by {method} {address}: {answer.json}")

    def _settle(self, services: Services) -> None:
        """Let runs that were ordered end: they are refused when they begin."""
        import time

        for _ in range(600):
            if not any(state in ("queued", "running") for _, state, _ in services.project.ledger.states()):
                break
            time.sleep(0.1)
        self.note("the runs that were ordered", "")

    def trusted(self) -> None:
        """Its code runs once it is trusted: each of its shots of code leaves the mark."""
        CliRunner().invoke(command_line, ["trust", str(self.home), "--yes"], prog_name="vexel")
        for kind in KINDS:
            order = ["capture", str(self.home / f"shots/{kind}.json"), "--to", str(self.folder / f"trusted-{kind}")]
            CliRunner().invoke(command_line, order, prog_name="vexel")
            if not self.mark.exists():
                self.breaches.append(f"the {kind} tries nothing: this would notice no breach")
            self.mark.unlink(missing_ok=True)


def _shot(source: dict[str, Any]) -> dict[str, Any]:
    return {
        "title": "Theirs",
        "source": source,
        "clock": {"rate": "12", "frames": 2},
        "picture": {"width": 96, "height": 64, "samples": 1},
    }


def attack(folder: Path) -> Attack:
    """Make a hostile project and open it in every way."""
    made = Attack(folder)
    made.make()
    before = made.outside()
    made.by_commands()
    made.by_server()
    for file in folder.rglob("*"):
        if file.is_file() and "person" not in file.parts and not file.is_symlink():
            data = file.read_bytes() if file.suffix != ".zip" else _unpacked(file)
            if SECRET.encode() in data:
                made.breaches.append(f"the secret is in {file.relative_to(folder)}")
    if made.outside() != before:
        made.breaches.append("what lies outside was changed")
    made.trusted()
    return made


def _unpacked(file: Path) -> bytes:
    with zipfile.ZipFile(io.BytesIO(file.read_bytes())) as held:
        return b"".join(held.read(name) for name in held.namelist())


def main() -> None:
    """Print how often it was opened, and what came of that."""
    with tempfile.TemporaryDirectory(prefix="vexel-hostile-") as place:
        quiet = {"XDG_STATE_HOME": f"{place}/state", OFF: "off", "VEXEL_VIEW_SECONDS": "10"}
        with mock.patch.dict(os.environ, quiet):
            made = attack(Path(place) / "attack")
    print(f"hostile project: {made.asked} commands and addresses, {len(made.breaches)} breaches")
    for breach in made.breaches:
        print(f"  {breach}")
    raise SystemExit(1 if made.breaches else 0)


if __name__ == "__main__":
    main()
