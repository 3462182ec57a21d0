"""A subject at map coordinates gives the picture that it gives at the origin, in all passes and kinds of source.

The reference is the same subject at the origin: translation does not change what a camera that is moved along sees.
"""

import os
import struct
import unittest

import numpy as np
import pyvista as pv
import trimesh

from tests.helpers import HEADER, plan_on, scratch, shot_document
from tests.stage.test_equirectangular import Drawn
from vexel.core.checks.camera_findings import camera_findings
from vexel.core.document.shot import Shot
from vexel.core.evaluate.source_facts import SourceAt

FAR = (431234.5, 5412345.25, 312.0)
FARTHER = (1e7, -1e7, 1e7)
PASSES = ["shaded", "edges", "wire", "hidden-line", "clay", "occlusion", "depth", "normal", "matte"]
PICTURE = {"width": 160, "height": 120, "samples": 2, "passes": PASSES, "background": "#204060", "ground": True}
RIG = {"kind": "orbit", "turns": 0, "start_deg": 30, "elevation_deg": 25, "fill": 0.7}
MODEL = """
@model
def thing():
    ball, box = pv.Sphere(radius=0.5, center=(0.5, 0.25, 0.75)), pv.Cube(x_length=2, y_length=1.5, z_length=0.25)
    for mesh in (ball, box):
        mesh.points = np.round(mesh.points.astype(float) * 1024) / 1024 + {place}
    return [part(ball, colour='#c84020', name='ball'), part(box, colour='#80a0c0', name='box')]
"""


RANDOM = 80 if "VEXEL_TEST_LONG" in os.environ else 1
RANDOM_MODEL = """
@model
def thing():
    parts = []
    for n, (mesh, place, size) in enumerate([SHAPES]):
        mesh.points = np.round(mesh.points.astype(float) * size * 1024) / 1024 + place + np.array(PLACE)
        parts.append(part(mesh, name=f'p{n}', opacity=1.0 if n else 0.7))
    return parts
"""


def subject():
    """Points that are exact in steps of 1/1024, so that moving them rounds nothing."""
    mesh = pv.Sphere(radius=1.0)
    points = np.round(np.asarray(mesh.points, float) * 1024) / 1024
    return points * (1, 0.75, 0.5), mesh.regular_faces


def as_obj(file, points, faces):
    lines = ["v " + " ".join(repr(float(x)) for x in point) for point in points]
    file.write_text("\n".join([*lines, *("f " + " ".join(str(n + 1) for n in face) for face in faces)]) + "\n")


def as_vtp(file, points, faces):
    pv.PolyData.from_regular_faces(points, faces).save(file)


def as_ascii_stl(file, points, faces):
    rows = ["solid thing"]
    for a, b, c in points[faces]:
        rows += ["facet normal 0 0 0", "outer loop"]
        rows += ["vertex " + " ".join(repr(float(x)) for x in corner) for corner in (a, b, c)]
        rows += ["endloop", "endfacet"]
    file.write_text("\n".join([*rows, "endsolid thing"]) + "\n")


def as_double_ply(file, points, faces):
    head = ["ply", "format binary_little_endian 1.0", f"element vertex {len(points)}"]
    head += [f"property double {axis}" for axis in "xyz"]
    head += [f"element face {len(faces)}", "property list uchar int vertex_indices", "end_header"]
    body = points.astype("<f8").tobytes() + b"".join(struct.pack("<Biii", 3, *face) for face in faces.tolist())
    file.write_bytes("\n".join(head).encode() + b"\n" + body)


def as_cloud(file, points, faces):
    head = ["ply", "format binary_little_endian 1.0", f"element vertex {len(points)}"]
    head += [f"property double {axis}" for axis in "xyz"]
    file.write_bytes("\n".join([*head, "end_header"]).encode() + b"\n" + points.astype("<f8").tobytes())


def as_scan(file, points, faces):
    """Soft ellipsoids."""
    names = [
        "scale_0",
        "scale_1",
        "scale_2",
        "rot_0",
        "rot_1",
        "rot_2",
        "rot_3",
        "opacity",
        "f_dc_0",
        "f_dc_1",
        "f_dc_2",
    ]
    rows = np.zeros(len(points), [*((axis, "<f8") for axis in "xyz"), *((name, "<f4") for name in names)])
    for n, axis in enumerate("xyz"):
        rows[axis] = points[:, n]
    rows["scale_0"], rows["scale_1"], rows["scale_2"], rows["rot_0"], rows["opacity"] = -3, -2.5, -3, 1, 2
    rows["f_dc_0"] = np.linspace(-1, 1, len(points))
    head = ["ply", "format binary_little_endian 1.0", f"element vertex {len(points)}"]
    head += [f"property double {axis}" for axis in "xyz"] + [f"property float {name}" for name in names]
    file.write_bytes("\n".join([*head, "end_header"]).encode() + b"\n" + rows.tobytes())


def as_glb(file, points, faces):
    """Written by trimesh: points near the origin, and a node that moves them."""
    middle = np.rint(points.mean(axis=0))
    scene = trimesh.Scene()
    # A glTF file's up is y, and Vexel turns it: what is at (x, y, z) there is at (x, -z, y).
    turn = np.array([[1, 0, 0], [0, 0, 1], [0, -1, 0]], float)
    placed = np.eye(4)
    placed[:3, 3] = turn @ middle
    scene.add_geometry(trimesh.Trimesh((points - middle) @ turn.T, faces, process=False), transform=placed)
    file.write_bytes(scene.export(file_type="glb"))


WRITERS = {"obj": as_obj, "vtp": as_vtp, "stl": as_ascii_stl, "ply": as_double_ply, "glb": as_glb}


class MapCoordinatesTest(Drawn):
    def pictures(self, kind, file, passes, camera=None, **more):
        source = {"kind": kind, "file": file.name} | more
        document = shot_document(source, 1, camera=camera or {"rig": RIG})
        document["picture"] = PICTURE | {"passes": passes}
        # Many looks at the sky take most of the time: of models alone.
        document["light"] = {"shadow": 0.8, "surround": 0.5 if kind == "model" else 0, "environment": 0.3}
        shot = Shot.model_validate(document, strict=False)
        at = SourceAt(kind, file, digest=str(file.parent), options=more)
        plan = plan_on(self.stage, shot, at, (160, 120))
        self.findings = [finding.name for finding in camera_findings(plan)]
        return [self.stage.picture(at, plan.frame_spec(0, n)).astype(int) for n in range(len(passes))]

    def assert_same(self, near, far, passes):
        for name, one, other in zip(passes, near, far, strict=True):
            with self.subTest(render_pass=name):
                self.assertGreater(len(np.unique(one.reshape(-1, 4), axis=0)), 1, "a picture of something")
                self.assertLessEqual(int(np.abs(one - other).max()), 1)

    def test_all_passes_of_a_model(self):
        near, *others = (self.model(place) for place in ((0, 0, 0), FAR, FARTHER))
        for other in others:
            self.assert_same(near, other, PASSES)
            self.assertNotIn("coarse-coordinates", self.findings)

    def model(self, place, passes=PASSES, camera=None):
        file = scratch(self) / "thing.py"
        file.write_text(HEADER + "import numpy as np\n" + MODEL.format(place=place))
        return self.pictures("model", file, passes, camera)

    def test_random_scenes_at_random_places(self):
        for seed in range(RANDOM):
            chance = np.random.default_rng(seed)
            size = 10.0 ** chance.uniform(-1, 2)
            place = np.round(chance.uniform(-1e7, 1e7, 3))
            shapes = []
            for _ in range(chance.integers(1, 4)):
                kind = chance.choice(["Sphere()", "Cube()", "Cone()", "Disc().triangulate()", "Arrow()"])
                beside = np.round(chance.uniform(-size, size, 3)).tolist()
                shapes.append(f"(pv.{kind}, {beside}, {size!r})")
            lens = [{}, {"projection": "parallel"}, {"projection": "panorama"}, {"f_stop": 2.0}][chance.integers(4)]
            start, elevation = chance.uniform(0, 360), chance.uniform(5, 80)
            rig = {"kind": "orbit", "turns": 0, "start_deg": start, "elevation_deg": elevation}
            camera = {"lens": lens, "rig": rig}
            name = str(chance.choice(PASSES))
            with self.subTest(seed=seed, render_pass=name, lens=lens):
                code = RANDOM_MODEL.replace("SHAPES", ", ".join(shapes))
                pictures = []
                for at in (np.zeros(3), place):
                    file = scratch(self) / "thing.py"
                    file.write_text(HEADER + "import numpy as np\n" + code.replace("PLACE", repr(at.tolist())))
                    pictures.append(self.pictures("model", file, [name], camera)[0])
                # At 1e7 a 64-bit number has steps of 2e-9: at an edge a pixel may fall to the other side.
                differs = (np.abs(pictures[0] - pictures[1]) > 1).any(axis=-1)
                self.assertLess(int(differs.sum()), 4)

    def test_other_lenses(self):
        for lens in ({"projection": "panorama"}, {"projection": "parallel"}, {"f_stop": 1.4, "unit_mm": 10}):
            with self.subTest(lens=lens):
                made = []
                for place in ((0.0, 0.0, 0.0), FAR):
                    rig = {"kind": "still", "position": np.add(place, (2.5, -3, 2)).tolist(), "centre": place}
                    made.append(self.model(place, ["shaded", "depth"], {"rig": rig, "lens": lens}))
                self.assert_same(made[0], made[1], ["shaded", "depth"])

    def test_files_of_each_format(self):
        points, faces = subject()
        passes = ["shaded", "depth", "normal", "wire"]
        for suffix, write in WRITERS.items():
            with self.subTest(suffix):
                made = []
                for place in ((0, 0, 0), FAR):
                    file = scratch(self) / f"thing.{suffix}"
                    write(file, points + place, faces)
                    made.append(self.pictures("object", file, passes, up="z"))
                    self.assertNotIn("coarse-coordinates", self.findings)
                self.assert_same(made[0], made[1], passes)

    def test_points_without_surfaces(self):
        passes = ["shaded", "depth", "matte"]
        for write in (as_cloud, as_scan):
            with self.subTest(write.__name__):
                made = []
                for place in ((0, 0, 0), FARTHER):
                    file = scratch(self) / "points.ply"
                    write(file, subject()[0][::4] + place, None)
                    made.append(self.pictures("object", file, passes, up="z"))
                self.assert_same(made[0], made[1], passes)

    def test_what_a_file_lost_is_a_finding(self):
        points, faces = subject()
        for place, lost in (((0, 0, 0), False), (FAR, True)):
            file = scratch(self) / "thing.stl"
            pv.PolyData.from_regular_faces((points + place).astype(np.float32), faces).save(file)
            self.pictures("object", file, ["shaded"], up="y")
            self.assertEqual("coarse-coordinates" in self.findings, lost)


if __name__ == "__main__":
    unittest.main()
