"""The first hour with things of one's own, in the real interface: from an empty project to a file in hand."""

import io
import re
import unittest
import zipfile
from pathlib import Path

import av
import numpy as np
import trimesh
from PIL import Image
from playwright.sync_api import expect
from trimesh.visual import ColorVisuals

from tests.helpers import HEADER
from tests.screens.base import ScreenTest

PLOT = """
import matplotlib.pyplot as plt
import numpy as np

x = np.linspace(0, 2 * np.pi, 200)
for i in range(12):
    plt.figure(figsize=(3.2, 1.8))
    plt.plot(x, np.sin(x + 2 * np.pi * i / 12))
    plt.ylim(-1.2, 1.2)
    plt.savefig(f"wave_{i:02}.png")
    plt.close()
"""
PAGE = """<!doctype html><style>
@keyframes turn { to { transform: rotate(360deg) } }
div { width: 60px; height: 60px; margin: 60px; background: #c03020; animation: turn 3s linear infinite }
</style><div></div>"""
MODEL = HEADER + "@model\ndef mast(height=dial(2.0, low=1.0, high=4.0, unit='m')):\n    return pv.Cone(height=height)\n"


def tower():
    """A broad blue base with a red tip above it, along +z."""
    base = trimesh.creation.cylinder(1.0, 1.0, sections=24)
    tip = trimesh.creation.cone(0.6, 2.0, sections=24)
    tip.apply_translation((0, 0, 0.5))
    for part, colour in ((base, (20, 40, 230, 255)), (tip, (230, 30, 20, 255))):
        part.visual = ColorVisuals(part, face_colors=np.tile(np.uint8(colour), (len(part.faces), 1)))
    return trimesh.util.concatenate([base, tip])


def obj_with_materials(mesh) -> tuple[str, str]:
    """OBJ and MTL texts of the tower, written here so that no library's own idea of up is in them."""
    lines = ["mtllib tower.mtl", *(f"v {x:.5f} {y:.5f} {z:.5f}" for x, y, z in mesh.vertices)]
    for name, red in (("base", False), ("tip", True)):
        lines.append(f"usemtl {name}")
        colours = mesh.visual.face_colors
        lines += [
            f"f {a + 1} {b + 1} {c + 1}"
            for (a, b, c), colour in zip(mesh.faces, colours, strict=True)
            if (colour[0] > 128) == red
        ]
    return "\n".join(lines), "newmtl base\nKd 0.1 0.15 0.9\nnewmtl tip\nKd 0.9 0.1 0.1\n"


class JourneysTest(ScreenTest):
    """All in one browser, before one server, so that they take no longer than they must."""

    @classmethod
    def lay_out(cls):
        """An empty project, and a folder of files that a person brings; no journey meets the shot of another."""
        cls.own = cls.home.parent / "own"
        cls.own.mkdir()

    def bring(self, *files):
        """New shot, own files."""
        self.open("/")
        self.press("New shot")
        self.page.get_by_test_id("upload").set_input_files([self.own / file for file in files])
        self.page.wait_for_url(re.compile(r"/shots/[^/]+$"))
        self.revision = 0

    def picture(self):
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))

    def sheet(self, topic):
        self.page.locator(f"[data-topic={topic}]").first.click()
        self.see(self.page.get_by_test_id("sheet"))

    def part(self, name):
        """A part of what the capture button does, from the arrow beside it."""
        self.page.get_by_label("Frames only, draft or proof").click()
        self.press(name)

    def download(self) -> Path:
        """The file that a run ends in."""
        ready = self.page.get_by_test_id("ready-file")
        self.see(ready.get_by_text("It matches the plan."), seconds=120)
        with self.page.expect_download() as got:
            ready.get_by_role("link", name="Download").click()
        return got.value.path()

    def frames(self, file):
        with av.open(str(file)) as container:
            return [frame.to_ndarray(format="rgb24").astype(int) for frame in container.decode(video=0)]

    def assert_upright(self, frames):
        for frame in (frames[0], frames[len(frames) // 2], frames[-1]):
            red = np.argwhere(frame[..., 0] - frame[..., 2] > 40)
            blue = np.argwhere(frame[..., 2] - frame[..., 0] > 40)
            self.assertTrue(len(red) and len(blue))
            (red_y, red_x), (blue_y, blue_x) = red.mean(axis=0), blue.mean(axis=0)
            self.assertLess(red_y, blue_y - 10, "the tip is above the base")
            self.assertLess(abs(red_x - blue_x), 8, "and over its middle")

    def test_a_y_up_obj_stands_upright_and_becomes_a_video(self):
        mesh = tower()
        mesh.apply_transform(trimesh.transformations.rotation_matrix(-np.pi / 2, (1, 0, 0)))
        obj, mtl = obj_with_materials(mesh)
        (self.own / "tower.obj").write_text(obj)
        (self.own / "tower.mtl").write_text(mtl)
        self.bring("tower.obj", "tower.mtl")
        self.picture()
        self.assertEqual(self.page.get_by_test_id("on-its-side").count(), 0)
        start = self.middle(self.page.get_by_test_id("viewfinder"))
        self.drag(start, (start[0] + 60, start[1]))
        self.wait_for_revision(1)
        self.see(self.page.get_by_test_id("capture"), "Capture 120 frames, make the MP4")
        self.type("Frames, follows", 24)
        self.part("Draft, make the MP4")
        frames = self.frames(self.download())
        self.assertEqual((len(frames), frames[0].shape), (24, (270, 480, 3)))
        self.assert_upright(frames)

    def test_a_z_up_glb_is_turned_upright_by_a_press(self):
        (self.own / "mast.glb").write_bytes(tower().export(file_type="glb"))
        self.bring("mast.glb")
        self.picture()
        self.see(self.page.get_by_test_id("on-its-side"), "Is it on its side")
        self.page.get_by_test_id("on-its-side").get_by_role("button", name="Turn it upright").click()
        self.wait_for_revision(1)
        self.type("Frames, follows", 24)
        self.wait_for_revision(2)
        self.part("Draft, make the MP4")
        self.assert_upright(self.frames(self.download()))

    def test_a_plain_script_becomes_a_looping_gif(self):
        (self.own / "wave.py").write_text(PLOT)
        self.bring("wave.py")
        self.see(self.page.get_by_test_id("proposal"), "This is a plain script")
        self.see(self.page.get_by_test_id("blocked"), "see the error in the code")
        # The proposal says what to do; the error is not repeated beside it.
        expect(self.page.get_by_text("marks no function as its sketch")).to_have_count(0)
        self.assertTrue(self.page.get_by_test_id("capture").is_disabled())
        self.press("Apply these changes")
        self.picture()
        self.see(self.page.get_by_test_id("brief"), "Film wave.py for 12 frames at 24 fps as a loop")
        self.press("Close the code")
        self.sheet("picture")
        self.type("Width", 320)
        self.type("Height", 180)
        self.page.get_by_label("Output format").select_option("gif")
        self.see(self.page.get_by_test_id("capture"), "Capture 12 frames, make the GIF")
        self.page.get_by_test_id("capture").click()
        data = self.download().read_bytes()
        # GIF89a: the application block of an endless loop.
        self.assertTrue(b"NETSCAPE2.0\x03\x01\0\0\0" in data)
        gif = Image.open(io.BytesIO(data))
        self.assertEqual((gif.n_frames, gif.size), (12, (320, 180)))

    def test_a_page_becomes_clear_numbered_frames(self):
        (self.own / "turning.html").write_text(PAGE)
        self.bring("turning.html")
        self.picture()
        self.see(self.page.get_by_test_id("brief"), "for 3 s at 24 fps as a loop")
        self.sheet("picture")
        self.type("Width", 180)
        self.type("Height", 180)
        self.press("clear", exact=True)
        self.page.get_by_label("Close Picture").click()
        self.press("Output numbered frames, which keep it")
        self.see(self.page.get_by_test_id("capture"), "Capture 72 frames, make the folder")
        self.page.get_by_test_id("capture").click()
        self.see(self.page.get_by_test_id("ready-file").get_by_text("It matches the plan."), seconds=120)
        (folder,) = (self.home / "outputs").glob("turning.take*")
        files = sorted(folder.iterdir())
        self.assertEqual([file.name for file in files], [f"turning.shaded.{n:04}.png" for n in range(72)])
        pictures = [np.asarray(Image.open(files[n])) for n in (0, 9)]
        for picture in pictures:
            self.assertEqual((picture.shape, picture[0, 0, 3], picture[90, 90, 3]), ((180, 180, 4), 0, 255))
        self.assertFalse(np.array_equal(*pictures), "an eighth of a turn later it looks otherwise")
        with self.page.expect_download() as got:
            self.page.get_by_role("link", name="ZIP").click()
        with zipfile.ZipFile(got.value.path()) as archive:
            self.assertIsNone(archive.testzip())
            self.assertEqual(archive.read(files[9].name), files[9].read_bytes())

    def test_a_lane_with_a_pause_by_keyboard_and_by_mouse(self):
        (self.own / "mast.py").write_text(MODEL)
        self.bring("mast.py")
        self.picture()
        page = self.page
        page.locator("[data-topic=lanes]").focus()
        page.keyboard.press("Enter")
        self.see(page.get_by_test_id("sheet"))
        page.get_by_role("button", name="height", exact=True).focus()
        page.keyboard.press("Enter")
        for name, value in (("from", "1"), ("to", "3")):
            self.type(f"height, {name}", value)
        for _ in range(2):
            page.get_by_role("button", name="Add a key").focus()
            page.keyboard.press("Enter")
        self.see(page.get_by_label("height, key 3, place"))
        for label, value in (("key 3, place", 0.6), ("key 3", 3), ("key 2, place", 0.4), ("key 2", 3)):
            # Saved one by one: edits that wait for the same answer are undone together.
            self.wait_until_saved()
            self.type(f"height, {label}", value)
        self.see(
            page.get_by_test_id("brief"),
            "height goes from 1 to 3 and back with a pause|height goes from 1 to 3 with a pause",
        )
        self.wait_until_saved()
        shot = page.url.split("/")[-1]
        keys = self.document(shot)["lanes"][0]["keys"]
        self.assertEqual([key[1] for key in keys][:3], [1, 3, 3])
        page.keyboard.press("Control+z")
        # Edits that follow within a second are undone together: then the key itself is gone.
        self.until("(document.querySelector('[aria-label=\"height, key 2\"]') ?? {}).value !== '3'")
        page.keyboard.press("Escape")
        self.assertEqual(page.evaluate("document.activeElement.dataset.topic"), "lanes", "focus is back at its word")

        # By mouse: another key on the strip.
        page.keyboard.press("l")
        row = page.locator("[data-drive='dial:height'][data-key='0']")
        self.see(row)
        self.wait_until_saved()
        before = len(self.document(shot)["lanes"][0]["keys"])
        # Both boxes at one instant: the rows may still move.
        across, down = row.evaluate(
            """mark => {
              const [at, all] = [mark, mark.closest("svg")].map((one) => one.getBoundingClientRect());
              return [all.width * 0.8, at.y + at.height / 2 - all.y];
            }"""
        )
        page.get_by_test_id("lane-rows").dblclick(position={"x": across, "y": down})
        self.see(page.locator(f"[data-drive='dial:height'][data-key='{before}']"))

    def test_four_views_become_a_walk_and_are_put_in_another_order(self):
        page = self.page
        (self.own / "block.stl").write_bytes(tower().export(file_type="stl"))
        self.bring("block.stl")
        self.picture()
        self.type("Frames, follows", 12)
        self.wait_for_revision(1)
        for number in range(1, 5):
            page.get_by_test_id("strip").focus()
            page.keyboard.press("v")
            self.see(page.get_by_test_id("toast"), f"View {number} saved")
            for _ in range(3):
                page.keyboard.press("ArrowRight")
        self.press("Show the views")
        self.press("saved views", exact=True)
        self.see(page.get_by_test_id("brief"), "going through 4 saved views")
        handle = page.get_by_role("button", name="Move View 1: space")
        handle.focus()
        for key, announced in (
            ("Space", "View 1 is over stop 1 of 4."),
            ("ArrowDown", "View 1 is over stop 2 of 4."),
            ("Space", "View 1 is now stop 2 of 4."),
        ):
            page.keyboard.press(key)
            self.see(page.get_by_text(announced))
        self.until("[...document.querySelectorAll('[data-testid=view-card] input')][0].value === 'View 2'")
        self.wait_until_saved()
        names = [view["name"] for view in self.document(page.url.split("/")[-1])["camera"]["views"]]
        self.assertEqual(names, ["View 2", "View 1", "View 3", "View 4"])

    def test_stop_leave_resume_capture_unchanged_and_change_the_background(self):
        page = self.page
        slow = MODEL.replace("    return", "    import time; time.sleep(0.4)\n    return").replace(
            "unit='m')", "unit='m'), frame=0"
        )
        (self.own / "slow.py").write_text(slow)
        self.bring("slow.py")
        self.picture()
        self.type("Frames, follows", 16)
        self.wait_for_revision(1)
        self.sheet("picture")
        self.type("Width", 160)
        self.type("Height", 90)
        self.see(page.get_by_test_id("capture"), "Capture 16 frames, make the MP4")
        page.get_by_test_id("capture").click()
        self.see(page.get_by_test_id("done"), r"^[1-9]\d* of 16")
        self.press("Stop")
        self.see(page.get_by_test_id("run-state"), "^stopped$")
        page.get_by_role("link", name="Open shot").click()
        self.see(page.get_by_test_id("capture"), r"Capture \d+ new of 16 frames")
        page.get_by_role("link", name="Runs").click()
        page.get_by_role("link", name="Slow, once round").click()
        self.press("Resume")
        self.download()

        page.get_by_role("link", name="Open shot").click()
        self.see(page.get_by_test_id("capture"), "All 16 frames are captured: make the MP4")
        page.get_by_test_id("capture").click()
        self.see(page.get_by_test_id("frame-picture"))
        self.download()
        self.assertEqual(page.get_by_test_id("cells").locator("[title$=reused]").count(), 16)

        page.get_by_role("link", name="Open shot").click()
        self.sheet("picture")
        page.get_by_label("Background #ffffff").click()
        self.see(page.get_by_test_id("capture"), "Capture 16 frames, make the MP4")
        page.keyboard.press("Control+z")
        self.see(page.get_by_test_id("capture"), "All 16 frames are captured")

    def test_seven_mistakes_each_with_its_sentence(self):
        page = self.page
        (self.own / "notes.docx").write_bytes(b"PK nothing")
        (self.own / "wrong.py").write_text(HEADER + "@model\ndef f():\n    return pv.Cone(hight=2)\n")
        self.open("/")
        self.press("New shot")
        page.get_by_test_id("upload").set_input_files(self.own / "notes.docx")
        self.see(page.get_by_role("dialog").get_by_role("alert"), "notes.docx is not a source that Vexel can read")
        page.get_by_test_id("upload").set_input_files(self.own / "wrong.py")
        page.wait_for_url("**/shots/wrong-once-round")
        self.see(page.get_by_test_id("code-wrong"), "wrong.py, line 8: TypeError")
        self.see(page.get_by_test_id("blocked"), "Cannot be captured yet: see the error in the code")
        self.assertTrue(page.get_by_test_id("capture").is_disabled())

        file = next((self.home / "sources").glob("wrong*/wrong.py"))
        file.write_text(file.read_text().replace("hight", "height"))
        self.picture()
        page.get_by_test_id("blocked").wait_for(state="detached")
        self.press("Close the code")
        self.sheet("picture")
        for typed, said in (
            (99999, "Width must be from 16 to 16,384: 99,999 was not applied"),
            ("wide", "is not a number"),
        ):
            self.type("Width", typed)
            self.see(page.get_by_role("alert"), said)
            self.assertEqual(page.get_by_label("Width", exact=True).input_value(), "1920")
        self.sheet("clock")
        self.type("Playback speed", -1)
        self.see(page.get_by_role("alert"), r"must be from 0\.001 to 1,000: -1 was not applied")
        self.type("Rate, frames per second", "fast")
        self.see(page.get_by_test_id("notice"), "'fast' is not a frame rate")
        self.type("Frames, follows", 3)
        page.get_by_test_id("notice").wait_for(state="detached")
        self.see(page.get_by_test_id("capture"), "Capture 3 frames, make the MP4")
        self.part("Frames only")
        self.see(page.get_by_test_id("run-state"), "^done$", seconds=90)
        page.get_by_label("Folder for the frames").fill("frames")
        self.press("3 frames to the folder")
        self.see(page.get_by_role("alert"), "frames is not an absolute path: begin it with / or ~")
        page.get_by_label("Folder for the frames").fill(str(self.own))
        self.press("3 frames to the folder")
        self.see(page.get_by_role("alert"), "already holds other files, such as")
        page.get_by_role("link", name="Open shot").click()
        file.unlink()
        self.see(page.get_by_test_id("blocked"), "Cannot be captured yet: see the error in")


if __name__ == "__main__":
    unittest.main()
