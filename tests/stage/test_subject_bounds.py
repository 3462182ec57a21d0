"""The outermost points of a subject, against the convex hull of SciPy (Qhull)."""

import unittest

import numpy as np
from scipy.spatial import ConvexHull

from vexel.stage.subject_bounds import MOST_CORNERS, _outermost


class OutermostTest(unittest.TestCase):
    def test_few_corners_are_those_of_the_hull(self):
        rng = np.random.default_rng(3)
        box = np.array(np.meshgrid([0, 2], [0, 1], [0, 3])).reshape(3, -1).T
        cloud = np.concatenate([rng.uniform([0, 0, 0], [2, 1, 3], (20_000, 3)), box])
        for points in (cloud, rng.normal(size=(20_000, 3))):
            np.testing.assert_array_equal(np.sort(_outermost(points)), np.sort(ConvexHull(points).vertices))

    def test_of_round_clouds_the_outermost_in_all_directions_are_kept(self):
        turns = np.random.default_rng(5).uniform(0, 2 * np.pi, (2, 9_000))
        away = 1 + 0.4 * np.cos(turns[1])
        torus = np.stack([away * np.cos(turns[0]), away * np.sin(turns[0]), 0.4 * np.sin(turns[1])], axis=1)
        ball = np.random.default_rng(4).normal(size=(9_000, 3))
        for points in (ball / np.linalg.norm(ball, axis=1)[:, None], torus):
            kept, corners = _outermost(points), ConvexHull(points).vertices
            self.assertTrue(MOST_CORNERS // 2 < len(kept) <= MOST_CORNERS < len(corners))
            self.assertLessEqual(set(kept), set(corners))
            ways = np.random.default_rng(6).normal(size=(100, 3))
            ways /= np.linalg.norm(ways, axis=1)[:, None]
            missed = (points @ ways.T).max(axis=0) - (points[kept] @ ways.T).max(axis=0)
            self.assertLess(missed.max(), 0.015)

    def test_what_lies_in_a_plane_has_its_outermost_points_too(self):
        turns = np.linspace(0, 2 * np.pi, 3_000, endpoint=False)
        ring = np.stack([np.cos(turns), np.sin(turns), np.zeros(3_000)], axis=1)
        kept = ring[_outermost(ring)]
        self.assertLess(1 - kept[:, 0].max(), 0.01)
        self.assertLess(1 + kept[:, 1].min(), 0.01)
