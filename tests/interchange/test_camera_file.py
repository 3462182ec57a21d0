"""Files of a camera's way: written, read back to the same way, and refused in a sentence."""

import csv
import io
import json
import subprocess
import unittest
from pathlib import Path

import numpy as np
import trimesh

from tests.core.test_path_figures import SIZE, vtk_seen
from tests.core.test_path_rig import path, planned
from tests.helpers import scratch, vexel, write_shot
from vexel.core.camera.camera_path import rolled
from vexel.core.document.shot import read_shot_document
from vexel.core.errors import Mistake
from vexel.core.evaluate.camera_table import COLUMNS, path_rows, rig_of_rows, view_matrices
from vexel.interchange.camera_file import camera_file_text, left_out, read_camera_file
from vexel.interchange.imported_path import rig_of_file


def turntable(span="loop", frames=24, **rig):
    document = path()
    document["camera"] = {"rig": {"kind": "orbit", "turns": 1, "elevation_deg": 25} | rig}
    document["clock"] = {"rate": "24", "frames": frames, "span": span}
    document["picture"] = {"width": SIZE[0], "height": SIZE[1]}
    return document


class RoundTest(unittest.TestCase):
    def test_a_way_comes_back_as_it_went(self):
        for span in ("loop", "ends"):
            document = turntable(span) | {"lanes": [{"drive": "lens:focal", "keys": [[0, 35], [1, 70]]}]}
            before = planned(document)
            for suffix in (".csv", ".json"):
                file = scratch(self) / f"a{suffix}"
                file.write_text(camera_file_text(before, suffix))
                rig = rig_of_rows(before.shot, read_camera_file(file))
                after = planned(document | {"camera": {"rig": rig}, "lanes": []})
                for name in ("positions", "targets", "ups"):
                    one, other = (getattr(plan.sampled.path, name) for plan in (before, after))
                    if name == "ups":
                        continue
                    np.testing.assert_allclose(other, one, atol=1e-7, err_msg=f"{span} {suffix} {name}")
                np.testing.assert_allclose(
                    after.sampled.camera.views_high_deg, before.sampled.camera.views_high_deg, atol=1e-7
                )

    def test_a_way_comes_back_through_holds_orders_and_picked_frames(self):
        focal = [{"drive": "lens:focal", "keys": [[0, 35], [1, 70]]}]
        for clock in (
            {"hold_start": 3, "hold_end": 2}, {"every": 2}, {"every": 3, "play": "rate"}, {"order": "backward"},
            {"order": "there-and-back", "hold_end": 2}, {"first": 4, "last": 19, "speed": 2}, {"retimed_from": 12},
        ):  # fmt: skip
            for span in ("loop", "ends"):
                document = turntable(span) | {"lanes": focal}
                document["clock"] |= clock
                before = planned(document)
                for suffix in (".csv", ".json", ".gltf"):
                    file = scratch(self) / f"a{suffix}"
                    file.write_text(camera_file_text(before, suffix))
                    rig = rig_of_file(before.shot, file, None)
                    after = planned(document | {"camera": {"rig": rig}, "lanes": []})
                    places = [plan.sampled.path.positions for plan in (before, after)]
                    fine = 2e-4 if suffix == ".gltf" else 1e-7
                    np.testing.assert_allclose(places[1], places[0], atol=fine, err_msg=f"{clock} {span} {suffix}")
                    views = [plan.sampled.camera.views_high_deg for plan in (before, after)]
                    np.testing.assert_allclose(views[1], views[0], atol=fine, err_msg=f"{clock} {span} {suffix}")

    def test_a_camera_that_stands_still_for_a_while_comes_back(self):
        rows = [{"frame": n, "x": max(n, 3), "y": -6, "z": 1, "look_x": 0, "look_y": n, "look_z": 0} for n in range(8)]
        document = turntable("ends", frames=8)
        rig = rig_of_rows(read_shot_document(document), rows)
        after = planned(document | {"camera": {"rig": rig}})
        np.testing.assert_allclose(after.sampled.path.positions[:, 0], [max(n, 3) for n in range(8)], atol=1e-9)

    def test_a_roll_goes_on_over_whole_turns(self):
        document = turntable(frames=24)
        plan = planned(document)
        rows = path_rows(plan)
        for n, row in enumerate(rows):
            ups = rolled(np.array([[-row[axis] + row[f"look_{axis}"] for axis in "xyz"]]), n * 40.0)[0]
            row |= dict(zip(("up_x", "up_y", "up_z"), ups, strict=True))
        rolls = [key.get("roll_deg", 0) for key in rig_of_rows(plan.shot, rows)["keys"]]
        np.testing.assert_allclose(rolls, np.arange(24) * 40, atol=1e-6)

    def test_parallel_heights_and_lens_shifts_are_written_and_checked(self):
        document = turntable()
        document["camera"]["lens"] = {"projection": "parallel", "shift_mm": [2, 0]}
        document["lanes"] = [{"drive": "rig:fill", "keys": [[0, 0.4], [1, 0.8]]}]
        before = planned(document)
        for suffix in (".csv", ".json"):
            file = scratch(self) / f"a{suffix}"
            file.write_text(camera_file_text(before, suffix))
            rig = rig_of_file(before.shot, file, None)
            camera = {"rig": rig, "lens": document["camera"]["lens"]}
            after = planned(document | {"camera": camera, "lanes": []})
            highs = [plan.sampled.camera.parallel_highs for plan in (before, after)]
            np.testing.assert_allclose(highs[1], highs[0], rtol=1e-9)
            with self.assertRaisesRegex(Mistake, "set the lens to parallel, then import it"):
                rig_of_file(planned(turntable()).shot, file, None)
            other = turntable()
            other["camera"]["lens"] = {"projection": "parallel"}
            with self.assertRaisesRegex(Mistake, "shifted by 2 mm in x, this shot's by 0 mm"):
                rig_of_file(planned(other).shot, file, None)
        self.assertEqual(left_out(before, ".gltf"), ["the lens shift"])
        self.assertEqual(left_out(before, ".csv"), [])
        document["camera"]["lens"] = {"projection": "panorama"}
        self.assertEqual(left_out(planned(document), ".csv"), ["that it renders a panorama"])

    def test_rolls_come_back_too(self):
        document = turntable()
        document["camera"] = {"rig": {"kind": "still", "roll_deg": 33, "elevation_deg": 10}}
        plan = planned(document)
        rows = path_rows(plan)
        for n, row in enumerate(rows):
            row["x"] += n * 0.1
        rig = rig_of_rows(plan.shot, rows)
        self.assertAlmostEqual(rig["keys"][0]["roll_deg"], 33, places=6)

    def test_the_matrices_are_those_of_vtk(self):
        plan = planned(turntable())
        way, points = plan.sampled.path, np.random.default_rng(2).normal(size=(20, 3))
        for n in (0, 7):
            matrix, view = view_matrices(plan)[n], plan.sampled.camera.views_high_deg[n]
            seen = np.concatenate([points, np.ones((20, 1))], axis=1) @ matrix.T
            half = np.tan(np.radians(view) / 2)
            ours = seen[:, :2] / -seen[:, 2:3] / [half * SIZE[0] / SIZE[1], half]
            theirs = vtk_seen(way.positions[n], way.targets[n], way.ups[n], view, points)
            np.testing.assert_allclose(ours, theirs, atol=1e-9)


class GltfTest(unittest.TestCase):
    def test_the_khronos_validator_finds_nothing(self):
        self.check(turntable(frames=48))
        self.check(turntable(frames=48) | {"lanes": [{"drive": "lens:focal", "keys": [[0, 35], [1, 70]]}]})
        parallel = turntable(frames=3)
        parallel["camera"]["lens"] = {"projection": "parallel"}
        self.check(parallel)

    def check(self, document):
        file = scratch(self) / "a.gltf"
        file.write_text(camera_file_text(planned(document), ".gltf"))
        script = (
            "require('gltf-validator').validateBytes(new Uint8Array(require('fs').readFileSync(process.argv[1])))"
            ".then(told => console.log(JSON.stringify(told)))"
        )
        ui = Path(__file__).parents[2] / "ui"
        told = subprocess.run(["node", "-e", script, file], cwd=ui, capture_output=True, text=True, check=True).stdout
        issues = json.loads(told)["issues"]
        # Of the extension that animates a lens the validator only says that it looks at no more than its form.
        said = [one for one in issues["messages"] if one["code"] != "INCOMPLETE_EXTENSION_SUPPORT"]
        self.assertEqual((issues["numErrors"], issues["numWarnings"], said), (0, 0, []))

    def test_another_reader_sees_the_same_camera(self):
        # trimesh reads the nodes; its own transforms give where the camera stands and looks in the first frame.
        document = turntable(start_deg=40)
        file, plan = scratch(self) / "a.gltf", planned(document)
        file.write_text(camera_file_text(plan, ".gltf"))
        told = json.loads(file.read_text())
        node = told["nodes"][0]
        x, y, z, w = node["rotation"]
        matrix = trimesh.transformations.quaternion_matrix([w, x, y, z])
        looks = matrix[:3, :3] @ [0, 0, -1]
        back = np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]])  # +y up to +z up
        way = plan.sampled.path
        np.testing.assert_allclose(back @ node["translation"], way.positions[0], atol=1e-5)
        expected = way.targets[0] - way.positions[0]
        np.testing.assert_allclose(back @ looks, expected / np.linalg.norm(expected), atol=1e-6)
        self.assertAlmostEqual(
            told["cameras"][0]["perspective"]["yfov"], np.radians(plan.sampled.camera.views_high_deg[0])
        )


class FileTest(unittest.TestCase):
    def test_the_command_writes_and_reads(self):
        folder = scratch(self)
        shot = write_shot(folder, clock={"rate": "24", "frames": 12})
        told = vexel("path", shot, "-o", folder / "way.csv")
        self.assertEqual((told.returncode, told.stdout), (0, f"{folder}/way.csv: 12 frames\n"), told.stderr)
        rows = list(csv.DictReader(io.StringIO((folder / "way.csv").read_text())))
        self.assertEqual((tuple(rows[0]), len(rows), rows[11]["frame"]), (COLUMNS, 12, "11"))
        flies = vexel("path", shot, "--from", folder / "way.csv")
        self.assertEqual(flies.returncode, 0, flies.stderr)
        rig = read_shot_document(json.loads(flies.stdout)).camera.rig
        self.assertEqual((rig.kind, len(rig.keys), rig.closed), ("path", 12, True))
        for arguments, words in (((), "give -o FILE"), (("-o", "a.txt"), "written as .csv or .json or .gltf")):
            wrong = vexel("path", shot, *arguments)
            self.assertEqual(wrong.returncode, 2, wrong.stderr)
            self.assertIn(words, wrong.stderr)

    def test_wrong_tables_are_refused(self):
        shot = read_shot_document(turntable())
        file = scratch(self) / "a.csv"
        for text, words in (
            ("", "no column x and no y and no z: its columns must be named x, y, z, but are none"),
            ("x,y,z\n", "has no rows: give it one"),
            ("x, y\n1,2\n3,4\n", "no column z: its columns must be named x, y, z, but are x, y"),
            ("x,y,z\n1,2,3\n1,two,3\n", "row 2: 'two' in column y is not a number"),
            ("x,y,z\n1,2,3\nnan,2,3\n", "row 2 of the table has no number in column 'x'"),
            ("x,y,z\n1,2,3\n", "a path has 2 to 10,000 rows, and the table has 1: add some"),
            (
                "frame,x,y,z\n3,1,2,3\n2,4,5,6\n",
                r"must rise from row to row: sort it by frame \(row 2 has 2, after 3\)",
            ),
            ("frame,x,y,z\n0,1,2,3\n99,4,5,6\n", "goes to frame 99, but the shot has 24"),
        ):
            file.write_text(text)
            with self.subTest(words), self.assertRaisesRegex(Mistake, words):
                rig_of_rows(shot, read_camera_file(file))
        (file.with_suffix(".json")).write_text("[1, 2]")
        with self.assertRaisesRegex(Mistake, 'needs "frames"'):
            read_camera_file(file.with_suffix(".json"))


if __name__ == "__main__":
    unittest.main()
