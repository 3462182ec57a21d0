"""What is clear: one rule for blending, in linear light, whatever is clear and whatever it lies over.

The reference is source over (Porter and Duff, 1984) on linear light (IEC 61966-2-1), worked out here.
"""

import unittest

import numpy as np

from tests.helpers import scratch
from tests.stage.test_equirectangular import Drawn
from vexel.core.document.background import rgb
from vexel.sources.pictures.images import picture_in
from vexel.sources.pictures.mixing import encoded_light, light_of, linear

PLANE = (
    "@model\ndef plane():\n    return part(pv.Plane(direction=(0, -1, 0), i_size=9, j_size=9), colour='#c8442e', "
    "opacity={})\n"
)
SCENES = {
    "a clear plane": PLANE.format(0.5),
    "before another": (
        "@model\ndef two():\n    return [part(pv.Plane(direction=(0, -1, 0)), colour='#c8442e', opacity=0.4), "
        "part(pv.Sphere(radius=0.3, center=(0.3, 1, 0)), colour='#4060c0')]\n"
    ),
    "clear points that nobody marked": (
        "@model\ndef points():\n    mesh = pv.Sphere()\n"
        "    mesh['RGBA'] = np.tile(np.array([[200, 68, 46, 90]], np.uint8), (mesh.n_points, 1))\n    return mesh\n"
    ),
    "clear faces": (
        "@model\ndef faces():\n    mesh = pv.Sphere()\n"
        "    mesh.cell_data['RGBA'] = np.tile(np.array([[200, 68, 46, 90]], np.uint8), (mesh.n_cells, 1))\n"
        "    return mesh\n"
    ),
    "clear points": (
        "@model\ndef points():\n    from vexel.sources.meshes.parts import Part\n    mesh = pv.Sphere()\n"
        "    mesh['RGBA'] = np.tile(np.array([[200, 68, 46, 90]], np.uint8), (mesh.n_points, 1))\n"
        "    return Part(mesh, direct='RGBA', blends=True)\n"
    ),
}
FRONT = {"rig": {"kind": "still", "elevation_deg": 0}}
COLOURS = ("#ffffff", "#000000", "#3080c0")


def over(straight, colour):
    """8-bit RGBA over a colour, in light; codes, shape (H, W, 3)."""
    alpha = straight[..., 3:] / 255
    light = linear(straight[..., :3] / 255) * alpha + linear(np.array(rgb(colour)) / 255) * (1 - alpha)
    return 255 * encoded_light(light)


class TransparencyTest(Drawn):
    def shown(self, code, background, **more):
        parts = {"width": 96, "height": 72, "samples": 1, "background": background} | more
        plan = self.plan("import numpy as np\n" + code, FRONT, **parts)
        return plan.recipe(0)

    def picture(self, code, background, **more):
        recipe = self.shown(code, background, **more)
        return self.stage.picture(self.at, recipe).astype(int)

    def test_a_clear_plane_has_its_own_colour(self):
        opaque, clear = self.picture(PLANE.format(1.0), "transparent"), self.picture(PLANE.format(0.5), "transparent")
        np.testing.assert_allclose(clear[36, 48], (*opaque[36, 48, :3], 128), atol=1)

    def test_on_nothing_and_then_over_a_colour_is_as_on_the_colour(self):
        for name, code in SCENES.items():
            for samples in (1, 4):
                clear = self.picture(code, "transparent", samples=samples)
                self.assertTrue(((clear[..., 3] > 0) & (clear[..., 3] < 255)).any())
                for colour in COLOURS:
                    with self.subTest(name, samples=samples, colour=colour):
                        direct = self.picture(code, colour, samples=samples)[..., :3]
                        gradient = self.picture(code, f"{colour} {colour}", samples=samples)[..., :3]
                        # 8 bits of alpha leave a code or two.
                        self.assertLessEqual(np.abs(direct - over(clear, colour)).max(), 2.5)
                        self.assertLessEqual(np.abs(direct - gradient).max(), 2)

    def test_deep_frames_are_the_same(self):
        for name, code in SCENES.items():
            with self.subTest(name):
                flat = light_of(self.picture(code, "transparent").astype(np.uint8))
                file = scratch(self) / "a.exr"
                recipe = self.shown(code, "transparent", format="exr")
                file.write_bytes(self.stage.encoded(self.at, recipe))
                np.testing.assert_allclose(picture_in(file), flat, atol=0.006)

    def test_passes_of_data_are_not_mixed(self):
        for name in ("matte", "normal", "depth"):
            opaque, clear, faint = (
                self.picture(PLANE.format(opacity), "transparent", passes=[name]) for opacity in (1.0, 0.5, 0.4)
            )
            with self.subTest(name):
                np.testing.assert_array_equal(clear, opaque)
                if name != "depth":
                    self.assertEqual(faint[36, 48, 3], 0, "what is fainter than half is not there")


if __name__ == "__main__":
    unittest.main()
