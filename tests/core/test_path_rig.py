"""A camera that stands or flies along keys, worked out for all frames."""

import itertools
import unittest
from types import SimpleNamespace

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.spatial.transform import Rotation

from tests.helpers import shot_document
from vexel.core.camera.camera_path import rolled
from vexel.core.camera.framing import Sphere
from vexel.core.checks.camera_findings import camera_findings
from vexel.core.document.rig_spec import PathSpec
from vexel.core.document.shot import read_shot_document
from vexel.core.edits.convert_rig import convert_rig
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.rigs.path import path_along_keys
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.merge_patch import merged

BALL = Sphere((0.0, 0.0, 0.0), 1.0)
OVER = [(6, 0, 0), (0, 0, 6), (-6, 0, 0)]
"""Straight over the subject."""
SQUARE = [(6, -6, 2), (6, 6, 2), (-6, 6, 2), (-6, -6, 2)]


def path(points=SQUARE, keys=(), **plan):
    made = [{"position": list(p)} | (dict(keys[n]) if keys else {}) for n, p in enumerate(points)]
    document = shot_document({"kind": "object", "file": "a.obj"})
    document["camera"] = {"rig": {"kind": "path", "keys": made} | plan}
    return document


def planned(document, subject=None):
    inputs = PlanInputs("e", SourceIdentity("object", "a.obj", "d"), SourceFacts(), subject or Subject(BALL))
    return make_plan(read_shot_document(document), inputs)


def banked(ease="linear", frames=96, shutter="0", samples=1):
    """A closed flight round a square, looking along it and leaning into its turns."""
    document = path(looks="along", bank=3, closed=True)
    document |= {"clock": {"rate": "24", "frames": frames, "shutter": shutter}, "ease": ease}
    document["picture"] |= {"samples": samples}
    return planned(document)


def rolled_deg(pose):
    """By how much a camera is rolled clockwise from level."""
    forward = np.subtract(pose.target, pose.position)
    (level,) = rolled(forward[None], 0.0)
    right = np.cross(forward, level) / np.linalg.norm(forward)
    return float(np.degrees(np.arctan2(np.dot(pose.up, right), np.dot(pose.up, level))))


def zip_views(path):
    views = zip(path.positions, path.targets, path.ups, strict=True)
    return [SimpleNamespace(position=p, target=t, up=u) for p, t, u in views]


class SteadyUpTest(unittest.TestCase):
    def test_a_path_over_the_subject_flips_and_each_fix_helps(self):
        document = path(OVER) | {"clock": {"rate": "24", "frames": 49, "span": "ends"}}
        (finding,) = [one for one in camera_findings(planned(document)) if one.name == "camera-flips"]
        self.assertRegex(finding.what, r"turns by (90|180)° at frame 2[3-6]")
        self.assertEqual(len(finding.fixes), 2)
        for fix in finding.fixes:
            fixed = planned(merged(document, fix.patch))
            self.assertNotIn("camera-flips", [one.name for one in camera_findings(fixed)], fix.label)

    def test_it_is_the_rotation_of_least_angle_from_frame_to_frame(self):
        """As SciPy's rotations carry it, in many more steps."""
        document = path([(6, 0, 1), (0, 4, 5), (-6, 0, 2), (0, -5, 7)], up="steady")
        document |= {"clock": {"rate": "24", "frames": 60, "span": "ends"}}
        plan = read_shot_document(document).camera.rig
        fine = path_along_keys(plan, np.linspace(0, 1, 20_001), BALL)[0]
        ways = fine.targets - fine.positions
        ways /= np.linalg.norm(ways, axis=1, keepdims=True)
        up = fine.ups[0]
        for one, other in itertools.pairwise(ways):
            axis = np.cross(one, other)
            angle = np.arctan2(np.linalg.norm(axis), one @ other)
            if angle > 0:
                up = Rotation.from_rotvec(axis / np.linalg.norm(axis) * angle).apply(up)
        np.testing.assert_allclose(fine.ups[-1], up, atol=2e-3)
        few = path_along_keys(plan, np.linspace(0, 1, 11), BALL)[0]
        np.testing.assert_allclose(few.ups, fine.ups[::2000], atol=1e-3)

    def test_a_closed_path_ends_as_it_began(self):
        document = path([(6, 0, 1), (0, 4, 5), (-6, 0, 2), (0, -5, 7)], up="steady", closed=True)
        plan = read_shot_document(document).camera.rig
        ups = path_along_keys(plan, np.array([0.0, 1.0]), BALL)[0].ups
        np.testing.assert_allclose(ups[0], ups[1], atol=1e-6)


class RolledTest(unittest.TestCase):
    def test_it_is_a_rotation_about_the_line_of_sight(self):
        ways = np.random.default_rng(4).normal(size=(50, 3))
        for degrees in (0, 30, -75):
            ups = rolled(ways, degrees)
            forward = ways / np.linalg.norm(ways, axis=1, keepdims=True)
            np.testing.assert_allclose((ups * forward).sum(axis=1), 0, atol=1e-12)
            upright = rolled(ways, 0)
            turned = Rotation.from_rotvec(np.radians(degrees) * forward).apply(upright)
            np.testing.assert_allclose(ups, turned, atol=1e-12)
            self.assertTrue((upright[:, 2] > 0).all(), "level: the horizon does not lean")

    def test_straight_down_is_no_trouble(self):
        self.assertEqual(rolled(np.array([[0.0, 0.0, -2.0]]), 0)[0].tolist(), [0, 1, 0])


class PathTest(unittest.TestCase):
    def plan(self, **plan):
        return PathSpec.model_validate(path(**plan)["camera"]["rig"], strict=False)

    def test_an_even_pace_is_equal_lengths_and_a_loop_has_no_seam(self):
        phases = np.arange(240) / 240
        flown, focal = path_along_keys(self.plan(closed=True), phases, BALL)
        steps = np.linalg.norm(np.diff(flown.positions, axis=0, append=flown.positions[:1]), axis=1)
        self.assertLess(np.ptp(steps) / steps.mean(), 0.01)
        turns = np.linalg.norm(np.diff(flown.positions, 2, axis=0), axis=1)
        over = np.linalg.norm(flown.positions[0] - 2 * flown.positions[-1] + flown.positions[-2])
        self.assertLess(over, turns.max() * 1.1, "no jerk where it closes")
        self.assertIsNone(focal)

    def test_by_its_keys_it_is_at_each_at_its_time(self):
        times = [0, 0.2, 0.3, 0.9]
        for curve in ("smooth", "straight"):
            plan = self.plan(keys=[{"at": t} for t in times], pace="keys", curve=curve)
            flown, _ = path_along_keys(plan, np.array(times), BALL)
            np.testing.assert_allclose(flown.positions, SQUARE, atol=1e-9)
        closed = self.plan(keys=[{"at": t} for t in times], pace="keys", closed=True)
        flown, _ = path_along_keys(closed, np.array([0, 0.3, 0.95, 1]), BALL)
        np.testing.assert_allclose(flown.positions[[0, 1, 3]], [SQUARE[0], SQUARE[2], SQUARE[0]], atol=1e-9)

    def test_it_looks_at_the_subject_at_its_keys_looks_or_along_its_way(self):
        phases = np.linspace(0, 1, 33)
        flown, _ = path_along_keys(self.plan(), phases, Sphere((1.0, 2.0, 3.0), 1))
        self.assertTrue((flown.targets == (1, 2, 3)).all())
        looks = [{"look": [n, 0, 0]} for n in range(4)]
        flown, _ = path_along_keys(self.plan(keys=looks, looks="keys", curve="straight"), phases, BALL)
        np.testing.assert_allclose(flown.targets[:, 0], np.linspace(0, 3, 33), atol=1e-9)
        flown, _ = path_along_keys(self.plan(looks="along", curve="straight"), np.array([0.1, 0.5, 0.9]), BALL)
        np.testing.assert_allclose(flown.targets - flown.positions, [[0, 1, 0], [-1, 0, 0], [0, -1, 0]], atol=1e-9)

    def test_it_leans_into_a_turn(self):
        # Counter-clockwise seen from above: it turns to the left, so its head goes left, which rolls it that way.
        flown = banked().sampled.path
        forward = flown.targets - flown.positions
        left = np.cross([0, 0, 1], forward)
        self.assertTrue(((flown.ups * left).sum(axis=1) > 0.01).all())

    def test_every_look_of_an_open_shutter_leans_as_far_and_so_does_the_seam(self):
        """Against the turn of the way itself, from a spline of dense positions by SciPy."""
        for ease in ("linear", "ease-in-out"):
            closed, opened = banked(ease=ease), banked(ease=ease, shutter="180°", samples=16)
            dense = banked(ease=ease, frames=9600).sampled.path.positions
            way = CubicSpline(np.arange(9601) / 100, np.concatenate([dense, dense[:1]]), bc_type="periodic")

            def expected(frame, way=way):
                heading = [np.arctan2(*way((frame + half) % 96, 1)[:2]) for half in (-0.5, 0.5)]
                return 3 * np.degrees((heading[1] - heading[0] + np.pi) % (2 * np.pi) - np.pi)

            for frame in (0, 1, 7, 24, 48, 95):
                pose = closed.frame_spec(frame).shutter_samples[0].camera
                self.assertAlmostEqual(rolled_deg(pose), expected(frame), delta=0.02)
                for n, look in enumerate(opened.frame_spec(frame).shutter_samples):
                    at = frame + (n + 0.5) / 16 / 2 - 0.25
                    self.assertAlmostEqual(rolled_deg(look.camera), expected(at), delta=0.02)

    def test_a_roll_goes_on_round_a_closed_path(self):
        keys = [{"roll_deg": roll} for roll in (0, 90, 180, 270)]
        flown, _ = path_along_keys(self.plan(keys=keys, closed=True), np.arange(8) / 8, BALL)
        ups = [rolled_deg(view) for view in zip_views(flown)]
        np.testing.assert_allclose(np.degrees(np.unwrap(np.radians(ups))), np.arange(8) * 45, atol=1)

    def test_focal_lengths_and_rolls_of_keys(self):
        keys = [{"focal_mm": 24, "roll_deg": 0}, {"focal_mm": 48, "roll_deg": 90}]
        plan = planned(path(SQUARE[:2], keys) | {"clock": {"rate": "24", "frames": 3, "span": "ends"}})
        fields = 2 * np.degrees(np.arctan(24 / 2 / np.array([24, 36, 48])))
        np.testing.assert_allclose(plan.sampled.camera.views_high_deg, fields)
        pose = plan.frame_spec(2).shutter_samples[0].camera
        self.assertAlmostEqual(pose.up[2], 0, places=9, msg="rolled by a quarter")

    def test_a_camera_that_stands_stands(self):
        document = path()
        document["camera"] = {"rig": {"kind": "still", "start_deg": 90, "elevation_deg": 0, "roll_deg": 90}}
        plan = planned(document)
        self.assertEqual(plan.frame_spec(0).key, plan.frame_spec(5).key, "one frame serves all")
        pose = plan.frame_spec(0).shutter_samples[0].camera
        self.assertTrue(pose.position[0] > 3 and abs(pose.position[1]) < 1e-9, pose)
        np.testing.assert_allclose(pose.up, (0, 1, 0), atol=1e-9)

    def test_through_what_it_looks_at(self):
        with self.assertRaisesRegex(Mistake, "passes through the point that it looks at, 50.0% along its path"):
            planned(path([(-4, 0, 0), (4, 0, 0)]) | {"clock": {"rate": "24", "frames": 3, "span": "ends"}})

    def test_refuses_in_a_sentence(self):
        for document, words in (
            (path(SQUARE[:1]), "camera.rig.*keys"),
            (path([SQUARE[0], SQUARE[0], SQUARE[1]]), r"keys\[0\] and keys\[1\] are at the same place"),
            (path([SQUARE[0], SQUARE[1], SQUARE[0]], closed=True), r"keys\[2\] and keys\[0\] are at the same place"),
            (path(looks="keys"), r"keys\[0\] has no look"),
            (path(looks="keys", keys=[{"look": list(p)} for p in SQUARE]), "looks at the camera's own position"),
            (path(pace="keys"), r"keys\[0\] has no phase"),
            (path(pace="keys", keys=[{"at": t} for t in (0, 0.5, 0.2, 1)]), r"keys\[2\] comes at phase 0.2"),
            (path(keys=[{"focal_mm": 0}] * 4), "focal_mm"),
            (path() | {"lanes": [{"drive": "rig:fill", "keys": [[0, 1]]}]}, "move the path's keys instead"),
        ):
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                read_shot_document(document)


class RerigTest(unittest.TestCase):
    def round(self, **rig):
        document = path()
        document["camera"] = {"rig": {"kind": "orbit", "turns": 1, "elevation_deg": 20} | rig}
        document["clock"] = {"rate": "24", "frames": 96}
        return document

    def test_a_turntable_becomes_a_closed_path_along_the_same_way(self):
        document = self.round()
        before = planned(document)
        flown = merged(document, convert_rig(before, "path", 0))
        self.assertTrue(flown["camera"]["rig"]["closed"])
        after = planned(flown)
        apart = np.linalg.norm(after.sampled.path.positions - before.sampled.path.positions, axis=1)
        distance = np.linalg.norm(before.sampled.path.positions[0])
        self.assertLess(apart.max() / distance, 0.02, "eight keys lie close to the circle")

    def test_and_back_and_to_one_view(self):
        document = self.round(start_deg=30)
        flown = merged(document, convert_rig(planned(document), "path", 0))
        again = merged(flown, convert_rig(planned(flown), "orbit", 0))
        self.assertEqual(set(again["camera"]["rig"]), {"kind", "elevation_deg", "start_deg"})
        self.assertAlmostEqual(again["camera"]["rig"]["start_deg"], 30, places=3)
        still = merged(document, convert_rig(planned(document), "still", 24))
        rig = read_shot_document(still).camera.rig
        self.assertEqual((rig.kind, rig.start_deg, rig.elevation_deg), ("still", 120, 20))
        moving = merged(still, convert_rig(planned(still), "path", 0))
        self.assertEqual(len(read_shot_document(moving).camera.rig.keys), 2)


if __name__ == "__main__":
    unittest.main()
