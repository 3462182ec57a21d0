"""What a project takes, against du, and what of it may be removed."""

import os
import subprocess
import time
import unittest
from pathlib import Path

from tests.helpers import scratch, shot_document, vexel
from vexel.disk.finished import finished
from vexel.disk.home_lock import HomeLock
from vexel.store.frame_states import FrameState
from vexel.store.project import Project
from vexel.store.storage.folder_sizes import FolderSizes
from vexel.store.storage.unused import remove_unused, unused
from vexel.store.storage.usage import groups_of, takes_of

OLD = time.time() - 86_400 * 3
ALL = ("loose-frames", "damaged", "copies", "states", "previews")


def key(letter):
    return letter * 64


class StorageTest(unittest.TestCase):
    def setUp(self):
        self.home = scratch(self) / "home"
        self.project = Project(self.home)
        document = shot_document({"kind": "object", "file": "a.obj"})
        first, second = (self.project.ledger.begin("s", document, range(2)) for _ in range(2))
        for run, letters in ((first, "ab"), (second, "bc")):
            states = [self.frame(number, letter) for number, letter in enumerate(letters)]
            self.project.ledger.take(run).record(states)
        self.project.ledger.set(first, plan=f'{{"source": {{"digest": "{key("1")}"}}}}')
        self.project.ledger.frames.keep({key("d"): self.frame(9, "d").file})
        for name in (f"frames/damaged/{key('e')}.png", f"copies/{key('1')}/a.obj", f"copies/{key('2')}/b/c.obj",
                     f"copies/outside/{key('3')}/d", f"copies/states/{key('1')}/5.npz", f"glances/{key('f')}.png",
                     "outputs/film.mp4", "sources/a.obj"):  # fmt: skip
            self.write(name, 700)
        for base, folders, files in os.walk(self.home):
            for name in (*folders, *files):
                os.utime(Path(base) / name, (OLD, OLD))
        self.runs = first, second

    def write(self, name, size):
        place = self.home / name
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(os.urandom(size))
        return place

    def frame(self, number, letter):
        size = 1000 + ord(letter)
        place = self.write(f"frames/{letter * 2}/{key(letter)}.png", size)
        return FrameState(number, key(letter), "made", bytes=size, digest=finished(place).digest,
                          written=finished(place).written)  # fmt: skip

    def names(self, kinds=ALL, **limits):
        return sorted(str(one.place.relative_to(self.home)) for one in unused(self.project, kinds, **limits))

    def du(self, *options):
        command = ["du", "-sb", *options, self.home]
        return int(subprocess.run(command, capture_output=True, text=True, check=True).stdout.split()[0])

    def test_groups_sum_to_what_du_counts_also_after_changes(self):
        sizes = FolderSizes()

        def whole():
            return sum(group.size.bytes for group in groups_of(self.project, sizes))

        self.assertEqual(whole(), self.du())
        self.write(f"frames/aa/{key('7')}.png", 12_345)
        self.write("frames/77/x.png", 5)
        (self.home / f"copies/{key('2')}/b/c.obj").unlink()
        (self.home / "sources/a.obj").write_bytes(b"longer" * 500)
        (self.home / "sources/link").symlink_to("/etc/passwd")
        self.assertEqual(whole(), self.du())
        (self.home / "outputs/linked").mkdir()
        for name in ("a.png", "twice.png"):
            (self.home / "outputs/linked" / name).hardlink_to(self.home / f"frames/aa/{key('a')}.png")
        self.assertEqual(whole(), self.du(), "frames that lie in a folder as hard links are on the disk once")
        by_name = {group.name: group.size for group in groups_of(self.project, sizes)}
        self.assertEqual(by_name["outputs"].files, 3)
        (self.home / f"frames/aa/{key('a')}.png").write_bytes(b"cut short")
        self.assertNotEqual(whole(), self.du(), "a frame that is changed in place: it is damaged, and never so by us")

    def test_a_take_with_what_it_alone_has_and_the_reels_that_show_it(self):
        from vexel.core.reel.reel_spec import read_reel_document

        cells = [{"item": {"kind": "take", "take": f"run:{self.runs[1]}"}}]
        layout = {"kind": "layout", "arrangement": "grid", "cells": cells}
        self.project.reels.add(read_reel_document({"title": "Hall", "items": [layout]}))
        by_run = {one.run: one for one in takes_of(self.project)}
        first, second = (by_run[run] for run in self.runs)
        a, b, c = (1000 + ord(letter) for letter in "abc")
        self.assertEqual((first.bytes, first.own_bytes, first.reels), (a + b, a, ()))
        self.assertEqual((second.bytes, second.own_bytes, second.reels), (b + c, c, ("Hall",)))

    def test_only_what_nothing_refers_to(self):
        self.assertEqual(
            self.names(),
            sorted([f"frames/dd/{key('d')}.png", f"frames/damaged/{key('e')}.png", f"copies/{key('2')}",
                    f"copies/outside/{key('3')}", f"copies/states/{key('1')}", f"glances/{key('f')}.png"]),
        )  # fmt: skip
        self.assertEqual(self.names(("previews",)), [f"glances/{key('f')}.png"])
        large = [f"copies/{key('2')}", f"copies/outside/{key('3')}", f"copies/states/{key('1')}"]
        self.assertEqual(self.names(larger=1000), [*large, f"frames/dd/{key('d')}.png"])
        self.assertEqual(self.names(older_seconds=86_400 * 4), [])
        os.utime(self.home / f"frames/dd/{key('d')}.png")
        self.assertNotIn(f"frames/dd/{key('d')}.png", self.names(), "it may be of work that is not written down yet")

    def test_what_is_removed_is_known_no_more_and_all_else_stays(self):
        found = unused(self.project, ALL)
        before = self.du("--exclude=vexel.db*")
        count, size = remove_unused(self.project, found)
        self.assertEqual((count, self.names()), (6, []))
        self.assertEqual(before - self.du("--exclude=vexel.db*"), size)
        frames = self.project.ledger.frames
        self.assertEqual(frames.known([key("d")]), {})
        self.assertEqual(sorted(frames.there([key(letter) for letter in "abc"], ".png")), [key(n) for n in "abc"])
        self.assertTrue((self.home / f"copies/{key('1')}/a.obj").exists())

    def test_a_link_is_removed_and_not_what_it_leads_to(self):
        kept = scratch(self) / "kept"
        kept.mkdir()
        (kept / "a").write_text("a")
        for name in (f"copies/{key('4')}", f"glances/{key('5')}.png"):
            (self.home / name).symlink_to(kept)
            os.utime(self.home / name, (OLD, OLD), follow_symlinks=False)
        remove_unused(self.project, unused(self.project, ALL))
        self.assertEqual((kept / "a").read_text(), "a")
        self.assertFalse((self.home / f"glances/{key('5')}.png").is_symlink())

    def test_by_command_it_is_listed_first_and_removed_on_request(self):
        listed = vexel("clean", self.home)
        self.assertIn("Nothing was removed. Add --yes", listed.stdout)
        self.assertIn(f"frames/dd/{key('d')}.png", listed.stdout)
        self.assertTrue((self.home / f"frames/dd/{key('d')}.png").exists())
        lock = HomeLock(self.home, "http://127.0.0.1:1")
        refused = vexel("clean", self.home, "--yes")
        self.assertEqual((refused.returncode, refused.stdout), (1, ""))
        lock.release()
        done = vexel("clean", self.home, "--yes", "--kind", "loose-frames", "--larger", "1kB")
        self.assertIn("1 file or folder removed", done.stdout)
        self.assertTrue((self.home / f"glances/{key('f')}.png").exists())
        self.assertIn("is not a project", vexel("clean", self.home / "shots").stderr)

    def test_a_frame_that_could_not_be_removed_is_not_counted(self):
        (one,) = unused(self.project, ("loose-frames",))
        one.place.unlink()
        self.assertEqual(remove_unused(self.project, [one]), (0, 0))


if __name__ == "__main__":
    unittest.main()
