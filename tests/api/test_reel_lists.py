"""Which reels the list of reels opens again."""

import json
from unittest import main, mock

from tests.api.test_api import HOST, ApiTest
from vexel.web.jobs import reel_service


class ReelListTest(ApiTest):
    def setUp(self):
        super().setUp()
        self.enter()
        self.folder = self.home / "reels"
        for name, items in (
            ("inner", [{"kind": "gap", "frames": 5}]),
            ("outer", [{"kind": "reel", "reel": "inner.json"}]),
            ("outermost", [{"kind": "reel", "reel": "outer.json"}]),
            ("alone", [{"kind": "gap", "frames": 3}]),
        ):
            self.write(name, items)
        self.listed(), self.listed()

    def write(self, name, items):
        document = {"title": name, "items": items}
        (self.folder / f"{name}.json").write_text(json.dumps(document))

    def listed(self):
        """The lines of the list, and the titles of the reels that were opened for it."""
        with mock.patch.object(reel_service, "open_reel", wraps=reel_service.open_reel) as opening:
            lines = self.client.get("/api/reels", headers=HOST).json["reels"]
        return {line["id"]: line for line in lines}, {call.args[0].title for call in opening.call_args_list}

    def test_a_change_opens_the_reel_and_those_that_show_it_alone(self):
        self.assertEqual(self.listed()[1], set())
        self.write("inner", [{"kind": "gap", "frames": 9}])
        lines, opened = self.listed()
        self.assertEqual(opened, {"inner", "outer", "outermost"})
        self.assertEqual([lines[name]["frames"] for name in ("inner", "outer", "outermost", "alone")], [9, 9, 9, 3])

    def test_a_reel_that_could_not_be_opened_is_tried_again(self):
        whole = (self.folder / "inner.json").read_text()
        (self.folder / "inner.json").write_text("{")
        broken = self.listed()[0]
        self.listed()
        (self.folder / "inner.json").write_text(whole)
        fixed = self.listed()[0]
        self.assertTrue(broken["inner"]["error"])
        self.assertEqual([fixed[name]["frames"] for name in ("inner", "outer", "outermost")], [5, 5, 5])


if __name__ == "__main__":
    main()
