"""Cameras over a whole shot: what they stand before, their lenses, and what preflight says of them."""

import unittest

import numpy as np

from tests.core.test_path_rig import path
from tests.helpers import shot_document
from vexel.core.camera.framing import Sphere
from vexel.core.camera.panorama import directions, frame_shape, latitudes, longitudes
from vexel.core.checks.camera_findings import camera_findings
from vexel.core.checks.preflight import preflight
from vexel.core.checks.shot_timing import shot_timing
from vexel.core.document.shot import read_shot_document
from vexel.core.edits.convert_rig import convert_camera_rig
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.merge_patch import merged

SUBJECT = Subject(Sphere((1, 2, 3), 2), centroid=(1.5, 2, 2.5), box=((-1, 0, 1), (3, 4, 5)))


def planned(document):
    inputs = PlanInputs("e", SourceIdentity("object", "a.obj", "d"), SourceFacts(), SUBJECT)
    return make_plan(read_shot_document(document), inputs)


def shot(camera, frames=24, span="loop", **parts):
    document = shot_document({"kind": "object", "file": "a.obj"}, camera=camera, **parts)
    document["clock"] = {"rate": "24", "frames": frames, "span": span}
    return document


class StandsTest(unittest.TestCase):
    def test_it_looks_at_box_centroid_or_a_point(self):
        for centre, point in ((None, (1, 2, 3)), ("centroid", (1.5, 2, 2.5)), ([0, 0, 1], (0, 0, 1))):
            plan = planned(shot({"rig": {"kind": "still", "centre": centre}}))
            np.testing.assert_allclose(plan.sampled.path.targets[0], point)
            around = planned(shot({"rig": {"kind": "orbit", "centre": centre, "axis": [1, 0, 0]}})).sampled.path
            # Round the x axis, the distance from it and the place along it stay.
            away = around.positions - np.array(point)
            np.testing.assert_allclose(away[:, 0], away[0, 0], atol=1e-9)
            np.testing.assert_allclose(np.hypot(away[:, 1], away[:, 2]), np.hypot(*away[0, 1:]), atol=1e-9)

    def test_it_stands_off_by_a_distance(self):
        lanes = [{"drive": "rig:distance", "keys": [[0, 1], [1, 2]]}]
        plan = planned(shot({"rig": {"kind": "orbit", "turns": 0, "distance": 7}}, span="ends", lanes=lanes))
        away = np.linalg.norm(plan.sampled.path.positions - np.array([1, 2, 3]), axis=1)
        np.testing.assert_allclose(away[[0, -1]], [7, 14])

    def test_it_stands_where_it_is_told(self):
        plan = planned(shot({"rig": {"kind": "still", "position": [9, 9, 9], "roll_deg": 90}}))
        np.testing.assert_allclose(plan.sampled.path.positions, [[9, 9, 9]] * 24)
        self.assertAlmostEqual(plan.sampled.path.ups[0][2], 0, places=9)

    def test_the_counter_zoom_keeps_the_size(self):
        # The sphere's share of the picture is the same at every focal length: its distance grows with it.
        lanes = [{"drive": "lens:focal", "keys": [[0, 24], [1, 120]]}]
        plan = planned(shot({"rig": {"kind": "orbit", "turns": 0}}, span="ends", lanes=lanes))
        distance = np.linalg.norm(plan.sampled.path.positions - np.array([1, 2, 3]), axis=1)
        half = np.tan(np.radians(plan.sampled.camera.views_high_deg) / 2)
        shares = np.tan(np.arcsin(2 / distance)) / half
        np.testing.assert_allclose(shares, 0.8, rtol=1e-9)
        self.assertGreater(distance[-1], 4 * distance[0])

    def test_a_shift_is_shares_of_the_sensor(self):
        camera = {"lens": {"shift_mm": [4, -3]}, "rig": {"kind": "still"}}
        document = shot(camera) | {"picture": {"width": 1200, "height": 800}}
        pose = planned(document).frame_spec(0).shutter_samples[0].camera
        # Of 36 × 24 mm: 4 mm are 2/9 of half the width, 3 mm a quarter of half the height.
        self.assertEqual(pose.shift, (round(2 / 9, 12), -0.25))

    def test_every_camera_sees_the_subject_turn(self):
        document = shot({"rig": {"kind": "orbit", "what": "subject", "turns": 1}})
        document["cameras"] = [{"name": "top", "rig": {"kind": "still", "elevation_deg": 90}}]
        plan = planned(document)
        first, second = plan.sampled.cameras
        self.assertEqual(np.ptp(first.world.positions, axis=0).max(), 0)
        ups = second.path.ups
        turns = np.degrees(np.unwrap(np.arctan2(ups[:, 1], ups[:, 0])))
        np.testing.assert_allclose(np.diff(turns), -15, atol=1e-6)

    def test_lanes_are_the_first_cameras(self):
        lanes = [{"drive": "rig:elevation", "keys": [[0, 0], [1, 80]]}]
        document = shot({"rig": {"kind": "still"}}, lanes=lanes) | {
            "cameras": [{"name": "b", "rig": {"kind": "still"}}]
        }
        first, second = planned(document).sampled.cameras
        self.assertGreater(np.ptp(first.path.positions, axis=0).max(), 1)
        self.assertEqual(np.ptp(second.path.positions, axis=0).max(), 0)
        patch = convert_camera_rig(planned(document), 1, "orbit", 0)
        self.assertEqual(read_shot_document(merged(document, patch)).cameras[0].rig.kind, "orbit")
        with self.assertRaisesRegex(Mistake, "there is no camera 4"):
            convert_camera_rig(planned(document), 3, "orbit", 0)

    def test_pictures_have_no_cameras(self):
        for more in ({"cameras": [{"name": "b"}]}, {"picture": {"passes": ["shaded", "depth"]}}):
            document = shot({}) | more
            inputs = PlanInputs("e", SourceIdentity("object", "a.obj", "d"), SourceFacts(), Subject(None))
            with self.assertRaisesRegex(Mistake, "provides pictures, so cameras"):
                make_plan(read_shot_document(document), inputs)


class TurnSeamTest(unittest.TestCase):
    def names(self, rig, **light):
        return [
            f.name for f in preflight(read_shot_document(shot({"rig": {"kind": "orbit"} | rig}) | {"light": light}))
        ]

    def test_what_turns_must_end_as_it_began(self):
        half = {"what": "light", "turns": 0.5}
        for rig, light, closes in (
            ({"turns": 2}, {}, True),
            ({"turns": 1.5}, {}, False),
            (half, {}, False),
            (half | {"followed_by": [half]}, {}, True),
            ({"what": "subject", "turns": 0.5, "followed_by": [{"turns": 0.5}]}, {}, True),
            ({"what": "subject", "turns": 0.5, "followed_by": [{"turns": 0.5}]}, {"stands": "world"}, False),
        ):
            found = "turn-does-not-close" not in self.names(rig, **light)
            self.assertEqual(found, closes, rig)
        # Half a turn of both, one the other way, leaves all as it was but for a light that stands in the world.

    def test_degrees_a_frame_are_those_of_all_turns(self):
        shot_plan = read_shot_document(shot({"rig": {"kind": "orbit", "turns": 2, "followed_by": [{"turns": 1}]}}))
        self.assertEqual(shot_timing(shot_plan.clock, shot_plan.orbit).degrees_a_frame, 45)


class PanoramaTest(unittest.TestCase):
    def findings(self, width, height, place=(1, -20, 3), **lens):
        camera = {"lens": {"projection": "panorama"} | lens, "rig": {"kind": "still", "position": list(place)}}
        document = shot(camera) | {"picture": {"width": width, "height": height, "samples": 1}}
        found = [*preflight(read_shot_document(document)), *camera_findings(planned(document))]
        return {finding.name: finding for finding in found if finding.name.startswith("panorama")}

    def test_the_shape_follows_from_what_it_covers(self):
        for covers, eyes, ratio in (
            ("sphere", "one", 2), ("sphere", "top-bottom", 1), ("sphere", "left-right", 4),
            ("half", "one", 1), ("half", "left-right", 2),
        ):  # fmt: skip
            self.assertEqual(frame_shape(covers, eyes), ratio)
        found = self.findings(7168, 4096)["panorama-shape"]
        self.assertIn("is not 2:1", found.what)
        self.assertEqual(found.fixes[0].patch, {"picture": {"width": 7168, "height": 3584}})
        self.assertEqual(self.findings(7168, 3584), {})

    def test_how_much_finer_it_should_be(self):
        found = self.findings(3584, 1792)["panorama-soft"]
        self.assertIn("3,584 pixels for 360° are 9.96 a degree, 2 × too few", found.what)
        self.assertEqual(found.fixes[0].patch["picture"]["width"], 7168)
        self.assertNotIn("panorama-soft", self.findings(3584, 3584, covers="half"))

    def test_a_subject_far_below_strains(self):
        found = self.findings(7168, 3584, place=(1, -5, 13))["panorama-strains"]
        # 10 below and 7 away: atan(10/7) is 55°.
        self.assertIn("55° below the horizon", found.what)

    def test_directions_are_unit_vectors_over_the_sphere(self):
        ways = directions(longitudes(8, "sphere")[None], latitudes(4)[:, None])
        np.testing.assert_allclose(np.linalg.norm(ways, axis=2), 1)
        np.testing.assert_allclose(directions(np.array(0.0), np.array(0.0)), [0, 0, -1], atol=1e-12)
        np.testing.assert_allclose(directions(np.array(np.pi / 2), np.array(0.0)), [1, 0, 0], atol=1e-12)

    def test_what_no_panorama_has_is_refused(self):
        for lens, told in (({"f_stop": 2}, "sharp everywhere"), ({"shift_mm": [1, 0]}, "remove shift_mm")):
            document = shot({"lens": {"projection": "panorama"} | lens})
            with self.assertRaisesRegex(Mistake, told):
                read_shot_document(document)


class WordsTest(unittest.TestCase):
    def test_bounds_are_told_in_plain_words(self):
        one = path()
        one["camera"]["rig"]["keys"] = one["camera"]["rig"]["keys"][:1]
        for document, told in (
            (one, "camera.rig.keys: needs at least 2, and has 1: add more"),
            (shot({"lens": {"focal_mm": 0}}), "camera.lens.focal_mm: must be 4 or more, not 0"),
            (shot({"rig": {"kind": "orbit", "elevation_deg": 91}}), "must be 90 or less, not 91"),
            (shot({"rig": {"kind": "orbit", "axis": [0, 0, 0]}}), "write 0, 0, 1 for upright"),
            (shot({}) | {"picture": {"passes": ["depth", "depth"]}}, "pass depth is named twice"),
            (shot({}) | {"picture": {"background": "blue"}}, "'blue' is not a background"),
        ):
            with self.assertRaises(Mistake) as said:
                read_shot_document(document)
            self.assertIn(told, str(said.exception))


if __name__ == "__main__":
    unittest.main()
