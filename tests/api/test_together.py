"""Several at once: two windows on one shot or one text, and code that came from elsewhere."""

import hashlib
import json
import pickle
import shutil
from pathlib import Path
from unittest import main, mock

from tests.api.test_api import HOST, OWN, PORT, ApiTest
from tests.helpers import demo_home, scratch
from vexel.store.consent import Consent, make_own
from vexel.store.project import Project
from vexel.web.app import create_app
from vexel.web.guard import Guard
from vexel.web.services import Services
from vexel.workers.bounds.isolation import OFF

SHOT = "/api/shots/shell-growth"


class TwoWindowsTest(ApiTest):
    def setUp(self):
        super().setUp()
        self.enter()

    def edit(self, patch, revision, what="it"):
        return self.client.patch(f"{SHOT}?revision={revision}", json={"patch": patch, "what": what}, headers=OWN)

    def revision(self):
        return self.client.get(SHOT, headers=HOST).json["revision"]

    def test_edits_of_different_parts_both_stand_and_of_the_same_the_later_is_refused(self):
        base = self.revision()
        self.assertEqual(self.edit({"clock": {"rate": "25"}}, base, "the rate").status_code, 200)
        both = self.edit({"picture": {"width": 640}}, base, "the width")
        self.assertEqual(both.status_code, 200)
        self.assertEqual(
            (both.json["document"]["clock"]["rate"], both.json["document"]["picture"]["width"]), ("25", 640)
        )
        stale = self.edit({"clock": {"rate": "30"}}, base, "the rate")
        self.assertEqual(stale.status_code, 409)
        self.assertIn("Changed in another window: the rate, the width", stale.json["error"])
        self.assertEqual(stale.json["changed"], ["clock.rate"])
        self.assertEqual(self.edit({"clock": {"rate": "25"}}, base).status_code, 200, "the same wish is no clash")
        self.assertEqual(self.edit({"clock": {"rate": "30"}}, self.revision()).status_code, 200)

    def test_a_list_is_one_value_and_a_part_of_another_kind_is_wholly_anothers(self):
        base = self.revision()
        lane = {"drive": "dial:whorls", "keys": [[0, 1], [1, 2]]}
        self.assertEqual(self.edit({"lanes": [lane]}, base).status_code, 200)
        self.assertEqual(self.edit({"lanes": []}, base).status_code, 409)
        base = self.revision()
        self.assertEqual(self.edit({"camera": {"rig": {"fill": 0.5}}}, base).status_code, 200)
        still = {"camera": {"rig": {"kind": "still", "fill": 0.9}}}
        self.assertEqual(self.edit(still, base).status_code, 409)

    def test_no_revision_is_given_twice(self):
        base = self.revision()
        for rate in ("25", "30", "50"):
            self.edit({"clock": {"rate": rate}}, self.revision())
        newest = self.revision()
        for _ in range(3):
            self.client.post(f"{SHOT}/undo", headers=OWN)
        self.assertEqual(self.revision(), base)
        self.edit({"clock": {"rate": "60"}}, base)
        self.assertGreater(self.revision(), newest)
        self.assertEqual(self.client.post(f"{SHOT}/undo?revision={newest}", headers=OWN).status_code, 409)

    def test_terms_and_rigs_from_an_old_revision_clash_too(self):
        base = self.revision()
        self.edit({"clock": {"rate": "25"}, "camera": {"rig": {"fill": 0.5}}}, base, "the rate")
        for address, order in (("terms", {"term": "rate", "text": "30"}), ("rig", {"kind": "path"})):
            answer = self.client.post(f"{SHOT}/{address}?revision={base}", json=order, headers=OWN)
            self.assertEqual(answer.status_code, 409, address)

    def test_a_text_has_a_history_and_is_not_overwritten_unseen(self):
        code = f"{SHOT}/code"
        begin = self.client.get(code, headers=HOST).json
        file = next(self.home.glob("sources/*shell*.py"))

        def put(text, revision, burst=""):
            return self.client.put(f"{code}?revision={revision}", json={"text": text, "burst": burst}, headers=OWN)

        one = put(begin["text"] + "# one\n", begin["revision"]).json
        self.assertTrue(one["undo"])
        stale = put("x = 1\n", begin["revision"])
        self.assertEqual(stale.status_code, 409)
        self.assertRegex(stale.json["error"], r"was changed in the meantime \(line \d+\)")
        two = put(begin["text"] + "# two\n", one["revision"], "b").json
        three = put(begin["text"] + "# three\n", two["revision"], "b").json
        undone = self.client.post(f"{code}/undo?revision={three['revision']}", headers=OWN).json
        self.assertEqual((undone["text"], undone["redo"]), (one["text"], True), "a burst is one undo")
        self.assertEqual(file.read_text(), one["text"])
        redone = self.client.post(f"{code}/redo", headers=OWN).json
        self.assertEqual(redone["text"], three["text"])
        file.write_text("outside = 1\n")
        self.assertEqual(put("mine = 1\n", redone["revision"]).status_code, 409)
        outside = self.client.get(code, headers=HOST).json
        self.assertEqual(outside["text"], "outside = 1\n")
        self.assertEqual(self.client.post(f"{code}/undo", headers=OWN).json["text"], three["text"])


class ElsewhereTest(ApiTest):
    """A project that was not made on this machine."""

    def setUp(self):
        # Code that runs against the rules can leave its mark.
        state = mock.patch.dict("os.environ", {"XDG_STATE_HOME": str(scratch(self)), OFF: "off"})
        state.start()
        self.addCleanup(state.stop)
        self.home = scratch(self) / "home"
        shutil.copytree(demo_home(), self.home)
        self.open()

    def open(self):
        self.services = Services(Project(self.home), 1, Consent(self.home))
        self.addCleanup(self.services.close)
        self.guard = Guard("secret", PORT)
        self.client = create_app(self.services, self.guard).test_client()
        self.enter()

    def unseen(self):
        return self.client.get("/api/consent", headers=HOST).json["unseen"]

    def source(self, shot="tide-week"):
        return self.client.get(f"/api/shots/{shot}/source", headers=HOST)

    def test_nothing_runs_until_its_content_was_trusted(self):
        listed = {name for told in self.unseen() for name in [told["files"][0]["name"]]}
        self.assertTrue({"tide.py", "lighthouse.html", "ripples.py"} <= listed, listed)
        tide = next(told for told in self.unseen() if told["files"][0]["name"] == "tide.py")
        self.assertIn("tide", tide["files"][0]["text"])
        ran = self.home / "ran"
        file = self.home / "sources/tide.py"
        file.write_text(f"open({str(ran)!r}, 'w')\n" + file.read_text())
        for address in ("source", "view?frame=0&width=96&height=54", "glance"):
            answer = self.client.get(f"/api/shots/tide-week/{address}", headers=HOST)
            self.assertIn(answer.status_code, (404, 422), address)
        refused = self.client.post("/api/shots/tide-week/runs", json={}, headers=OWN)
        self.assertEqual((refused.status_code, refused.json["unseen"]), (422, True))
        self.assertFalse(ran.exists())
        self.assertEqual(self.source("mooring-buoy").status_code, 200, "a mesh runs nothing")

        changed = self.client.post("/api/consent", json={"digests": [tide["digest"]]}, headers=OWN)
        self.assertIn("have changed since they were shown", changed.json["error"])
        now = next(told for told in self.unseen() if told["files"][0]["name"] == "tide.py")
        trusted = self.client.post("/api/consent", json={"digests": [now["digest"]]}, headers=OWN)
        self.assertEqual(trusted.status_code, 200, trusted.json)
        self.assertNotIn(now["digest"], [told["digest"] for told in trusted.json["unseen"]])
        self.assertEqual(self.source().status_code, 200)
        self.open()
        self.assertEqual(self.source().status_code, 200, "remembered")
        file.write_text(file.read_text() + "# and more\n")
        self.assertTrue(self.source().json["unseen"], "asked again when the content changes")

    def test_nothing_but_what_was_shown_runs_of_copies_and_states(self):
        """Whatever a project brings in its copies: other modules, compiled ones, pickled states."""
        ran = self.home / "ran"
        evil = f"open({str(ran)!r}, 'w')\n"

        class Opens:
            def __reduce__(self):
                return open, (str(ran), "w")

        for shot, file in (("tide-week", "tide.py"), ("ripples", "ripples.py")):
            told = next(one for one in self.unseen() if one["files"][0]["name"] == file)
            copy, source = self.home / "copies" / told["digest"], self.home / "sources" / file
            (copy / "__pycache__").mkdir(parents=True)
            shutil.copyfile(source, copy / file)
            (copy / ".names.json").write_text(json.dumps([file]))
            (copy / "numpy.py").write_text(evil)
            (copy / "vexel.py").write_text(evil)
            for states in (copy / ".states", self.home / "copies/states" / told["digest"]):
                name = hashlib.sha256(json.dumps([[], 0]).encode()).hexdigest()[:24]
                for settings in (name, *(f"{n:024x}" for n in range(2))):
                    (states / settings).mkdir(parents=True)
                    for step in range(1, 40):
                        (states / settings / f"{step:012d}.state").write_bytes(pickle.dumps(Opens()))
            self.client.post("/api/consent", json={"digests": [told["digest"]]}, headers=OWN)
            view = self.client.get(f"/api/shots/{shot}/view?frame=5&width=96&height=54", headers=HOST)
            self.assertEqual(view.status_code, 200, view.json)
            self.assertFalse(ran.exists())
            self.assertEqual([path.name for path in copy.iterdir()], [file])

    def test_an_older_text_of_theirs_is_reviewed_too(self):
        ran = self.home / "ran"
        text = (self.home / "sources/tide.py").read_text()
        evil = f"open({str(ran)!r}, 'w')\n{text}"
        texts, file = self.services.project.texts, self.home / "sources/tide.py"
        texts.save(file, evil)
        texts.save(file, text)
        tide = next(told for told in self.unseen() if told["files"][0]["name"] == "tide.py")
        self.client.post("/api/consent", json={"digests": [tide["digest"]]}, headers=OWN)
        undone = self.client.post("/api/shots/tide-week/code/undo", headers=OWN)
        self.assertEqual((undone.status_code, undone.json["text"]), (200, evil))
        self.assertTrue(self.source().json["unseen"])
        self.assertFalse(ran.exists())

    def test_the_code_that_draws_a_series_waits_too(self):
        ran = self.home / "ran"
        (self.home / "sources/draw.py").write_text(f"open({str(ran)!r}, 'w')\n")
        patch = {"source": {"draw": "draw.py"}}
        edited = self.client.patch("/api/shots/gauge", json={"patch": patch, "what": "draw"}, headers=OWN)
        self.assertEqual(edited.status_code, 200)
        self.assertTrue(self.source("gauge").json["unseen"])
        self.assertFalse(ran.exists())
        self.assertIn("draw.py", [told["files"][0]["name"] for told in self.unseen()])

    def test_what_a_person_writes_or_brings_here_runs(self):
        tide = next(told for told in self.unseen() if told["files"][0]["name"] == "tide.py")
        self.client.post("/api/consent", json={"digests": [tide["digest"]]}, headers=OWN)
        text = self.client.get("/api/shots/tide-week/code", headers=HOST).json["text"]
        self.client.put("/api/shots/tide-week/code", json={"text": text + "# mine\n"}, headers=OWN)
        self.assertEqual(self.source().status_code, 200)
        page = b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/>"
        brought = self.upload(("mine.svg", page))
        self.assertEqual(brought.status_code, 200, brought.json)

    def test_a_project_that_was_made_here_is_asked_nothing_and_a_copy_of_it_is(self):
        make_own(self.home)
        self.assertTrue(Consent(self.home).own)
        copy = Path(shutil.copytree(self.home, scratch(self) / "copy"))
        self.assertFalse(Consent(copy).own)
        before = Project(copy).secret()
        Project(copy).renew_secrets()
        self.assertNotEqual(Project(copy).secret(), before)


del ApiTest

if __name__ == "__main__":
    main()
