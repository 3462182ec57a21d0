"""Easing, lanes, lens, orbit and framing against things outside the project."""

import unittest

import numpy as np
from scipy.interpolate import BPoly
from scipy.optimize import brentq
from scipy.spatial.transform import Rotation

from vexel.core.ease import CURVES, eased
from vexel.core.framing import distance_to_fill, sphere_about
from vexel.core.lane import lane_values
from vexel.core.lens import Lens, field_of_view_deg
from vexel.core.rig import orbit

PHASES = np.linspace(0, 1, 101)


class EaseTest(unittest.TestCase):
    def test_named_curves_are_those_published(self):
        # W3C CSS Easing Functions: control points; scipy's Bernstein polynomials are the second opinion.
        published = {
            "ease": (0.25, 0.1, 0.25, 1), "ease-in": (0.42, 0, 1, 1),
            "ease-out": (0, 0, 0.58, 1), "ease-in-out": (0.42, 0, 0.58, 1),
        }  # fmt: skip
        self.assertEqual(CURVES, published)
        for name, (x1, y1, x2, y2) in published.items():
            x, y = (BPoly([[0], [a], [b], [1]], [0, 1]) for a, b in ((x1, x2), (y1, y2)))
            expected = [y(brentq(lambda s, x=x, p=p: x(s) - p, 0, 1, xtol=1e-14)) for p in PHASES]
            np.testing.assert_allclose(eased(name, PHASES), expected, atol=1e-9, err_msg=name)

    def test_ends_are_exact(self):
        for name in CURVES:
            self.assertEqual(eased(name, np.array([0.0, 1.0])).tolist(), [0, 1])


class LaneTest(unittest.TestCase):
    def test_meets_its_keys_and_stays_outside_them(self):
        values = lane_values([(0.2, 1.0), (0.6, 5.0), (0.8, 3.0)], "ease-in-out", np.array([0, 0.2, 0.4, 0.6, 0.8, 1]))
        np.testing.assert_allclose(values, [1, 1, 3, 5, 3, 3], atol=1e-12)


class LensTest(unittest.TestCase):
    def test_fields_of_view_of_the_handbooks(self):
        # Geometry, 2·atan(d/2f); handbook lens tables agree (REFERENCES.md).
        for focal, wide, high in ((50, 39.6, 27.0), (24, 73.7, 53.1)):
            got = Lens(focal, 36, 24).view_deg(3, 2)
            np.testing.assert_allclose(got[:2], (wide, high), atol=0.05)
        self.assertAlmostEqual(Lens(50, 36, 24).view_deg(3, 2)[2], 46.8, delta=0.05)
        self.assertAlmostEqual(field_of_view_deg(36, 35), 54.4, delta=0.05)
        self.assertAlmostEqual(field_of_view_deg(36, 85), 23.9, delta=0.05)

    def test_another_shape_is_cut_from_the_sensor(self):
        self.assertEqual(Lens(50, 36, 24).used_sensor_mm(1920, 1080), (36, 20.25))
        self.assertEqual(Lens(50, 36, 24).used_sensor_mm(1080, 1080), (24, 24))


class OrbitTest(unittest.TestCase):
    def test_positions_are_those_of_rotations(self):
        # scipy's Rotation: first up by the elevation about x, then round z.
        phases = np.arange(7) / 7
        for direction, sign in (("ccw", 1), ("cw", -1)):
            path = orbit(
                phases, turns=1.5, direction=direction, start_deg=30, elevation_deg=25, centre=(1, 2, 3), distance=4
            )
            angles = 30 + sign * 540 * phases
            expected = [
                Rotation.from_euler("z", a, degrees=True).apply(
                    Rotation.from_euler("x", -25, degrees=True).apply([0, -4, 0])
                )
                for a in angles
            ]
            np.testing.assert_allclose(path.positions - [1, 2, 3], expected, atol=1e-9)

    def test_a_loop_of_whole_turns_has_equal_steps_over_its_seam(self):
        path = orbit(
            np.arange(24) / 24, turns=2, direction="cw", start_deg=0, elevation_deg=0, centre=(0, 0, 0), distance=1
        )
        steps = np.linalg.norm(np.roll(path.positions, -1, axis=0) - path.positions, axis=1)
        np.testing.assert_allclose(steps, steps[0], rtol=1e-9)


class FramingTest(unittest.TestCase):
    def test_the_sphere_takes_the_share_that_was_asked_for(self):
        # Points of the sphere, projected by a pinhole: tan of their angle off the axis.
        radius, fill, view = 2.5, 0.7, 32.0
        distance = distance_to_fill(radius, fill, view)
        turn = np.linspace(0, 2 * np.pi, 20001)
        across, toward = radius * np.sin(turn), radius * np.cos(turn)
        share = (across / (distance - toward)).max() / np.tan(np.radians(view / 2))
        self.assertAlmostEqual(share, fill, places=6)

    def test_sphere_holds_every_cloud(self):
        clouds = [np.array([[0, 0, 0], [2, 0, 0]]), np.array([[0, 4, 0]]), np.empty((0, 3))]
        sphere = sphere_about(clouds)
        self.assertEqual(sphere.centre, (1, 2, 0))
        self.assertAlmostEqual(sphere.radius, np.sqrt(5))


if __name__ == "__main__":
    unittest.main()
