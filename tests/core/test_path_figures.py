"""Figures of a camera's movement, against VTK's own projection; and the findings that come from them."""

import json
import unittest

import numpy as np
from vtkmodules.vtkRenderingCore import vtkCamera

from tests.core.test_path_rig import SQUARE, path, planned
from vexel.core.camera.camera_path import orbit, rolled, view_of
from vexel.core.camera.framing import Sphere
from vexel.core.camera.path_figures import path_figures, tilts_deg
from vexel.core.checks.camera_figures import camera_figures
from vexel.core.checks.camera_findings import camera_findings
from vexel.core.evaluate.rig_path import figures_of
from vexel.core.evaluate.source_facts import Subject
from vexel.core.merge_patch import merged
from vexel.core.wording import counted

SIZE = (320, 180)


def vtk_seen(position, target, up, view_deg, points, parallel=0):
    """Where points are seen, −1 to 1 across and up, by VTK's own matrices; shape (n, 2)."""
    camera = vtkCamera()
    camera.SetPosition(*position)
    camera.SetFocalPoint(*target)
    camera.SetViewUp(*up)
    camera.SetViewAngle(view_deg)
    camera.SetParallelProjection(bool(parallel > 0))
    camera.SetParallelScale(parallel)
    matrix = camera.GetCompositeProjectionTransformMatrix(SIZE[0] / SIZE[1], -1, 1)
    by = np.array([[matrix.GetElement(row, column) for column in range(4)] for row in range(4)])
    seen = np.concatenate([points, np.ones((len(points), 1))], axis=1) @ by.T
    return seen[:, :2] / seen[:, 3:]


def ball_points(sphere, count=40_000):
    """Points evenly over a sphere (Fibonacci's lattice)."""
    n = np.arange(count) + 0.5
    z, turn = 1 - 2 * n / count, np.pi * (1 + 5**0.5) * n
    flat = np.sqrt(1 - z * z)
    unit = np.stack([flat * np.cos(turn), flat * np.sin(turn), z], axis=1)
    return np.asarray(sphere.centre) + sphere.radius * unit


class FlightTest(unittest.TestCase):
    def test_the_margin_is_that_of_the_projected_sphere(self):
        random, sphere = np.random.default_rng(8), Sphere((1.0, -2.0, 0.5), 1.5)
        points = ball_points(sphere)
        positions = random.normal(size=(12, 3)) * 3
        positions *= (random.uniform(4, 12, 12) / np.linalg.norm(positions, axis=1))[:, None]
        targets = np.asarray(sphere.centre) + random.normal(size=(12, 3)) * 0.8
        ups, views = rolled(targets - positions, random.uniform(-90, 90, 12)), random.uniform(25, 60, 12)
        figures = path_figures(view_of(positions, targets, ups), views, SIZE, sphere)
        for n in range(12):
            seen = vtk_seen(positions[n], targets[n], ups[n], views[n], points)
            self.assertAlmostEqual(figures.margins[n], 1 - np.abs(seen).max(), delta=2e-3)
            self.assertAlmostEqual(figures.shares[n], np.ptp(seen[:, 1]) / 2, delta=2e-3)

    def test_in_parallel_projection_too(self):
        document = path([(6, -6, 2), (6, 6, 2)]) | {"clock": {"rate": "24", "frames": 9, "span": "ends"}}
        document["camera"]["lens"] = {"projection": "parallel"}
        plan = planned(document)
        way, highs, sphere = plan.sampled.path, plan.sampled.camera.parallel_highs, plan.inputs.subject.sphere
        figures = path_figures(way, plan.sampled.camera.views_high_deg, SIZE, sphere, highs)
        for n in (0, 4):
            seen = vtk_seen(way.positions[n], way.targets[n], way.ups[n], 30, ball_points(sphere), highs[n] / 2)
            self.assertAlmostEqual(figures.margins[n], 1 - np.abs(seen).max(), delta=2e-3)

    def test_the_horizon_leans_as_the_camera_rolls(self):
        document = path()
        document["camera"] = {"rig": {"kind": "still", "roll_deg": 12, "elevation_deg": 30}}
        way = planned(document).sampled.path
        np.testing.assert_allclose(np.abs(tilts_deg(way)), 12, atol=1e-6)

    def test_from_inside_there_is_no_margin(self):
        around = view_of(np.array([[0.5, 0, 0], [6.0, 0, 0]]), np.array([[0, 0.1, 0]] * 2), np.array([[0, 0, 1.0]] * 2))
        figures = path_figures(around, np.array([40.0, 40.0]), SIZE, Sphere((0, 0, 0), 1))
        self.assertTrue(np.isneginf(figures.margins[0]) and figures.margins[1] > 0)

    def test_a_turntable_moves_evenly(self):
        around = orbit(np.arange(90) * 4.0, elevation_deg=0, centre=(0, 0, 0), distance=5)
        figures = path_figures(around, np.full(90, 30.0), SIZE, Sphere((0, 0, 0), 1))
        np.testing.assert_allclose(figures.turns_deg, 4, atol=1e-6)
        np.testing.assert_allclose(figures.speeds, 2 * 5 * np.sin(np.radians(2)), atol=1e-6)
        # The nearest point of the ball, at 4 of 5, moves sideways by R·sin 4° before the camera.
        focal = 90 / np.tan(np.radians(15))
        self.assertAlmostEqual(figures.subject_px.max(), focal * np.sin(np.radians(4)) / 4, delta=0.15)

    def test_pixels_are_those_of_vtks_projection(self):
        plan = planned(path() | {"clock": {"rate": "24", "frames": 40, "span": "ends"}})
        way, sphere = plan.sampled.path, plan.inputs.subject.sphere
        figures = path_figures(way, plan.sampled.camera.views_high_deg, SIZE, sphere)
        for n in (3, 20):
            outer = np.asarray(sphere.centre) + sphere.radius * np.concatenate([np.eye(3), -np.eye(3)])
            seen = [
                vtk_seen(way.positions[k], way.targets[k], way.ups[k], plan.sampled.camera.views_high_deg[k], outer)
                for k in (n, n + 1)
            ]
            moved = np.linalg.norm((seen[1] - seen[0]) * (SIZE[0] / 2, SIZE[1] / 2), axis=1).max()
            self.assertAlmostEqual(figures.subject_px[n], moved, places=6)


class FindingsTest(unittest.TestCase):
    def findings(self, document):
        return {finding.name: finding for finding in camera_findings(planned(document))}

    def check_fixes(self, document, name):
        finding = self.findings(document)[name]
        for fix in finding.fixes:
            fixed = merged(json.loads(json.dumps(document)), fix.patch)
            self.assertNotIn(name, self.findings(fixed), fix.label)
        return finding

    def clock(self, frames=96, span="ends", **more):
        return {"rate": "24", "frames": frames, "span": span} | more

    def test_a_subject_that_is_cut_off(self):
        near = [(2.2, -2, 0.5), (2.2, 2, 0.5), (-6, 6, 1)]
        finding = self.check_fixes(path(near) | {"clock": self.clock()}, "subject-cut-off")
        self.assertRegex(finding.what, r"cut off in \d+ frames, \d+ to \d+")
        through = path([(-5, 0.1, 0), (0.2, 0.3, 0), (5, 0.1, 0)]) | {"clock": self.clock()}
        found = self.findings(through)["subject-cut-off"]
        self.assertRegex(found.what, r"; in \d+ to \d+ part of it is behind the camera")
        self.assertEqual(found.fixes, (), "from the very middle, no distance is far enough")
        beside = path([(-9, 0.95, 0), (0, 0.95, 0), (9, 0.95, 0)]) | {"clock": self.clock()}
        self.assertIn("behind the camera", self.check_fixes(beside, "subject-cut-off").what)

    def test_what_is_wholly_in_sight_is_not_called_cut_off(self):
        """A flat sheet and a rod, for every rig and lens, judged by VTK's own projection of their corners."""
        sheet = [(x, y, 0.0) for x in (-4, 4) for y in (-0.2, 0.2)]
        rod = [(0.0, 0.0, -5.0), (0.0, 0.0, 5.0)]
        rigs = (
            {"kind": "orbit", "fill": 1.6, "elevation_deg": 20}, {"kind": "still", "fill": 1.1, "elevation_deg": 3},
            path([(12, -9, 2), (11, 9, 2), (-12, 9, 3)])["camera"]["rig"], {"kind": "orbit", "distance": 11},
        )  # fmt: skip
        lenses = ({}, {"shift_mm": [6, -3]}, {"projection": "parallel"}, {"focal_mm": 90})
        told = set()
        for corners in (sheet, rod):
            ball = Sphere((0.0, 0.0, 0.0), float(np.linalg.norm(corners, axis=1).max()))
            for rig in rigs:
                for lens in lenses:
                    document = path() | {"camera": {"rig": rig, "lens": lens}, "clock": self.clock(24, "loop")}
                    document["picture"] = {"width": SIZE[0], "height": SIZE[1]}
                    plan = planned(document, Subject(ball, hull=tuple(corners)))
                    camera = plan.sampled.camera
                    cut = 0
                    for n in range(24):
                        view = camera.path.positions[n], camera.path.targets[n], camera.path.ups[n]
                        high = camera.parallel_highs[n] / 2
                        seen = vtk_seen(*view, camera.views_high_deg[n], np.array(corners), high) - camera.shifts[n]
                        cut += bool(np.abs(seen).max() > 1)
                    found = {one.name: one.what for one in camera_findings(plan)}.get("subject-cut-off", "")
                    words = "" if cut == 0 else "all frames" if cut == 24 else f"cut off in {counted(cut, 'frame')}"
                    self.assertIn(words, found, (rig, lens))
                    self.assertEqual(bool(found), cut > 0, (rig, lens, found))
                    facts = dict(camera_figures(plan, figures_of(plan)))
                    self.assertEqual("cut off" in facts["margin"], cut > 0, "the figures agree")
                    told.add(bool(found))
        self.assertEqual(told, {True, False})

    def test_a_corner_is_a_jerk(self):
        finding = self.check_fixes(path(curve="straight") | {"clock": self.clock()}, "camera-jerks")
        self.assertRegex(finding.what, "jerks at key [23], frame")
        self.assertNotIn("camera-jerks", self.findings(path() | {"clock": self.clock()}))

    def test_a_loop_that_does_not_meet(self):
        finding = self.check_fixes(path() | {"clock": self.clock(span="loop")}, "path-does-not-close")
        self.assertIn("The camera ends 12 away from where it began", finding.what)
        closed = path(closed=True) | {"clock": self.clock(span="loop")}
        self.assertNotIn("path-does-not-close", self.findings(closed))

    def test_a_quick_pan_strobes(self):
        # Common practice: a full-frame pan faster than about seven seconds a width strobes at 24 fps.
        quick = path(SQUARE, closed=True, looks="along") | {"clock": self.clock(48, "loop")}
        finding = self.check_fixes(quick, "pan-strobes")
        self.assertIn("fewer than 168 strobe", finding.what)
        slow = quick | {"clock": self.clock(8000, "loop")}
        self.assertNotIn("pan-strobes", self.findings(slow))


if __name__ == "__main__":
    unittest.main()
