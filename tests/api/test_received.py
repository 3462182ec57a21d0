"""Hand-overs dropped on a project: opened as a shot whose code waits for a review."""

import io
import json
import unittest
import zipfile

from tests.helpers import Server, scratch, vexel, write_shot

CODE = "@model\ndef thing(instant=None):\n    open('ran', 'w')\n    return pv.Cone(height=1 + float(instant.phase))\n"


class ReceivedTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        other = self.folder / "theirs"
        other.mkdir()
        shot = write_shot(other, CODE.replace("    open('ran', 'w')\n", ""), frames=3)
        for arguments in (
            ("capture", shot, "--to", other / "take"),
            ("handover", shot, "--take", other / "take", "-o", other / "given.zip"),
        ):
            done = vexel(*arguments)
            self.assertEqual(done.returncode, 0, done.stderr)
        self.archive = (other / "given.zip").read_bytes()
        self.home = self.folder / "home"
        self.server = Server(self, self.home, "serve")
        write_shot(self.home / "shots", "@model\ndef thing():\n    return pv.Cone()\n")

    def sent(self, data, name="given.zip"):
        file = self.folder / name
        file.write_bytes(data)
        return self.server.send("/api/sources", [file])

    def changed(self, change):
        """The archive with one member changed, as somebody else may."""
        packed = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(self.archive)) as old, zipfile.ZipFile(packed, "w") as new:
            for member in old.namelist():
                new.writestr(member, change(member, old.read(member)))
        return packed.getvalue()

    def test_it_opens_as_a_shot_whose_code_is_reviewed_first(self):
        status, came = self.sent(self.archive)
        self.assertEqual((status, came["kind"]), (200, "model"), came)
        self.assertEqual(list((self.home / "sources").iterdir()), [], "nothing is left of the upload")
        _, shot = self.server.ask(f"/api/shots/{came['shot']}")
        self.assertTrue(shot["document"]["source"]["file"].startswith("../received/given/sources/"))
        status, refused = self.server.ask(f"/api/shots/{came['shot']}/source")
        self.assertIn("has not been run: review its code and trust it first", refused["error"])
        self.assertEqual(self.server.ask(f"/api/shots/{came['shot']}/runs", {})[0], 422)
        _, consent = self.server.ask("/api/consent")
        theirs = [one for one in consent["unseen"] if any("given" in file["path"] for file in one["files"])]
        self.assertEqual((len(theirs), len(consent["unseen"]), consent["own"]), (1, 1, True), "its own code may run")
        self.server.ask("/api/consent", {"digests": [theirs[0]["digest"]]})
        _, run = self.server.ask(f"/api/shots/{came['shot']}/runs", {})
        done = self.server.wait_for_run(run["id"], lambda r: r["state"] not in ("queued", "running"))
        self.assertEqual((done["state"], done["made"]), ("done", 3))
        # The same frames as those that came: made here by the same code.
        mine = sorted(self.home.glob("frames/??/*.png"), key=lambda file: file.read_bytes())
        given = sorted((self.home / "received/given/take").glob("*.png"), key=lambda file: file.read_bytes())
        self.assertEqual([a.read_bytes() for a in mine], [b.read_bytes() for b in given])
        again = self.sent(self.archive)[1]
        self.assertNotEqual(again["shot"], came["shot"], "twice is two shots")

    def test_what_names_files_beyond_itself_is_refused_and_leaves_nothing(self):
        def outside(member, data):
            if not member.startswith("shots/"):
                return data
            document = json.loads(data)
            document["source"]["file"] = "../../../../shots/thing.py"
            return json.dumps(document)

        for data, words in (
            (self.changed(outside), "which is not in the hand-over"),
            (self.changed(lambda m, d: b"{" if m.startswith("shots/") else d), "shot of given.zip"),
            (self.archive[: len(self.archive) // 2], "damaged"),
        ):
            status, refused = self.sent(data)
            self.assertEqual((status, words in refused["error"]), (422, True), refused)
            left = [*(self.home / "received").glob("*"), *(self.home / "sources").iterdir()]
            self.assertEqual((left, len(list((self.home / "shots").glob("*.json")))), ([], 1))


if __name__ == "__main__":
    unittest.main()
