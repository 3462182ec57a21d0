"""The wheel: it holds all that Vexel needs beside its libraries, and starts in an environment without Node."""

import ast
import gzip
import re
import shutil
import subprocess
import sys
import sysconfig
import tomllib
import unittest
import venv
import zipfile
from importlib import metadata
from pathlib import Path

from tools import third_party

import vexel
from tests.helpers import Server, scratch

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/vexel"
DIST = SOURCE / "web/dist"
PROJECT = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]


def imported():
    """Top-level modules that the code imports."""
    for file in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module and node.level == 0:
                yield node.module.split(".")[0]
            elif isinstance(node, ast.Import):
                yield from (alias.name.split(".")[0] for alias in node.names)


def required():
    """Libraries that the application needs, with that of a cluster."""
    return [*PROJECT["dependencies"], *PROJECT["optional-dependencies"]["cluster"]]


class WheelTest(unittest.TestCase):
    def test_what_is_imported_is_declared_and_what_is_declared_is_used(self):
        declared = {re.split(r"[<>=]", name)[0] for name in required()}
        owners = metadata.packages_distributions()
        modules = set(imported()) - set(sys.stdlib_module_names) - {"vexel"}
        needed = {owners.get(module, [module])[0].lower().replace("_", "-") for module in modules}
        self.assertEqual(needed - declared, set(), "imported and not declared")
        # pandas reads Parquet through pyarrow, and imports it by itself.
        self.assertEqual(declared - needed, {"pyarrow"}, "declared and not used")

    def test_the_lock_pins_all_that_is_declared(self):
        pins = dict(
            line.split("==")
            for line in (ROOT / "requirements.txt").read_text().splitlines()
            if not line.startswith("#")
        )
        for requirement in required():
            self.assertIn(re.split(r"[<>=]", requirement)[0], pins)

    def test_its_version_is_that_of_the_code(self):
        self.assertEqual(PROJECT["version"], vexel.__version__)

    def test_the_notices_name_all_that_is_bundled(self):
        text = (ROOT / "THIRD-PARTY.md").read_text()
        self.assertEqual(text, third_party.notices(), "print it again with tools/third_party.py")
        for name in ("daisyui", "react", "tailwindcss", "@fontsource/atkinson-hyperlegible-next", "lucide-react"):
            self.assertIn(f"| {name} | ", text)

    def test_it_starts_the_demo_in_a_fresh_environment(self):
        folder = scratch(self)
        # What an earlier build left there would go into the wheel, also files that are gone since.
        shutil.rmtree(ROOT / "build", ignore_errors=True)
        build = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--wheel-dir", str(folder), str(ROOT)]
        subprocess.run([*build, "--disable-pip-version-check"], check=True, capture_output=True)
        (wheel,) = folder.glob("vexel_capture-*.whl")
        names = zipfile.ZipFile(wheel).namelist()
        for needed in (
            "web/dist/index.html",
            "sources/browser/page.js",
            "sources/browser/worker.js",
            "demo/sources/shell.py",
            "demo/shots/quay.json",
            "fonts/NotoColorEmoji.ttf",
            "store/migrations/versions/0008_reels.py",
            "store/migrations/script.py.mako",
            "py.typed",
        ):
            self.assertIn(f"vexel/{needed}", names)
        self.assertEqual([name for name in names if "tests" in name.split("/")[0]], [])
        self.assertIn("vexel_capture-0.1.0.dist-info/licenses/THIRD-PARTY.md", names)
        venv.create(folder / "env", with_pip=False)
        place = next((folder / "env/lib").glob("python*/site-packages"))
        zipfile.ZipFile(wheel).extractall(place)
        # The libraries are those of this environment, after the wheel: installing them anew would take minutes.
        (place / "libraries.pth").write_text(sysconfig.get_path("purelib"))
        python = str(folder / "env/bin/python")
        where = subprocess.run(
            [python, "-I", "-c", "import vexel; print(vexel.__file__)"], capture_output=True, text=True, cwd=folder
        )
        self.assertIn(str(place), where.stdout, where.stderr)
        server = Server(self, folder / "home", "demo", python=python, PATH="/usr/bin:/bin", PYTHONPATH="")
        self.assertIn(b"/assets/index-", server.fetch("/", {}).read())
        self.assertEqual(len(server.ask("/api/shots")[1]["shots"]), 14)


class FirstLoadTest(unittest.TestCase):
    def test_it_is_small(self):
        """Scripts and styles that the list of shots needs; the Bench and the rest come later."""
        page = (DIST / "index.html").read_text()
        names = re.findall(r'"/(assets/[^"]+\.(?:js|css))"', page)
        self.assertGreaterEqual(len(names), 2)
        self.assertLess(sum(len(gzip.compress((DIST / name).read_bytes(), 9)) for name in names), 120_000)


if __name__ == "__main__":
    unittest.main()
