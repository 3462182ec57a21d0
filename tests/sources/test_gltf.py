"""glTF 2.0: nodes, shapes, skins, materials and extensions, as its specification and those of the extensions say."""

import base64
import io
import json
import unittest
from fractions import Fraction

import numpy as np
import trimesh
from PIL import Image
from scipy.interpolate import CubicHermiteSpline
from scipy.spatial.transform import Rotation, Slerp

from tests.helpers import asked, plan_on, scratch, shot_document
from vexel.core.checks.source_sentences import source_sentence
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake, SourceError
from vexel.core.evaluate.source_facts import SourceAt
from vexel.imaging.transfer import encoded_light, linear
from vexel.sources.registry import open_source
from vexel.stage.renderer import Renderer

CLAMP, MIRROR, REPEAT, NEAREST = 33071, 33648, 10497, 9728


class Written(unittest.TestCase):
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


class GltfTest(Written):
    """Files built by hand; positions and rotations against SciPy, colours against IEC 61966-2-1."""

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
            self.assertEqual((facts.time_inputs, facts.length.seconds, facts.length.loops), (("seconds",), "3", False))
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
        circle = plain | {"nodes": [{"mesh": 0, "children": [1]}, {"mesh": 0, "children": [0]}]}
        with self.assertRaisesRegex(SourceError, "cannot be read as glTF: node 0 is above itself"):
            open_source(SourceAt("object", self.write(circle | {"scenes": [{"nodes": [0]}]}, self.FLAG, index)))
        lonely = self.primitive({"material": 0})
        textured = [{"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]
        image = {"textures": [{"source": 0}], "images": [{"uri": png(np.zeros((2, 2, 4), np.uint8))}]}
        odd = plain | {"meshes": [lonely], "materials": textured, "extensionsUsed": ["KHR_lights_punctual"]} | image
        facts = open_source(SourceAt("object", self.write(odd, self.FLAG, index))).facts
        self.assertEqual(
            source_sentence(facts.findings[0]),
            "the file has the extension KHR_lights_punctual, a texture of a surface without texture coordinates, "
            "which are not drawn",
        )


def png(picture):
    image = io.BytesIO()
    Image.fromarray(picture).save(image, "PNG")
    return "data:image/png;base64," + base64.b64encode(image.getvalue()).decode()


class ExtensionsTest(Written):
    """Extensions of nodes; the specifications are those of the Khronos registry."""

    INDEX = np.array([0, 1, 2, 0, 2, 3], np.uint16)

    def parts(self, document, *arrays, seconds=0):
        source = open_source(SourceAt("object", self.write(document, self.FLAG, self.INDEX, *arrays), {"up": "z"}))
        return source.show(asked({"seconds": Fraction(seconds)})), source.facts

    def test_instances_stand_where_their_attributes_say(self):
        """EXT_mesh_gpu_instancing."""
        chance = np.random.default_rng(3)
        moves, scales = chance.normal(size=(5, 3)).astype(np.float32), chance.uniform(0.5, 2, (5, 3)).astype(np.float32)
        turns = Rotation.random(5, rng=chance)
        attributes = {"TRANSLATION": 2, "ROTATION": 3, "SCALE": 4}
        node = {"mesh": 0, "translation": [9, 0, 0], "scale": [2, 2, 2],
                "extensions": {"EXT_mesh_gpu_instancing": {"attributes": attributes}}}  # fmt: skip
        document = {"meshes": [self.primitive()], "nodes": [node], "extensionsRequired": ["EXT_mesh_gpu_instancing"]}
        (part,), _ = self.parts(document, moves, turns.as_quat().astype(np.float32), scales)
        expected = [turns[n].apply(self.FLAG * scales[n]) + moves[n] for n in range(5)]
        np.testing.assert_allclose(part.mesh.points, 2 * np.concatenate(expected) + (9, 0, 0), atol=1e-5)
        self.assertEqual(part.mesh.n_cells, 10)

    def test_invisible_nodes_and_what_is_below_them_are_left_out(self):
        """KHR_node_visibility, at rest and animated by KHR_animation_pointer."""
        hidden = {"extensions": {"KHR_node_visibility": {"visible": False}}}
        nodes = [{"mesh": 0, "name": "a"}, {"mesh": 0, "name": "b", "children": [2]} | hidden, {"mesh": 0, "name": "c"}]
        document = {"meshes": [self.primitive()], "nodes": nodes, "scenes": [{"nodes": [0, 1]}]}
        parts, _ = self.parts(document)
        self.assertEqual([part.name for part in parts], ["a"])
        pointers = ("/nodes/1/extensions/KHR_node_visibility/visible", "/nodes/0/translation", "/materials/0/x")
        channels = [
            {
                "sampler": min(n, 1),
                "target": {"path": "pointer", "extensions": {"KHR_animation_pointer": {"pointer": to}}},
            }
            for n, to in enumerate(pointers)
        ]
        samplers = [{"input": 2, "output": 3}, {"input": 2, "output": 4}]
        document["animations"] = [{"samplers": samplers, "channels": channels}]
        times, seen = np.array([0, 1], np.float32), np.array([0, 1], np.uint8)
        moves = np.array([[0, 0, 0], [4, 0, 0]], np.float32)
        for seconds, opacities, x in ((0, [1, 0, 0], 0), (0.5, [1, 0, 0], 2), (1, [1, 1, 1], 4)):
            parts, facts = self.parts(document, times, seen, moves, seconds=seconds)
            self.assertEqual([part.opacity for part in parts], opacities)
            self.assertAlmostEqual(float(parts[0].mesh.points[0][0]), x, 5)
        self.assertIn("the animation of /materials/0/x", source_sentence(facts.findings[0]))


class DrawnColoursTest(Written):
    """Colours without light (KHR_materials_unlit) on a square that fills the frame, against own arithmetic."""

    SQUARE = np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]], np.float32)
    SIDE = 64

    @classmethod
    def setUpClass(cls):
        cls.stage = Renderer()

    def drawn(self, material, attributes, *arrays, **more):
        """The picture of the square, shape (SIDE, SIDE, 4)."""
        material = {"extensions": {"KHR_materials_unlit": {}}} | material
        document = {
            "meshes": [self.primitive({"material": 0}, attributes)], "nodes": [{"mesh": 0}], "materials": [material],
        }  # fmt: skip
        index = np.array([0, 1, 2, 0, 2, 3], np.uint16)
        file = self.write(document | more, self.SQUARE, index, *arrays)
        rig = {"kind": "orbit", "turns": 0, "elevation_deg": 0, "fill": 2**0.5}
        shot_json = shot_document(
            {"kind": "object", "file": file.name}, 1, camera={"rig": rig, "lens": {"projection": "parallel"}}
        )
        shot_json["picture"] = {"width": self.SIDE, "height": self.SIDE, "samples": 1, "background": "transparent"}
        shot, at = Shot.model_validate(shot_json, strict=False), SourceAt("object", file, digest=str(file))
        plan = plan_on(self.stage, shot, at, (self.SIDE,) * 2)
        return self.stage.picture(at, plan.frame_spec(0, 0)).astype(int)

    def middles(self):
        """Where the middles of pixels are, 0 to 1 from the left; from the top likewise."""
        return (np.arange(self.SIDE) + 0.5) / self.SIDE

    def test_colours_of_points_are_blended_as_light(self):
        colours = np.array([[0, 0, 0], [1, 0.5, 1], [1, 0.5, 1], [0, 0, 0]], np.float32)
        picture = self.drawn({}, {"COLOR_0": 2}, colours)
        for channel, most in enumerate((1, 0.5, 1)):
            expected = 255 * encoded_light(self.middles() * linear(np.rint(encoded_light(np.array(most)) * 255) / 255))
            np.testing.assert_allclose(picture[32, :, channel], expected, atol=1.01)

    def test_a_texture_is_multiplied_by_colours_of_points(self):
        uv = np.array([[0, 1], [1, 1], [1, 0], [0, 0]], np.float32)
        colours = np.array([[0.2, 0.9, 0.4, 1]] * 4, np.float32)
        image = np.full((2, 2, 4), (200, 90, 30, 255), np.uint8)
        look = {"pbrMetallicRoughness": {"baseColorTexture": {"index": 0}, "baseColorFactor": [0.5, 1, 1, 1]}}
        more = {"textures": [{"source": 0}], "images": [{"uri": png(image)}]}
        picture = self.drawn(look, {"TEXCOORD_0": 2, "COLOR_0": 3}, uv, colours, **more)
        light = linear(np.array([200, 90, 30]) / 255) * (0.5, 1, 1) * (0.2, 0.9, 0.4)
        np.testing.assert_allclose(picture[20, 40, :3], 255 * encoded_light(light), atol=1.5)

    def test_wrap_modes_and_transformed_coordinates(self):
        """Sections 3.8.4 of glTF 2.0, and KHR_texture_transform."""
        image = np.random.default_rng(1).integers(0, 256, (4, 8, 4), np.uint8)
        image[..., 3] = 255
        uv = np.array([[-1.5, 2.25], [2.5, 2.25], [2.5, -1.75], [-1.5, -1.75]], np.float32)
        moved = {"offset": [0.25, -0.5], "rotation": np.pi / 2, "scale": [0.5, 1.5]}
        for wraps in ((a, b) for a in (CLAMP, MIRROR, REPEAT) for b in (CLAMP, MIRROR, REPEAT)):
            for transform in ({}, moved) if wraps[0] != wraps[1] else ({},):
                with self.subTest(wraps=wraps, transform=transform):
                    info = {"index": 0, "extensions": {"KHR_texture_transform": transform}}
                    more = {
                        "textures": [{"source": 0, "sampler": 0}], "images": [{"uri": png(image)}],
                        "samplers": [{"wrapS": wraps[0], "wrapT": wraps[1], "magFilter": NEAREST}],
                    }  # fmt: skip
                    picture = self.drawn(
                        {"pbrMetallicRoughness": {"baseColorTexture": info}}, {"TEXCOORD_0": 2}, uv, **more
                    )
                    u, v = np.meshgrid(-1.5 + 4 * self.middles(), -1.75 + 4 * self.middles())
                    if transform:
                        u, v = 0.25 + 1.5 * v, -0.5 - 0.5 * u
                    expected, sure = self.sampled(image, u, v, wraps)
                    wrong = np.abs(picture[..., :3] - expected).max(axis=-1) > 1
                    self.assertEqual(int((wrong & sure).sum()), 0)
                    self.assertGreater(int(sure.sum()), 2000)

    @staticmethod
    def sampled(image, u, v, wraps):
        """Nearest texels, and where no rounding could choose another one."""
        texels, sure = [], True
        for at, mode, count in ((u, wraps[0], image.shape[1]), (v, wraps[1], image.shape[0])):
            if mode == REPEAT:
                at = at % 1
            elif mode == MIRROR:
                at = 1 - np.abs(at % 2 - 1)
            sure = sure & (np.abs(at * count - np.rint(at * count)) > 0.05)
            if mode == CLAMP:
                sure = sure | (np.abs(at - 0.5) > 0.55) & True
            texels.append(np.clip(np.floor(at * count), 0, count - 1).astype(int))
        return image[texels[1], texels[0], :3].astype(int), sure


if __name__ == "__main__":
    unittest.main()
