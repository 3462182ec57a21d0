"""Two windows on one shot, code from elsewhere, and a check of a run, as a person sees them."""

import json
import re
import shutil
import unittest

from playwright.sync_api import expect

from tests.helpers import demo_home
from tests.screens.base import ScreenTest

TERMS = "**/api/shots/shell-growth/terms?*"


class TogetherTest(ScreenTest):
    def elsewhere(self, patch):
        """An edit that another window makes just before this one's arrives."""

        def first(route):
            self.server.ask("/api/shots/shell-growth", {"patch": patch, "what": "the rate"}, "PATCH")
            route.continue_()

        self.page.route(TERMS, first, times=1)

    def test_an_edit_that_clashes_is_told_and_can_be_saved_over(self):
        self.open_bench()
        self.elsewhere({"clock": {"rate": "25"}})
        self.type("Rate, frames per second", "30")
        notice = self.page.get_by_test_id("notice")
        self.see(notice.get_by_role("alert"), "Changed in another window: the rate")
        self.assertEqual(self.document()["clock"]["rate"], "25")
        self.press("Overwrite")
        self.wait_for_revision(2)
        self.until("() => !document.querySelector('[data-testid=notice]')")
        self.assertEqual(self.document()["clock"]["rate"], "30")

    def test_edits_of_different_parts_both_stand(self):
        self.open_bench()
        self.elsewhere({"picture": {"background": "#112233"}})
        self.type("Frames", 6)
        self.wait_for_revision(2)
        self.until("() => !document.querySelector('[data-testid=notice]')")
        document = self.document()
        self.assertEqual((document["picture"]["background"], document["clock"]["frames"]), ("#112233", 6))

    def test_an_error_of_one_page_leaves_the_others_working(self):
        self.page.route("**/api/shots", lambda route: route.fulfill(json={"shots": [{"id": "odd", "title": {}}]}))
        self.open("/")
        self.see(self.page.get_by_role("main").get_by_role("alert"), "This page failed with an internal error. ")
        self.page.get_by_role("link", name="Runs").click()
        self.see(self.page.get_by_role("heading", name="Runs"))
        self.until("() => !document.querySelector('main [role=alert]')")

    def test_seven_tabs_share_one_stream_of_news_and_all_hear_it(self):
        pages = [self.browser.new_page() for _ in range(8)]
        for page in pages:
            self.addCleanup(page.close)
            page.set_default_timeout(20_000)
            page.goto(self.server.base + "/")
            page.get_by_text("Mooring buoy").first.wait_for()
        title = "Told to all tabs"
        self.server.ask("/api/shots/mooring-buoy", {"patch": {"title": title}, "what": "the title"}, "PATCH")
        for page in pages:
            page.get_by_text(title).first.wait_for()

    def test_a_text_that_changed_elsewhere_is_not_overwritten_unseen(self):
        file = self.home / "sources/tide.py"
        before = file.read_text()
        self.addCleanup(file.write_text, before)
        # Before it is looked at again, the person has typed.
        self.page.route("**/source/state", lambda route: route.abort())
        self.open_bench("tide-week")
        editor = self.edit_the_code()
        file.write_text("# theirs\n" + before)
        editor.click()
        self.page.keyboard.press("Control+End")
        self.page.keyboard.insert_text("# mine\n")
        code = self.page.get_by_test_id("code")
        self.see(code.get_by_role("alert").first, "tide.py was changed in the meantime")
        self.assertEqual(file.read_text(), "# theirs\n" + before)
        self.press("Overwrite")
        self.see(self.page.get_by_test_id("code-saved"), "^saved$")
        self.assertEqual(file.read_text(), before + "# mine\n")
        self.press("Undo the last change to the text")
        self.see(editor, "# theirs")
        self.assertEqual(file.read_text(), "# theirs\n" + before)

    def edit_the_code(self):
        self.page.locator("[data-topic=source]").first.click()
        self.press("Edit the code")
        editor = self.page.get_by_test_id("editor").locator(".cm-content")
        self.see(editor)
        return editor

    def test_pictures_and_text_follow_a_source_that_another_program_changes(self):
        file = self.home / "sources/tide.py"
        before = file.read_text()
        self.addCleanup(file.write_text, before)
        self.open_bench("tide-week")
        editor = self.edit_the_code()
        picture = "() => document.querySelector('[data-testid=viewfinder] img').src"
        for text, seen in (
            ("# theirs\n" + before, "# theirs"),
            ("1 / 0\n" + before, "1 / 0"),
            (before, "^(?!.*theirs)"),
        ):
            with self.subTest(seen):
                shown = self.page.evaluate(picture)
                file.write_text(text)
                if "1 / 0" in text:
                    self.see(self.page.get_by_test_id("blocked"), "see the error in the code")
                    self.see(self.page.get_by_text(re.compile("tide.py, line .*ZeroDivisionError")))
                else:
                    self.until("(shown) => document.querySelector('[data-testid=viewfinder] img').src !== shown", shown)
                    self.see(self.page.get_by_test_id("toast"), "tide.py changed on disk: the pictures follow")
                    self.page.get_by_test_id("blocked").wait_for(state="detached")
                self.see(editor, seen)

    def test_a_run_is_checked_and_a_changed_file_told(self):
        _, run = self.server.ask("/api/shots/mooring-buoy/runs", {"to_file": True})
        done = self.server.wait_for_run(run["id"], lambda r: [o["state"] for o in r["outputs"]] == ["done"])
        self.open(f"/runs/{run['id']}")
        self.press("Check the frames")
        self.see(self.page.get_by_test_id("check"), "frames and all files checked: unchanged since they were made")
        output = self.home / "outputs" / done["outputs"][0]["file"]
        output.write_bytes(output.read_bytes()[:-99])
        frame = next(self.home.glob("frames/??/*.png"))
        frame.write_bytes(b"\0" * frame.stat().st_size)
        self.press("Check the frames")
        self.see(self.page.get_by_test_id("check"), r"1 of \d+ frames damaged.*has changed since its receipt")
        self.see(self.page.get_by_text("This file has changed since its receipt").first)
        self.press("Resume, 1 left")
        self.see(self.page.get_by_test_id("run-state"), "^done$")


class ElsewhereTest(ScreenTest):
    """A project that was made on another machine."""

    SERVE = "serve"

    @classmethod
    def lay_out(cls):
        shutil.copytree(demo_home(), cls.home)
        for file in (cls.home / "shots").glob("*.json"):
            if file.stem not in ("tide-week", "mooring-buoy"):
                file.unlink()
        file = cls.home / "shots/tide-week.json"
        document = json.loads(file.read_text())
        document["picture"] |= {"width": 320, "height": 180}
        file.write_text(json.dumps(document))

    def test_its_code_runs_when_its_person_has_seen_it(self):
        self.open("/shots/tide-week")
        self.see(self.page.get_by_test_id("from-elsewhere"), "1 source.* will not run until you have reviewed it")
        expect(self.page.get_by_text("came with a project that you received")).to_have_count(1)
        self.press("Review the code")
        dialog = self.page.get_by_role("dialog", name="Code to review")
        self.see(dialog.get_by_text("Python code can read your files"))
        dialog.locator("summary").click()
        self.see(dialog.locator("pre"), "A week of the tide gauge")
        self.press("Allow 1 source to run")
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))
        self.until("() => !document.querySelector('[data-testid=from-elsewhere]')")


if __name__ == "__main__":
    unittest.main()
