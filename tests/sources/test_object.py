"""Mesh files: every format comes in whole, and what cannot is refused in a sentence."""

import base64
import io
import json
import unittest
from fractions import Fraction

import cv2
import numpy as np
import pyvista as pv
import trimesh
from PIL import Image
from scipy.interpolate import CubicHermiteSpline
from scipy.spatial.transform import Rotation, Slerp

from tests.helpers import asked, scratch
from vexel.core.checks.source_sentences import source_sentence
from vexel.core.errors import Mistake
from vexel.core.evaluate.source_facts import SourceAt
from vexel.sources.files import source_files
from vexel.sources.meshes.material_file import missing_beside, mtl_left_out
from vexel.sources.meshes.parts import as_parts
from vexel.sources.protocols import SourceError
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

    def test_the_files_own_normals_are_kept(self):
        file = scratch(self) / "leaning.obj"
        file.write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nvn 0.6 0 0.8\nf 1//1 2//1 3//1\n")
        np.testing.assert_allclose(parts_of(file)[0].mesh["Normals"], [[0.6, 0, 0.8]] * 3, atol=1e-6)


class GltfTest(unittest.TestCase):
    """Files built by hand; positions and rotations against SciPy, colours against IEC 61966-2-1."""

    FLAG = np.array([[0, 0, 0], [1, 0, 0], [1, 2, 0], [0, 2, 0]], np.float32)

    def write(self, document, *arrays, name="a.gltf"):
        """A file with these arrays as its accessors, in their order."""
        accessors, views, data = [], [], b""
        forms = {"f": 5126, "u1": 5121, "u2": 5123}
        widths = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4", 16: "MAT4"}
        for array in arrays:
            rows = array.reshape(len(array), -1)
            form = forms["f" if rows.dtype.kind == "f" else f"u{rows.itemsize}"]
            views.append({"buffer": 0, "byteOffset": len(data), "byteLength": rows.nbytes})
            accessors.append({
                "bufferView": len(accessors), "componentType": form, "count": len(rows), "type": widths[rows.shape[1]],
            })  # fmt: skip
            data += rows.tobytes() + bytes(-rows.nbytes % 4)
        uri = "data:application/octet-stream;base64," + base64.b64encode(data).decode()
        buffers = [{"byteLength": len(data), "uri": uri}]
        whole = {"asset": {"version": "2.0"}, "accessors": accessors, "bufferViews": views, "buffers": buffers}
        file = scratch(self) / name
        file.write_text(json.dumps(whole | document))
        return file

    def primitive(self, more=None, attributes=None):
        return {"primitives": [{"attributes": {"POSITION": 0} | (attributes or {}), "indices": 1} | (more or {})]}

    def corners(self, file, seconds, **options):
        source = open_source(SourceAt("object", file, options))
        (part,) = source.show(asked({"seconds": Fraction(seconds)}))
        # Stood upright: (x, y, z) of the file is (x, −z, y).
        points = np.asarray(part.mesh.points)
        return np.stack([points[:, 0], points[:, 2], -points[:, 1]], axis=1)

    def test_nodes_move_by_their_keys(self):
        times = np.array([0, 1, 3], np.float32)
        turns = Rotation.from_euler("z", [[0], [90], [60]], degrees=True)
        places = np.array([[0, 0, 0], [4, 0, 0], [4, 8, 0]], np.float32)
        tangents = np.array([[1, 1, 0], [0, 2, 1], [3, 0, 0]], np.float32)
        spline = np.stack([tangents, places, tangents], axis=1).reshape(-1, 3).astype(np.float32)
        index = np.array([0, 1, 2, 0, 2, 3], np.uint16)
        arrays = self.FLAG, index, times, turns.as_quat().astype(np.float32), places, spline
        for output, how, expected in (
            (4, "LINEAR", lambda t: [np.interp(t, times, column) for column in places.T]),
            (4, "STEP", lambda t: places[np.searchsorted(times, t, side="right") - 1]),
            (5, "CUBICSPLINE", lambda t: CubicHermiteSpline(times, places, tangents)(t)),
        ):
            samplers = [{"input": 2, "output": 3}, {"input": 2, "output": output, "interpolation": how}]
            paths = enumerate(("rotation", "translation"))
            channels = [{"sampler": n, "target": {"node": 1, "path": path}} for n, path in paths]
            animation = {"name": "wave", "samplers": samplers, "channels": channels}
            document = {
                "meshes": [self.primitive()], "animations": [animation],
                "nodes": [{"children": [1], "scale": [2, 2, 2]}, {"mesh": 0}], "scenes": [{"nodes": [0]}],
            }  # fmt: skip
            file = self.write(document, *arrays)
            facts = open_source(SourceAt("object", file)).facts
            self.assertEqual((facts.sees, facts.length.seconds, facts.length.loops), (("seconds",), "3", False))
            for t in (0, 0.4, 1, 1.7, 2.9):
                turned = Slerp(times, turns)(t).apply(self.FLAG)
                np.testing.assert_allclose(self.corners(file, t), 2 * (turned + expected(t)), atol=1e-5, err_msg=how)

    def test_a_skin_bends_and_shapes_swell(self):
        index, times = np.array([0, 1, 2, 0, 2, 3], np.uint16), np.array([0, 2], np.float32)
        turns = Rotation.from_euler("x", [[0], [90]], degrees=True).as_quat().astype(np.float32)
        joints = np.array([[0, 1, 0, 0]] * 4, np.uint8)
        share = np.array([0, 0, 0.75, 0.75])
        weights = np.stack([1 - share, share, 0 * share, 0 * share], axis=1).astype(np.float32)
        # The joint is a unit up; what is bound to it stands where its inverse says.
        inverse = np.stack([np.eye(4), np.eye(4)])
        inverse[1, 1, 3] = -1
        binds = inverse.swapaxes(1, 2).reshape(2, 16).astype(np.float32)
        swell = np.array([[0, 0, 3]] * 4, np.float32)
        amounts = np.array([0, 1], np.float32)
        document = {
            "meshes": [self.primitive({"targets": [{"POSITION": 7}]}, {"JOINTS_0": 2, "WEIGHTS_0": 3})],
            "nodes": [{"mesh": 0, "skin": 0, "translation": [99, 0, 0]}, {"children": [2]}, {"translation": [0, 1, 0]}],
            "skins": [{"joints": [1, 2], "inverseBindMatrices": 4}], "scenes": [{"nodes": [0, 1]}],
            "animations": [{
                "samplers": [{"input": 5, "output": 6}, {"input": 5, "output": 8}],
                "channels": [{"sampler": 0, "target": {"node": 2, "path": "rotation"}},
                             {"sampler": 1, "target": {"node": 0, "path": "weights"}}],
            }],
        }  # fmt: skip
        file = self.write(document, self.FLAG, index, joints, weights, binds, times, turns, swell, amounts)
        up = np.array([0, 1, 0])
        for t in (0, 1, 2):
            at_rest = self.FLAG + np.array([0, 0, 1.5 * t])
            bent = Rotation.from_euler("x", 45 * t, degrees=True).apply(at_rest - up) + up
            expected = (1 - share[:, None]) * at_rest + share[:, None] * bent
            np.testing.assert_allclose(self.corners(file, t), expected, atol=1e-5)

    def test_materials_look_as_the_file_says(self):
        index = np.array([0, 1, 2, 0, 2, 3], np.uint16)
        uv = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
        image = io.BytesIO()
        picture = np.full((2, 2, 4), 255, np.uint8)
        picture[0, 0] = (128, 128, 128, 64)
        Image.fromarray(picture).save(image, "PNG")
        address = "data:image/png;base64," + base64.b64encode(image.getvalue()).decode()

        def part(material, attributes=None, *more):
            document = {
                "meshes": [self.primitive({"material": 0}, attributes)], "nodes": [{"mesh": 0}],
                "materials": [material], "textures": [{"source": 0}], "images": [{"uri": address}],
            }  # fmt: skip
            source = open_source(SourceAt("object", self.write(document, self.FLAG, index, uv, *more)))
            return source.show(asked())[0], source.facts.findings

        plain, _ = part({"pbrMetallicRoughness": {"baseColorFactor": [0.2140, 1, 0, 0.5], "metallicFactor": 0}})
        self.assertEqual((plain.colour, plain.opacity), ("#7fff00", 1.0), "linear light, and opaque unless it blends")
        clear, _ = part(
            {"alphaMode": "BLEND", "pbrMetallicRoughness": {"baseColorFactor": [1, 1, 1, 0.25], "metallicFactor": 0}}
        )
        self.assertEqual(clear.opacity, 0.25)
        textured = {"baseColorTexture": {"index": 0}, "baseColorFactor": [1, 0.2140, 1, 1]}
        solid, _ = part({"pbrMetallicRoughness": textured}, {"TEXCOORD_0": 2})
        self.assertEqual(solid.texture.shape[2], 3)
        # Half of mid grey's light in green: 128 is 0.2159, times 0.2140 is 0.0462, which is code 60.
        np.testing.assert_allclose(solid.texture[0, 0], (128, 60, 128), atol=1)
        cut, _ = part({"alphaMode": "MASK", "alphaCutoff": 0.3, "pbrMetallicRoughness": textured}, {"TEXCOORD_0": 2})
        self.assertEqual((cut.cutoff, cut.texture[0, 0, 3]), (0.3, 64))
        colours = np.array([[0.2140, 0, 0]] * 4, np.float32)
        dotted, _ = part({"pbrMetallicRoughness": {"metallicFactor": 0}}, {"COLOR_0": 3}, colours)
        self.assertEqual(dotted.mesh["RGBA"][0].tolist(), [127, 0, 0, 255])
        _, findings = part({"normalTexture": {"index": 0}, "emissiveFactor": [1, 0, 0], "pbrMetallicRoughness": {}})
        self.assertEqual(
            source_sentence(findings[0]),
            "the file has normal maps, metalness and roughness, emission, which are not drawn",
        )

    def test_what_trimesh_writes_is_what_it_reads(self):
        """Scenes of several meshes, placed and scaled, in both forms, as another library writes and reads them."""
        scene = trimesh.Scene()
        for n, shape in enumerate((trimesh.creation.box((1, 2, 3)), trimesh.creation.icosphere(2))):
            place = trimesh.transformations.compose_matrix(
                scale=[1, 2, 0.5], angles=[0.3, n, 1], translate=[n * 3, 1, 0]
            )
            scene.add_geometry(shape, node_name=f"part-{n}", transform=place)
        file = scratch(self) / "s.glb"
        scene.export(file)
        parts = open_source(SourceAt("object", file, {"up": "z"})).show(asked())
        for part in parts:
            held, name = scene.graph[part.name]
            expected = trimesh.transform_points(scene.geometry[name].vertices, held)
            np.testing.assert_allclose(np.sort(part.mesh.points, axis=0), np.sort(expected, axis=0), atol=1e-5)

    def test_what_cannot_be_read_or_chosen_is_a_sentence(self):
        index = np.array([0, 1, 2], np.uint16)
        plain = {"meshes": [self.primitive()], "nodes": [{"mesh": 0}]}
        packed = plain | {"extensionsRequired": ["KHR_draco_mesh_compression"]}
        for document, options, words in (
            (packed, {}, "a.gltf needs KHR_draco_mesh_compression, which Vexel does not read"),
            (plain, {"animation": "walk"}, "has no animation 'walk'; it has none"),
        ):
            with self.assertRaisesRegex(Mistake, words):
                open_source(SourceAt("object", self.write(document, self.FLAG, index), options))


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
