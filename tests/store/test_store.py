"""Shots with their history, and the database's migrations."""

import errno
import json
import sqlite3
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy.exc import DBAPIError

from tests.helpers import scratch, shot_document
from vexel.core.document.shot import Shot, read_shot
from vexel.core.errors import Failure, Mistake
from vexel.disk.disk_errors import disk_trouble
from vexel.disk.write import write_whole
from vexel.store.database import open_database
from vexel.store.documents.history_findings import history_findings
from vexel.store.frame_states import FrameState
from vexel.store.project import Project
from vexel.store.tables import Base


class ShotStoreTest(unittest.TestCase):
    def setUp(self):
        self.store = Project(scratch(self) / "home").shots
        document = shot_document({"kind": "object", "file": "a.obj"})
        self.id = self.store.add(Shot.model_validate(document, strict=False)).id

    def rate(self):
        return json.loads((self.store.folder / f"{self.id}.json").read_text())["clock"]["rate"]

    def test_edits_are_saved_undone_and_redone(self):
        for rate in ("24", "25", "30"):
            self.store.edit(self.id, {"clock": {"rate": rate}}, f"the rate {rate}")
        self.assertEqual(self.rate(), "30")
        self.assertEqual(self.store.undo(self.id).undo, "the rate 25")
        self.assertEqual((self.rate(), self.store.get(self.id).redo), ("25", "the rate 30"))
        self.store.redo(self.id)
        self.assertEqual(self.rate(), "30")
        self.store.undo(self.id)
        self.store.edit(self.id, {"clock": {"rate": "50"}}, "another")
        self.assertEqual(self.store.get(self.id).redo, "", "a new edit ends what could be redone")
        for _ in range(9):
            self.store.undo(self.id)
        self.assertEqual(self.rate(), "12")

    def test_a_wrong_edit_changes_nothing(self):
        before = self.store.get(self.id)
        with self.assertRaisesRegex(Mistake, "clock.rate: rate 0"):
            self.store.edit(self.id, {"clock": {"rate": "0"}}, "")
        self.assertEqual(self.store.get(self.id), before)

    def test_an_edit_made_outside_joins_the_history(self):
        file = self.store.folder / f"{self.id}.json"
        file.write_text(file.read_text().replace('"12"', '"60"'))
        kept = self.store.get(self.id)
        self.assertEqual((kept.value.clock.rate, kept.undo), ("60", "the edit made outside Vexel"))
        self.store.undo(self.id)
        self.assertEqual(self.rate(), "12")

    def test_a_list_shows_edits_made_outside(self):
        before = self.store.listed().get(self.id)
        self.assertEqual(
            (before.value, before.revision), (self.store.get(self.id).value, self.store.get(self.id).revision)
        )
        file = self.store.folder / f"{self.id}.json"
        file.write_text(json.dumps(json.loads(file.read_text())))
        self.assertEqual(self.store.listed().get(self.id).revision, before.revision, "the same, written differently")
        file.write_text(file.read_text().replace('"12"', '"60"'))
        after = self.store.listed().get(self.id)
        self.assertEqual((after.value.clock.rate, after.revision), ("60", before.revision + 1))
        file.with_name("new.json").write_text(file.read_text())
        self.assertEqual(self.store.listed().get("new").revision, 0)
        file.write_text("{")
        with self.assertRaises(Mistake):
            self.store.listed().get(self.id)

    def test_looks_beside_edits_leave_no_revisions(self):
        done = threading.Event()

        def look():
            while not done.is_set():
                self.store.get(self.id)

        looking = [threading.Thread(target=look) for _ in range(3)]
        for thread in looking:
            thread.start()
        for number in range(1, 26):
            self.store.edit(self.id, {"clock": {"frames": 100 + number}}, "the frames")
        done.set()
        for thread in looking:
            thread.join()
        self.assertEqual(self.store.get(self.id).revision, 25)

    def test_a_length_that_changed_with_the_rate_is_found_until_it_is_meant(self):
        self.store.edit("trial", {"clock": {"rate": "30"}}, "the rate")
        kept = self.store.edit("trial", {"title": "Another"}, "the title")
        (finding,) = history_findings(self.store, kept)
        self.assertEqual(finding.what, "12 fps became 30 fps with 6 frames kept: 0.5 s became 0.2 s")
        seconds, frames = finding.fixes
        self.assertEqual(seconds.patch, {"clock": {"frames": 15}})
        for fix in (frames, seconds):
            kept = self.store.edit("trial", fix.patch, "a fix")
            self.assertEqual(history_findings(self.store, kept), [], fix.label)
        self.store.edit("trial", {"clock": {"frames": None, "seconds": 2, "pins": None}}, "the length")
        kept = self.store.edit("trial", {"clock": {"rate": "24"}}, "the rate")
        self.assertEqual(history_findings(self.store, kept), [], "a length in seconds stays")

    def test_documents_say_what_is_not_usual(self):
        text = (self.store.folder / "trial.json").read_text()
        told = json.loads(text)
        self.assertEqual(list(told), ["vexel", "title", "source", "clock", "picture"])
        self.assertEqual(told["clock"], {"rate": "12", "span": "loop", "frames": 6})
        self.assertEqual(read_shot(text), self.store.shot("trial"))

    def test_a_burst_is_one_undo(self):
        """Ten nudges of a key within a second, and then another thing."""
        for turns in range(2, 12):
            self.store.edit(self.id, {"camera": {"rig": {"turns": turns}}}, "the turns", "burst 1")
        kept = self.store.edit(self.id, {"title": "Other"}, "the title", "burst 2")
        self.assertEqual(kept.revision, 11, "each has a number of its own, under which its pictures are known")
        for turns, undo, redo in ((11, "the turns", "the title"), (1, "", "the turns"), (1, "", "the turns")):
            kept = self.store.undo(self.id)
            self.assertEqual((kept.value.camera.rig.turns, kept.undo, kept.redo), (turns, undo, redo))
        for turns, redo in ((11, "the title"), (11, "")):
            kept = self.store.redo(self.id)
            self.assertEqual((kept.value.camera.rig.turns, kept.redo), (turns, redo))
        self.assertEqual(kept.value.title, "Other")
        self.store.undo(self.id)
        self.store.edit(self.id, {"title": "Third"}, "the title", "burst 2")
        self.assertEqual(self.store.undo(self.id).value.camera.rig.turns, 11, "after an undo nothing goes on")

    def test_every_new_shot_has_a_title_of_its_own(self):
        shot = self.store.shot(self.id)
        titles = [self.store.add(shot).value.title for _ in range(3)]
        self.assertEqual(titles, ["Trial 2", "Trial 3", "Trial 4"])
        self.assertEqual(self.store.add(self.store.shot("trial-2")).value.title, "Trial 5")

    def test_many_new_shots_at_once_are_all_there(self):
        shot = self.store.shot(self.id)
        with ThreadPoolExecutor(12) as several:
            ids = [kept.id for kept in several.map(lambda _: self.store.add(shot), range(12))]
        self.assertEqual(len(set(ids)), 12)
        self.assertEqual(len(self.store.titles()), 13)
        place = self.store.folder / "same"
        with ThreadPoolExecutor(12) as several:
            list(several.map(lambda n: write_whole(place, b"%d" % n * 1000), range(10)))
        self.assertEqual(len(place.read_bytes()), 1000, "one of them, whole")
        self.assertEqual(list(self.store.folder.glob(".same*")), [])

    def test_a_removed_shot_comes_back_with_its_history(self):
        self.store.edit(self.id, {"clock": {"rate": "24"}}, "the rate")
        name = self.store.remove(self.id)
        self.assertEqual(self.store.ids(), [])
        self.assertEqual([file.name for file in (self.store.folder / "removed").iterdir()], [name])
        self.assertEqual(self.store.restore(name).undo, "the rate")
        self.assertEqual(self.store.undo(self.id).value.clock.rate, "12")
        for wrong in (name, "../trial.json", ".hidden"):
            with self.assertRaisesRegex(Mistake, "there is no removed shot"):
                self.store.restore(wrong)
        name = self.store.remove(self.id)
        document = shot_document({"kind": "object", "file": "b.obj"})
        self.store.add(Shot.model_validate(document, strict=False))
        kept = self.store.restore(name)
        self.assertEqual((kept.value.title, kept.value.source.file), ("Trial 2", "a.obj"), "another took its place")

    def test_what_is_no_shot_is_said(self):
        for name in ("nope", "../home", ".hidden"):
            with self.assertRaisesRegex(Mistake, "there is no shot"):
                self.store.get(name)


class TroubleTest(unittest.TestCase):
    def test_a_database_that_cannot_be_opened_is_a_sentence(self):
        home = scratch(self) / "home"
        Project(home)
        database = home / "vexel.db"
        whole = database.read_bytes()
        for damaged in (whole[:5000], b"no database" * 500):
            for leftover in home.glob("vexel.db-*"):
                leftover.unlink()
            database.write_bytes(damaged)
            with self.assertRaisesRegex(Failure, r"vexel\.db cannot be opened \(.+\): put a copy of it back"):
                Project(home)

    def test_what_disk_and_database_refuse_is_told_by_their_codes(self):
        place = Path("/films")
        for code, words in (
            (sqlite3.SQLITE_FULL, "is full"), (sqlite3.SQLITE_READONLY, "cannot be written"),
            (sqlite3.SQLITE_IOERR | 13 << 8, "failed or is full"), (sqlite3.SQLITE_CORRUPT, "is damaged"),
        ):  # fmt: skip
            error = sqlite3.OperationalError("in any words")
            error.sqlite_errorcode = code
            self.assertIn(words, disk_trouble(DBAPIError("select", None, error), place))
        self.assertIn("is full", disk_trouble(OSError(errno.EDQUOT, "x"), place))
        self.assertEqual(disk_trouble(OSError(errno.ENOENT, "x"), place), "")
        self.assertEqual(disk_trouble(ValueError("disk is full"), place), "", "sentences decide nothing")


class SecretTest(unittest.TestCase):
    def test_a_secret_is_whole_and_its_owners_alone(self):
        home = scratch(self) / "home"
        secret = Project(home).secret()
        self.assertEqual((len(secret), Project(home).secret()), (43, secret), "it outlives a restart")
        for damaged in (b"", b"short", secret[:20].encode(), b"\xff" * 43):
            (home / ".session").write_bytes(damaged)
            renewed = Project(home).secret()
            self.assertEqual((len(renewed), Project(home).secret()), (43, renewed), damaged)
            self.assertNotEqual(renewed, secret)
            self.assertEqual((home / ".session").stat().st_mode & 0o777, 0o600)


class RunsTest(unittest.TestCase):
    def test_a_run_takes_with_it_what_no_other_run_shows(self):
        project = Project(scratch(self) / "home")
        ledger, frames = project.ledger, project.ledger.frames
        document = shot_document({"kind": "object", "file": "a.obj"})
        runs = [ledger.begin("trial", document, range(3)) for _ in range(2)]
        for run, keys in zip(runs, (("a", "b", "c"), ("c", "d", "d")), strict=True):
            for number, key in enumerate(keys):
                write_whole(frames.path(key * 64), b"x" * 100)
                ledger.take(run).record([FrameState(number, key * 64, "made", 0.5, 100)])
        self.assertEqual(ledger.own_frames(runs[0]), {"a" * 64: 100, "b" * 64: 100})
        self.assertEqual(ledger.own_frames(runs[1]), {"d" * 64: 100})
        self.assertEqual((ledger.made(runs[1]), ledger.seconds_of("c" * 64)), ((3, 300), 0.5))
        ledger.remove(runs[0], ".png")
        self.assertEqual([frames.path(key * 64).exists() for key in "abcd"], [False, False, True, True])
        self.assertEqual(ledger.own_frames(runs[1]), {"c" * 64: 100, "d" * 64: 100})
        with self.assertRaisesRegex(Mistake, "there is no run"):
            ledger.run(runs[0])


class MigrationsTest(unittest.TestCase):
    def test_lead_to_the_tables_of_the_code(self):
        sessions = open_database(scratch(self) / "v.db")
        with sessions() as session:
            connection = session.connection()
            self.assertEqual(connection.exec_driver_sql("PRAGMA journal_mode").scalar(), "wal")
            self.assertEqual(compare_metadata(MigrationContext.configure(connection), Base.metadata), [])


if __name__ == "__main__":
    unittest.main()
