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

    def test_what_a_program_puts_together_belongs_to_it(self):
        for code, files, others in (
            ("H = Path(__file__).parent\n(H / 'data' / 'v.txt').read_text()", ["data/v.txt"], ["data/w.txt"]),
            ("open(os.path.join(HERE, 'data', 'v.txt'))", ["data/v.txt"], ["v.md"]),
            ("H.joinpath('data', 'v.txt')", ["data/v.txt"], []),
            ("sorted(Path(__file__).parent.glob('data/*.txt'))", ["data/v.txt", "data/w.txt"], ["data/x.csv"]),
            ("D = H / 'data'\nfor f in D.iterdir(): pass", ["data/v.txt", "data/deep/y.txt"], ["v.md"]),
            ("os.listdir(os.path.dirname(__file__))", ["v.md", "other.csv"], ["data/v.txt"]),
            ("for n in range(3): open(f'data/frame_{n:03}.txt')", ["data/frame_000.txt"], ["data/v.txt"]),
            ("import pkg.one", ["pkg/__init__.py", "pkg/one.py", "pkg/two.py", "pkg/sub/three.py"], ["pkg/four.py"]),
            ("importlib.import_module('pkg.four')", ["pkg/four.py"], ["pkg/one.py"]),
        ):  # fmt: skip
            with self.subTest(code):
                folder = scratch(self)
                for name in ("data/v.txt", "data/w.txt", "data/x.csv", "data/deep/y.txt", "data/frame_000.txt", "v.md",
                             "other.csv", "pkg/__init__.py", "pkg/four.py", ".hidden.txt"):  # fmt: skip
                    (folder / name).parent.mkdir(parents=True, exist_ok=True)
                    (folder / name).write_text("0")
                (folder / "pkg/sub").mkdir()
                (folder / "pkg/one.py").write_text("from .sub import three\nimport pkg.two")
                (folder / "pkg/two.py").write_text("")
                (folder / "pkg/sub/three.py").write_text("from ..one import x")
                (folder / "main.py").write_text(code)
                found = source_files("sketch", folder / "main.py")
                self.assertLessEqual(set(files), set(found.names))
                self.assertFalse(set(others) & set(found.names) or ".hidden.txt" in found.names, found.names)
                for name in files:
                    (folder / name).write_text((folder / name).read_text() + "\n# changed")
                    self.assertNotEqual(source_files("sketch", folder / "main.py").digest, found.digest, name)
                    found = source_files("sketch", folder / "main.py")

    def test_paths_that_lead_out_name_nothing(self):
        folder = scratch(self) / "in"
        folder.mkdir()
        (folder.parent / "secret.txt").write_text("x")
        (folder / "main.py").write_text("H.glob('../*.txt'); open('../secret.txt'); H / '..' / 'secret.txt'")
        self.assertEqual(source_files("sketch", folder / "main.py").names, ("main.py",))

    def test_the_copy_does_not_change_under_a_run(self):
        folder = scratch(self)
        (folder / "main.py").write_text("a\n")
        files = source_files("model", folder / "main.py")
        copy = files.copy_to(folder / "copies").main
        (folder / "main.py").write_text("b\n")
        self.assertEqual(copy.read_text(), "a\n")

    def test_a_copy_that_is_not_exactly_what_was_named_is_renewed(self):
        folder, copies, elsewhere = scratch(self), scratch(self), scratch(self)
        (folder / "main.py").write_text("import helper\n")
        (folder / "helper.py").write_text("x = 1\n")
        (elsewhere / "helper.py").write_text("x = 1\n")
        files = source_files("model", folder / "main.py")
        place = files.copy_to(copies).main.parent

        def kept():
            return copied(copies, "model", "main.py", files.digest, {})

        self.assertEqual(kept().folder, place)

        def put(name, text):
            (place / name).parent.mkdir(parents=True, exist_ok=True)
            (place / name).write_text(text)

        def link(name, to):
            (place / name).unlink(missing_ok=True)
            (place / name).symlink_to(to)

        for what, harm in (
            ("gone", lambda: (place / "main.py").unlink()),
            ("changed", lambda: put("helper.py", "x = 2\n")),
            ("emptied", lambda: put("helper.py", "")),
            ("a module more", lambda: put("numpy.py", "print('ran')\n")),
            ("a package more", lambda: put("helper/__init__.py", "print('ran')\n")),
            ("a compiled module", lambda: put("__pycache__/helper.cpython-311.pyc", "")),
            ("a state", lambda: put(".states/0/000000000001.state", "")),
            ("an empty folder", lambda: (place / "more").mkdir()),
            ("a link to the same", lambda: link("helper.py", elsewhere / "helper.py")),
            ("a folder that is a link", lambda: link("more", elsewhere)),
        ):
            with self.subTest(what):
                harm()
                self.assertIsNone(kept())
                self.assertEqual(files.copy_to(copies).main.read_text(), "import helper\n")
                self.assertEqual(sorted(p.name for p in place.iterdir()), ["helper.py", "main.py"])
                self.assertFalse((place / "helper.py").is_symlink())
        place.rename(elsewhere / "copy")
        place.symlink_to(elsewhere / "copy")
        self.assertIsNone(kept())
        self.assertEqual(files.copy_to(copies).main.read_text(), "import helper\n")
        self.assertFalse(place.is_symlink())
        self.assertEqual(sorted(path.name for path in copies.iterdir()), [files.digest])

    def test_a_copy_elsewhere_is_not_named_by_its_digest(self):
        folder, copies = scratch(self), scratch(self) / "copies"
        (folder / "main.py").write_text("x = 1\n")
        files = source_files("model", folder / "main.py")
        files.copy_to(copies)
        (copies.parent / "main.py").write_text("x = 1\n")
        for main, digest in (
            ("main.py", ".."),
            ("../../main.py", files.digest),
            (str(folder / "main.py"), files.digest),
        ):
            self.assertIsNone(copied(copies, "model", main, digest, {}))

    def test_hidden_files_and_the_database_belong_to_no_source(self):
        folder = scratch(self)
        (folder / ".git").mkdir()
        for name in (".git/config", ".env", "vexel.db", "vexel.db-wal", "tide.csv"):
            (folder / name).write_text("x")
        (folder / "main.py").write_text("a = ['.git/config', '.env', 'vexel.db', 'vexel.db-wal', 'tide.csv']\n")
        self.assertEqual(source_files("model", folder / "main.py").beside, ("tide.csv",))
        (folder / "index.html").write_text("<script src='.env'></script>")
        self.assertEqual(source_files("page", folder / "index.html").beside, ("tide.csv",))

    def test_code_that_draws_data_is_copied_with_its_modules(self):
        folder, copies = scratch(self), scratch(self)
        (folder / "t.csv").write_text("a,b\n1,2\n")
        (folder / "draw.py").write_text("import shades\n")
        (folder / "shades.py").write_text("x = 1\n")
        options = {"draw": "draw.py"}
        files = source_files("series", folder / "t.csv", options)
        self.assertEqual([path.name for path in files.code_of("series")[0]], ["draw.py", "shades.py"])
        copy = files.copy_to(copies)
        self.assertEqual(copy.main, folder / "t.csv")
        self.assertEqual(sorted(p.name for p in copy.drawing.parent.iterdir()), ["draw.py", "shades.py"])
        self.assertIsNotNone(copied(copies, "series", str(folder / "t.csv"), files.digest, options))
        (folder / "shades.py").write_text("x = 2\n")
        self.assertNotEqual(source_files("series", folder / "t.csv", options).digest, files.digest)
        self.assertIsNone(copied(copies, "series", str(folder / "t.csv"), files.digest, options))

    def test_several_may_copy_at_once(self):
        folder, copies = scratch(self), scratch(self)
        for round_number in range(10):
            (folder / "a.py").write_text(f"x = {round_number}\n" * 2_000)
            files = source_files("model", folder / "a.py")
            with ThreadPoolExecutor(8) as together:
                made = list(together.map(lambda _, f=files: f.copy_to(copies).main.read_text(), range(8)))
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
