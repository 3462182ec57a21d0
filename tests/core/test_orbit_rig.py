"""Turns one after another, many vectors at once, and names of files."""

import unittest
from typing import get_args

import numpy as np
from scipy.spatial.transform import Rotation

from vexel.core.camera.camera_path import axis_rotation, rolled, rotated
from vexel.core.document.background import Background
from vexel.core.document.naming import check_pattern, fields_named, frame_name
from vexel.core.document.passes import PASSES, Pass, ViewPass
from vexel.core.document.rig_spec import OrbitSpec
from vexel.core.errors import Mistake
from vexel.core.evaluate.rigs.orbit import turns_at
from vexel.core.lanes.easing import Easing
from vexel.core.vectors import BLOCK, crosses, dots, in_blocks, lengths, units
from vexel.stage.passes import DRAWINGS

RANDOM = np.random.default_rng(8)


def plan(**values):
    return OrbitSpec.model_validate({"kind": "orbit"} | values, strict=False)


class TurningTest(unittest.TestCase):
    def test_each_takes_its_share_of_the_time_at_one_speed(self):
        rig = plan(
            what="subject", turns=1,
            followed_by=[{"what": "light", "turns": 2, "direction": "cw"}, {"what": "camera", "turns": 1}],
        )  # fmt: skip
        phases = np.linspace(0, 1, 9)
        gone = turns_at(rig, phases)
        np.testing.assert_allclose(gone.subject, np.minimum(phases * 4, 1) * 360)
        np.testing.assert_allclose(gone.light, -np.clip(phases * 4 - 1, 0, 2) * 360)
        np.testing.assert_allclose(gone.camera, np.clip(phases * 4 - 3, 0, 1) * 360)
        self.assertEqual((rig.all_turns, len(rig.steps)), (4, 3))

    def test_each_is_eased_by_itself(self):
        phases = np.linspace(0, 1, 41)
        rig = plan(turns=1, ease="ease-in-out", followed_by=[{"what": "light", "turns": 1}])
        gone = turns_at(rig, phases)
        eased = Easing.parse("ease-in-out")(np.linspace(0, 1, 21))
        np.testing.assert_allclose(gone.camera[:21], eased * 360)
        np.testing.assert_allclose(gone.light[20:], eased * 360)

    def test_what_does_not_turn_takes_no_time(self):
        gone = turns_at(plan(turns=0, followed_by=[{"what": "light", "turns": 1}]), np.array([0.0, 0.5, 1.0]))
        self.assertEqual(gone.light.tolist(), [0, 180, 360])
        self.assertEqual(gone.camera.tolist(), [0, 0, 0])

    def test_turning_and_leaning_are_rotations(self):
        vectors, degrees = RANDOM.normal(size=(30, 3)), RANDOM.uniform(-400, 400, 30)
        axis = np.array([0.3, -1, 2.0])
        spun = Rotation.from_rotvec(np.radians(degrees)[:, None] * axis / np.linalg.norm(axis)).apply(vectors)
        np.testing.assert_allclose(rotated(vectors, degrees, tuple(axis)), spun, atol=1e-8)
        for way in RANDOM.normal(size=(10, 3)):
            lean = axis_rotation(tuple(way))
            np.testing.assert_allclose(lean @ lean.T, np.eye(3), atol=1e-12)
            np.testing.assert_allclose(lean @ [0, 0, 1], way / np.linalg.norm(way), atol=1e-12)
            self.assertAlmostEqual(np.linalg.det(lean), 1)

    def test_equal_angles_are_equal_to_the_bit(self):
        vectors = np.tile(RANDOM.normal(size=3), (2, 1))
        first, second = rotated(vectors, np.array([33.0, 33.0 + 360 * 7]), (0, 0, 1))
        self.assertEqual(first.tolist(), second.tolist())


class VectorsTest(unittest.TestCase):
    def test_they_are_those_of_numpy(self):
        a, b = RANDOM.normal(size=(2, 50, 3))
        np.testing.assert_allclose(dots(a, b), (a * b).sum(axis=1))
        np.testing.assert_allclose(lengths(a), np.linalg.norm(a, axis=1))
        np.testing.assert_allclose(crosses(a, b), np.cross(a, b))
        np.testing.assert_allclose(lengths(units(a)), 1)

    def test_blocks_give_what_the_whole_gives(self):
        ways = RANDOM.normal(size=(2 * BLOCK + 7, 3))
        rolls = RANDOM.uniform(0, 90, len(ways))
        (ups,) = in_blocks(len(ways), lambda rows: (rolled(ways[rows], rolls[rows]),))
        np.testing.assert_array_equal(ups, rolled(ways, rolls))


class NamesTest(unittest.TestCase):
    def test_a_pattern_fills_its_fields(self):
        named = frame_name("Sea wall", "depth", 7, 100, 1, None, "side", "{camera}_{pass}_{frame:06}")
        self.assertEqual(named, "side_depth_000008.png")
        self.assertEqual(frame_name("Sea wall", "depth", 7, 100, suffix=".exr"), "sea-wall.depth.0007.exr")
        self.assertEqual(frame_name("A", "wire", 0, 1, pattern="{title}-{camera}-{frame}"), "a-main-0000.png")
        self.assertEqual(fields_named("{title}.{frame:04}"), {"title", "frame"})
        for pattern in ("{frame}{frame}", "{title}", "a b/{frame}", "{Frame}", ".{frame}"):
            with self.assertRaises(Mistake, msg=pattern):
                check_pattern(pattern)

    def test_backgrounds_are_told_apart(self):
        for text, kind, rendered, image in (
            ("#102030", "colour", "#102030", ""), ("transparent", "transparent", "transparent", ""),
            ("#102030 #ffffff", "gradient", "transparent", ""), ("image: wall.png", "image", "transparent", "wall.png"),
        ):  # fmt: skip
            found = Background.parse(text)
            self.assertEqual((found.kind, found.rendered, found.image), (kind, rendered, image), text)
        for text in ("image:", "#12345", "red"):
            self.assertRaisesRegex(Mistake, "is not a background", Background.parse, text)

    def test_every_pass_has_its_records(self):
        self.assertEqual(list(PASSES), list(get_args(Pass)))
        self.assertEqual(list(DRAWINGS), list(get_args(Pass)))
        self.assertLess(set(get_args(ViewPass)), set(get_args(Pass)))


if __name__ == "__main__":
    unittest.main()
