"""Which files decide a source's identity."""

import unittest
from concurrent.futures import ThreadPoolExecutor

from tests.helpers import scratch
from vexel.sources.files import copied, source_files


class FilesTest(unittest.TestCase):
    def test_a_change_of_anything_drawn_on_changes_the_digest(self):
        folder = scratch(self)
        (folder / "part").mkdir()
        for name, text in {
            "main.py": "import helper\nfrom part import fin\nopen('tide.csv')\n",
            "helper.py": "import deeper\n",
            "deeper.py": "x = 1\n",
            "part/__init__.py": "",
            "part/fin.py": "y = 1\n",
            "tide.csv": "1,2\n",
            "other.txt": "not used\n",
        }.items():
            (folder / name).write_text(text)
        before = source_files("model", folder / "main.py")
        drawn_on = ("deeper.py", "helper.py", "part/__init__.py", "part/fin.py", "tide.csv")
        self.assertEqual(before.beside, drawn_on)
        seen = {before.digest}
        for name in drawn_on:
            (folder / name).write_text((folder / name).read_text() + "# more\n")
            seen.add(source_files("model", folder / "main.py").digest)
        self.assertEqual(len(seen), 6)
        (folder / "other.txt").write_text("changed\n")
        self.assertIn(source_files("model", folder / "main.py").digest, seen)

    def test_the_copy_does_not_change_under_a_run(self):
        folder = scratch(self)
        (folder / "main.py").write_text("a\n")
        files = source_files("model", folder / "main.py")
        copy = files.copy_to(folder / "copies")
        (folder / "main.py").write_text("b\n")
        self.assertEqual(copy.read_text(), "a\n")

    def test_a_copy_that_is_damaged_or_gone_is_renewed(self):
        folder, copies = scratch(self), scratch(self)
        for name in ("main.py", "helper.py"):
            (folder / name).write_text("import helper\n")
        files = source_files("model", folder / "main.py")
        place = files.copy_to(copies).parent
        self.assertEqual(copied(copies, files.digest, "main.py"), place / "main.py")
        for name, harm in (
            ("main.py", lambda path: path.unlink()),
            ("helper.py", lambda path: path.write_text("import helper!\n")),
            ("helper.py", lambda path: path.write_bytes(b"")),
            (".names.json", lambda path: path.write_text("[]")),
        ):
            with self.subTest(name):
                harm(place / name)
                self.assertIsNone(copied(copies, files.digest, "main.py"))
                self.assertEqual(files.copy_to(copies).read_text(), "import helper\n")
                self.assertEqual((place / "helper.py").read_text(), "import helper\n")
        self.assertEqual(sorted(path.name for path in copies.iterdir()), [files.digest])

    def test_several_may_copy_at_once(self):
        folder, copies = scratch(self), scratch(self)
        for round_number in range(10):
            (folder / "a.py").write_text(f"x = {round_number}\n" * 2_000)
            files = source_files("model", folder / "a.py")
            with ThreadPoolExecutor(8) as together:
                made = list(together.map(lambda _, f=files: f.copy_to(copies).read_text(), range(8)))
            self.assertEqual(set(made), {(folder / "a.py").read_text()})
        self.assertEqual([path.name for path in copies.iterdir() if path.name.startswith(".")], [])

    def test_materials_and_textures_belong_to_an_obj(self):
        folder = scratch(self)
        (folder / "hull.obj").write_text("mtllib hull.mtl\n")
        (folder / "hull.mtl").write_text("newmtl a\nmap_Kd skin.png\n")
        (folder / "skin.png").write_bytes(b"x")
        self.assertEqual(source_files("object", folder / "hull.obj").beside, ("hull.mtl", "skin.png"))


if __name__ == "__main__":
    unittest.main()
