"""Shots with their history, and the database's migrations."""

import json
import threading
import unittest

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext

from tests.helpers import scratch, shot_document
from vexel.core.errors import Mistake
from vexel.core.merge import merged
from vexel.core.shot import Shot, read_shot
from vexel.store.database import open_database
from vexel.store.history import history_findings
from vexel.store.project import Project
from vexel.store.tables import Base


class ShotShelfTest(unittest.TestCase):
    def setUp(self):
        self.shelf = Project(scratch(self) / "home").shots
        document = shot_document({"kind": "object", "file": "a.obj"})
        self.id = self.shelf.add(Shot.model_validate(document, strict=False)).id

    def rate(self):
        return json.loads((self.shelf.folder / f"{self.id}.json").read_text())["clock"]["rate"]

    def test_edits_are_saved_undone_and_redone(self):
        for rate in ("24", "25", "30"):
            self.shelf.edit(self.id, {"clock": {"rate": rate}}, f"the rate {rate}")
        self.assertEqual(self.rate(), "30")
        self.assertEqual(self.shelf.undo(self.id).undo, "the rate 25")
        self.assertEqual((self.rate(), self.shelf.get(self.id).redo), ("25", "the rate 30"))
        self.shelf.redo(self.id)
        self.assertEqual(self.rate(), "30")
        self.shelf.undo(self.id)
        self.shelf.edit(self.id, {"clock": {"rate": "50"}}, "another")
        self.assertEqual(self.shelf.get(self.id).redo, "", "a new edit ends what could be redone")
        for _ in range(9):
            self.shelf.undo(self.id)
        self.assertEqual(self.rate(), "12")

    def test_a_wrong_edit_changes_nothing(self):
        before = self.shelf.get(self.id)
        with self.assertRaisesRegex(Mistake, "clock.rate: rate 0"):
            self.shelf.edit(self.id, {"clock": {"rate": "0"}}, "")
        self.assertEqual(self.shelf.get(self.id), before)

    def test_an_edit_made_outside_joins_the_history(self):
        file = self.shelf.folder / f"{self.id}.json"
        file.write_text(file.read_text().replace('"12"', '"60"'))
        kept = self.shelf.get(self.id)
        self.assertEqual((kept.document["clock"]["rate"], kept.undo), ("60", "the edit made outside Vexel"))
        self.shelf.undo(self.id)
        self.assertEqual(self.rate(), "12")

    def test_looks_beside_edits_leave_no_revisions(self):
        done = threading.Event()

        def look():
            while not done.is_set():
                self.shelf.get(self.id)

        looking = [threading.Thread(target=look) for _ in range(3)]
        for thread in looking:
            thread.start()
        for number in range(1, 26):
            self.shelf.edit(self.id, {"clock": {"frames": 100 + number}}, "the frames")
        done.set()
        for thread in looking:
            thread.join()
        self.assertEqual(self.shelf.get(self.id).revision, 25)

    def test_a_length_that_changed_with_the_rate_is_found_until_it_is_meant(self):
        self.shelf.edit("trial", {"clock": {"rate": "30"}}, "the rate")
        kept = self.shelf.edit("trial", {"title": "Another"}, "the title")
        (finding,) = history_findings(self.shelf, kept)
        self.assertEqual(finding.what, "12 fps became 30 fps with 6 frames kept: 0.5 s became 0.2 s")
        seconds, frames = finding.mends
        self.assertEqual(seconds.patch, {"clock": {"frames": 15}})
        for mend in (frames, seconds):
            kept = self.shelf.edit("trial", mend.patch, "a mend")
            self.assertEqual(history_findings(self.shelf, kept), [], mend.label)
        self.shelf.edit("trial", {"clock": {"frames": None, "seconds": 2, "pins": None}}, "the length")
        kept = self.shelf.edit("trial", {"clock": {"rate": "24"}}, "the rate")
        self.assertEqual(history_findings(self.shelf, kept), [], "a length in seconds stays")

    def test_documents_say_what_is_not_usual(self):
        text = (self.shelf.folder / "trial.json").read_text()
        told = json.loads(text)
        self.assertEqual(list(told), ["vexel", "title", "source", "clock", "picture"])
        self.assertEqual(told["clock"], {"rate": "12", "span": "loop", "frames": 6})
        self.assertEqual(read_shot(text), self.shelf.shot("trial"))

    def test_a_removed_shot_can_be_found_again(self):
        self.shelf.remove(self.id)
        self.assertEqual(self.shelf.ids(), [])
        self.assertEqual(len(list((self.shelf.folder / "removed").iterdir())), 1)
        for name in ("nope", "../home", ".hidden"):
            with self.assertRaisesRegex(Mistake, "there is no shot"):
                self.shelf.get(name)


class MergePatchTest(unittest.TestCase):
    def test_examples_of_the_standard(self):
        # RFC 7396, appendix A (from memory).
        for target, patch, result in (
            ({"a": "b"}, {"a": "c"}, {"a": "c"}),
            ({"a": "b"}, {"b": "c"}, {"a": "b", "b": "c"}),
            ({"a": "b"}, {"a": None}, {}),
            ({"a": ["b"]}, {"a": "c"}, {"a": "c"}),
            ({"a": {"b": "c"}}, {"a": {"b": "d", "c": None}}, {"a": {"b": "d"}}),
            ({"a": "foo"}, "bar", "bar"),
            ({}, {"a": {"bb": {"ccc": None}}}, {"a": {"bb": {}}}),
        ):
            self.assertEqual(merged(target, patch), result)


class MigrationsTest(unittest.TestCase):
    def test_lead_to_the_tables_of_the_code(self):
        sessions = open_database(scratch(self) / "v.db")
        with sessions() as session:
            connection = session.connection()
            self.assertEqual(connection.exec_driver_sql("PRAGMA journal_mode").scalar(), "wal")
            self.assertEqual(compare_metadata(MigrationContext.configure(connection), Base.metadata), [])


if __name__ == "__main__":
    unittest.main()
