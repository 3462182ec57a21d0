"""Names of files to come: each is one order's alone, whichever thread or process asks."""

import random
import subprocess
import sys
import unittest
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from unittest.mock import patch

from tests.helpers import scratch
from vexel.core.errors import Failure, Mistake
from vexel.core.recipes.file_names import file_names
from vexel.disk.claim import Taken, claim, claimed, held, is_claimed
from vexel.disk.scratch import sweep_parts
from vexel.disk.write import publish, write_whole

ORDERS = """
import sys
from tests.disk.test_claim import orders
from pathlib import Path
orders(Path(sys.argv[1]), sys.argv[2], 100)
"""


def order(folder, pattern, who):
    """One order: take a name, make the file, give it the name."""
    names = file_names(pattern, {"title": "Reel", "recipe": "h264"}, ".mp4")
    taken = None
    while taken is None:
        with suppress(Taken):
            taken = claim(folder / next(names))
    part = taken.path.with_name(f".{who}.part")
    part.write_text(who)
    publish(part, taken.path, replace=False)
    taken.release()
    return taken.path


def orders(folder, who, count):
    """Random orders from several threads."""
    chance = random.Random(who)
    patterns = [chance.choice(["{title}", "{title}.{version}", "in/{title}.{recipe}"]) for _ in range(count)]
    with ThreadPoolExecutor(4) as together:
        list(together.map(lambda n: order(folder, patterns[n], f"{who}-{n}"), range(count)))


class ClaimTest(unittest.TestCase):
    def test_as_many_files_as_orders_from_two_processes(self):
        folder = scratch(self)
        asked = [subprocess.Popen([sys.executable, "-c", ORDERS, str(folder), who]) for who in ("one", "two")]
        self.assertEqual([one.wait(120) for one in asked], [0, 0])
        files = [path for path in folder.rglob("*") if path.is_file()]
        self.assertEqual(len(files), 200)
        self.assertEqual(
            {path.read_text() for path in files}, {f"{who}-{n}" for who in ("one", "two") for n in range(100)}
        )

    def test_a_name_is_taken_until_its_file_is_there(self):
        folder = scratch(self)
        first = claim(folder / "a.mp4")
        with self.assertRaisesRegex(Taken, "a.mp4 is being made"):
            claim(folder / "a.mp4", replace=True)
        write_whole(first.path, b"film", replace=False)
        first.release()
        with self.assertRaisesRegex(Taken, "is there already: choose another name, or add --overwrite"):
            claim(folder / "a.mp4")
        claim(folder / "a.mp4", replace=True).release()
        self.assertEqual([path.name for path in folder.iterdir()], ["a.mp4"])
        with self.assertRaises(FileExistsError):
            write_whole(folder / "a.mp4", b"other", replace=False)
        self.assertEqual((folder / "a.mp4").read_bytes(), b"film")
        with self.assertRaises(Taken), claimed([folder / "b.mp4", folder / "a.mp4"]):
            self.fail("one of them is there")
        self.assertFalse(is_claimed(folder / "b.mp4"))

    def test_a_file_that_is_published_while_its_name_is_looked_at(self):
        folder = scratch(self)
        first, part = claim(folder / "a.mp4"), folder / ".first.part"
        part.write_bytes(b"film")

        def publish_just_before(path):
            if not path.exists():
                publish(part, path, replace=False)
                first.release()
            return is_claimed(path)

        with (
            patch("vexel.disk.claim.is_claimed", publish_just_before),
            self.assertRaisesRegex(Taken, "is there already"),
        ):
            claim(folder / "a.mp4")
        self.assertEqual((folder / "a.mp4").read_bytes(), b"film")

    def test_a_folder_is_written_to_by_one_at_a_time(self):
        folder = scratch(self)
        (folder / "take").mkdir()
        ledger, words = folder / "take/take.json", "another command is writing to .*/take"
        ledger.write_text("{}")
        with held(ledger), self.assertRaisesRegex(Taken, words), held(ledger):
            self.fail("two at once")
        with held(ledger):
            pass
        self.assertEqual([path.name for path in (folder / "take").iterdir()], ["take.json"])

    def test_the_claim_of_a_process_that_ended_is_void(self):
        folder = scratch(self)
        code = f"from pathlib import Path; from vexel.disk.claim import claim; claim(Path({str(folder)!r}) / 'a.mp4')"
        subprocess.run([sys.executable, "-c", code], check=True)
        self.assertEqual(len(list(folder.iterdir())), 1)
        self.assertFalse(is_claimed(folder / "a.mp4"))
        self.assertEqual(sweep_parts(folder), 1)
        held = claim(folder / "a.mp4")
        self.assertEqual(sweep_parts(folder), 0)
        held.release()
        self.assertEqual(list(folder.iterdir()), [])

    def test_names_that_no_file_can_have(self):
        folder = scratch(self)
        (folder / "file").write_text("x")
        (folder / "full").mkdir()
        (folder / "full/a").write_text("x")
        for name, error, words in (
            ("a" * 300, Failure, "File name too long"),
            ("file/a.mp4", Mistake, "since a file has that name"),
            ("file/in/a.mp4", Mistake, "since a file has that name"),
            ("full", Taken, "already holds files"),
        ):
            with self.assertRaisesRegex(error, words):
                claim(folder / name)
        long = "ü" * 127
        held = claim(folder / long)
        write_whole(folder / long, b"x", replace=False)
        held.release()
        (folder / "link").symlink_to("nowhere")
        with self.assertRaises(Taken):
            claim(folder / "link")


if __name__ == "__main__":
    unittest.main()
