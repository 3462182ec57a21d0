"""Shadows, hollows and the ground, against what geometry says; and frames laid over other grounds."""

import unittest

import numpy as np

from tests.stage.test_equirectangular import Drawn

PLANE = (
    "def plane(center, direction, size):\n"
    "    return pv.Plane(center=center, direction=direction, i_size=size, j_size=size)\n\n"
)
CORNER = PLANE + (
    "@model\ndef corner():\n"
    "    floor = plane((0, 0, 0), (0, 0, 1), 40)\n"
    "    wall = plane((0, 0, 20), (0, -1, 0), 40)\n"
    "    return [part(floor, colour='#ffffff', name='floor'), part(wall, colour='#ffffff', name='wall')]\n"
)
PLATE = PLANE + (
    "@model\ndef plate():\n"
    "    return [part(plane((0, 0, 0), (0, 0, 1), 8), colour='#ffffff', name='floor'),\n"
    "            part(plane((0, 0, 2), (0, 0, 1), 2), colour='#ffffff', name='plate')]\n"
)
BALL = (
    "@model\ndef ball():\n"
    "    return part(pv.Sphere(radius=1, theta_resolution=60, phi_resolution=60), colour='#d08040')\n"
)
ABOVE = {"rig": {"kind": "still", "elevation_deg": 90, "fill": 1.2}, "lens": {"projection": "parallel"}}


def over(picture, ground):
    """A picture with straight alpha over a plain ground, in linear light (Porter and Duff, 1984)."""
    curve = lambda code: np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)  # noqa: E731
    alpha = picture[..., 3:] / 255
    light = curve(picture[..., :3] / 255) * alpha + curve(np.array(ground) / 255) * (1 - alpha)
    return 255 * np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)


class ShadowTest(Drawn):
    def shot(self, code, camera, light, frame_size=(160, 160), **picture):
        plan = self.plan(code, camera, width=frame_size[0], height=frame_size[1], **picture)
        document = plan.shot.model_dump(mode="json") | {"light": light}
        from vexel.core.document.shot import read_shot_document
        from vexel.core.evaluate.plan import make_plan

        return self.stage.picture(self.at, make_plan(read_shot_document(document), plan.inputs).frame_spec(0))

    def test_a_shadow_lies_where_the_light_is_barred(self):
        # Light at 45° from the right, +x: a plate 2 above the floor throws its shadow 2 to the left.
        light = {"stands": "world", "azimuth_deg": 90, "elevation_deg": 45, "soft_deg": 0}
        plain = self.shot(PLATE, ABOVE, light, samples=1).astype(int)
        barred = self.shot(PLATE, ABOVE, light | {"shadow": 1}, samples=1).astype(int)
        dark = np.argwhere((plain - barred)[..., 0] > 20)
        # In parallel projection the frame's height is two radii by the fill: 9.1 units over 160 pixels or so.
        scale = self.plan(PLATE, ABOVE, width=160, height=160).sampled.camera.parallel_highs[0] / 160
        rows, columns = (dark - 79.5).T * scale
        # The plate itself hides the shadow from 1 to the left of the middle on; what is left of it is −3 to −1.
        self.assertAlmostEqual(columns.min(), -3, delta=0.12)
        self.assertAlmostEqual(columns.max(), -1, delta=0.12)
        self.assertAlmostEqual(rows.min(), -1, delta=0.12)
        self.assertAlmostEqual(rows.max(), 1, delta=0.12)

    def test_a_wall_takes_its_share_of_the_sky(self):
        camera = {"rig": {"kind": "still", "elevation_deg": 60, "fill": 0.9}, "lens": {"projection": "parallel"}}
        picture = self.shot(CORNER, camera, {}, passes=["occlusion"], samples=16, background="#ffffff")
        plan = self.plan(CORNER, camera, width=160, height=160)
        path, high = plan.sampled.path, plan.sampled.camera.parallel_highs[0]
        forward = (path.targets[0] - path.positions[0]) / np.linalg.norm(path.targets[0] - path.positions[0])
        right, up = np.cross(forward, path.ups[0]), path.ups[0]
        # Cosine law by quadrature: z/r² of a direction times the cosine, over the wall's 40 × 40 at y = 0.
        x, z = np.meshgrid(np.linspace(-20, 20, 801), np.linspace(0.025, 40, 800))
        for away in (4.0, 10.0, 18.0):
            square = x**2 + away**2 + z**2
            open_share = 1 - (z * away / square**2 / np.pi).sum() * 0.05**2
            seen_at = np.array([0, -away, 0]) - path.positions[0]
            column, row = 79.5 + 160 * (seen_at @ right) / high, 79.5 - 160 * (seen_at @ up) / high
            seen = picture[round(row) - 1 : round(row) + 2, round(column) - 1 : round(column) + 2, 0].mean() / 255
            self.assertAlmostEqual(seen, open_share, delta=0.05, msg=f"{away} away")

    def test_the_sky_lights_what_faces_up_and_the_earth_what_faces_down(self):
        light = {"environment": 1, "sky": "#0000ff", "earth": "#ff0000", "stands": "world"}
        white = BALL.replace("#d08040", "#ffffff")
        for start in (0, 120):
            rig = {"kind": "still", "elevation_deg": 0, "start_deg": start, "fill": 0.9}
            camera = {"rig": rig, "lens": {"projection": "parallel"}}
            picture = self.shot(white, camera, light, samples=1).astype(float)
            for row in (30, 80, 130):
                # A ball's normal is its place: its height is the share of the sky, by half and half.
                height = (79.5 - row) / 72
                share = 0.5 + 0.5 * height
                np.testing.assert_allclose(picture[row, 80, [0, 2]], [255 * (1 - share), 255 * share], atol=14)

    def test_a_frame_laid_over_any_ground_is_as_if_drawn_there(self):
        camera = {"rig": {"kind": "still", "elevation_deg": 20}}
        clear = self.shot(BALL, camera, {}, samples=16, background="transparent")
        edge = (clear[..., 3] > 0) & (clear[..., 3] < 255)
        self.assertGreater(edge.sum(), 100)
        for ground in ((255, 255, 255), (0, 0, 0), (200, 40, 90)):
            colour = "#" + "".join(f"{c:02x}" for c in ground)
            drawn = self.shot(BALL, camera, {}, samples=16, background=colour)[..., :3].astype(float)
            # 8 bits of alpha, and of a colour that dark ones are divided out of, leave a few codes.
            self.assertLess(np.abs(over(clear, ground) - drawn).max(), 4, colour)
        # No dark fringe: where the ball covers a pixel in part, its own colour is left.
        self.assertGreater(clear[edge][:, 0].min(), clear[clear[..., 3] == 255][:, 0].min() - 12)

    def test_the_grounds_shadow_is_laid_over_other_grounds_too(self):
        camera = {"rig": {"kind": "still", "elevation_deg": 30, "fill": 0.5}}
        light = {"stands": "world", "azimuth_deg": 60, "shadow": 1, "soft_deg": 0}
        clear = self.shot(BALL, camera, light, samples=1, background="transparent", ground=True)
        drawn = self.shot(BALL, camera, light, samples=1, background="#808080", ground=True)
        shade = (clear[..., 3] > 0) & (clear[..., 3] < 255)
        self.assertGreater(shade.sum(), 500)
        self.assertTrue((clear[shade][:, :3] == 0).all(), "a shadow is black of some alpha")
        # In light, as a backdrop is: on a gradient of one colour the shadow is the same.
        np.testing.assert_allclose(drawn[shade][:, :3], over(clear, (128, 128, 128))[shade], atol=1.5)
        flat = self.shot(BALL, camera, light, samples=1, background="#808080 #808080", ground=True)
        np.testing.assert_allclose(drawn[..., :3].astype(int), flat[..., :3], atol=1)


if __name__ == "__main__":
    unittest.main()
