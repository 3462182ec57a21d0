"""Wires against VTK's own drawing of the same lines."""

import unittest

import cv2
import numpy as np
import pyvista as pv

from tests.stage.test_equirectangular import Drawn
from vexel.imaging.transfer import encoded_light, linear
from vexel.stage.lines.wireframe import wire_mask, wire_of

SIZE = (320, 200)


def by_vtk(mesh, camera):
    """Where VTK draws the edges of a mesh, and its matrix from the world to the frame."""
    plotter = pv.Plotter(off_screen=True, window_size=SIZE)
    plotter.set_background("black")
    plotter.render_window.SetMultiSamples(0)
    plotter.add_mesh(mesh.extract_all_edges(), color="white", lighting=False, line_width=1)
    camera(plotter.camera)
    picture = plotter.screenshot(return_img=True)
    matrix = plotter.camera.GetCompositeProjectionTransformMatrix(SIZE[0] / SIZE[1], -1, 1)
    plotter.close()
    return picture[..., 0] > 100, np.array([[matrix.GetElement(r, c) for c in range(4)] for r in range(4)])


def around(position, **more):
    """A camera that looks at the middle."""

    def set_up(camera):
        camera.position, camera.focal_point, camera.up = position, (0, 0, 0), (0, 0, 1)
        camera.clipping_range = more.get("clip", (0.1, 100))
        if "parallel" in more:
            camera.parallel_projection, camera.parallel_scale = True, more["parallel"]

    return set_up


class WireTest(unittest.TestCase):
    def held_against_vtk(self, mesh, camera):
        expected, matrix = by_vtk(mesh, camera)
        lines = wire_mask(wire_of(mesh), matrix, SIZE, 1.0)[::-1]
        self.assertGreater(expected.sum(), 200)
        near = np.ones((3, 3), np.uint8)
        for one, other in ((lines, expected), (expected, lines)):
            stray = one & ~cv2.dilate(other.astype(np.uint8), near).astype(bool)
            self.assertLess(stray.sum(), 0.004 * one.sum() + 1, "a line that the other does not draw")
        self.assertAlmostEqual(lines.sum() / expected.sum(), 1, delta=0.06)

    def test_from_outside(self):
        self.held_against_vtk(pv.Sphere(radius=1), around((3, 2, 2)))

    def test_in_parallel_projection(self):
        self.held_against_vtk(pv.Cube(), around((3, 2, 2), parallel=1.2))

    def test_lines_are_cut_where_they_pass_the_camera(self):
        # From within: most of the mesh is behind, and quads cross the near plane.
        plane = pv.Plane(i_size=40, j_size=40, i_resolution=4, j_resolution=4, center=(0, 0, -1))
        self.held_against_vtk(plane, around((2, 1, 0.2)))
        self.held_against_vtk(pv.Sphere(radius=1), around((0.6, 0.1, 0.3), clip=(0.3, 100)))

    def test_each_edge_is_there_once(self):
        # A tetrahedron has six edges, a cube twelve (Euler: V - E + F = 2).
        for solid, edges in ((pv.Tetrahedron(), 6), (pv.Cube(), 12), (pv.Dodecahedron(), 30)):
            wire = wire_of(solid.clean())
            self.assertEqual(len(wire.corners) - len(wire.starts) - 1, edges)


class ClearWireTest(Drawn):
    def test_a_clear_part_has_clear_lines(self):
        camera = {"rig": {"kind": "still", "elevation_deg": 0}}
        code = "@model\ndef one():\n    return part(pv.Cube(), opacity={})\n"
        (full,), (half,) = (
            self.drawn(code.format(opacity), camera, passes=["wire"], samples=1) for opacity in ("1.0", "0.5")
        )
        lines = full[..., 0] > 0
        self.assertGreater(lines.sum(), 100)
        # Over black, half of the ink's light is left (source over, Porter and Duff 1984).
        expected = 255 * encoded_light(linear(full[lines][:, :3] / 255) / 2)
        np.testing.assert_allclose(half[lines][:, :3], expected, atol=1)


if __name__ == "__main__":
    unittest.main()
