"""How near a camera comes to surfaces."""

import unittest

import numpy as np
import pyvista as pv

from tests.stage.test_equirectangular import Drawn
from vexel.core.checks.clearance_findings import clearance_findings, places_to_measure
from vexel.core.merge_patch import merged
from vexel.sources.meshes.parts import Part
from vexel.stage.clearance import Surroundings

BALL = "@model\ndef ball():\n    return pv.Sphere(radius=2, theta_resolution=80, phi_resolution=80)\n"


def plan_camera(plan):
    return plan.shot.camera.model_dump(mode="json")


GROWING = "@model\ndef ball(instant=None):\n    return pv.Sphere(radius=2 + float(instant.phase))\n"


class NearbyTest(Drawn):
    def findings(self, *places, looks="along", code=BALL, frames=6, **rig):
        keys = [{"position": list(place)} for place in places]
        plan = self.plan(code, {"rig": {"kind": "path", "keys": keys, "looks": looks} | rig}, frames)
        near = self.stage.nearness(self.at, places_to_measure(plan), (96, 64))
        return clearance_findings(plan, near), near

    def test_distances_are_those_of_a_ball(self):
        around = Surroundings([Part(pv.Sphere(radius=2, theta_resolution=200, phi_resolution=200)), Part(pv.Cube())])
        self.assertAlmostEqual(around.distance((5, 0, 0)), 3, delta=1e-3)
        self.assertTrue(around.between((5, 0, 0), (0, 0, 1.5)))
        self.assertFalse(around.between((5, 0, 3), (0, 0, 3)))

    def test_a_way_through_the_ball_is_found_where_it_is(self):
        (found,), near = self.findings((6, 0, 0), (-6, 0, 0.1))
        self.assertEqual(found.name, "camera-through-surface")
        # Six frames of a loop over 12 units: at 6, 4, 2, 0, −2, −4, so it goes in after 2, and out before −2.
        self.assertIn("between frames 2 and 3, and once more", found.what)
        self.assertAlmostEqual(near.distances[0], 4, delta=0.01)
        (fix,) = found.fixes
        keys = fix.patch["camera"]["rig"]["keys"]
        self.assertEqual(len(keys), 3)
        self.assertEqual(self.findings(*(key["position"] for key in keys))[0], [], "the fix fixes it")

    def test_a_way_beside_it_is_fine_and_one_that_touches_is_not(self):
        self.assertEqual(self.findings((6, 4, 0), (-6, 4, 0))[0], [])
        # Five times round a ball that grows, of which 16 frames are built: no line may cut across it.
        turns = np.linspace(0, 10 * np.pi, 41)
        around = [(4 * np.cos(turn), 4 * np.sin(turn), 0) for turn in turns]
        self.assertEqual(self.findings(*around, code=GROWING, frames=200)[0], [])
        (found,), _ = self.findings((0, 2.02, 2), (0, 2.02, 0), (0, 2.02, -2), curve="straight")
        self.assertEqual(found.name, "camera-close-to-surface")

    def test_a_turntable_is_asked_only_where_it_comes_near(self):
        self.assertEqual(places_to_measure(self.plan(BALL, {"rig": {"kind": "orbit"}})), [])
        for distance, name in ((1, "camera-inside"), (1.99, "camera-inside")):
            with self.subTest(distance):
                plan = self.plan(BALL, {"rig": {"kind": "orbit", "distance": distance, "elevation_deg": 0}})
                near = self.stage.nearness(self.at, places_to_measure(plan), (96, 64))
                (found,) = clearance_findings(plan, near)
                self.assertEqual(found.name, name)
                (fix,) = found.fixes
                self.assertEqual(places_to_measure(self.plan(BALL, merged(plan_camera(plan), fix.patch["camera"]))), [])

    def test_an_open_surface_has_no_inside(self):
        bowl = pv.Sphere(radius=2).clip("z", invert=True)
        self.assertFalse(Surroundings([Part(bowl)]).holds((0, 0, -1)))
        # As STL gives them: every face has corners of its own.
        loose = pv.Sphere(radius=2).separate_cells().extract_surface(algorithm="dataset_surface")
        self.assertTrue(Surroundings([Part(pv.Cube()), Part(loose)]).holds((0, 0, -1.5)))
        self.assertFalse(Surroundings([Part(pv.Cube()), Part(loose)]).holds((0, 0, -2.5)))


if __name__ == "__main__":
    unittest.main()
