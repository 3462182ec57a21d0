"""Back faces are left out only where nobody can see the difference."""

import unittest

import numpy as np
import pyvista as pv

from vexel.core.evaluate.frame_spec import CameraPose, ShutterSample
from vexel.sources.meshes.parts import Part
from vexel.stage.scene.back_faces import PROOF_PIXELS, may_cull_back_faces, proven_by
from vexel.stage.scene.scene import Scene

BALL = pv.Sphere(radius=1, theta_resolution=48, phi_resolution=48)
AWAY = CameraPose((6, 2, 3), (0, 0, 0), (0, 0, 1), 30, 4, 10)
INSIDE = CameraPose((0.2, 0, 0), (1, 0, 0), (0, 0, 1), 30, 0.01, 10)


def rigid(mesh, **look):
    return Part(mesh, colour="#c0c0c0", rigid=True, **look)


class MayHideTest(unittest.TestCase):
    def test_a_closed_surface_that_faces_outward_may(self):
        self.assertTrue(may_cull_back_faces(rigid(BALL)))
        self.assertTrue(may_cull_back_faces(rigid(pv.ParametricTorus().triangulate().clean())))

    def test_points_at_one_place_close_a_surface(self):
        # An STL has three points of its own for each triangle.
        split = BALL.points[BALL.regular_faces.ravel()]
        faces = np.insert(np.arange(len(split)).reshape(-1, 3), 0, 3, axis=1)
        self.assertTrue(may_cull_back_faces(rigid(pv.PolyData(split, faces.ravel()))))

    def test_what_shows_its_backs_may_not(self):
        clear = BALL.copy()
        clear["RGBA"] = np.full((clear.n_points, 4), 128, np.uint8)
        mixed = BALL.copy()
        faces = mixed.regular_faces.copy()
        faces[5] = faces[5][::-1]
        mixed.regular_faces = faces
        for name, part in (
            ("open", rigid(pv.Plane().triangulate())),
            ("half a ball", rigid(BALL.clip("z"))),
            ("inside out", rigid(BALL.flip_faces())),
            ("one face turned over", rigid(mixed)),
            ("seen through", Part(clear, direct="RGBA", rigid=True)),
            ("a texture with holes", rigid(BALL, texture=np.zeros((2, 2, 4), np.uint8))),
            ("lines", rigid(pv.Line())),
            ("changing", Part(BALL)),
        ):
            with self.subTest(name):
                self.assertFalse(may_cull_back_faces(part))

    def test_pictures_may_differ_by_an_outline_only(self):
        plain = np.zeros((20, 20, 4), np.uint8)
        edge, much = plain.copy(), plain.copy()
        edge.reshape(-1, 4)[:PROOF_PIXELS] = 9
        much.reshape(-1, 4)[: PROOF_PIXELS + 1] = 9
        self.assertTrue(proven_by([plain, plain], [plain, edge]))
        self.assertFalse(proven_by([plain, plain], [plain, much]))


class SceneTest(unittest.TestCase):
    """The same mesh once known to be rigid, so culled, and once not."""

    def pictures(self, mesh, camera=AWAY, **stage):
        looks = []
        for part in (Part(mesh, colour="#c0c0c0"), rigid(mesh)):
            scene = Scene()
            scene.show([part], ShutterSample({}, {}, camera, stage))
            scene.look(camera, 160, 120, "#204060")
            looks.append(scene.pixels().copy())
        return looks

    def differing(self, looks):
        return int((looks[0] != looks[1]).any(axis=-1).sum())

    def test_the_picture_is_the_same(self):
        self.assertLessEqual(self.differing(self.pictures(BALL)), PROOF_PIXELS)

    def test_two_balls_through_each_other_are_the_same(self):
        both = BALL.merge(BALL.translate((0.7, 0, 0)), merge_points=False)
        self.assertLessEqual(self.differing(self.pictures(both)), PROOF_PIXELS)

    def test_through_a_clear_front_the_back_is_seen(self):
        clear, culled = self.pictures(BALL, **{"opacity:": 0.5})
        self.assertLessEqual(self.differing([clear, culled]), PROOF_PIXELS)
        solid, _ = self.pictures(BALL)
        self.assertTrue((clear[60, 80] != solid[60, 80]).any())

    def test_from_inside_the_backs_are_drawn(self):
        looks = self.pictures(BALL, INSIDE)
        self.assertEqual(self.differing(looks), 0)
        self.assertNotEqual(looks[1][60, 80, :3].tolist(), [0x20, 0x40, 0x60], "the wall is there")


if __name__ == "__main__":
    unittest.main()
