"""A server with small demo shots, and Debian's Chromium before it."""

import atexit
import json
import re
import shutil
import sqlite3
import tempfile
import time
import unittest
from contextlib import closing
from functools import cache
from pathlib import Path

from playwright.sync_api import expect, sync_playwright

from tests.helpers import Server, demo_home
from vexel.core.document.shot import read_shot

CHROMIUM = "/usr/bin/chromium-headless-shell"
FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip
FRAMES = 12
expect.set_options(timeout=120_000)
COARSER = (
    ("shell.py", "AROUND = 80", "AROUND = 20"), ("shell.py", "A_WHORL = 128", "A_WHORL = 32"),
    ("basin.py", "SIDE = 260", "SIDE = 65"),
)  # fmt: skip
"""What the demo's models are built of, here of fewer faces: it is the interface that is tested."""


@cache
def chromium():
    """One browser for all tests of this process; each class has a context of its own in it.

    It is the shell without windows, of the same version: it draws the same page with a third less processor.
    """
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    atexit.register(playwright.stop)
    atexit.register(browser.close)
    return browser


class ScreenTest(unittest.TestCase):
    """One server and one context of the browser a class; a page a test, which must raise no script error."""

    SERVE = "serve --trust"
    DETAILS = "on"

    @classmethod
    def setUpClass(cls):
        folder = Path(tempfile.mkdtemp(prefix="vexel-screens-"))
        cls.addClassCleanup(shutil.rmtree, folder, ignore_errors=True)
        cls.home = folder / "home"
        cls.lay_out()
        cls.server = Server(cls, cls.home, cls.SERVE, XDG_STATE_HOME=str(folder / "state"))
        cls.addClassCleanup(cls.server.end)
        cls.browser = chromium().new_context(
            viewport={"width": 1280, "height": 800}, accept_downloads=True,
            # Spinners would be painted all the time, without a graphics card.
            reduced_motion="reduce",
        )  # fmt: skip
        cls.addClassCleanup(cls.browser.close)
        # Most tests use what is folded away at first.
        cls.browser.add_init_script(f"try {{ localStorage.setItem('vexel-details', '{cls.DETAILS}') }} catch {{}}")
        (cookie,) = cls.server.cookies
        session = {"name": cookie.name, "value": cookie.value, "url": cls.server.base}
        cls.browser.add_cookies([session | {"httpOnly": True, "sameSite": "Strict"}])

    @classmethod
    def lay_out(cls):
        """Fill the project: the demo's shots, small and quick."""
        shutil.copytree(demo_home(), cls.home)
        for name, finer, coarser in COARSER:
            file = cls.home / "sources" / name
            text = file.read_text()
            assert finer in text
            file.write_text(text.replace(finer, coarser))
        for file in (cls.home / "shots").glob("*.json"):
            document = json.loads(file.read_text())
            document["clock"] |= {"rate": "24", "frames": FRAMES, "seconds": None}
            document["picture"] |= {"width": 320, "height": 180, "samples": 1}
            if document.get("camera", {}).get("rig", {}).get("kind") == "stops":
                # Four rests of a frame, and four ways of two.
                document["camera"]["rig"] |= {"dwell_seconds": 1 / 24, "travel_seconds": 2 / 24}
                for view in document["camera"]["views"]:
                    for name in ("dwell_seconds", "travel_seconds"):
                        view.pop(name, None)
            file.write_text(json.dumps(document))

    def setUp(self):
        self.page = self.browser.new_page()
        self.page.set_default_timeout(120_000)
        self.errors = []
        self.page.on("pageerror", lambda error: self.errors.append(str(error)))
        self.addCleanup(self.page.close)

    def tearDown(self):
        self.assertEqual(self.errors, [], "the page's own scripts raised errors")

    def open(self, path):
        """Open a place of the interface."""
        self.page.goto(self.server.base + path)

    def open_bench(self, shot="shell-growth"):
        """Open a shot and wait for its picture."""
        self.open(f"/shots/{shot}")
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))
        self.see(self.page.get_by_test_id("saved"), r"revision \d+$")
        # No number is given twice, so that the next edit goes on from the largest one.
        with closing(sqlite3.connect(f"file:{self.home / 'vexel.db'}?mode=ro", uri=True)) as database:
            told = database.execute("SELECT max(number) FROM revisions WHERE shot_id = ?", (shot,)).fetchone()
        self.revision = told[0]

    def open_recipe_groups(self):
        """Dispatch lists the usual recipes first, and all others in groups."""
        groups = self.page.get_by_role("table", name="Recipes").locator("th button[aria-expanded=false]")
        groups.first.wait_for()
        while groups.count():
            groups.first.click()

    def see(self, locator, text=None, seconds=120):
        """Wait until something is there, with a text if one is given."""
        if text is None:
            locator.wait_for(timeout=seconds * 1000)
            return
        pattern, end = re.compile(text), time.monotonic() + seconds
        # Playwright's own wait looks once a second in the end.
        while time.monotonic() < end:
            found = locator.all_text_contents()
            if len(found) == 1 and pattern.search(" ".join(found[0].split())):
                return
            self.page.wait_for_timeout(30)
        expect(locator).to_have_text(pattern, timeout=1)

    def until(self, script, argument=None, seconds=120):
        """Wait until a script says yes; the pages' policy forbids Playwright's own way, which is eval."""
        end = time.monotonic() + seconds
        while not self.page.evaluate(script, argument):
            self.assertLess(time.monotonic(), end, script)
            self.page.wait_for_timeout(50)

    def type(self, label, value):
        """Type into a field and press Enter."""
        field = self.page.get_by_label(label, exact=True)
        field.fill(str(value))
        field.press("Enter")

    def press(self, name, exact=False):
        """Press a button by its name."""
        self.page.get_by_role("button", name=name, exact=exact).first.click()

    def document(self, shot="shell-growth"):
        """The shot's document as it lies on disk, with what it leaves unsaid."""
        return read_shot((self.home / f"shots/{shot}.json").read_text()).model_dump(mode="json")

    def wait_until_saved(self):
        """Wait until what is on screen is on disk."""
        self.see(self.page.get_by_test_id("saved"), r"^saved, revision \d+$")

    def wait_for_revision(self, number):
        """Wait until so many edits are saved since the Bench was opened."""
        self.see(self.page.get_by_test_id("saved"), rf"revision {self.revision + number}$")

    def middle(self, locator):
        """Where the middle of something is on the screen."""
        box = locator.bounding_box()
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def drag(self, start, end):
        """Drag from one place on the screen to another."""
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move(start[0] + 8, start[1] + 8)
        self.page.mouse.move(*end, steps=6)
        self.page.mouse.up()
