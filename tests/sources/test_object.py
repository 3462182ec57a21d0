"""Mesh files: every format comes in whole, and what cannot is refused in a sentence."""

import json
import unittest

import cv2
import numpy as np
import pyvista as pv
import trimesh

from tests.helpers import asked, scratch
from vexel.core.checks.source_sentences import source_sentence
from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceAt
from vexel.sources.files import source_files
from vexel.sources.meshes.material_file import missing_beside, mtl_left_out
from vexel.sources.meshes.parts import as_parts
from vexel.sources.registry import open_source
from vexel.stage.scene.part_actors import _with_normals


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

    def test_colours_in_the_attributes_of_an_stl(self):
        """Both ways that are in use, from Wikipedia's article on the format."""
        corners = np.random.default_rng(2).random((3, 3, 3)).astype("<f4")

        def colours(head, *attributes):
            file = scratch(self) / "a.stl"
            faces = [
                bytes(12) + face.tobytes() + int(a).to_bytes(2, "little")
                for face, a in zip(corners, attributes, strict=True)
            ]
            file.write_bytes(head.ljust(80, b" ") + len(faces).to_bytes(4, "little") + b"".join(faces))
            (part,) = parts_of(file)
            return part.mesh.cell_data["RGBA"].tolist() if part.direct else None

        red, green, blue = 31 << 10, 31 << 5, 31
        self.assertIsNone(colours(b"made by something", 0, 0, 0))
        self.assertIsNone(colours(b"made by something", 7, red, 0), "the highest bit says that the rest is a colour")
        self.assertEqual(
            colours(b"", 0x8000 | red, 0x8000 | green, 0x8000 | blue),
            [[255, 0, 0, 255], [0, 255, 0, 255], [0, 0, 255, 255]],
        )
        whole = b"COLOR=" + bytes([10, 20, 30, 255])
        self.assertEqual(colours(whole, 0x8000, red, blue), [[10, 20, 30, 255], [0, 0, 255, 255], [255, 0, 0, 255]])
        self.assertEqual(colours(whole, 0, 0, 0), [[10, 20, 30, 255]] * 3)

    def test_textures_that_a_ply_names(self):
        folder = scratch(self)
        cv2.imwrite(str(folder / "my wood.png"), np.full((4, 4, 3), (30, 60, 200), np.uint8))
        corners = "0 0 0 0 0\n1 0 0 1 0\n0 1 0 0 1\n1 1 0 1 1\n3 0 1 2\n3 1 3 2\n"
        file = folder / "a.ply"
        file.write_text(
            "ply\nformat ascii 1.0\ncomment TextureFile my wood.png\nelement vertex 4\nproperty float x\n"
            "property float y\nproperty float z\nproperty float s\nproperty float t\nelement face 2\n"
            f"property list uchar int vertex_indices\nend_header\n{corners}"
        )
        copy = source_files("object", file).copy_to(scratch(self)).main
        (part,) = parts_of(copy)
        self.assertEqual(part.texture[0, 0].tolist(), [200, 60, 30])
        (folder / "my wood.png").unlink()
        facts = open_source(SourceAt("object", file)).facts
        self.assertEqual([source_sentence(one) for one in facts.findings], ["my wood.png is missing beside the file"])

    def test_the_files_own_normals_are_kept(self):
        file = scratch(self) / "leaning.obj"
        file.write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nvn 0.6 0 0.8\nf 1//1 2//1 3//1\n")
        np.testing.assert_allclose(parts_of(file)[0].mesh["Normals"], [[0.6, 0, 0.8]] * 3, atol=1e-6)


class DroppedTest(unittest.TestCase):
    def test_textures_of_an_obj_however_they_are_named(self):
        corners = "v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl a\nf 1/1 2/2 3/3\n"
        for libraries, material, reach, colour, left in (
            ("mtllib m.mtl", "map_kd t.png", 1, (200, 60, 30), ()),
            ("mtllib m.mtl", "map_Kd -s 1 1 1 -o 0 0 0 t.png", 1, (200, 60, 30), ()),
            ("mtllib m.mtl", "map_Kd -s 2 2 1 -clamp on t.png", 2, (200, 60, 30), ("the texture option -clamp",)),
            ("mtllib m.mtl", "map_Kd -o 0.5 0 t.png", 1.5, (200, 60, 30), ()),
            ("mtllib m.mtl", "map_Kd my tex.png", 1, (200, 60, 30), ()),
            ("mtllib m.mtl", "map_Kd my%20tex.png", 1, (200, 60, 30), ()),
            ("mtllib m.mtl", "map_Kd sub\\t.png", 1, (200, 60, 30), ()),
            ("mtllib my m.mtl", "map_Kd t.png", 1, (200, 60, 30), ()),
            ("mtllib x.mtl m.mtl", "map_Kd t.png", 1, (200, 60, 30), ()),
            ("mtllib x.mtl\nmtllib m.mtl", "map_Kd t.png", 1, (200, 60, 30), ()),
            # Times the material's colour, as light: 0.5 of red is 0.214 of it (IEC 61966-2-1).
            ("mtllib m.mtl", "Kd 0.5 1 0\nmap_Kd t.png", 1, (99, 60, 0), ()),
            ("mtllib m.mtl", "Kd 0 0 0\nmap_Kd t.png", 1, (200, 60, 30), ()),
        ):  # fmt: skip
            with self.subTest(libraries, material=material):
                folder = scratch(self)
                (folder / "sub").mkdir()
                for name in ("t.png", "my tex.png", "sub/t.png"):
                    cv2.imwrite(str(folder / name), np.full((4, 4, 3), (30, 60, 200), np.uint8))
                for name in ("m.mtl", "my m.mtl"):
                    (folder / name).write_text(f"newmtl a\n{material}\n")
                (folder / "x.mtl").write_text("newmtl z\nKd 0 1 0\n")
                (folder / "a.obj").write_text(f"{libraries}\n{corners}")
                (part,) = parts_of(folder / "a.obj")
                np.testing.assert_allclose(np.asarray(part.texture)[0, 0], colour, atol=1)
                self.assertEqual(part.mesh.active_texture_coordinates.max(), reach)
                self.assertEqual(mtl_left_out(folder / "a.obj"), left)
                self.assertEqual(missing_beside(folder / "a.obj"), [])
                names = source_files("object", folder / "a.obj").names
                self.assertTrue(any(name.endswith(".png") for name in names), names)

    def test_materials_of_an_obj_and_what_is_missing(self):
        folder = scratch(self)
        (folder / "a.obj").write_text(
            "mtllib a.mtl b.mtl\nmtllib gone.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl glass\nf 1 2 3\n"
        )
        (folder / "a.obj").write_text(
            "mtllib a.mtl\nmtllib gone.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl glass\nf 1 2 3\n"
        )
        (folder / "a.mtl").write_text("newmtl glass\nKd 1 0 0\nd 0.25\nmap_Kd wood.png\nmap_bump rough.png\n")
        source = open_source(SourceAt("object", folder / "a.obj"))
        told = [source_sentence(finding) for finding in source.facts.findings]
        self.assertEqual(told[0], "the file has bump maps, which are not drawn")
        self.assertIn("gone.mtl", told[1])
        self.assertIn("wood.png", told[1])
        (folder / "a.mtl").write_text("newmtl glass\nKd 1 0 0\nd 0.25\n")
        self.assertEqual(parts_of(folder / "a.obj")[0].opacity, 0.25)

    def test_a_cube_of_eight_points_has_flat_faces_and_an_own_smooth_one_stays(self):
        for mesh, flat in ((pv.Cube(), True), (pv.Sphere(theta_resolution=12, phi_resolution=12), False)):
            drawn = _with_normals(as_parts(mesh)[0])
            normals = np.asarray(drawn.point_data["Normals"])
            self.assertEqual(bool((np.abs(normals).max(axis=1) > 0.999).all()), flat)

    def test_corners_of_an_stl_are_joined(self):
        file = scratch(self) / "s.stl"
        sphere = trimesh.creation.icosphere(3)
        for text in (False, True):
            held = (
                trimesh.exchange.stl.export_stl_ascii(sphere).encode()
                if text
                else trimesh.exchange.stl.export_stl(sphere)
            )
            file.write_bytes(held)
            (part,) = parts_of(file)
            self.assertEqual((part.mesh.n_points, part.mesh.n_cells), (len(sphere.vertices), len(sphere.faces)))
            self.assertAlmostEqual(part.mesh.volume, sphere.volume, places=4)


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
