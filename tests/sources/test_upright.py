"""Which way is up, by the shape of what stands."""

import unittest
from pathlib import Path

import numpy as np
import pyvista as pv
import trimesh

from tests.helpers import scratch
from vexel.sources.kinds.object import ObjectFile
from vexel.sources.meshes.upright import up_of

SHIPPED = Path(pv.__file__).parent / "examples"


def box(size, at):
    made = trimesh.creation.box(size)
    made.apply_translation(at)
    return made


def standing():
    """Things that stand along +z."""
    cylinder, cone = trimesh.creation.cylinder, trimesh.creation.cone
    tree = [cylinder(0.2, 2), trimesh.creation.icosphere(radius=1.2)]
    tree[1].apply_translation((0, 0, 2))
    lamp = [cylinder(0.6, 0.1), cylinder(0.05, 1.5), cone(0.5, 0.5)]
    lamp[1].apply_translation((0, 0, 0.75))
    lamp[2].apply_translation((0, 0, 1.5))
    legs = [box((0.12, 0.15, 0.9), (x, 0, 0.45)) for x in (-0.12, 0.12)]
    figure = [*legs, box((0.4, 0.2, 0.6), (0, 0, 1.2)), box((0.25, 0.2, 0.3), (0, 0, 1.7))]
    for name, parts in (("tree", tree), ("lamp", lamp), ("figure", figure), ("cone", [cone(1, 2)])):
        yield name, pv.wrap(trimesh.util.concatenate(parts))


class UprightTest(unittest.TestCase):
    def test_what_stands_is_known_either_way(self):
        for name, mesh in standing():
            with self.subTest(name):
                self.assertEqual(up_of([mesh]).axis, "z")
                self.assertTrue(up_of([mesh]).sure)
                self.assertEqual(up_of([mesh.rotate_x(-90)]).axis, "y")
                halves = [mesh.rotate_x(-90).clip("x"), mesh.rotate_x(-90).clip("x", invert=False)]
                self.assertEqual(
                    up_of([half.extract_surface(algorithm="dataset_surface") for half in halves]).axis,
                    "y",
                    "in several parts",
                )

    def test_a_mesh_from_elsewhere(self):
        # PyVista ships an aeroplane that lies level, +z up.
        plane = pv.read(SHIPPED / "airplane.ply")
        self.assertEqual(up_of([plane]).axis, "z")
        self.assertEqual(up_of([plane.rotate_x(-90)]).axis, "y")

    def test_a_ball_and_a_cube_say_nothing(self):
        for mesh in (pv.Sphere(), pv.Cube().triangulate(), pv.PolyData(np.zeros((3, 3)))):
            self.assertIsNone(up_of([mesh]))

    def test_a_file_tells_what_it_takes_and_what_its_shape_says(self):
        folder = scratch(self)
        mesh = dict(standing())["lamp"]
        mesh.rotate_x(-90).save(folder / "y.stl")
        facts = ObjectFile(folder / "y.stl").facts
        self.assertEqual((facts.up, facts.up_guess.axis, facts.up_stated), ("z", "y", False))
        turned = ObjectFile(folder / "y.stl", up="y").show(None)[0].mesh
        np.testing.assert_allclose(turned.bounds, mesh.bounds, atol=1e-5)
        trimesh.Trimesh(mesh.points, mesh.regular_faces).export(folder / "z.glb")
        facts = ObjectFile(folder / "z.glb").facts
        self.assertEqual((facts.up, facts.up_guess.axis, facts.up_stated), ("y", "z", True))


if __name__ == "__main__":
    unittest.main()
