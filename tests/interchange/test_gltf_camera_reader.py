"""Cameras of glTF files, and formulas: read, and refused in a sentence."""

import base64
import json
import unittest

import numpy as np
import trimesh
from scipy.interpolate import CubicHermiteSpline

from tests.core.test_path_rig import path, planned
from tests.helpers import scratch, vexel, write_shot
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Mistake
from vexel.core.evaluate.camera_table import rig_of_rows
from vexel.interchange.camera_file import camera_file_text
from vexel.interchange.gltf_camera_reader import gltf_rows

EYE = {"type": "perspective", "perspective": {"yfov": 0.6, "znear": 0.1}}


def gltf(case, nodes, channels=(), cameras=(EYE,), **more):
    """A file with nodes, and channels as (node, path, interpolation, times, values)."""
    blocks, samplers, targets = [], [], []
    for node, what, how, times, values in channels:
        samplers.append({"input": len(blocks), "output": len(blocks) + 1, "interpolation": how})
        targets.append({"sampler": len(samplers) - 1, "target": {"node": node, "path": what}})
        blocks += [np.array(times, np.float32), np.array(values, np.float32)]
    data, views, accessors = b"".join(b.tobytes() for b in blocks), [], []
    at = 0
    for block in blocks:
        kind = {1: "SCALAR", 3: "VEC3", 4: "VEC4"}[1 if block.ndim == 1 else block.shape[1]]
        views.append({"buffer": 0, "byteOffset": at, "byteLength": block.nbytes})
        accessors.append({"bufferView": len(views) - 1, "componentType": 5126, "count": len(block), "type": kind})
        at += block.nbytes
    told = {
        "asset": {"version": "2.0"}, "nodes": nodes, "cameras": list(cameras), "accessors": accessors,
        "bufferViews": views, "animations": [{"samplers": samplers, "channels": targets}] if channels else [],
        "buffers": [{"byteLength": len(data), "uri": "data:;base64," + base64.b64encode(data).decode()}],
    } | more  # fmt: skip
    file = scratch(case) / "way.gltf"
    file.write_text(json.dumps(told))
    return file


class ReadTest(unittest.TestCase):
    def test_what_was_written_comes_back(self):
        document = path(looks="keys", keys=[{"look": [0, 0, n / 3], "roll_deg": 20 * n} for n in range(4)])
        document["clock"] = {"rate": "60", "frames": 90, "span": "ends"}
        before = planned(document)
        file = scratch(self) / "a.gltf"
        file.write_text(camera_file_text(before, ".gltf"))
        rig = rig_of_rows(before.shot, gltf_rows(file, 60.0))
        after = planned(document | {"camera": {"rig": rig}})
        one, other = (plan.sampled.path for plan in (before, after))
        np.testing.assert_allclose(other.positions, one.positions, atol=1e-5)
        np.testing.assert_allclose(other.ups, one.ups, atol=1e-5)
        aims = [
            (p.targets - p.positions) / np.linalg.norm(p.targets - p.positions, axis=1)[:, None] for p in (one, other)
        ]
        np.testing.assert_allclose(aims[1], aims[0], atol=1e-5)
        np.testing.assert_allclose(after.sampled.camera.views_high_deg, before.sampled.camera.views_high_deg, atol=1e-5)

    def test_parents_turn_their_cameras(self):
        # A half turn about y (up in glTF) of a parent, with a camera 2 beside and 5 before it.
        nodes = [
            {"children": [1], "rotation": [0, 1, 0, 0], "translation": [0, 1, 0]},
            {"name": "eye", "camera": 0, "translation": [2, 0, 5]},
        ]
        (row,) = gltf_rows(gltf(self, nodes), 24.0)
        np.testing.assert_allclose([row["x"], row["y"], row["z"]], [-2, 5, 1], atol=1e-6)
        np.testing.assert_allclose([row["look_x"], row["look_y"], row["look_z"]], [-2, 4, 1], atol=1e-6)
        self.assertAlmostEqual(row["view_high_deg"], np.degrees(0.6))

    def test_trimesh_puts_its_camera_at_the_same_place(self):
        scene = trimesh.Scene(trimesh.creation.box())
        scene.set_camera(angles=(0.4, 0.2, 0), distance=7, center=(0, 1, 0), fov=(60, 40))
        file = scratch(self) / "box.glb"
        file.write_bytes(scene.export(file_type="glb"))
        (row,) = gltf_rows(file, 24.0)
        x, y, z = scene.camera_transform[:3, 3]
        np.testing.assert_allclose([row["x"], row["y"], row["z"]], [x, -z, y], atol=1e-6)
        self.assertAlmostEqual(row["view_high_deg"], 40, places=4)

    def test_steps_and_splines_are_those_of_the_specification(self):
        times, places, slopes = [0, 1, 2], np.array([[0, 0, 0], [3, 1, 0], [4, 0, 2.0]]), np.array([[1, 0, 0]] * 3)
        triples = np.stack([slopes, places, slopes], axis=1).reshape(-1, 3)
        nodes = [{"camera": 0}]
        rows = gltf_rows(gltf(self, nodes, [(0, "translation", "CUBICSPLINE", times, triples)]), 8.0)
        spline = CubicHermiteSpline(times, places, slopes)(np.arange(17) / 8)
        np.testing.assert_allclose([[r["x"], r["z"], -r["y"]] for r in rows], spline, atol=1e-6)
        stepped = gltf_rows(gltf(self, nodes, [(0, "translation", "STEP", times, places)]), 2.0)
        self.assertEqual([row["x"] for row in stepped], [0, 0, 3, 3, 4])

    def test_what_cannot_be_flown_says_what_to_do(self):
        two = [{"name": "left", "camera": 0}, {"name": "right", "camera": 0, "translation": [1, 0, 0]}]
        self.assertEqual(gltf_rows(gltf(self, two), 24.0, "right")[0]["x"], 1)
        damaged = scratch(self) / "bad.gltf"
        damaged.write_text("{")
        outside = gltf(
            self, [{"camera": 0}], [(0, "translation", "LINEAR", [0, 1], [[0, 0, 0], [1, 0, 0]])],
            buffers=[{"byteLength": 9, "uri": "../../etc/passwd"}],
        )  # fmt: skip
        for file, name, told in (
            (gltf(self, [{}]), "", "holds no camera: export one with its animation"),
            (gltf(self, two), "", "has 2 cameras, left, right: choose one with --camera"),
            (gltf(self, two), "middle", "holds no camera 'middle'; it holds left, right"),
            (damaged, "", "is damaged, or is not glTF 2.0"),
            (outside, "", "glTF file names .* which is outside its folder"),
        ):
            with self.assertRaises(Mistake) as said:
                gltf_rows(file, 24.0, name)
            self.assertRegex(str(said.exception), rf"^\S+ {told}")


class FormulaTest(unittest.TestCase):
    def test_a_formula_becomes_a_path(self):
        folder = scratch(self)
        shot = write_shot(folder, clock={"rate": "12", "frames": 24, "span": "ends"})
        formula = folder / "way.py"
        formula.write_text(
            "from math import cos, sin, tau\nfrom vexel.author import camera_path\n\n@camera_path\ndef helix(phase):\n"
            "    return (5 * cos(tau * phase), 5 * sin(tau * phase), 3 * phase), (0, 0, 1)\n"
        )
        done = vexel("path", shot, "--from", formula)
        self.assertEqual(done.returncode, 0, done.stderr)
        rig = read_shot_document(json.loads(done.stdout)).camera.rig
        self.assertEqual((len(rig.keys), rig.looks), (24, "keys"))
        np.testing.assert_allclose(rig.keys[23].position, (5, 0, 3), atol=1e-9)
        # The name that the decorator had is read as well.
        formula.write_text(formula.read_text().replace("camera_path", "flight"))
        self.assertEqual(vexel("path", shot, "--from", formula).stdout, done.stdout)
        formula.write_text(formula.read_text().replace("3 * phase), (0, 0, 1)", "phase / 0), (0, 0, 1)"))
        failed = vexel("path", shot, "--from", formula)
        self.assertEqual(failed.returncode, 1)
        self.assertIn("way.py, line 6: ZeroDivisionError", failed.stderr)


if __name__ == "__main__":
    unittest.main()
