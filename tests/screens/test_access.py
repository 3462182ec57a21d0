"""Every main screen in both themes, held against the rules of WCAG by axe-core."""

import unittest
from pathlib import Path

import vexel
from tests.screens.base import ScreenTest

AXE = Path(vexel.__file__).parents[2] / "ui/node_modules/axe-core/axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
GRAVE = ("serious", "critical")


class AccessTest(ScreenTest):
    def check(self, where):
        """No finding that keeps anybody from using the screen."""
        self.page.evaluate(AXE.read_text())
        found = self.page.evaluate(
            "rules => axe.run(document, {runOnly: rules}).then(r => r.violations.map("
            "v => [v.impact, v.id, v.nodes.slice(0, 3).map(n => n.html.slice(0, 160))]))",
            RULES,
        )
        self.assertEqual([finding for finding in found if finding[0] in GRAVE], [], where)

    def test_no_serious_finding_on_any_main_screen_in_both_themes(self):
        page = self.page
        # A colour that is on its way from one theme to the other is neither's.
        page.emulate_media(reduced_motion="reduce")
        _, run = self.server.ask("/api/shots/mooring-buoy/runs", {"to_file": True})
        done = self.server.wait_for_run(run["id"], lambda r: [o["state"] for o in r["outputs"]] == ["done"])
        _, reel = self.server.ask("/api/reels", {"title": "Hall", "runs": [run["id"], run["id"]]})
        places = {
            f"/reels/{reel['id']}": page.get_by_test_id("cards"),
            "/": page.get_by_test_id("shot").first,
            "/runs": page.get_by_role("link", name="Mooring buoy").first,
            f"/runs/{run['id']}": page.get_by_test_id("frame-picture"),
            f"/files/{done['outputs'][0]['id']}": page.get_by_test_id("receipt"),
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
            self.open("/dispatch")
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
