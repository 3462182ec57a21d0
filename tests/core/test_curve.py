"""Curves through points, against scipy's splines and quadrature."""

import itertools
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.interpolate import CubicHermiteSpline

from vexel.core.camera.curve import catmull_rom, straight

POINTS = np.array([[0, 0, 0], [4, 1, 0], [4.2, 1.1, 2], [9, -3, 1], [2, -6, 4]], dtype=float)


def barry_goldman(p, alpha, share):
    """The recursive definition of a Catmull–Rom stretch (Barry and Goldman, 1988), from p[1] to p[2]."""
    t = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1) ** alpha)])
    at = t[1] + share * (t[2] - t[1])

    def mix(a, b, left, right):
        return (right - at) / (right - left) * a + (at - left) / (right - left) * b

    a = [mix(p[n], p[n + 1], t[n], t[n + 1]) for n in range(3)]
    b = [mix(a[n], a[n + 1], t[n], t[n + 2]) for n in range(2)]
    return mix(b[0], b[1], t[1], t[2])


class CatmullRomTest(unittest.TestCase):
    def test_it_is_that_of_the_recursive_definition(self):
        # Yuksel, Schaefer, Keyser, 2011: centripetal, so knots by the power of one half.
        curve = catmull_rom(POINTS)
        for stretch in (1, 2):
            for share in (0, 0.2, 0.5, 0.9):
                expected = barry_goldman(POINTS[stretch - 1 : stretch + 3], 0.5, share)
                np.testing.assert_allclose(curve.at(np.array([stretch + share]))[0], expected, atol=1e-12)

    def test_scipys_hermite_spline_is_the_same_curve(self):
        for curve in (catmull_rom(POINTS), catmull_rom(POINTS, closed=True)):
            for n in range(curve.stretches):
                slopes = [curve.leaving[n], curve.arriving[n]]
                spline = CubicHermiteSpline([0, 1], curve.points[n : n + 2], slopes)
                at = np.linspace(0, 0.999, 9)
                np.testing.assert_allclose(curve.at(n + at), spline(at), atol=1e-12)
                np.testing.assert_allclose(curve.slope(n + at), spline.derivative()(at), atol=1e-12)

    def test_it_passes_its_points_and_closes_smoothly(self):
        curve = catmull_rom(POINTS, closed=True)
        np.testing.assert_allclose(curve.at(np.arange(5.0)), POINTS, atol=1e-12)
        np.testing.assert_allclose(curve.at(np.array([5.0]))[0], POINTS[0], atol=1e-12)
        ways = curve.slope(np.array([1e-9, 5 - 1e-9]))
        ways /= np.linalg.norm(ways, axis=1, keepdims=True)
        np.testing.assert_allclose(ways[0], ways[1], atol=1e-6)

    def test_a_sharp_turn_makes_no_loop(self):
        # Of points unequally far apart the uniform curve overshoots into a loop; the centripetal one does not.
        near = np.array([[0, 0, 0], [10, 0, 0], [10.2, 0.3, 0], [0, 1, 0]], dtype=float)
        curve = catmull_rom(near)
        across = curve.slope(1 + np.linspace(0, 1, 200))
        turned = np.unwrap(np.arctan2(across[:, 1], across[:, 0]))
        self.assertLess(np.ptp(turned), np.pi, "it turns once, by less than half")


def length_between(curve, begin, end):
    """By Gauss-Legendre quadrature of NumPy, in each stretch between the keys alone."""
    nodes, weights = np.polynomial.legendre.leggauss(40)
    ends = [begin, *np.arange(np.floor(begin) + 1, np.ceil(end)), end]
    total = 0.0
    for a, b in itertools.pairwise(ends):
        at = np.clip((a + b) / 2 + (b - a) / 2 * nodes, a, np.nextafter(b, a))
        total += (b - a) / 2 * float(weights @ np.linalg.norm(curve.slope(at), axis=1))
    return total


class LengthTest(unittest.TestCase):
    def test_lengths_are_those_of_quadrature(self):
        curve = catmull_rom(POINTS, closed=True)
        for end in (0.3, 1.0, 2.7, 5.0):
            parts = [(n, min(n + 1, end)) for n in range(int(np.ceil(end)))]
            expected = sum(
                quad(lambda u: float(np.linalg.norm(curve.slope(np.array([u]))[0])), a, b - 1e-12, epsabs=1e-11)[0]
                for a, b in parts
            )
            self.assertAlmostEqual(float(curve.place_at(np.array([expected]))[0]), end, places=8)

    @given(st.lists(st.tuples(*[st.floats(-50, 50)] * 3), min_size=3, max_size=8, unique=True), st.booleans())
    def test_equal_shares_are_equal_lengths(self, points, closed):
        points = np.array(points)
        around = np.concatenate([points, points[:1]]) if closed else points
        if np.linalg.norm(np.diff(around, axis=0), axis=1).min() < 1e-2:
            return
        for curve in (catmull_rom(points, closed), straight(points, closed)):
            wanted = np.linspace(0, curve.length, 9)
            places = curve.place_at(wanted)
            pieces = itertools.pairwise(places)
            reached = np.concatenate([[0.0], np.cumsum([length_between(curve, *ends) for ends in pieces])])
            np.testing.assert_allclose(reached, wanted, atol=1e-6 * curve.length)

    def test_a_straight_one_is_the_sum_of_its_distances(self):
        square = np.array([[0, 0, 0], [2, 0, 0], [2, 2, 0], [0, 2, 0]], dtype=float)
        self.assertEqual((straight(square).length, straight(square, closed=True).length), (6, 8))
        corners = straight(square, closed=True).place_at(np.arange(0, 8, 2.0))
        np.testing.assert_allclose(corners, [0, 1, 2, 3], atol=1e-12)


if __name__ == "__main__":
    unittest.main()
