"""What a person's code cannot do, whatever it tries, on a kernel that holds it to that."""

import json
import os
import subprocess
import sys
import unittest
from pathlib import Path
from unittest import mock

from tests.helpers import HEADER, scratch, write_shot
from vexel.core.errors import VexelError
from vexel.core.evaluate.source_facts import SourceAt
from vexel.store.consent import Consent
from vexel.store.project import Project
from vexel.store.user_files import person_folder, sealing_key
from vexel.web.services import Services
from vexel.workers.bounds.isolation import OFF
from vexel.workers.bounds.limits import Limits
from vexel.workers.bounds.project_reach import reach_in
from vexel.workers.stage_process import StageProcess

TRIES = """import ctypes, json, os, pathlib, signal
tried = {{}}


def attempt(name, act):
    try:
        tried[name] = [True, str(act())[:40]]
    except BaseException as error:
        tried[name] = [False, type(error).__name__]


home, person, elsewhere = map(pathlib.Path, {places!r})
libc = ctypes.CDLL(None)
attempt("read the session", lambda: (home / ".session").read_text() or 1 / 0)
attempt("read the key of programs", lambda: (home / ".push").read_text() or 1 / 0)
attempt("read the seal", lambda: (person / "secret").read_bytes())
attempt("read what is trusted", lambda: (person / "consent.json").read_bytes())
attempt("uncover them", lambda: libc.umount2(os.fsencode(person), 2) and 1 / 0)
attempt("uncover them anew", lambda: [libc.unshare(0x10020000), libc.umount2(os.fsencode(person), 2)][1] and 1 / 0)
attempt("trust itself", lambda: (person / "consent.json").write_text("{{}}"))
attempt("write a shot", lambda: (home / "shots/mine.json").write_text("{{}}"))
attempt("change a source", lambda: pathlib.Path(__file__).write_text("x = 1"))
attempt("write beside it", lambda: pathlib.Path("module.py").write_text("x = 1"))
attempt("change the database", lambda: open(home / "vexel.db", "r+b").write(b"x"))
attempt("cut a file", lambda: os.truncate(elsewhere / "kept", 0))
attempt("remove a file", lambda: (elsewhere / "kept").unlink())
attempt("link to a place", lambda: os.symlink("/", elsewhere / "link"))
attempt("end its asker", lambda: os.kill({asker}, signal.SIGTERM))
attempt("read its asker's memory", lambda: open("/proc/{asker}/mem", "rb").close())
attempt("write a frame", lambda: (home / "frames/mine").write_text("x"))
attempt("write a note", lambda: pathlib.Path(os.environ["TMPDIR"], "note").write_text("x"))
attempt("read data elsewhere", lambda: (elsewhere / "kept").read_text())
print(json.dumps(tried))


@model
def thing():
    return pv.Cone()
"""
WITHOUT_END = TRIES.replace("signal.SIGTERM", "0")
MAY = {"write a frame", "write a note", "read data elsewhere"}
SUPPORT = "from pathlib import Path; from vexel.workers.bounds.isolation import *; print(isolate(NOWHERE, Path()))"


def supported():
    told = subprocess.run([sys.executable, "-c", SUPPORT], capture_output=True, text=True).stdout
    return "False" not in told


@unittest.skipUnless(supported(), "this kernel has no Landlock with signals, or lets nobody make namespaces")
class IsolationTest(unittest.TestCase):
    def setUp(self):
        state = mock.patch.dict("os.environ", {"XDG_STATE_HOME": str(scratch(self))})
        state.start()
        self.addCleanup(state.stop)
        self.home = scratch(self) / "home"
        self.project = Project(self.home)
        self.project.secret(), self.project.push_key(), sealing_key("test")
        self.elsewhere = scratch(self)
        (self.elsewhere / "kept").write_text("kept")

    def source(self):
        places = [str(place) for place in (self.home, person_folder(), self.elsewhere)]
        file = self.home / "sources/thing.py"
        file.write_text(HEADER + TRIES.format(places=places, asker=os.getpid()))
        return file

    def tried(self, reach):
        at = SourceAt("model", self.source())
        stage = StageProcess(Limits(60, 2000), reach=reach)
        self.addCleanup(stage.close)
        stage.facts(at)
        return {name for name, (came, _) in json.loads(stage.printed(at)).items() if came}

    def test_it_reads_no_secret_and_changes_nothing(self):
        self.assertEqual(self.tried(reach_in(self.project)), MAY)
        self.assertEqual((self.elsewhere / "kept").read_text(), "kept")

    def test_each_of_these_is_possible_without_it(self):
        """So that a test that tries nothing is noticed; what ends this process is not tried."""
        with (
            mock.patch.dict("os.environ", {OFF: "off"}),
            mock.patch(f"{__name__}.TRIES", WITHOUT_END),
        ):
            came = self.tried(reach_in(self.project))
        self.assertLess(
            MAY | {"read the session", "read the seal", "write a shot", "write beside it"}, came | MAY | {""}
        )

    def test_code_that_writes_elsewhere_is_told_where_it_may(self):
        file = self.home / "sources/thing.py"
        file.write_text(HEADER + "open('log.txt', 'w')\n\n\n@model\ndef thing():\n    return pv.Cone()\n")
        stage = StageProcess(Limits(60, 2000), reach=reach_in(self.project))
        self.addCleanup(stage.close)
        with self.assertRaisesRegex(
            VexelError, "line 6: PermissionError.* may write into the folder that tempfile gives"
        ):
            stage.facts(SourceAt("model", file))

    def test_a_capture_is_held_to_it_too(self):
        places = [str(place) for place in (self.home, person_folder(), self.elsewhere)]
        came = f"[name for name, (came, _) in tried.items() if came and name not in {MAY!r}]"
        tries = TRIES.format(places=places, asker=os.getpid())
        write_shot(self.home / "shots", f"{tries}\nraise ValueError({came})\n", frames=2)
        services = Services(self.project, 1, Consent(self.home, trusted=True))
        self.addCleanup(services.close)
        with self.assertRaisesRegex(VexelError, r"ValueError: \[\]"):
            services.prepared(self.project.shots.shot("shot"))
        self.assertFalse((self.home / "shots/mine.json").exists())
        self.assertIn(".session", [path.name for path in Path(self.home).iterdir()])


if __name__ == "__main__":
    unittest.main()
