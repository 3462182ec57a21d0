"""What a file names lies in its own folder, or the file is refused: nothing is read or written elsewhere."""

import json
import unittest
from pathlib import Path

from tests.helpers import scratch
from vexel.core.errors import Mistake
from vexel.output.footage.footage import footage_of
from vexel.sources.contained_path import contained_file
from vexel.sources.files import source_files
from vexel.sources.kinds.series import SeriesFile

TRIANGLE = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"
OUTSIDE = ("../secret", "a/../../secret", "%2e%2e/secret", "link.json")


class InsideTest(unittest.TestCase):
    def setUp(self):
        self.top = scratch(self)
        self.folder = self.top / "sources/thing"
        self.folder.mkdir(parents=True)
        self.secret = self.top / "sources/secret"
        self.secret.write_text("secret")
        (self.folder / "link.json").symlink_to(self.secret)
        (self.folder / "own.mtl").write_text("newmtl a\n")

    def write(self, name, text) -> Path:
        (self.folder / name).write_text(text)
        return self.folder / name

    def refused(self, kind, file, name):
        with self.assertRaisesRegex(Mistake, "which is outside its folder"):
            source_files(kind, file).copy_to(self.top / "copies")
        self.assertFalse((self.top / "copies").exists(), (kind, name))

    def test_one_function_decides(self):
        for name in (*OUTSIDE, str(self.secret), "/etc/hostname", ".."):
            with self.subTest(name), self.assertRaisesRegex(Mistake, "a.obj names .* which is outside its folder"):
                contained_file(self.folder, name, "a.obj")
        for name in ("own.mtl", "./own.mtl", "a/../own.mtl"):
            self.assertEqual(contained_file(self.folder, name, "a.obj"), self.folder / "own.mtl")

    def test_meshes_that_name_files_elsewhere_are_refused(self):
        for name in (*OUTSIDE, str(self.secret)):
            self.refused("object", self.write("a.obj", f"mtllib {name}\n{TRIANGLE}"), name)
            self.write("colours.mtl", f"newmtl a\nmap_Kd {name}\n")
            self.refused("object", self.write("a.obj", f"mtllib colours.mtl\n{TRIANGLE}"), name)
            for part in ("images", "buffers"):
                document = {"asset": {"version": "2.0"}, part: [{"uri": name}]}
                self.refused("object", self.write("a.gltf", json.dumps(document)), name)
        self.assertEqual(self.secret.read_text(), "secret")

    def test_what_lies_inside_is_copied(self):
        file = self.write("a.obj", f"mtllib a/../own.mtl\n{TRIANGLE}")
        main = source_files("object", file).copy_to(self.top / "copies").main
        self.assertEqual(sorted(path.name for path in main.parent.glob("[!.]*")), ["a.obj", "own.mtl"])

    def test_links_of_pages_and_code_lead_nowhere_else(self):
        self.refused("page", self.write("index.html", "<p>hello</p>"), "link.json")
        (self.folder / "shared.py").symlink_to(self.secret)
        self.refused("model", self.write("a.py", "import shared\n"), "shared.py")

    def test_collections_and_ledgers_too(self):
        collection = '<VTKFile type="Collection"><Collection><DataSet timestep="0" file="{}"/></Collection></VTKFile>'
        file = self.write("a.pvd", collection.format("../secret"))
        with self.assertRaisesRegex(Mistake, "a.pvd names ../secret, which is outside its folder"):
            SeriesFile(file)
        shot = {
            "title": "T", "source": {"kind": "stills", "file": "a.png", "rate": "24"},
            "clock": {"rate": "24", "frames": 1},
        }  # fmt: skip
        ledger = {"vexel": 1, "shot": shot, "frames": [{"number": 0, "state": "made", "file": "../secret"}]}
        self.write("take.json", json.dumps(ledger))
        with self.assertRaisesRegex(Mistake, "take.json names ../secret"):
            footage_of(self.folder, "")


if __name__ == "__main__":
    unittest.main()
