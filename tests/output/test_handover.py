"""A hand-over: checked by sha256sum, opened elsewhere, and the same frames made there once its code was seen."""

import json
import os
import subprocess
import unittest
import zipfile
from unittest import mock

import numpy as np

from tests.helpers import HEADER, scratch, shot_document, vexel
from vexel.imaging.image_bytes import encoded_png
from vexel.workers.bounds.isolation import OFF


class HandoverTest(unittest.TestCase):
    def test_it_goes_elsewhere_and_makes_the_same_frames(self):
        folder = scratch(self)
        # Trust is remembered by its content, for all projects.
        remembered = mock.patch.dict(os.environ, XDG_STATE_HOME=str(scratch(self)))
        self.enterContext(remembered)
        (folder / "mast.py").write_text(HEADER + "@model\ndef mast():\n    return pv.Cone()\n")
        shot = folder / "mast.json"
        shot.write_text(json.dumps({
            "title": "Mast", "source": {"kind": "model", "file": "mast.py"}, "clock": {"rate": "24", "frames": 3},
            "picture": {"width": 64, "height": 48, "samples": 1},
        }))  # fmt: skip
        self.assertEqual(vexel("capture", shot, "--to", folder / "take").returncode, 0)
        shorter = folder / "shorter.json"
        shorter.write_text(shot.read_text().replace('"frames": 3', '"frames": 2'))
        refused = vexel("handover", shorter, "--take", folder / "take", "-o", folder / "wrong.zip")
        self.assertIn("is not a take of the present shorter.json: 2 frames differ, the first is", refused.stderr)
        self.assertFalse((folder / "wrong.zip").exists())
        packed, film = folder / "mast.zip", folder / "mast.mp4"
        self.assertEqual(vexel("compile", folder / "take", "-o", film).returncode, 0)
        twice = vexel("handover", shot, "--take", folder / "take", "-o", packed, "--with", film, "--with", film)
        self.assertIn("two files called mast.mp4", twice.stderr)
        for _ in range(2):
            made = vexel("handover", shot, "--take", folder / "take", "-o", packed, "--with", film)
        self.assertIn("already exists: choose another name, or add --overwrite", made.stderr)
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
            "files/mast.mp4",
        }
        self.assertLess(wanted, names)
        again = there.parent / "again"
        refused = vexel("capture", there / "shots/mast.json", "--to", again)
        self.assertIn("mast.py came with a project that you received and has not been run", refused.stderr)
        self.assertEqual(vexel("agree", there, "--yes").returncode, 0)
        allowed = vexel("capture", there / "shots/mast.json", "--to", again)
        self.assertEqual(allowed.returncode, 0, allowed.stderr)
        for file in (folder / "take").glob("*.png"):
            self.assertEqual(file.read_bytes(), (again / file.name).read_bytes())

    def handed(self, source, files, name="t"):
        """The names in a hand-over of a shot of these files, and what was listed before it was written."""
        folder = scratch(self)
        for path, data in files.items():
            (folder / path).parent.mkdir(parents=True, exist_ok=True)
            (folder / path).write_bytes(data)
        shot = folder / "t.json"
        shot.write_text(json.dumps({
            "title": "T", "source": source, "clock": {"rate": "24", "frames": 2},
            "picture": {"width": 64, "height": 48, "samples": 1},
        }))  # fmt: skip
        self.assertEqual(
            (done := vexel("capture", shot, "--to", folder / "take", "--trust")).returncode, 0, done.stderr
        )
        order = ("handover", shot, "--take", folder / "take", "-o", folder / "t.zip")
        listed = vexel(*order, "--list").stdout
        self.assertFalse((folder / "t.zip").exists())
        self.assertEqual((done := vexel(*order, "--trust")).returncode, 0, done.stderr)
        with zipfile.ZipFile(folder / "t.zip") as held:
            names = {name for name in held.namelist() if name.startswith("sources/")}
        self.assertEqual({line.split("  ")[1] for line in listed.splitlines()}, names)
        return names

    def test_it_holds_what_the_source_loads_and_no_secret(self):
        page = b"<html><body>x<img src='in/logo.png'><script src='a.js'></script></body></html>"
        secrets = {".git/config": b"token", ".ssh/id_rsa": b"key", "id_rsa": b"key", "vexel.db": b"db", ".env": b"x"}
        page_files = {"index.html": page, "in/logo.png": b"", "a.js": b"", "data/7.json": b"{}", "notes.docx": b""}
        self.assertEqual(
            self.handed(
                {"kind": "page", "file": "site/index.html"},
                {f"site/{name}": data for name, data in (page_files | secrets).items()},
            ),
            {"sources/index.html", "sources/in/logo.png", "sources/a.js", "sources/data/7.json"},
        )

    def test_it_holds_all_pictures_and_the_code_that_draws_data(self):
        stills = {f"s/{n:03d}.png": encoded_png(np.full((48, 64, 3), 9 * n, np.uint8)) for n in range(3)}
        self.assertEqual(
            self.handed({"kind": "stills", "file": "s/001.png", "rate": "24"}, stills),
            {f"sources/{n:03d}.png" for n in range(3)},
        )
        draw = b"import skia\nimport shades\nfrom vexel.author import sketch\n@sketch\ndef d(canvas, slice): pass\n"
        table = {"a.csv": b"t,v\n0,1\n1,2\n", "d.py": draw, "shades.py": b"x = 1\n", "other.py": b""}
        self.assertEqual(
            self.handed({"kind": "series", "file": "a.csv", "draw": "d.py"}, table),
            {"sources/a.csv", "sources/d.py", "sources/shades.py"},
        )

    def test_what_is_unpacked_is_from_elsewhere_whoever_made_it(self):
        folder = scratch(self)
        state = {"XDG_STATE_HOME": str(folder / "state"), OFF: "off"}
        code = f"open({str(folder / 'ran')!r}, 'w')\n{HEADER}@model\ndef mast():\n    return pv.Cone()\n"
        shot = json.dumps(shot_document({"kind": "model", "file": "../sources/mast.py"}, 2))
        with zipfile.ZipFile(folder / "a.zip", "w") as held:
            held.writestr("shots/mast.json", shot)
            held.writestr("sources/mast.py", code)
        self.assertEqual(vexel("unpack", folder / "a.zip", "--to", folder / "there", **state).returncode, 0)
        # Another program unpacks it without a mark; it looks like a project all the same.
        with zipfile.ZipFile(folder / "a.zip") as held:
            held.extractall(folder / "other")
        (folder / "loose.json").write_text(shot.replace("../sources", "other/sources"))
        (folder / "links").symlink_to("other/shots")
        for number, document in enumerate((
            "there/shots/mast.json", "other/shots/mast.json", "other/../other/shots/../shots/mast.json",
            "loose.json", "links/mast.json",
        )):  # fmt: skip
            with self.subTest(document):
                done = vexel("capture", folder / document, "--to", folder / f"take{number}", **state)
                self.assertIn("mast.py came with a project that you received", done.stderr)
                self.assertEqual(done.returncode, 1)
        self.assertFalse((folder / "ran").exists())

    def test_what_is_not_there_is_said(self):
        folder = scratch(self)
        self.assertEqual(vexel("unpack", folder / "a.zip", "--to", folder / "b").returncode, 2)
        (folder / "a.zip").write_text("no archive")
        self.assertIn("a.zip", vexel("unpack", folder / "a.zip", "--to", folder / "b").stderr)


if __name__ == "__main__":
    unittest.main()
