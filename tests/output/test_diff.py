"""Why two takes or shots differ: settings, lines of the source, and pixels."""

import json
import shutil
import unittest

import numpy as np

from tests.helpers import scratch, vexel, write_shot
from vexel.core.review.differences import differences, lines_apart
from vexel.imaging.image_bytes import encoded_png
from vexel.imaging.images import picture_in
from vexel.imaging.signal import step_of

MODEL = "@model\ndef thing(size=dial(1, low=0.5, high=2)):\n    return pv.Cube(x_length=size)\n"


class DifferencesTest(unittest.TestCase):
    def test_settings_are_named_by_their_places_and_those_that_change_no_picture_are_last(self):
        one = {"title": "a", "picture": {"samples": 4}, "lanes": [{"keys": [[0, 1]]}, {"keys": []}], "light": None}
        other = {"title": "b", "picture": {"samples": 16}, "lanes": [{"keys": [[0, 2]]}, {"keys": []}], "light": ""}
        found = [(one.path, one.one, one.other) for one in differences(one, other)]
        self.assertEqual(found, [
            ("picture.samples", "4", "16"), ("lanes.1.keys.1", "[0, 1]", "[0, 2]"), ("light", "null", '""'),
            ("title", "a", "b"),
        ])  # fmt: skip
        self.assertEqual(differences(one, one), ())
        rigs = {"rig": {"kind": "orbit", "turns": 1}}, {"rig": {"kind": "still"}}
        self.assertEqual([one.path for one in differences(*rigs)], ["rig.kind"])

    def test_lines_are_counted_from_one(self):
        self.assertEqual(lines_apart("a\nb\nc\n", "a\nx\ny\nc\n"), [(range(2, 3), range(2, 4))])
        self.assertEqual(lines_apart("a\n", "a\nb\n"), [(range(2, 2), range(2, 3))])


class DiffCommandTest(unittest.TestCase):
    def test_takes_of_other_light_differ_by_number_sight_and_cause(self):
        folder = scratch(self)
        for name, strength in (("a", 1.0), ("b", 1.2)):
            shot = write_shot(folder, MODEL, frames=3, light={"strength": strength})
            self.assertEqual(vexel("capture", shot, "--to", folder / name).returncode, 0)
        told = vexel("diff", folder / "a", folder / "b").stdout
        self.assertIn("light.strength  1 against 1.2", told)
        self.assertIn("3 of 3 frames differ, from frame 0 on", told)
        same = json.loads(vexel("diff", folder / "a", folder / "a", "--json").stdout)
        self.assertEqual((same["settings"], same["frames"]["apart"]), ([], {}))
        shutil.copytree(folder / "a", folder / "c")
        frame = sorted((folder / "c").glob("*.png"))[1]
        pixels = picture_in(frame)[..., :3].copy()
        pixels[5, 5] ^= 64
        frame.write_bytes(encoded_png(pixels))
        told = vexel("diff", folder / "a", folder / "c")
        self.assertEqual(told.returncode, 1, "a frame that was altered is no frame of the take")
        self.assertIn("no longer the frame that was made", told.stderr)
        (folder / "c/take.json").unlink()
        told = vexel("diff", folder / "a", folder / "c").stdout
        self.assertIn("1 of 3 frames differ, from frame 1 on", told)
        self.assertIn("by up to 64 in frame 1", told)
        self.assertIn("settings are known of takes alone", told)

    def test_light_above_one_and_depths_are_compared_by_their_numbers(self):
        folder = scratch(self)
        picture = {"format": "exr", "passes": ["shaded", "depth"]}
        for name, size in (("a", 1.0), ("b", 1.1)):
            moved = MODEL.replace("pv.Cube(x_length=size)", f"pv.Cube(x_length={size}, y_length={size})")
            self.assertEqual(vexel("capture", write_shot(folder, moved, frames=2, picture=picture), "--to",
                                   folder / name).returncode, 0)  # fmt: skip
        told = vexel("diff", folder / "a", folder / "b", "--pass", "depth").stdout
        self.assertRegex(told, "2 of 2 frames differ.*in the files' own numbers")
        self.assertIn("The settings are equal: the sources", told)
        refused = vexel("review", folder / "a", "--pass", "depth")
        self.assertEqual((refused.returncode, "holds numbers and no light" in refused.stderr), (2, True))
        light = vexel("review", folder / "a", "--pass", "shaded").stdout
        self.assertIn("Light above 1 counts as 1", light)
        bright = np.full((4, 4, 4), 3.0, np.float32)
        for brighter, most in ((bright, 0.0), (bright * 1.5, 1.5), (np.where(bright > 0, np.nan, 0), 1.0)):
            self.assertEqual(step_of(bright, brighter.astype(np.float32)).most, most)

    def test_shots_whose_sources_differ_and_wrong_calls(self):
        folder, other = scratch(self), scratch(self)
        one = write_shot(folder, MODEL, frames=3)
        two = write_shot(other, MODEL.replace("pv.Cube(x_length=size)", "pv.Cone(height=size)"), frames=4)
        told = vexel("diff", one, two).stdout
        self.assertIn("clock.frames  3 against 4", told)
        self.assertRegex(told, r"source  thing.py line \d+, thing.py line \d+")
        for name, frames in (("r.json", 3), ("s.json", 5)):
            (folder / name).write_text(json.dumps({"title": "r", "items": [{"kind": "gap", "frames": frames}]}))
        told = vexel("diff", folder / "r.json", folder / "s.json").stdout
        self.assertIn("items.1.frames  3 against 5", told)
        for places in ((one, folder), (folder, other), (one, folder / "r.json")):
            told = vexel("diff", *places)
            self.assertEqual((told.returncode, "Traceback" in told.stderr), (2, False), told.stderr)


if __name__ == "__main__":
    unittest.main()
