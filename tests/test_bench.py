"""Each measuring script runs, and both of its sides make the right thing, with a few frames; nothing is timed."""

import importlib
import io
import os
import subprocess
import sys
import unittest
from contextlib import redirect_stdout
from pathlib import Path
from unittest import mock

from bench.__main__ import SCRIPTS

ROOT = Path(__file__).parents[1]
QUICKLY = {"VEXEL_BENCH_FEW": "1"}
WITH_BROWSER = tuple(name for name in SCRIPTS if "page_before" in (ROOT / f"bench/{name}.py").read_text())
"""A process has one browser of Playwright's, and the sources that other scripts open make it forget which."""


class BenchTest(unittest.TestCase):
    """A test for each script."""

    def here(self, name):
        said = io.StringIO()
        with mock.patch.dict(os.environ, QUICKLY), redirect_stdout(said):
            importlib.import_module(f"bench.{name}").main()
        return said.getvalue()

    def apart(self, name):
        order = [sys.executable, "-m", f"bench.{name}"]
        done = subprocess.run(order, cwd=ROOT, env=os.environ | QUICKLY, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout


def _runs(name):
    def test(self):
        said = (self.apart if name in WITH_BROWSER else self.here)(name)
        self.assertRegex(said, r"(?m)^.+: .+ \(budget .+\) not judged by a few frames$")

    return test


# What the journeys on screen go through too: with a few frames these add nothing but time.
LONG = (
    ("first_hour", "opening", "busy", "object_capture", "dispatch", "viewfinder", "foretell")
    if "VEXEL_TEST_LONG" not in os.environ
    else ()
)
for script in sorted(set(SCRIPTS) - set(LONG)):
    setattr(BenchTest, f"test_{script}", _runs(script))


if __name__ == "__main__":
    unittest.main()
