"""Imports run one way, and the core imports nothing of Vexel outside itself."""

import ast
import unittest
from pathlib import Path

import vexel
from tests.helpers import scratch

ROOT = Path(vexel.__file__).parent
MAY_IMPORT = {
    "core": set(),
    "disk": {"core"},
    "imaging": {"core"},
    "sources": {"core", "disk", "imaging"},
    "author": {"core", "sources"},
    "stage": {"core", "imaging", "sources"},
    "store": {"core", "disk"},
    "interchange": {"core", "sources"},
    "workers": {"core", "disk", "interchange", "sources", "stage", "store"},
    "output": {"core", "disk", "imaging", "sources", "stage", "store"},
    "demo": {"core"},
    "web": {"core", "disk", "imaging", "sources", "stage", "store", "workers", "interchange", "output", "demo"},
    "recording": {"core", "disk", "imaging", "sources", "stage", "store"},
    "cli": {"core", "disk", "store", "workers", "interchange", "output", "demo", "web"},
    "__main__": {"cli"},
}
ROOMS = ("time", "lanes", "camera", "recipes", "document", "reel", "sweep", "evaluate", "edits", "checks", "forecast")
"""Packages of the core; each may import those before it."""
INNER = {
    "output": (
        "page",
        "reading",
        "footage",
        "mp4",
        "job",
        "origin",
        "writers",
        "proving",
        "compiling",
        "inspecting",
        "exporting",
        "reel",
        "reviewing",
        "bounded",
    ),
    "stage": ("lines", "scene", "blending"),
    "sources": ("pictures", "meshes", "video", "code", "data", "browser", "scripts", "kinds"),
    "store": ("recordings", "migrations", "documents", "reviews", "storage"),
    "web": ("forms", "schemas", "jobs", "routes"),
}
"""Packages within others; each may import those before it."""
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


def back_edges(package, rooms):
    """Imports from a room of a package into a later one."""
    for file in package.glob("*/*.py"):
        for name in imported(file):
            _, top, other, *_ = (*name.split("."), "", "")
            if top == package.name and other in rooms and rooms.index(other) > rooms.index(file.parent.name):
                yield f"{file} imports {name}"


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

    def test_rooms_within_rooms_have_no_back_edges(self):
        for package, rooms in INNER.items():
            there = {folder.parent.name for folder in (ROOT / package).glob("*/__init__.py")}
            self.assertEqual(there - set(rooms), set())
            self.assertEqual(list(back_edges(ROOT / package, rooms)), [])

    def test_a_back_edge_is_found(self):
        package = scratch(self) / "output"
        (package / "writers").mkdir(parents=True)
        (package / "writers/video.py").write_text("from vexel.output.proving.prove import receipt_of\n")
        (package / "writers/gif.py").write_text("from vexel.output.job.job import Job\n")
        (found,) = back_edges(package, INNER["output"])
        self.assertIn("video.py imports vexel.output.proving.prove", found)

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
