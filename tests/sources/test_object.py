"""Mesh files: every format comes in whole, and what cannot is refused in a sentence."""

import json
import unittest

import numpy as np
import pyvista as pv
import trimesh

from tests.helpers import asked, scratch
from vexel.core.evaluate.source_facts import SourceAt
from vexel.sources.protocols import SourceError
from vexel.sources.registry import open_source


def parts_of(file, up="auto"):
    return open_source(SourceAt("object", file, {"up": up})).show(asked())


class FormatsTest(unittest.TestCase):
    def test_all_formats_hold_the_same_mesh(self):
        # trimesh writes, Vexel reads; VTP is written by VTK.
        folder = scratch(self)
        box = trimesh.creation.box((1, 2, 3))
        for suffix in ("obj", "stl", "ply", "glb", "gltf"):
            if suffix == "gltf":
                for name, data in trimesh.exchange.gltf.export_gltf(trimesh.Scene(box)).items():
                    (folder / name).write_bytes(data)
                (folder / "model.gltf").rename(folder / "box.gltf")
            else:
                box.export(folder / f"box.{suffix}")
        pv.wrap(box).save(folder / "box.vtp")
        pv.wrap(box).save(folder / "text.stl", binary=False)
        for name in ("box.obj", "box.stl", "box.ply", "box.glb", "box.gltf", "box.vtp", "text.stl"):
            with self.subTest(name):
                (part,) = parts_of(folder / name, up="z")
                self.assertEqual(part.mesh.n_cells, 12)
                np.testing.assert_allclose(part.mesh.bounds, (-0.5, 0.5, -1, 1, -1.5, 1.5), atol=1e-6)

    def test_gltf_is_stood_upright(self):
        # glTF 2.0, 3.4: +y is up.
        file = scratch(self) / "tall.glb"
        trimesh.creation.box((1, 4, 1)).export(file)
        bounds = parts_of(file)[0].mesh.bounds
        self.assertAlmostEqual(bounds[5] - bounds[4], 4, places=5)

    def test_colours_come_along(self):
        folder = scratch(self)
        box = trimesh.creation.box()
        box.visual.vertex_colors = np.tile([200, 30, 10, 255], (8, 1))
        box.export(folder / "box.ply")
        self.assertEqual(parts_of(folder / "box.ply")[0].mesh["RGBA"][0].tolist(), [200, 30, 10, 255])
        (folder / "m.mtl").write_text("newmtl red\nKd 1 0 0\nnewmtl blue\nKd 0 0 1\n")
        (folder / "two.obj").write_text(
            "mtllib m.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nusemtl red\nf 1 2 3\nusemtl blue\nf 1 2 4\n"
        )
        self.assertEqual(sorted(part.colour for part in parts_of(folder / "two.obj")), ["#0000ff", "#ff0000"])

    def test_the_files_own_normals_are_kept(self):
        file = scratch(self) / "leaning.obj"
        file.write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nvn 0.6 0 0.8\nf 1//1 2//1 3//1\n")
        np.testing.assert_allclose(parts_of(file)[0].mesh["Normals"], [[0.6, 0, 0.8]] * 3, atol=1e-6)


class RefusalTest(unittest.TestCase):
    def test_says_what_is_wrong_with_the_file(self):
        folder = scratch(self)
        sphere = trimesh.creation.icosphere(2)
        stl, ply, glb = (trimesh.exchange.export.export_mesh(sphere, None, kind) for kind in ("stl", "ply", "glb"))
        obj = "v 0 0 0\nv 1 0 0\nv 0 1 0\n"
        lonely = json.dumps({"asset": {"version": "2.0"}, "buffers": [{"uri": "far.bin", "byteLength": 4}]})
        for name, data, words in (
            ("nil.obj", b"", "nil.obj is empty"),
            ("cut.stl", stl[:2000], "is cut short: it promises 320 triangles but holds 38"),
            ("cut.ply", ply[: len(ply) // 2], "is cut short"),
            ("cut.glb", glb[: len(glb) // 2], "is cut short"),
            ("cut.obj", obj.encode() + b"f 1 2 9\n", "it promises a vertex 9"),
            ("cut.vtp", b"<?xml version='1.0'?><VTKFile type='PolyData'><PolyData>", "is cut short"),
            ("ply.stl", ply, "is named STL but holds PLY data: rename it to ply.ply"),
            ("note.obj", b"Dear Sir,\n", "does not hold OBJ data"),
            ("dots.obj", obj.encode(), "has no faces"),
            ("dots.ply", b"ply\nformat ascii 1.0\nelement vertex 0\nproperty float x\nproperty float y\n"
             b"property float z\nelement face 0\nproperty list uchar int vertex_indices\nend_header\n",
             "has no faces"),
            ("far.gltf", lonely.encode(), "needs far.bin beside it"),
            ("film.mov", b"x", "is not a mesh file that Vexel can read"),
        ):  # fmt: skip
            (folder / name).write_bytes(data)
            with self.subTest(name), self.assertRaises(SourceError) as caught:
                parts_of(folder / name)
            self.assertIn(words, str(caught.exception))


if __name__ == "__main__":
    unittest.main()
