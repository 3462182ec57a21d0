"""A hand-over: checked by sha256sum, opened elsewhere, and the same frames made there once its code was seen."""

import json
import os
import subprocess
import unittest
from unittest import mock

from tests.helpers import HEADER, scratch, vexel


class HandoverTest(unittest.TestCase):
    def test_it_goes_elsewhere_and_makes_the_same_frames(self):
        folder = scratch(self)
        # What was agreed to is remembered by its content, for all projects.
        remembered = mock.patch.dict(os.environ, XDG_STATE_HOME=str(scratch(self)))
        self.enterContext(remembered)
        (folder / "mast.py").write_text(HEADER + "@model\ndef mast():\n    return pv.Cone()\n")
        shot = folder / "mast.json"
        shot.write_text(json.dumps({
            "title": "Mast", "source": {"kind": "model", "file": "mast.py"}, "clock": {"rate": "24", "frames": 3},
            "picture": {"width": 64, "height": 48, "samples": 1},
        }))  # fmt: skip
        self.assertEqual(vexel("capture", shot, "--to", folder / "take").returncode, 0)
        packed = folder / "mast.zip"
        for _ in range(2):
            made = vexel("handover", shot, "--take", folder / "take", "-o", packed)
        self.assertIn("is there already: choose another name, or add --overwrite", made.stderr)
        there = scratch(self) / "there"
        self.assertEqual(vexel("unpack", packed, "--to", there).returncode, 0)
        self.assertIn("already holds files", vexel("unpack", packed, "--to", there).stderr)
        subprocess.run(["sha256sum", "--check", "--strict", "SHA256SUMS"], cwd=there, check=True, capture_output=True)
        names = {str(file.relative_to(there)) for file in there.rglob("*") if file.is_file()}
        wanted = {
            "README.txt",
            "shots/mast.json",
            "sources/mast.py",
            "take/take.json",
            "camera/path.csv",
            "camera/path.gltf",
        }
        self.assertLess(wanted, names)
        again = there.parent / "again"
        refused = vexel("capture", there / "shots/mast.json", "--to", again)
        self.assertIn("mast.py came with a project from elsewhere and has not been run", refused.stderr)
        self.assertEqual(vexel("agree", there, "--yes").returncode, 0)
        allowed = vexel("capture", there / "shots/mast.json", "--to", again)
        self.assertEqual(allowed.returncode, 0, allowed.stderr)
        for file in (folder / "take").glob("*.png"):
            self.assertEqual(file.read_bytes(), (again / file.name).read_bytes())

    def test_what_is_not_there_is_said(self):
        folder = scratch(self)
        self.assertEqual(vexel("unpack", folder / "a.zip", "--to", folder / "b").returncode, 2)
        (folder / "a.zip").write_text("no archive")
        self.assertIn("a.zip", vexel("unpack", folder / "a.zip", "--to", folder / "b").stderr)


if __name__ == "__main__":
    unittest.main()
