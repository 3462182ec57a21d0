"""What an edit of a reel answers: only the items that have changed, which together with those before are all."""

import random
import unittest

from PIL import Image

from tests.api.test_api import HOST, OWN, ApiTest
from vexel.web.jobs.reel_service import ReelService
from vexel.web.reel_bodies import ReelBodies

WHERE = ("state", "since", "head", "tail")


def whole(before, answer):
    """As the interface does it: the items that an answer leaves out are those of the one before."""
    if not answer["since"]:
        return answer
    assert answer["since"] == before["state"]
    head, tail = answer["head"], answer["tail"]

    def filled(one, other):
        return one[:head] + other + one[len(one) - tail :]

    items = filled(before["document"]["items"], answer["document"]["items"])
    return answer | {
        "items": filled(before["items"], answer["items"]),
        "document": answer["document"] | {"items": items},
    }


class ReelAnswersTest(ApiTest):
    def setUp(self):
        super().setUp()
        self.enter()
        files = self.home / "reels/files"
        files.mkdir(parents=True)
        for n in range(3):
            Image.new("RGB", (32, 18), (90 * n,) * 3).save(files / f"w{n}.png")
        self.address = f"/api/reels/{self.asked('/api/reels', {'title': 'Hall'}, 'post')['id']}"
        self.chance = random.Random(5)

    def asked(self, address, body=None, method="get"):
        answer = self.client.open(address, method=method, json=body, headers=OWN if body is not None else HOST)
        self.assertEqual(answer.status_code, 200, answer.data[:300])
        return answer.json

    def item(self):
        file = f"files/{self.chance.choice(['w0.png', 'w1.png', 'w2.png', 'lost.png'])}"
        stills = {"kind": "stills", "file": file, "frames": self.chance.randint(1, 9)}
        transition = {"kind": "cross-dissolve", "frames": self.chance.choice([0, 1, 2, 6])}
        return self.chance.choice([
            stills, stills | {"transition": transition},
            {"kind": "title", "text": "Hall", "frames": 5, "transition": transition},
            {"kind": "gap", "frames": 3}, {"kind": "group", "items": [stills, stills], "repeat": 2},
        ])  # fmt: skip

    def patch(self, count):
        """A random edit."""
        pick, at = self.chance.choice, self.chance.randrange(max(count, 1))
        some = [self.item() for _ in range(self.chance.randint(1, 3))]
        edits = [{"items": {"insert": {str(at if count else 0): some}}}, {"title": f"Hall {self.chance.random()}"}]
        if count:
            change = lambda **values: {"items": {"change": {str(at): values}}}  # noqa: E731
            edits += [
                change(name=f"n{self.chance.random()}"), change(frames=self.chance.randint(1, 9), seconds=None),
                change(frames=None, seconds=pick([0.1, 0.5])),
                change(transition={"kind": "wipe", "frames": pick([0, 1, 6])}),
                {"items": {"remove": [at]}}, {"seconds": pick([None, 9])}, {"rate": pick(["24", "25"])},
                {"items": some} if self.chance.random() < 0.1 else {"title": "Hall"},
            ]  # fmt: skip
        return pick(edits)

    def worked_out_anew(self):
        """The reel by a desk that remembers nothing."""
        services = self.services
        desk = ReelService(services.project, services.captures, services.jobs, services.media)
        bodies = ReelBodies(services.project, desk)
        return bodies.body(services.project.reels.get(self.address.rsplit("/", 1)[1])).model_dump(mode="json")

    def test_random_edits_come_to_what_is_asked_for_anew(self):
        begin = {"patch": {"items": [self.item() for _ in range(12)]}, "what": "x"}
        now, left_out = self.asked(self.address, begin, "patch"), 0
        for _ in range(120):
            query = f"?since={now['state']}"
            if self.chance.random() < 0.3:
                way = self.chance.choice(["undo", "redo"])
                answer = self.client.post(f"{self.address}/{way}{query}", json={}, headers=OWN)
                if answer.status_code != 200:
                    continue
                answer = answer.json
            else:
                body = {"patch": self.patch(len(now["items"])), "what": "x"}
                answer = self.asked(self.address + query, body, "patch")
            left_out += answer["head"] + answer["tail"]
            now = whole(now, answer)
            asked = self.worked_out_anew()
            for name in asked:
                if name not in WHERE:
                    self.assertEqual(now[name], asked[name], name)
            self.assertEqual(len(now["items"]), len(now["document"]["items"]))
        self.assertGreater(left_out, 500)

    def test_neighbours_and_files_that_change_are_seen(self):
        wipe = {"kind": "wipe", "frames": 6}
        items = [{"kind": "stills", "file": f"files/w{n}.png", "frames": 9, "transition": wipe} for n in range(3)]
        now = self.asked(self.address, {"patch": {"items": items}, "what": "x"}, "patch")
        self.assertEqual([item["overlap"] for item in now["items"]], [6, 3, 0])
        body = {"patch": {"items": {"change": {"2": {"frames": 2}}}}, "what": "x"}
        now = whole(now, self.asked(f"{self.address}?since={now['state']}", body, "patch"))
        self.assertEqual([item["overlap"] for item in now["items"]], [6, 2, 0])
        Image.new("RGB", (64, 36)).save(self.home / "reels/files/w0.png")
        body = {"patch": {"title": "Other"}, "what": "x"}
        now = whole(now, self.asked(f"{self.address}?since={now['state']}", body, "patch"))
        self.assertIn("64 × 36", now["items"][0]["source"])

    def test_an_unknown_answer_and_that_of_another_reel_leave_nothing_out(self):
        now = self.asked(self.address, {"patch": {"items": [self.item()]}, "what": "x"}, "patch")
        other = f"/api/reels/{self.asked('/api/reels', {'title': 'Other'}, 'post')['id']}"
        self.asked(other, {"patch": {"items": now["document"]["items"]}, "what": "x"}, "patch")
        for since in ("", "nothing.1", now["state"]):
            answer = self.asked(f"{other}?since={since}", {"patch": {"title": f"T{since}"}, "what": "x"}, "patch")
            self.assertEqual((answer["since"], len(answer["items"])), ("", 1))

    def test_one_of_many_items_is_a_short_answer(self):
        items = [{"kind": "stills", "file": f"files/w{n % 3}.png", "frames": 2} for n in range(500)]
        first = self.client.patch(self.address, json={"patch": {"items": items}, "what": "x"}, headers=OWN)
        body = {"patch": {"items": {"change": {"250": {"frames": 9}}}}, "what": "x"}
        answer = self.client.patch(f"{self.address}?since={first.json['state']}", json=body, headers=OWN)
        self.assertEqual([len(answer.json["items"]), answer.json["head"], answer.json["tail"]], [1, 250, 249])
        self.assertLess(len(answer.data), len(first.data) / 5)
        # The events of an edit make every window ask for the reel, also the one that edited it.
        asked = self.client.get(f"{self.address}?since={answer.json['state']}", headers=HOST)
        self.assertEqual((asked.json["items"], asked.json["head"]), ([], 500))
        self.assertEqual(whole(whole(first.json, answer.json), asked.json)["items"], self.asked(self.address)["items"])
        # Another window that has not heard of it may not write over it.
        body = {"patch": {"items": {"change": {"250": {"frames": 4}}}}, "what": "x"}
        late = self.client.patch(f"{self.address}?revision={first.json['revision']}", json=body, headers=OWN)
        self.assertEqual(late.status_code, 409)


if __name__ == "__main__":
    unittest.main()
