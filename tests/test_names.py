"""Names in backticks exist, and the glossary, the screen, the command line and the schemas use the same terms."""

import ast
import builtins
import json
import re
import subprocess
import unittest
from functools import cache
from pathlib import Path

from tools import command_guide

from vexel.web.openapi import document as openapi_document

ROOT = Path(__file__).parents[1]
WORD = re.compile(r"[A-Za-z_]\w*")
QUOTED = re.compile(r"(`+)([A-Za-z_][\w.]*)(?:\(\))?\1(?!`)")
INVENTED = {"ripple", "v1", "v1.2.3"}
"""Names in examples, and those of other libraries."""
OTHERS = {"StsNoMem"}
OLDER = {
    "anew": "again", "brought": "imported", "cross-fade": "cross-dissolve", "darkroom": "dark", "joint": "transition",
    "lighttable": "light", "mend": "fix", "mended": "fixed", "reckon": "plan", "reckoning": "timing", "rough": "draft",
}  # fmt: skip
"""Words that are no longer used, and their successors."""


@cache
def tracked():
    files = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True, check=True).stdout.split()
    return [ROOT / file for file in files]


def code():
    return [file for file in tracked() if file.suffix == ".py"]


@cache
def known():
    """All words of the code outside backticks, and the names of files and folders."""
    found = set(dir(builtins)) | OTHERS
    for file in tracked():
        found.update(WORD.findall(str(file.relative_to(ROOT))))
        if file.suffix in (".py", ".ts", ".tsx", ".js", ".toml", ".sh") or file.name == "Makefile":
            found.update(WORD.findall(re.sub(r"`+[^`]*`+", "", file.read_text())))
    return found


def unknown_in(text):
    """Names in single or double backticks that nothing has."""
    names = [match[2] for match in QUOTED.finditer(text) if len(match[1]) < 3]
    return [name for name in names if name not in INVENTED and set(WORD.findall(name)) - known()]


class NamesTest(unittest.TestCase):
    def test_names_in_docstrings_exist(self):
        for file in code():
            for node in ast.walk(ast.parse(file.read_text())):
                if isinstance(node, ast.Constant) and isinstance(node.value, str) and "`" in node.value:
                    self.assertEqual(unknown_in(node.value), [], f"{file.relative_to(ROOT)}:{node.lineno}")

    def test_names_in_documents_exist(self):
        for file in tracked():
            if file.suffix == ".md" and file.name not in ("CHANGELOG.md", "THIRD-PARTY.md"):
                text = re.sub(r"```.*?```", "", file.read_text(), flags=re.DOTALL)
                self.assertEqual(unknown_in(text), [], file.name)

    def test_a_name_that_nothing_has_is_found(self):
        made_up = "Shot" + "Keeper"
        self.assertEqual(unknown_in(f"See `{made_up}.open` and ``{made_up.lower()}``, or `Shot`."),
                         [f"{made_up}.open", made_up.lower()])  # fmt: skip


def texts_of_screen():
    """Labels, hints and texts of the interface."""
    for file in tracked():
        if file.suffix == ".tsx" and "ui/src" in str(file):
            text = re.sub(r"/\*.*?\*/|//[^\n]*|className=\"[^\"]*\"", "", file.read_text(), flags=re.DOTALL)
            yield from re.findall(r'"([^"\n=;]* [^"\n=;]*)"|>([^<>{}=;]*[A-Za-z][^<>{}=;]*)<', text)


def descriptions(value):
    """Titles, summaries and descriptions of a document in OpenAPI."""
    if isinstance(value, dict):
        for key, inner in value.items():
            if key in ("title", "summary", "description") and isinstance(inner, str):
                yield inner
            yield from descriptions(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from descriptions(inner)


class GlossaryTest(unittest.TestCase):
    def texts(self):
        guides = [file.read_text() for file in (ROOT / "docs/guides").glob("*.md")]
        return {
            "screen": " ".join(" ".join(pair) for pair in texts_of_screen()),
            "command line": command_guide.guide(),
            "schemas": " ".join(descriptions(json.loads(openapi_document()))),
            "guides": " ".join(guides) + (ROOT / "README.md").read_text(),
        }

    def test_its_terms_are_used_and_short(self):
        sections = re.findall(r"^## (.+)\n((?:(?!## ).*\n?)*)", (ROOT / "docs/GLOSSARY.md").read_text(), re.MULTILINE)
        self.assertGreater(len(sections), 16)
        texts = {name: text.lower() for name, text in self.texts().items()}
        for term, text in sections:
            self.assertLessEqual(len(text.strip().splitlines()), 10, term)
            used = [name for name, where in texts.items() if re.search(rf"\b{term.lower()}", where)]
            self.assertGreaterEqual(len(used), 2, f"{term} appears in {used} only")

    def test_older_words_are_gone(self):
        for name, text in self.texts().items():
            for word, newer in OLDER.items():
                with self.subTest(name, word=word):
                    found = re.search(rf".{{0,40}}\b{word}\b.{{0,40}}", text)
                    self.assertIsNone(found, f"{found and found[0]!r}: say {newer}")


if __name__ == "__main__":
    unittest.main()
