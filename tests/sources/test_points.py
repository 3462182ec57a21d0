"""Clouds of points, and scans of soft ellipsoids."""

import unittest
from dataclasses import replace

import numpy as np
import pyvista as pv
from scipy.spatial.transform import Rotation
from scipy.special import sph_harm_y

from tests.helpers import plan_on, scratch, shot_document
from vexel.core.document.passes import FAR
from vexel.core.document.shot import Shot
from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceAt
from vexel.imaging.transfer import encoded_light, linear
from vexel.sources.kinds.object import ObjectFile
from vexel.sources.meshes.splats import harmonics_of
from vexel.stage.renderer import Renderer
from vexel.stage.scene.draw_style import matte_colour

NAMES = (
    *"xyz", "f_dc_0", "f_dc_1", "f_dc_2", "opacity", "scale_0", "scale_1", "scale_2", "rot_0", "rot_1", "rot_2", "rot_3"
)  # fmt: skip


def scan(case, rows, more=()):
    """A scan's PLY file: a position, colour 0 to 1, opacity, half axes and quaternion (w, x, y, z) each."""
    table = np.zeros(len(rows), [(name, "<f4") for name in (*NAMES, *more)])
    for n, (place, colour, opacity, axes, turn) in enumerate(rows):
        dc = (np.array(colour) - 0.5) / 0.28209479
        stored = (*place, *dc, np.log(opacity / (1 - opacity)), *np.log(axes), *turn)
        table[n] = (*stored, *[0.0] * len(more))
    header = [f"property float {name}" for name in (*NAMES, *more)]
    text = "\n".join(["ply", "format binary_little_endian 1.0", f"element vertex {len(rows)}", *header, "end_header\n"])
    file = scratch(case) / "scan.ply"
    file.write_bytes(text.encode() + table.tobytes())
    return file


def turned(degrees, axis):
    half = np.radians(degrees) / 2
    return (np.cos(half), *(np.sin(half) * np.array(axis)))


class PointsTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.stage = Renderer()

    def picture(self, file, up="z", low_pass=0.3, size=(200, 200), at=None, **camera):
        document = shot_document({"kind": "object", "file": str(file)}, camera=camera)
        document["picture"] = {"width": size[0], "height": size[1], "samples": 1, "background": "#000000"}
        shot = Shot.model_validate(document, strict=False)
        source = SourceAt("object", file, {"up": up, "low_pass": low_pass})
        plan = plan_on(self.stage, shot, source, size)
        spec = plan.frame_spec(0)
        if at is not None:
            pose = {"position": at, "target": (0.0, 1.0, 0.0), "up": (0.0, 0.0, 1.0), "near": 0.05, "far": 50.0}
            look = replace(spec.shutter_samples[0], camera=replace(spec.shutter_samples[0].camera, **pose))
            spec = replace(spec, shutter_samples=(look,))
        return self.stage.picture(source, spec).astype(int), plan

    def test_harmonics_are_those_of_scipy(self):
        # scipy's complex ones, made real as usual, with the Condon–Shortley phase.
        ways = np.random.default_rng(3).normal(size=(50, 3))
        ways /= np.linalg.norm(ways, axis=1)[:, None]
        theta, phi = np.arccos(ways[:, 2]), np.arctan2(ways[:, 1], ways[:, 0])
        expected = []
        for degree in range(4):
            for order in range(-degree, degree + 1):
                value = sph_harm_y(degree, abs(order), theta, phi)
                real = value.real if order == 0 else 2**0.5 * (value.imag if order < 0 else value.real)
                expected.append(real)
        np.testing.assert_allclose(harmonics_of(ways.astype(np.float32), 16), np.stack(expected, axis=1), atol=2e-6)

    def test_an_ellipsoid_has_its_axes_and_its_turn(self):
        # Corners set the frame; in the middle an ellipsoid 0.4 × 0.05 × 0.05, turned by 30° in the picture's plane.
        corners = [((x, 0, z), (0, 0, 0), 0.01, (0.01,) * 3, (1, 0, 0, 0)) for x in (-1, 1) for z in (-1, 1)]
        ball = ((0, 0, 0), (1, 1, 1), 0.98, (0.4, 0.05, 0.05), turned(30, (0, 1, 0)))
        rig = {"kind": "still", "elevation_deg": 0, "fill": 0.9}
        picture, plan = self.picture(scan(self, [*corners, ball]), rig=rig, lens={"projection": "parallel"})
        scale = plan.sampled.camera.parallel_highs[0] / 200
        rows, columns = np.mgrid[:200, :200]
        # Over black its light is what it covers.
        weight = linear(picture[..., 0] / 255) * (picture[..., 0] > 12)
        x, z = (columns - 99.5) * scale, (99.5 - rows) * scale
        covariance = np.cov(np.stack([x.ravel(), z.ravel()]), aweights=weight.ravel())
        values, vectors = np.linalg.eigh(covariance)
        # The camera looks along +y, so that a turn about +y is clockwise in the picture.
        angle = np.degrees(np.arctan2(vectors[1, 1], vectors[0, 1])) % 180
        self.assertAlmostEqual(angle, 150, delta=2)
        self.assertAlmostEqual(values[1] ** 0.5, 0.4, delta=0.08)
        self.assertAlmostEqual((values[1] / values[0]) ** 0.5, 8, delta=2.2)

    def test_what_is_nearer_lies_over_what_is_farther(self):
        front = ((0, -1, 0), (1, 0, 0), 0.9, (0.5,) * 3, (1, 0, 0, 0))
        back = ((0, 1, 0), (0, 1, 0), 0.9, (0.5,) * 3, (1, 0, 0, 0))
        for order in ((front, back), (back, front)):
            picture, _ = self.picture(scan(self, order), rig={"kind": "still", "elevation_deg": 0})
            red, green = picture[100, 100, :2]
            # Source over: 0.9 of the near one, and of the far one 0.9 · 0.1; the codes of both, as scans are made for.
            self.assertAlmostEqual(red / 255, 0.9, delta=0.04)
            self.assertAlmostEqual(green / 255, 0.09, delta=0.04)
        behind, _ = self.picture(scan(self, (front, back)), rig={"kind": "still", "elevation_deg": 0, "start_deg": 180})
        self.assertGreater(behind[100, 100, 1], 200)

    def test_a_cloud_is_drawn_as_dots_of_its_colours(self):
        file = scratch(self) / "cloud.ply"
        ball = pv.Sphere(radius=1, theta_resolution=60, phi_resolution=60)
        colours = np.where(ball.points[:, :1] > 0, [[255, 0, 0]], [[0, 0, 255]]).astype(np.uint8)
        rows = [f"{x} {y} {z} {r} {g} {b}" for (x, y, z), (r, g, b) in zip(ball.points, colours, strict=True)]
        header = ["ply", "format ascii 1.0", f"element vertex {len(rows)}"]
        header += [f"property float {axis}" for axis in "xyz"]
        header += [f"property uchar {colour}" for colour in ("red", "green", "blue")]
        file.write_text("\n".join([*header, "end_header", *rows]) + "\n")
        picture, _ = self.picture(file, rig={"kind": "still", "elevation_deg": 0})
        self.assertGreater((picture[60:140, 105:140, 0] > 200).mean(), 0.4)
        self.assertGreater((picture[60:140, 60:95, 2] > 200).mean(), 0.4)
        self.assertLess((picture[60:140, 105:140, 2] > 100).mean(), 0.1, "what is behind is hidden where dots are")

    def test_points_have_distances_and_mattes_but_no_slopes(self):
        # Seen from the front, one splat a unit nearer than the other, and one too faint to be solid.
        near = ((-1, -0.5, 0), (1, 0, 0), 0.9, (0.3,) * 3, (1, 0, 0, 0))
        far = ((1, 0.5, 0), (0, 1, 0), 0.9, (0.3,) * 3, (1, 0, 0, 0))
        faint = ((0, -1.5, 1), (0, 0, 1), 0.3, (0.3,) * 3, (1, 0, 0, 0))
        file = scan(self, (near, far, faint))
        document = shot_document({"kind": "object", "file": str(file)})
        document["camera"] = {"rig": {"kind": "still", "elevation_deg": 0}}
        document["picture"] = {
            "width": 200,
            "height": 200,
            "samples": 1,
            "passes": ["depth", "matte", "normal", "shaded"],
        }
        shot, at = Shot.model_validate(document, strict=False), SourceAt("object", file, {"up": "z"})
        plan = plan_on(self.stage, shot, at, (200, 200))
        spec = plan.frame_spec(0)
        first, last = spec.shutter_samples[0].ranges["distance"]
        soft = self.stage.picture(at, plan.frame_spec(0, 3))
        codes = self.stage.distances(at, spec)
        away = first + codes[codes < FAR] / FAR * (last - first)
        position = np.array(spec.shutter_samples[0].camera.position)
        np.testing.assert_allclose(np.unique(away.round(2)), [-0.5 - position[1], 0.5 - position[1]], atol=0.01)
        matte = self.stage.picture(at, plan.frame_spec(0, 1))
        np.testing.assert_array_equal(matte[..., 3] > 0, codes < FAR)
        np.testing.assert_array_equal(self.stage.picture(at, plan.frame_spec(0, 3)), soft, "as soft as before")
        np.testing.assert_allclose(matte[codes < FAR][0, :3], 255 * np.array(matte_colour(0)), atol=1)
        with self.assertRaisesRegex(SourceError, "for normal: set picture.passes to any of shaded, depth, matte"):
            self.stage.picture(at, plan.frame_spec(0, 2))

    def projected(self, rows, pose, low_pass, eye=None):
        """An own projection of splats, over black: the affine approximation of Zwicker et al. (2002), eq. 29 and 31.

        Codes are blended from back to front (Porter & Duff, 1984); of all of them a layer is laid over black as light.
        """
        position, target = np.array(pose.position), np.array(pose.target)
        back = (position - target) / np.linalg.norm(position - target)
        right = np.cross(pose.up, back)
        right /= np.linalg.norm(right)
        turn = np.stack([right, np.cross(back, right), back])
        focal = 100 / np.tan(np.radians(pose.view_high_deg) / 2)
        y, x = np.mgrid[:200, :200]
        seen = [(turn @ (np.array(row[0]) - position), row) for row in rows]
        colour, cover = np.zeros((200, 200, 3)), np.zeros((200, 200, 1))
        for (a, b, c), (_, own, opacity, axes, quat) in sorted(seen, key=lambda one: one[0][2]):
            jacobian = focal * np.array([[-1 / c, 0, a / c**2], [0, 1 / c, -b / c**2]])
            spread = turn @ Rotation.from_quat(quat, scalar_first=True).as_matrix() @ np.diag(axes)
            covariance = jacobian @ spread @ spread.T @ jacobian.T + low_pass * np.eye(2)
            away = np.stack([x - 99.5 + focal * a / c, y - 99.5 - focal * b / c], axis=-1)
            share = np.einsum("yxi,ij,yxj->yx", away, np.linalg.inv(covariance), away)[..., None]
            alpha = opacity * np.exp(-0.5 * share)
            alpha[alpha < 1 / 255] = 0
            colour, cover = colour * (1 - alpha) + alpha * np.array(own), cover * (1 - alpha) + alpha
        straight = np.minimum(colour / np.maximum(cover, 1e-9), 1)
        return np.rint(255 * encoded_light(linear(straight) * cover)), cover[..., 0]

    def test_scans_are_those_of_an_own_projection(self):
        chance = np.random.default_rng(4)
        rig = {"kind": "still", "elevation_deg": 20, "start_deg": 35}

        def one(size, colour=(0.0, 1.0), opacity=(0.2, 0.95)):
            return (
                tuple(chance.uniform(-1, 1, 3)), tuple(chance.uniform(*colour, 3)), float(chance.uniform(*opacity)),
                tuple(size * chance.uniform(0.3, 2, 3)), tuple(Rotation.random(rng=chance).as_quat(scalar_first=True)),
            )  # fmt: skip

        # Sums are kept in 8 bits, so that none of them is above white here.
        corners = [(x, 0, z) for x in (-0.7, 0.7) for z in (-0.7, 0.7)]
        bright = [(place, (2.5, 1.5, 0.5), 0.35, (0.12,) * 3, (1, 0, 0, 0)) for place in corners]
        dark = ((0, 0, 0), (0.05,) * 3, 0.9, (0.5,) * 3, (1, 0, 0, 0))
        ends = [((x, y, 0), (0, 0, 0), 0.01, (1e-4,) * 3, (1, 0, 0, 0)) for x in (-1.2, 1.2) for y in (-1.2, 1.2)]
        for name, rows, low_pass in (
            ("large", [one(0.1) for _ in range(20)], 0.3),
            ("smaller than a pixel", [one(0.003) for _ in range(60)], 0.3),
            ("thin", [(*one(0.1)[:3], (0.4, 0.002, 0.002), one(1)[4]) for _ in range(20)], 0.3),
            ("wider than they are", [one(0.02) for _ in range(20)], 4.0),
            ("brighter than white", [dark, *bright], 0.3),
        ):
            with self.subTest(name):
                picture, plan = self.picture(scan(self, [*rows, *ends]), rig=rig, low_pass=low_pass)
                wanted, cover = self.projected(rows, plan.frame_spec(0).shutter_samples[0].camera, low_pass)
                # Codes of 8 bits are worth little where hardly anything covers.
                off = np.abs(picture[..., :3] - wanted).max(axis=-1)[cover > 0.2]
                self.assertGreater(off.size, 100)
                self.assertLessEqual(np.percentile(off, 99.5), 4)
                other, _ = self.projected(rows, plan.frame_spec(0).shutter_samples[0].camera, 0.0)
                worse = np.abs(picture[..., :3] - other).max(axis=-1)[cover > 0.2]
                if name not in ("large", "brighter than white"):
                    self.assertGreater(np.percentile(worse, 99.5), 8, "it would see a missing low pass")
                if name == "brighter than white":
                    cut = [(row[0], tuple(np.minimum(row[1], 1)), *row[2:]) for row in rows]
                    dull, _ = self.projected(cut, plan.frame_spec(0).shutter_samples[0].camera, low_pass)
                    self.assertGreater(np.abs(picture[..., :3] - dull).max(), 20, "and colours cut too early")

    def test_a_point_all_round_looks_the_same_in_every_direction(self):
        """A panorama shows each as it is seen straight on, where its views meet too."""

        def off(azimuth, elevation, size):
            level = np.cos(elevation)
            far = 5 * np.array([level * np.sin(azimuth), level * np.cos(azimuth), np.sin(elevation)])
            rows = [(tuple(place), (1, 1, 1), opacity, (wide,) * 3, (1, 0, 0, 0))
                    for place, opacity, wide in ((far, 0.98, size), (-far, 0.01, 0.01))]  # fmt: skip
            rig, lens = {"kind": "still", "elevation_deg": 0}, {"projection": "panorama"}
            picture, _ = self.picture(scan(self, rows), size=(512, 256), at=(0.0, 0.0, 0.0), rig=rig, lens=lens)
            longitude = np.radians((np.arange(512) + 0.5) * 360 / 512 - 180)[None, :]
            latitude = np.radians(90 - (np.arange(256) + 0.5) * 180 / 256)[:, None]
            ways = np.stack(
                np.broadcast_arrays(
                    np.cos(latitude) * np.sin(longitude), np.cos(latitude) * np.cos(longitude), np.sin(latitude)
                ),
                axis=-1,
            )
            cover = linear(picture[..., 0] / 255)
            # On the plane that faces the eye its light is a Gaussian as wide as the point.
            cosine = ways @ (far / 5)
            plane = np.tan(np.arccos(np.clip(cosine, 0, 1))) * 5
            wanted = np.where(cosine > 0.1, 0.98 * np.exp(-0.5 * (plane / size) ** 2), 0)
            return np.abs(cover - wanted).max()

        for size in (0.2, 0.8):
            for way in ((0, 0), (5, 0), (45, 0), (45, 44), (46, 46), (90, 0), (180, 10), (20, 80), (-135, -60)):
                with self.subTest(size=size, way=way):
                    self.assertLess(off(np.radians(way[0]), np.radians(way[1]), size), 0.03)

    def test_colours_change_with_the_direction(self):
        # The first coefficient beside the constant one is −0.4886·y: what is seen along +y loses by it.
        names = tuple(f"f_rest_{n}" for n in range(9))
        file = scan(self, [((0, 0, n), (0.5, 0.5, 0.5), 0.9, (1, 1, 1), (1, 0, 0, 0)) for n in range(2)], names)
        head, table = file.read_bytes().split(b"end_header\n", 1)
        rows = np.frombuffer(table, np.float32).reshape(2, -1).copy()
        rows[:, len(NAMES)] = 0.5
        file.write_bytes(head + b"end_header\n" + rows.tobytes())
        dots = ObjectFile(file).show(None)[0].splats
        along, against = (dots.colours(np.tile(np.array([[0, way, 0]], np.float32), (2, 1)))[0][0] for way in (1, -1))
        self.assertAlmostEqual(along[0] / 255, 0.5 - 0.4886 * 0.5, delta=0.01)
        self.assertAlmostEqual(against[0] / 255, 0.5 + 0.4886 * 0.5, delta=0.01)
        self.assertEqual(along[1], against[1])

    def test_a_scan_whose_y_is_up_is_turned_as_a_whole(self):
        """Axes and view-dependent colours too: as the same scan that was turned by hand beforehand."""
        chance = np.random.default_rng(5)
        turn = Rotation.from_euler("x", 90, degrees=True)
        names = tuple(f"f_rest_{n}" for n in range(9))
        places, axes = chance.normal(size=(30, 3)), chance.uniform(0.05, 0.5, (30, 3))
        quats = Rotation.random(30, rng=chance)
        # The second to fourth harmonics are the vector (−c, −a, b) times the direction, for each channel.
        a, b, c = chance.uniform(-0.5, 0.5, (3, 30, 3))
        vectors = np.stack([-c, -a, b], axis=-1)

        def written(places, quats, vectors):
            rows = [
                (place, (0.6, 0.5, 0.4), 0.8, size, quat)
                for place, size, quat in zip(places, axes, quats.as_quat(scalar_first=True), strict=True)
            ]
            file = scan(self, rows, names)
            head, table = file.read_bytes().split(b"end_header\n", 1)
            values = np.frombuffer(table, np.float32).reshape(30, -1).copy()
            x, y, z = np.moveaxis(vectors, -1, 0)
            values[:, len(NAMES) :] = np.stack([-y, z, -x], axis=-1).reshape(30, 9)
            file.write_bytes(head + b"end_header\n" + values.tobytes())
            return file

        camera = {"rig": {"kind": "still", "elevation_deg": 20, "start_deg": 35}}
        given, _ = self.picture(written(places, quats, vectors), up="y", **camera)
        by_hand, _ = self.picture(written(turn.apply(places), turn * quats, turn.apply(vectors.reshape(-1, 3)).reshape(
            vectors.shape)), **camera)  # fmt: skip
        self.assertGreater(given.max(), 150)
        self.assertLessEqual(np.abs(given - by_hand).max(), 3)

    def points(self, header, rows, form="ascii"):
        file = scratch(self) / "points.ply"
        text = ["ply", f"format {form} 1.0", f"element vertex {len(rows)}", *(f"property {line}" for line in header)]
        file.write_text("\n".join([*text, "end_header", *(" ".join(map(str, row)) for row in rows)]) + "\n")
        return ObjectFile(file)

    def test_colours_sizes_and_shares_under_many_names(self):
        place = ["float x", "float y", "float z"]
        for header, values, colour, alpha in (
            (["uchar red", "uchar green", "uchar blue"], (255, 128, 0), (255, 128, 0), 255),
            (["uchar diffuse_red", "uchar diffuse_green", "uchar diffuse_blue"], (9, 128, 0), (9, 128, 0), 255),
            (["float r", "float g", "float b"], (1, 0.5, 0.25), (255, 128, 64), 255),
            (["float r", "float g", "float b", "float alpha"], (200, 100, 50, 0.5), (200, 100, 50), 128),
            (["ushort red", "ushort green", "ushort blue"], (65535, 32768, 0), (255, 128, 0), 255),
            (["float f_dc_0", "float f_dc_1", "float f_dc_2"], (1, 0, -1), (199, 128, 56), 255),
        ):
            with self.subTest(header):
                made = self.points(place + header, [(n, n, 0, *values) for n in range(5)])
                self.assertEqual([one.code for one in made.facts.findings], [] if alpha == 255 else ["not-drawn"])
                (part,) = made.show(None)
                seen = part.splats.colours(np.tile(np.array([[0, 1, 0]], np.float32), (5, 1)))[0][0]
                np.testing.assert_allclose(seen, (*colour, alpha), atol=1)
        made = self.points([*place, "float radius"], [(n, n, 0, 0.1 + n) for n in range(5)])
        np.testing.assert_allclose(made.show(None)[0].splats.scales[:, 0], 0.1 + np.arange(5), rtol=1e-6)
        self.assertEqual([finding.code for finding in made.facts.findings], ["no-point-colours"])
        self.assertEqual(
            made.show(None)[0].splats.colours(np.ones((5, 3), np.float32))[0][0].tolist(), [200, 200, 200, 255]
        )

    def test_scans_as_text_and_flat_ones(self):
        rows = [((n, 0, 0), (0.9, 0.2, 0.1), 0.7, (0.2, 0.3, 0.4), turned(30, (0, 0, 1))) for n in range(6)]
        binary = scan(self, rows)
        table = np.frombuffer(binary.read_bytes().split(b"end_header\n", 1)[1], np.float32).reshape(6, -1)
        header = [f"float {name}" for name in NAMES]
        (one,), (other,) = ObjectFile(binary).show(None), self.points(header, table.tolist()).show(None)
        for name in ("scales", "turns", "opacities", "harmonics"):
            np.testing.assert_allclose(getattr(one.splats, name), getattr(other.splats, name), rtol=1e-5)
        self.assertTrue(other.splats.soft)
        flat = [name for name in header if name != "float scale_2"]
        (disc,) = self.points(flat, np.delete(table, NAMES.index("scale_2"), axis=1).tolist()).show(None)
        np.testing.assert_allclose(disc.splats.scales[0], (0.2, 0.3, 0.002), rtol=1e-4)
        for rows, words in (
            ([(1, 2)], "cut short|not 3 numbers"),
            ([(1, 2, "x")], "not 3 numbers"),
            ([], "no points|no faces"),
        ):
            with self.assertRaisesRegex(SourceError, words):
                self.points(["float x", "float y", "float z"], rows)

    def test_a_stray_splat_leaves_the_others_in_sight(self):
        chance = np.random.default_rng(1)
        for count in (30, 2000):
            rows = [(chance.normal(size=3), (0.9, 0.5, 0.2), 0.9, (0.2, 0.2, 0.2), (1, 0, 0, 0)) for _ in range(count)]
            alone, _ = self.picture(scan(self, rows), rig={"kind": "still"})
            far, _ = self.picture(scan(self, [*rows, ((20_000, 0, 0), *rows[0][1:])]), rig={"kind": "still"})
            self.assertGreater((alone.max(axis=-1) > 60).mean(), 0.1)
            self.assertLess(np.abs((alone.max(axis=-1) > 60).mean() - (far.max(axis=-1) > 60).mean()), 0.05)

    def test_broken_scans_say_so(self):
        file = scan(self, [((0, 0, n), (1, 1, 1), 0.5, (1, 1, 1), (1, 0, 0, 0)) for n in range(10)])
        file.write_bytes(file.read_bytes()[:-70])
        with self.assertRaisesRegex(SourceError, "scan.ply is cut short"):
            ObjectFile(file)
        one = scan(self, [((0, 0, 0), (1, 1, 1), 0.5, (1, 1, 1), (1, 0, 0, 0))] * 3)
        with self.assertRaisesRegex(SourceError, "no extent"):
            self.picture(one, rig={"kind": "still"})


if __name__ == "__main__":
    unittest.main()
