"""The guides say what the application says: every finding has its paragraph, every link leads somewhere."""

import re
import unittest
from pathlib import Path
from typing import get_args

import click
from tools import command_guide

import vexel
from vexel.cli import main
from vexel.core.finding import FindingName

ROOT = Path(vexel.__file__).parent
GUIDES = ROOT.parents[1] / "docs/guides"


def anchors(guide):
    """Names under which the headings of a guide are linked to."""
    headings = re.findall(r"^#+ (.+)$", guide.read_text(), re.MULTILINE)
    return {re.sub(r"[^a-z0-9]+", "-", heading.lower()).strip("-") for heading in headings}


class GuidesTest(unittest.TestCase):
    def test_every_finding_has_its_paragraph(self):
        names = set(get_args(FindingName))
        self.assertGreater(len(names), 30)
        self.assertEqual(names - anchors(GUIDES / "findings.md"), set())

    def test_files_that_the_documents_name_are_there(self):
        documents = [*ROOT.parents[1].glob("docs/*.md"), *GUIDES.glob("*.md"), *ROOT.parents[1].glob("*.md")]
        for document in documents:
            for name in re.findall(r"`((?:[\w.]+/)+[\w.]+\.(?:py|ts|js))`", document.read_text()):
                there = any((base / name).is_file() for base in (ROOT, ROOT.parents[1]))
                self.assertTrue(there, f"{document.name} names {name}")

    def test_the_guide_to_the_commands_lists_each_option_as_it_is(self):
        text = command_guide.guide()
        self.assertEqual((GUIDES / "commands.md").read_text(), text, "print it again with tools/command_guide.py")
        for name, command in main.commands.items():
            for option in command.params:
                if isinstance(option, click.Option) and not option.hidden:
                    self.assertTrue(option.help, f"vexel {name} {option.opts[0]} has no help")

    def test_links_between_guides_lead_somewhere(self):
        for guide in GUIDES.glob("*.md"):
            for name, anchor in re.findall(r"\]\(([\w-]*\.md)?(?:#([\w-]+))?\)", guide.read_text()):
                target = GUIDES / name if name else guide
                self.assertTrue(target.is_file(), (guide.name, name))
                if anchor:
                    self.assertIn(anchor, anchors(target), guide.name)


if __name__ == "__main__":
    unittest.main()
