"""What moves in a shot as arrays: light, shadows and poses, against rotations of SciPy; lanes that cannot be."""

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from tests.helpers import shot_document
from vexel.core.camera.framing import Sphere
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Mistake
from vexel.core.evaluate.motion import motion_of
from vexel.core.evaluate.sampled_shot import pose_of, sample_shot
from vexel.core.evaluate.source_facts import SourceFacts, Subject
from vexel.core.lanes.dial import Dial

SUBJECT = Subject(
    Sphere((1.0, 2.0, 0.5), 2.0), parts=("hull", "lamp"), arrays=("depth",), box=((0, 1, -0.5), (2, 3, 1.5))
)
FACTS = SourceFacts(dials=(Dial("size", 1.0, 0.5, 2.0),))
PHASES = np.array([0.0, 0.25, 0.6])


def sampled(subject=SUBJECT, **parts):
    shot = read_shot_document(shot_document({"kind": "model", "file": "thing.py"}, frames=24, **parts))
    return shot, sample_shot(shot, FACTS, subject, motion_of(shot, FACTS, PHASES))


class SampledShotTest(unittest.TestCase):
    def test_a_light_of_the_world_keeps_its_direction_while_the_camera_turns(self):
        light = {"stands": "world", "azimuth_deg": 70, "elevation_deg": 35}
        for axis in ((0, 0, 1), (0.3, -0.2, 1)):
            camera = {"rig": {"kind": "orbit", "turns": 1, "elevation_deg": 20, "axis": axis}}
            _, found = sampled(light=light, camera=camera)
            for row in range(len(PHASES)):
                # About the view: to the right by the azimuth, up by the elevation, from the direction to the camera.
                a, e = (np.radians(found.stage[0][f"light:{name}"][row]) for name in ("azimuth", "elevation"))
                seen = np.array([np.sin(a) * np.cos(e), np.sin(e), np.cos(a) * np.cos(e)])
                path = found.path
                back = path.positions[row] - path.targets[row]
                back = back / np.linalg.norm(back)
                right = np.cross(path.ups[row], back)
                world = Rotation.from_matrix(np.stack([right, path.ups[row], back], axis=1)).apply(seen)
                expected = Rotation.from_euler("xz", [-35, 70], degrees=True).apply([0, -1, 0])
                np.testing.assert_allclose(world, expected, atol=1e-6)

    def test_a_light_of_the_camera_stays_beside_it(self):
        _, found = sampled(light={"azimuth_deg": 70, "elevation_deg": 35})
        np.testing.assert_array_equal(found.stage[0]["light:azimuth"], [70] * 3)
        np.testing.assert_array_equal(found.stage[0]["light:elevation"], [35] * 3)
        self.assertNotIn("shadow", found.stage[0])

    def test_up_is_told_in_the_axes_of_the_camera(self):
        light = {"environment": 0.5, "sky": "#8090a0", "earth": "#302010"}
        _, found = sampled(light=light, camera={"rig": {"kind": "orbit", "turns": 1, "elevation_deg": 30}})
        stage = found.stage[0]
        up = np.stack([stage[f"environment:up:{n}"] for n in range(3)], axis=1)
        np.testing.assert_allclose(up, [[0, np.cos(np.pi / 6), np.sin(np.pi / 6)]] * 3, atol=1e-9)
        self.assertEqual([round(255 * stage[f"environment:sky:{n}"][0]) for n in range(3)], [0x80, 0x90, 0xA0])

    def test_the_ground_is_under_the_subject(self):
        _, found = sampled(light={"shadow": 0.6}, picture={"ground": True})
        self.assertEqual((found.stage[0]["ground"][0], found.stage[0]["shadow"][0]), (-0.5, 0.6))

    def test_a_pose_holds_the_subject_between_its_planes(self):
        shot, found = sampled(camera={"rig": {"kind": "orbit", "turns": 1, "fill": 0.5}})
        for row in range(len(PHASES)):
            pose = pose_of(shot, 0, found.camera, row, SUBJECT.sphere)
            far = np.linalg.norm(np.subtract(pose.position, SUBJECT.sphere.centre))
            self.assertLess(pose.near, far - SUBJECT.sphere.radius)
            self.assertGreater(pose.far, far + SUBJECT.sphere.radius)
            # A sphere that fills half of the height: its rim at half of half the view (common practice).
            rim = np.arcsin(SUBJECT.sphere.radius / far)
            self.assertAlmostEqual(np.tan(rim) / np.tan(np.radians(pose.view_high_deg / 2)), 0.5, delta=0.02)

    def test_an_easing_past_solid_is_solid_and_a_key_past_it_is_refused(self):
        keys = [[0, 0.2], [0.5, 1], [1, 0.2]]
        _, found = sampled(lanes=[{"drive": "opacity:hull", "keys": keys, "ease": "spring"}])
        values = found.stage[0]["opacity:hull"]
        self.assertTrue(0 <= values.min() <= values.max() <= 1, values)
        for drive, key, words in (
            ("opacity:hull", 1.5, "opacity:hull goes from 0 to 1.5, outside 0 to 1"),
            ("opacity:hul", 1, "there is no part 'hul'; did you mean hull"),
            ("range-low:dept", 1, "no part is coloured by an array 'dept'; did you mean depth"),
            ("lens:focus", 1, "has no effect while everything is in focus"),
            ("list:offset", 1, "model has no list of pictures or slices"),
        ):
            with self.subTest(drive), self.assertRaisesRegex(Mistake, words):
                sampled(lanes=[{"drive": drive, "keys": [[0, 0], [1, key]]}])

    def test_pictures_have_no_camera_to_drive(self):
        with self.assertRaisesRegex(Mistake, "needs a camera, but a model provides pictures without a camera"):
            sampled(Subject(None), lanes=[{"drive": "lens:focal", "keys": [[0, 35], [1, 50]]}])


if __name__ == "__main__":
    unittest.main()
