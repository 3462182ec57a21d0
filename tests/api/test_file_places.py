"""Names of files before they are made, and files that are shown, deleted or left where they are."""

import os
import time
import unittest
import zipfile
from pathlib import Path

from tests.helpers import Server, scratch, write_shot

CODE = "@model\ndef thing(instant=None):\n    return pv.Cone(height=1 + float(instant.phase))\n"


class FilePlacesTest(unittest.TestCase):
    def setUp(self):
        folder = scratch(self)
        self.home = folder / "home"
        (self.home / "shots").mkdir(parents=True)
        picture = {"width": 96, "height": 64, "samples": 1, "passes": ["shaded", "wire"]}
        write_shot(self.home / "shots", CODE, frames=4, picture=picture)
        tools, self.shown = folder / "tools", folder / "shown.txt"
        tools.mkdir()
        (tools / "xdg-open").write_text(f'#!/bin/sh\necho "$1" > {self.shown}\n')
        (tools / "xdg-open").chmod(0o755)
        self.server = Server(self, self.home, PATH=f"{tools}:{os.environ['PATH']}", DISPLAY=":99")
        self.ask = self.server.ask
        _, run = self.ask("/api/shots/shot/runs", {})
        self.run_id = run["id"]
        self.server.wait_for_run(run["id"], lambda r: r["state"] == "done")
        recipes = {one["name"]: one["document"] for one in self.ask("/api/recipes")[1]["recipes"]}
        size = {"long_side": 48, "width": None, "height": None}
        self.order = {
            "recipes": [recipes["h264"], recipes["gif"] | {"size": size}, recipes["handover"], recipes["png"]],
            "camera_passes": [0, 1],
        }

    def made(self, order):
        _, sent = self.ask(f"/api/runs/{self.run_id}/dispatch", order)
        end = time.monotonic() + 120
        while any(one["state"] in ("queued", "running") for one in self.ask("/api/outputs")[1]["outputs"]):
            self.assertLess(time.monotonic(), end)
            time.sleep(0.1)
        return [self.ask(f"/api/outputs/{one['id']}")[1] for one in sent["outputs"]]

    def names(self, order):
        return self.ask(f"/api/runs/{self.run_id}/file-names", order)

    def test_files_get_the_names_that_were_shown_before(self):
        _, told = self.names(self.order)
        self.assertEqual((told["folder"], told["names"]), (str(self.home / "outputs"), [
            "trial.take1.shaded.h264.mp4", "trial.take1.shaded.gif.48x32.gif", "trial.take1.handover.zip",
            "trial.take1.shaded.png", "trial.take1.wire.h264.mp4", "trial.take1.wire.gif.48x32.gif",
            "trial.take1.wire.png",
        ]))  # fmt: skip
        self.assertFalse((self.home / "outputs").exists() and any((self.home / "outputs").iterdir()), "only asked")
        files = self.made(self.order)
        self.assertEqual([one["state"] for one in files], ["done"] * 7, [one["message"] for one in files])
        self.assertEqual([one["file"] for one in files], told["names"])
        again = self.names(self.order)[1]["names"]
        self.assertEqual(again[1:3], ["trial.take1.shaded.gif.48x32.v002.gif", "trial.take1.handover.v002.zip"])
        one_name = self.order | {"names": "{title}", "recipes": self.order["recipes"][:1]}
        self.assertEqual(self.names(one_name)[1]["names"], ["trial.mp4", "trial.v002.mp4"], "two files of one order")
        # A run's page orders under the same names.
        _, alone = self.ask(f"/api/runs/{self.run_id}/outputs", {"recipe": "webp", "camera_pass": 1})
        self.assertEqual(alone["file"], "trial.take1.wire.webp.webp")
        for bad in ({"folder": "here"}, {"names": "../{title}"}, {"camera_passes": [9]}):
            self.assertEqual(self.names(self.order | bad)[0], 422, bad)

    def test_a_hand_over_holds_the_files_of_its_take_but_none_that_has_changed(self):
        recipes, elsewhere = self.order["recipes"], str(self.home.parent / "elsewhere")
        one = {"recipes": [recipes[0]], "camera_passes": [0]}
        (own,), (other,) = self.made(one), self.made(one | {"folder": elsewhere})
        (changed,) = self.made({"recipes": [recipes[1]], "camera_passes": [0]})
        Path(changed["path"]).write_bytes(b"somebody's own")
        video, name = f"files/{Path(own['path']).name}", Path(other["path"]).name
        self.assertEqual(name, Path(own["path"]).name, "two files of one name")
        # The hand-over is asked for first, and still holds what the same order makes.
        _, handed = self.made({"recipes": [recipes[0], recipes[2]], "camera_passes": [1]})
        listed = [one["name"] for one in self.ask(f"/api/runs/{self.run_id}/handover")[1]["files"]]
        with zipfile.ZipFile(handed["path"]) as archive:
            held = {one for one in archive.namelist() if one.startswith("files/")}
            for file, made in ((video, own), (video.replace(".mp4", "-2.mp4"), other)):
                self.assertEqual(archive.read(file), Path(made["path"]).read_bytes())
            readme = archive.read("README.txt").decode()
        self.assertEqual(held, {video, video.replace(".mp4", "-2.mp4"), "files/trial.take1.wire.h264.mp4"})
        self.assertLess(held, set(listed))
        checks = {check["what"]: (check["found"], check["holds"]) for check in handed["receipt"]["checks"]}
        self.assertEqual(checks["files"], ("3", True))
        reason = f"{Path(changed['path']).name}: "
        self.assertIn(reason, readme)
        self.assertTrue(any(note.startswith(reason) for note in handed["receipt"]["notes"]), handed["receipt"])
        (bare,) = self.made({"recipes": [recipes[2] | {"made_files": False}], "camera_passes": [0]})
        with zipfile.ZipFile(bare["path"]) as archive:
            self.assertFalse([one for one in archive.namelist() if one.startswith("files/")])

    def test_a_file_is_deleted_but_never_one_that_is_not_ours(self):
        elsewhere = self.home.parent / "elsewhere"
        recipes = self.order["recipes"]
        inside, changed, folder = self.made(
            {"recipes": [recipes[0], recipes[1], recipes[3]], "camera_passes": [0], "folder": str(elsewhere)}
        )
        (own,) = self.made({"recipes": [recipes[0]], "camera_passes": [0]})
        Path(changed["path"]).write_bytes(b"somebody's own")
        for file, goes in ((inside, True), (changed, False), (folder, False), (own, True)):
            self.assertEqual(self.ask(f"/api/outputs/{file['id']}")[1]["deletes"], goes, file["file"])
            self.assertEqual(self.ask(f"/api/outputs/{file['id']}", method="DELETE")[0], 200)
            self.assertEqual(Path(file["path"]).exists(), not goes, file["file"])
            self.assertEqual(self.ask(f"/api/outputs/{file['id']}", method="DELETE")[0], 404)
        self.assertEqual(self.names({"recipes": [recipes[0]], "camera_passes": [0]})[1]["names"], [own["file"]])
        self.assertEqual(self.ask(f"/api/runs/{self.run_id}", method="DELETE")[0], 200, "a run without its files")

    def test_a_file_is_shown_in_its_folder(self):
        (file,) = self.made({"recipes": self.order["recipes"][:1], "camera_passes": [0]})
        self.assertTrue(self.ask("/api/vocabulary")[1]["file_manager"])
        self.assertEqual(self.ask(f"/api/outputs/{file['id']}/show", {})[0], 200)
        end = time.monotonic() + 60
        while not (self.shown.exists() and self.shown.read_text()):
            self.assertLess(time.monotonic(), end, "nothing was opened")
            time.sleep(0.05)
        self.assertEqual(self.shown.read_text().strip(), str(self.home / "outputs"))
        Path(file["path"]).unlink()
        status, told = self.ask(f"/api/outputs/{file['id']}/show", {})
        self.assertEqual((status, "no longer there" in told["error"]), (404, True), told)


if __name__ == "__main__":
    unittest.main()
