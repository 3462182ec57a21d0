"""The server's operations about cameras: saved views, further cameras, their paths, and takes with several passes."""

import base64
import json
import time
import unittest

import cv2
import numpy as np

from tests.api.test_api import OWN, ApiTest

SMALL = {"picture": {"width": 96, "height": 64, "samples": 1}, "clock": {"rate": "12", "frames": 4, "seconds": None}}


class CameraTest(ApiTest):
    def setUp(self):
        super().setUp()
        self.enter()
        self.ask("", {"patch": SMALL}, "patch")

    def ask(self, path, body=None, method="", shot="mooring-buoy"):
        ask = getattr(self.client, method or ("get" if body is None else "post"))
        answer = ask(f"/api/shots/{shot}{path}", headers=OWN, json=body)
        return answer.get_json() if answer.is_json else answer

    def test_a_view_is_saved_with_a_drags_camera_and_stops_follow(self):
        gone = dict.fromkeys(("turns", "direction", "what", "followed_by", "ease", "axis"))
        patch = {"camera": {"rig": gone | {"kind": "still", "start_deg": 90}}}
        self.ask("/views", {"frame": 0})
        told = self.ask("/views", {"frame": 0, "patch": patch, "name": "Side"})
        views = told["document"]["camera"]["views"]
        self.assertEqual([view["name"] for view in views], ["View 1", "Side"])
        self.assertGreater(views[1]["position"][0], 5, "from the right")
        self.assertEqual(told["document"]["camera"]["rig"]["kind"], "orbit", "the drag itself is not saved")
        walked = self.ask("/rig", {"kind": "stops", "frame": 0})
        # 2 rests of 2 s and one travel of 3 s, at 12 fps.
        self.assertEqual(walked["timing"]["frames"], 84)
        self.assertEqual(self.ask("/terms", {"term": "frames", "text": "42"})["timing"]["frames"], 42)
        figures = self.ask("/camera-figures", {})
        self.assertEqual((len(figures["places"]), figures["stops"]), (2, [0, 30]))
        self.assertEqual(len(figures["outlines"]), 3)
        self.assertIn("subject size", [told["name"] for told in figures["facts"]])

    def test_a_way_goes_out_and_comes_in(self):
        self.ask("", {"patch": {"clock": {"frames": 12}}}, "patch")
        for suffix in (".csv", ".json", ".gltf"):
            written = self.client.get(f"/api/shots/mooring-buoy/camera-path{suffix}", headers=OWN)
            self.assertIn("attachment", written.headers["Content-Disposition"])
            data = base64.b64encode(written.data).decode()
            told = self.ask("/camera-path", {"name": f"way{suffix}", "data": data}, shot="shell-growth")
            rig = told["document"]["camera"]["rig"]
            # glTF tells seconds: 11/12 s, at 24 fps, are 22 steps.
            self.assertEqual((rig["kind"], len(rig["keys"])), ("path", 23 if suffix == ".gltf" else 12))
        broken = self.ask("/camera-path", {"name": "a.csv", "data": base64.b64encode(b"a,b\n1,2\n").decode()})
        self.assertIn("no column x", broken["error"])

    def test_focus_by_a_point_and_a_second_camera(self):
        pose = self.ask("/camera-figures", {})["cameras"][0]
        reach = np.linalg.norm(np.subtract(pose["positions"][0], pose["looks"][0]))
        seen = self.ask("/distance", {"x": 0.5, "y": 0.7})
        found = seen["distance"]
        self.assertLess(abs(found - reach), 3)
        # The point lies so far along the line of sight, within the buoy's 1.4 of its middle.
        forward = np.subtract(pose["looks"][0], pose["positions"][0]) / reach
        self.assertAlmostEqual(float(np.subtract(seen["point"], pose["positions"][0]) @ forward), found, places=6)
        self.assertLess(np.hypot(*seen["point"][:2]), 1.4)
        self.assertIsNone(self.ask("/distance", {"x": 0.01, "y": 0.01})["distance"])
        told = self.ask("/cameras", {"frame": 1})
        self.assertEqual([camera["name"] for camera in told["document"]["cameras"]], ["camera-2"])
        walked = self.ask("/rig", {"kind": "orbit", "frame": 0, "camera": 1})
        self.assertEqual(walked["document"]["cameras"][0]["rig"]["kind"], "orbit")
        self.assertIn("there is no camera 4", self.ask("/rig", {"kind": "orbit", "frame": 0, "camera": 3})["error"])
        first, second = (
            self.client.get(f"/api/shots/mooring-buoy/view?frame=3&camera_pass={n}", headers=OWN).data for n in (0, 1)
        )
        self.assertNotEqual(first, second)

    def test_a_run_makes_every_camera_pass_and_a_file_shows_one(self):
        self.ask("/cameras", {"frame": 1})
        self.ask("", {"patch": {"picture": {"passes": ["shaded", "depth"]}}}, "patch")
        run = self.client.post("/api/shots/mooring-buoy/runs", headers=OWN).get_json()
        self.assertEqual((run["count"], len(run["camera_passes"])), (16, 4))
        end = time.monotonic() + 120
        while run["state"] in ("queued", "running") and time.monotonic() < end:
            time.sleep(0.3)
            run = self.client.get(f"/api/runs/{run['id']}", headers=OWN).get_json()
        self.assertEqual((run["state"], run["made"] + run["kept"]), ("done", 16), run)
        data = self.client.get(f"/api/runs/{run['id']}/frames/5.png", headers=OWN).data
        depth = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
        self.assertEqual((depth.dtype, depth.ndim), (np.uint16, 2), "frame 1 of the first camera in depth")
        self.assertGreater(len(np.unique(depth)), 200)
        made = self.client.post(
            f"/api/runs/{run['id']}/outputs", headers=OWN, json={"recipe": "h264", "camera_pass": 2}
        ).get_json()
        self.assertIn("camera-2.shaded.h264.mp4", made["file"])
        while made["state"] in ("queued", "running") and time.monotonic() < end:
            time.sleep(0.3)
            made = self.client.get(f"/api/outputs/{made['id']}", headers=OWN).get_json()
        self.assertEqual(made["state"], "done", json.dumps(made))


if __name__ == "__main__":
    unittest.main()
