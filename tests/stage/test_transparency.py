"""What is clear: one rule for blending, in linear light, whatever is clear and whatever it lies over.

The reference is source over (Porter and Duff, 1984) on linear light (IEC 61966-2-1), worked out here.
"""

import subprocess
import sys
import unittest

import numpy as np

from tests.helpers import scratch
from tests.stage.test_equirectangular import Drawn
from vexel.core.document.background import rgb
from vexel.imaging.images import picture_in
from vexel.imaging.light import light_of
from vexel.imaging.transfer import encoded_light, linear

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
FIRST = """
import unittest
from tests.stage.test_transparency import PLANE, TransparencyTest

class First(TransparencyTest):
    def runTest(self):
        spec = self.shown(PLANE.format(0.5), "transparent")
        first, second = (self.stage.picture(self.at, spec) for _ in range(2))
        print("same" if (first == second).all() else "differs")

unittest.TextTestRunner().run(unittest.TestSuite([First()]))
"""
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
        return plan.frame_spec(0)

    def picture(self, code, background, **more):
        spec = self.shown(code, background, **more)
        return self.stage.picture(self.at, spec).astype(int)

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

    def test_layers_are_blended_as_light_from_the_nearest_to_the_farthest(self):
        """Against each plane's own colour, seen alone, put over one another by the rule; parts in any order."""
        chance = np.random.default_rng(3)
        for count in (2, 5, 12):
            colours = [f"#{value:06x}" for value in chance.integers(0, 2**24, count)]
            opacities = chance.uniform(0.1, 0.8, count).round(3)
            opacities[-1] = 1.0 if count == 5 else opacities[-1]
            planes = [
                f"part(pv.Plane(direction=(0, -1, 0), center=(0, {place}, 0), i_size=9, j_size=9), colour='{colour}', "
                f"opacity={opacity}, name='p{place}')"
                for place, (colour, opacity) in enumerate(zip(colours, opacities, strict=True))
            ]
            code = "@model\ndef planes():\n    return [{}]\n"
            light = np.zeros(3)
            for plane, opacity in reversed(list(zip(planes, opacities, strict=True))):
                alone = plane.replace(f"opacity={opacity}", "opacity=1.0")
                own = linear(self.picture(code.format(alone), "transparent")[36, 48, :3] / 255)
                light = own * opacity + light * (1 - opacity)
            cover = 1 - np.prod(1 - opacities)
            for order in (planes, planes[::-1], list(chance.permutation(planes))):
                for background in ("transparent", "#3080c0"):
                    with self.subTest(count=count, background=background):
                        found = self.picture(code.format(", ".join(order)), background)[36, 48]
                        if background == "transparent":
                            np.testing.assert_allclose(found[3], 255 * cover, atol=1)
                            np.testing.assert_allclose(found[:3], 255 * encoded_light(light / cover), atol=2)
                        else:
                            behind = linear(np.array(rgb(background)) / 255)
                            whole = light + (1 - cover) * behind
                            np.testing.assert_allclose(found[:3], 255 * encoded_light(whole), atol=1.5)

    def test_surfaces_that_cross_are_blended_in_the_order_of_each_pixel(self):
        plane = "part(pv.Plane(direction=({}, -1, 0), i_size=9, j_size=9), colour='{}', opacity={}, name='{}')"
        code = "@model\ndef cross():\n    return [{}]\n"
        red, blue = (
            linear(self.picture(code.format(plane.format(way, colour, 1.0, "one")), "#000000")[36, 24] / 255)[:3]
            for way, colour in ((1, "#ff0000"), (-1, "#0000ff"))
        )
        both = [plane.format(1, "#ff0000", 0.5, "one"), plane.format(-1, "#0000ff", 0.5, "two")]
        picture = self.picture(code.format(", ".join(both)), "#000000")
        first, second = (255 * encoded_light(0.5 * near + 0.25 * far) for near, far in ((red, blue), (blue, red)))
        halves = [picture[36, column, :3] for column in (24, 72)]
        order = (first, second) if np.abs(halves[0] - first).max() < 3 else (second, first)
        for half, wanted in zip(halves, order, strict=True):
            np.testing.assert_allclose(half, wanted, atol=2)

    def test_the_first_picture_of_a_process_is_as_any_other(self):
        """Some windows know nothing of their graphics library before; the first layers came twice then."""
        done = subprocess.run([sys.executable, "-c", FIRST], capture_output=True, text=True, check=False)
        self.assertEqual(done.stdout.split()[-1:], ["same"], done.stderr)

    def test_deep_frames_are_the_same(self):
        for name, code in SCENES.items():
            with self.subTest(name):
                flat = light_of(self.picture(code, "transparent").astype(np.uint8))
                file = scratch(self) / "a.exr"
                spec = self.shown(code, "transparent", format="exr")
                file.write_bytes(self.stage.encoded(self.at, spec))
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
