"""Every main screen in both themes, held against the rules of WCAG by axe-core."""

import re
import unittest
from pathlib import Path

import vexel
from tests.screens.base import ScreenTest

AXE = Path(vexel.__file__).parents[2] / "ui/node_modules/axe-core/axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
COLOURS = {"type": "rule", "values": ["color-contrast", "link-in-text-block"]}

BROKEN = """import pyvista as pv
from vexel.author import model


@model
def thing(instant=None):
    if instant.frame in (5, 9):
        raise ValueError("five")
    return pv.Cone(height=1 + float(instant.phase))
"""


class AccessTest(ScreenTest):
    def check(self, where):
        """No finding, and one heading that names the page. The dark theme differs in its colours alone."""
        self.page.locator("h1").first.wait_for(state="attached")
        self.page.evaluate(AXE.read_text())
        found = self.page.evaluate(
            "rules => axe.run(document, {runOnly: rules}).then(r => r.violations.map("
            "v => [v.impact, v.id, v.nodes.slice(0, 3).map(n => n.html.slice(0, 160))]))",
            RULES if where[0] == "light" else COLOURS,
        )
        self.assertEqual(found, [], where)
        self.assertEqual(self.page.locator("h1").count(), 1, where)

    def project(self):
        """A take with its file, a run that failed, and a reel in two formats."""
        _, run = self.server.ask("/api/shots/mooring-buoy/runs", {"to_file": True})
        done = self.server.wait_for_run(run["id"], lambda r: [o["state"] for o in r["outputs"]] == ["done"])
        broken = self.home / "sources/broken.py"
        broken.write_text(BROKEN)
        _, shot = self.server.ask("/api/shots", {"path": str(broken), "demo": "", "title": "Broken", "rate": ""})
        _, torn = self.server.ask(f"/api/shots/{shot['id']}/runs", {"draft": True})
        self.server.wait_for_run(torn["id"], lambda r: r["state"] == "failed")
        _, reel = self.server.ask("/api/reels", {"title": "Hall", "runs": [run["id"], run["id"]]})
        square = {"patch": {"formats": [{"name": "square", "width": 180, "height": 180}]}, "what": "the format"}
        self.server.ask(f"/api/reels/{reel['id']}", square, "PATCH")
        return run, done, torn, reel

    def test_no_finding_on_any_main_screen_in_both_themes(self):
        page = self.page
        # A colour that is on its way from one theme to the other is neither's.
        page.emulate_media(reduced_motion="reduce")
        run, done, torn, reel = self.project()
        places = {
            f"/reels/{reel['id']}": page.get_by_test_id("cards"),
            "/": page.get_by_test_id("shot").first,
            "/runs": page.get_by_role("link", name="Mooring buoy").first,
            f"/runs/{run['id']}": page.get_by_test_id("frame-picture"),
            f"/runs/{torn['id']}": page.get_by_text("failed").first,
            "/shots/mooring-buoy?guide=findings.choppy": page.get_by_test_id("guide-beside"),
            f"/files/{done['outputs'][0]['id']}": page.get_by_test_id("receipt"),
            "/review": page.get_by_test_id("reviewable").get_by_role("link").first,
            f"/review/take/{run['id']}?with=file/{done['outputs'][0]['id']}/0": page.get_by_test_id("second-picture"),
            "/dispatch": page.get_by_test_id("recipe").first,
            "/guides/findings": page.get_by_role("heading", name="Choppy"),
        }
        self.open("/")
        for theme in ("light", "dark"):
            for place, ready in places.items():
                self.open(place)
                self.see(ready)
                page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme)
                self.check((theme, place))
            self.open(f"/reels/{reel['id']}")
            page.get_by_label("Format shown").select_option("square")
            page.get_by_test_id("cards").get_by_text("Mooring buoy").first.click()
            self.see(page.get_by_test_id("focus-pad"))
            page.get_by_text("2 of 2 sizes").click()
            page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme)
            self.check((theme, "framing of an item"))
            self.open("/dispatch")
            page.get_by_label(re.compile("^More for ")).first.click()
            self.see(page.get_by_role("button", name="Copy path"))
            page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme)
            self.check((theme, "menu of a file"))
            page.keyboard.press("Escape")
            self.press("Settings of h264")
            self.see(page.get_by_test_id("trial").get_by_text("PSNR"))
            page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme)
            self.check((theme, "a recipe"))
            self.open("/")
            self.press("New shot")
            page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme)
            self.check((theme, "new shot"))
            self.open_bench()
            page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme)
            self.check((theme, "bench"))
            page.locator("summary[aria-label^='Kind of file']").click()
            self.see(page.get_by_label("Kind of file", exact=True))
            self.check((theme, "menu of the capture"))
            page.keyboard.press("Escape")
            for topic in ("source", "clock", "camera", "lens", "lanes", "picture"):
                page.locator(f"[data-topic={topic}]").first.click()
                self.see(page.get_by_test_id("sheet"))
                self.check((theme, topic))
            page.locator("[data-topic=source]").first.click()
            self.press("Edit the code")
            self.see(page.get_by_test_id("editor"))
            self.check((theme, "code"))


if __name__ == "__main__":
    unittest.main()
