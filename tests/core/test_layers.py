"""Imports run one way, and the core imports nothing of Vexel outside itself."""

import ast
import unittest
from pathlib import Path

import vexel

ROOT = Path(vexel.__file__).parent
MAY_IMPORT = {
    "core": set(),
    "disk": {"core"},
    "sources": {"core", "disk"},
    "author": {"core", "sources"},
    "stage": {"core", "sources"},
    "store": {"core", "disk"},
    "interchange": {"core", "sources"},
    "crew": {"core", "disk", "interchange", "sources", "stage", "store"},
    "output": {"core", "disk", "sources", "stage", "store"},
    "demo": {"core"},
    "web": {"core", "disk", "sources", "stage", "store", "crew", "interchange", "output", "demo"},
    "recording": {"core", "disk", "sources", "stage", "store"},
    "cli": {"core", "disk", "store", "crew", "interchange", "output", "demo", "web"},
}
ROOMS = ("time", "lanes", "camera", "recipes", "document", "reel", "evaluate", "edits", "checks")
"""Packages of the core; each may import those before it."""
SIBLINGS = {("lanes", "camera"), ("camera", "lanes")}
MOST_FILES = 16
"""A folder of more modules than this is to have rooms of its own."""
CORE_LIBRARIES = {"numpy", "scipy", "pydantic"}


def imported(file):
    for node in ast.walk(ast.parse(file.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module:
            yield node.module
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


class LayersTest(unittest.TestCase):
    def test_imports_run_one_way(self):
        for file in ROOT.rglob("*.py"):
            part = file.relative_to(ROOT).parts[0].removesuffix(".py")
            if part == "__init__" or "demo/sources" in str(file):
                continue
            for name in imported(file):
                if name.startswith("vexel.") and (other := name.split(".")[1]) != part:
                    self.assertIn(other, MAY_IMPORT[part], f"{file} imports {name}")

    def test_rooms_of_the_core_have_no_back_edges(self):
        for file in (ROOT / "core").rglob("*.py"):
            room = file.relative_to(ROOT / "core").parts[0]
            for name in imported(file):
                if not name.startswith("vexel.core."):
                    continue
                other = name.split(".")[2]
                if other in ROOMS and other != room:
                    self.assertIn(room, ROOMS, f"{file} is of no room, and imports {name}")
                    self.assertLess(ROOMS.index(other), ROOMS.index(room), f"{file} imports {name}")
                    self.assertNotIn((room, other), SIBLINGS, f"{file} imports {name}")

    def test_no_folder_is_a_heap(self):
        for folder in {file.parent for file in ROOT.rglob("*.py")}:
            modules = [file for file in folder.glob("*.py") if file.stem != "__init__"]
            self.assertLessEqual(len(modules), MOST_FILES, folder)

    def test_core_stands_on_few_libraries(self):
        import sys

        for file in (ROOT / "core").rglob("*.py"):
            for name in imported(file):
                top = name.split(".")[0]
                self.assertIn(top, {"vexel", *CORE_LIBRARIES, *sys.stdlib_module_names}, f"{file} imports {name}")


if __name__ == "__main__":
    unittest.main()
