"""A walk from view to view: its times, its way, and what its views show."""

import json
import unittest

import numpy as np
from scipy.spatial.transform import Rotation, Slerp

from tests.core.test_path_rig import planned
from tests.helpers import shot_document
from vexel.core.camera.framing import Sphere
from vexel.core.checks.camera_findings import camera_findings
from vexel.core.checks.shot_timing import shot_timing
from vexel.core.document.shot import read_shot_document
from vexel.core.edits.convert_rig import convert_rig
from vexel.core.edits.set_term import set_term
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject
from vexel.core.evaluate.views.saved_view import save_view
from vexel.core.lanes.dial import Dial
from vexel.core.merge_patch import merged
from vexel.store.documents.shots import spelled

PLACES = [(0, -6, 0), (6, 0, 0), (0, 6, 0), (-6, 0, 0)]


def walk(views=(), clock=None, **rig):
    made = [{"position": list(p), "look": [0, 0, 0]} | (dict(views[n]) if views else {}) for n, p in enumerate(PLACES)]
    document = shot_document({"kind": "object", "file": "a.obj"})
    document["clock"] = {"rate": "24", "span": "ends"} | (clock or {})
    document["camera"] = {"views": made, "rig": {"kind": "stops"} | rig}
    return document


class TimesTest(unittest.TestCase):
    def test_four_rests_and_three_travels_decide_the_count(self):
        # By hand: 4 × 2 s + 3 × 3 s = 17 s; at 24 fps 408 frames, 192 at rest and 216 on the way.
        shot = read_shot_document(walk())
        self.assertEqual(shot.clock.exact.frames, 408)
        reasons = shot_timing(shot.clock, shot.orbit, shot.camera).reasons
        self.assertEqual(reasons[0], "4 stops: 192 frames of rest + 216 on the way = 408 frames")
        closed = read_shot_document(walk(closed=True, clock={"span": "loop"}))
        self.assertEqual(closed.clock.exact.frames, 4 * 48 + 4 * 72)
        at_ntsc = read_shot_document(walk(clock={"rate": "30000/1001"}))
        self.assertEqual(at_ntsc.clock.exact.frames, 4 * 60 + 3 * 90, "each rest and way is whole frames")

    def test_a_length_in_the_document_gives_way_and_a_typed_one_stretches(self):
        shot = read_shot_document(walk(clock={"frames": 5}))
        self.assertEqual(shot.clock.frames, 408)
        patch = set_term(shot, "seconds", "34")
        after = read_shot_document(merged(shot.model_dump(mode="json"), patch))
        self.assertEqual((after.clock.frames, after.camera.rig.dwell_seconds), (816, 4))
        self.assertEqual(read_shot_document(json.loads(spelled(after))), after)

    def test_it_rests_at_each_view_to_the_bit_and_cuts_take_no_time(self):
        plan = planned(walk(views=[{"way": "cut"}, {"dwell_seconds": 1}, {"travel_seconds": 1}, {}]))
        positions = plan.sampled.path.positions
        self.assertEqual(plan.clock.frames, 48 + 24 + 72 + 48 + 24 + 48)
        for frame, view in ((0, 0), (47, 0), (48, 1), (72, 1), (144, 2), (191, 2), (216, 3), (263, 3)):
            self.assertEqual(positions[frame].tolist(), list(PLACES[view]), frame)
        self.assertNotEqual(positions[73].tolist(), list(PLACES[1]))
        self.assertEqual(plan.frame_spec(0).key, plan.frame_spec(47).key, "frames at rest are one frame")

    def test_bad_walks_say_what_to_do(self):
        for document, told in (
            (walk() | {"camera": {"rig": {"kind": "stops"}}}, "none is saved: add one"),
            (walk(views=[{"look": list(PLACES[0])}, {}, {}, {}]), "looks at the camera's own position"),
            (walk(clock={"retimed_from": 10}), "retimed by their dwells"),
            (walk(views=[{"shows": {"rig:fill": 1}}, {}, {}, {}]), "cannot be part of a view"),
            (walk() | {"lanes": [{"drive": "rig:elevation", "keys": [[0, 1]]}]}, "save other views"),
        ):
            with self.assertRaises(Mistake) as said:
                read_shot_document(document)
            self.assertIn(told, str(said.exception))


class WayTest(unittest.TestCase):
    def test_around_is_the_turn_of_slerp_at_one_height(self):
        # scipy's Slerp between rotations about z; eased as CSS says, which at half time is half way.
        plan = planned(walk(ease="linear"))
        path, frames = plan.sampled.path, np.arange(48, 121)
        between = Slerp([48, 120], Rotation.from_euler("z", [[0], [90]], degrees=True))(frames)
        np.testing.assert_allclose(path.positions[frames], between.apply([0, -6, 0]), atol=1e-9)
        eased = planned(walk())
        np.testing.assert_allclose(eased.sampled.path.positions[84], between[36].apply([0, -6, 0]), atol=1e-6)

    def test_straight_is_a_line_and_the_view_is_level(self):
        plan = planned(walk(way="straight"))
        frames = np.arange(48, 121)
        way = plan.sampled.path.positions[frames]
        across = np.cross(way - way[0], way[-1] - way[0])
        np.testing.assert_allclose(across, 0, atol=1e-9)
        self.assertTrue((np.abs(plan.sampled.path.ups[:, 2]) > 0.99).all())

    def test_a_loop_closes_on_request_and_says_when_it_does_not(self):
        document = walk(clock={"span": "loop"})
        names = [finding.name for finding in camera_findings(planned(document))]
        self.assertIn("views-do-not-close", names)
        finding = next(f for f in camera_findings(planned(document)) if f.name == "views-do-not-close")
        fixed = planned(merged(document, finding.fixes[0].patch))
        self.assertNotIn("views-do-not-close", [f.name for f in camera_findings(fixed)])
        path = fixed.sampled.path.positions
        steps = np.linalg.norm(np.diff(path, axis=0, append=path[:1]), axis=1)
        self.assertLess(steps[-1], 2 * np.median(steps[steps > 0]))

    def test_a_way_through_the_subject_is_found_and_fixed(self):
        document = walk(way="straight")
        document["camera"]["views"] = [document["camera"]["views"][0], document["camera"]["views"][2]]
        found = next(f for f in camera_findings(planned(document)) if f.name == "walk-through-subject")
        self.assertIn("view 1 to view 2", found.what)
        after = camera_findings(planned(merged(document, found.fixes[0].patch)))
        self.assertNotIn("walk-through-subject", [f.name for f in after])


class ShownTest(unittest.TestCase):
    def planned(self, document):
        document["source"] = {"kind": "model", "file": "a.py", "dials": {"grown": 0.25}}
        facts = SourceFacts(dials=(Dial("grown", 1.0, 0.0, 2.0),))
        inputs = PlanInputs(
            "e", SourceIdentity("model", "a.py", "d"), facts, Subject(Sphere((0, 0, 0), 1), parts=("lid",))
        )
        return make_plan(read_shot_document(document), inputs)

    def test_dials_opacity_and_light_blend_on_the_way(self):
        shows = [{"shows": {"dial:grown": 0}}, {"shows": {"dial:grown": 1, "opacity:lid": 0.5}}, {}, {}]
        plan = self.planned(walk(views=shows, ease="linear"))
        dial, lid = plan.sampled.motion.dials["grown"], plan.sampled.stage[0]["opacity:lid"]
        self.assertEqual((dial[47], dial[84], dial[120], dial[-1]), (0, 0.5, 1, 0.25), "a silent view shows the usual")
        self.assertEqual((lid[0], lid[84], lid[120]), (1, 0.75, 0.5))
        with self.assertRaisesRegex(Mistake, r"camera.views\[0\]: there is no part 'lod'; did you mean lid"):
            self.planned(walk(views=[{"shows": {"opacity:lod": 1}}, {}, {}, {}]))

    def test_passes_fade_into_one_another_on_the_way(self):
        plan = self.planned(walk(views=[{"drawn": "wire"}, {}, {}, {}], ease="linear"))
        told = [(spec.render_pass, spec.fade) for spec in (plan.frame_spec(n) for n in (0, 66, 120, 200))]
        self.assertEqual(told, [("wire", None), ("wire", ("shaded", 0.25)), ("shaded", None), ("shaded", None)])

    def test_a_saved_view_shows_the_same_picture_again(self):
        document = walk()
        document["camera"] = {"rig": {"kind": "still", "start_deg": 40, "roll_deg": 7, "fill": 0.5}}
        document["clock"]["frames"] = 3
        plan = self.planned(document)
        view = save_view(plan, 0, "Lid")
        self.assertEqual((view["name"], view["shows"]["dial:grown"]), ("Lid", 0.25))
        again = self.planned(walk() | {"camera": {"rig": {"kind": "stops"}, "views": [view]}})
        one, other = (p.sampled.path for p in (plan, again))
        np.testing.assert_allclose(other.positions[0], one.positions[0], atol=1e-4)
        np.testing.assert_allclose(other.ups[0], one.ups[0], atol=1e-4)

    def test_other_rigs_become_stops_and_stops_a_path(self):
        document = walk()
        document["camera"] = {"rig": {"kind": "orbit", "turns": 1}}
        document["clock"] = {"rate": "24", "frames": 96, "span": "loop"}
        stops = merged(document, convert_rig(planned(document), "stops", 0))
        self.assertEqual(len(read_shot_document(stops).camera.views), 4)
        flown = read_shot_document(merged(stops, convert_rig(planned(stops), "path", 0)))
        self.assertEqual(list(flown.camera.rig.keys[0].position), stops["camera"]["views"][0]["position"])


class TurnsTest(unittest.TestCase):
    def orbit(self, **rig):
        document = walk()
        document["clock"] = {"rate": "24", "frames": 96, "span": "loop"}
        document["camera"] = {"rig": {"kind": "orbit"} | rig}
        return document

    def test_a_turning_subject_is_the_camera_going_the_other_way(self):
        about = planned(self.orbit(what="subject", turns=1)).sampled.path
        round_it = planned(self.orbit(turns=1, direction="cw")).sampled.path
        np.testing.assert_allclose(about.positions, round_it.positions, atol=1e-9)

    def test_two_turns_of_the_subject_then_two_of_the_light(self):
        rig = {"what": "subject", "turns": 2, "followed_by": [{"what": "light", "turns": 2}]}
        plan = planned(self.orbit(**rig))
        positions, light = plan.sampled.path.positions, plan.sampled.stage[0]["light:azimuth"]
        np.testing.assert_allclose(positions[48:], positions[:1].repeat(48, 0), atol=1e-9)
        self.assertEqual((light[0], light[48], light[72]), (-36, -36, 324))
        self.assertEqual(plan.frame_spec(0).key, plan.frame_spec(24).key, "once round is the same picture")
        self.assertAlmostEqual(shot_timing(plan.shot.clock, plan.shot.orbit).degrees_a_frame, 15)

    def test_a_light_in_the_world_stays_there_while_the_camera_goes(self):
        document = self.orbit(turns=1) | {"light": {"stands": "world", "azimuth_deg": 50, "elevation_deg": 20}}
        plan = planned(document)
        stage, path = plan.sampled.stage[0], plan.sampled.path
        for n in (0, 30, 77):
            a, e = np.radians(stage["light:azimuth"][n]), np.radians(stage["light:elevation"][n])
            back = (path.positions[n] - path.targets[n]) / np.linalg.norm(path.positions[n] - path.targets[n])
            right = np.cross(path.ups[n], back)
            toward = np.sin(a) * np.cos(e) * right + np.sin(e) * path.ups[n] + np.cos(a) * np.cos(e) * back
            world = [np.sin(np.radians(50)), -np.cos(np.radians(50)), np.tan(np.radians(20))]
            np.testing.assert_allclose(toward, np.array(world) * np.cos(np.radians(20)), atol=1e-9)


class StrandsTest(unittest.TestCase):
    def test_cameras_and_passes_of_one_instant_stand_together(self):
        document = walk()
        document["clock"] = {"rate": "24", "frames": 3}
        document["camera"] = {"name": "front", "rig": {"kind": "still"}}
        document["cameras"] = [{"name": "side", "rig": {"kind": "still", "start_deg": 90}}]
        document["picture"] |= {"passes": ["shaded", "depth"]}
        document["names"] = {"pattern": "{title}.{camera}.{pass}.{frame:04}"}
        plan = planned(document)
        names = [plan.shot.file_name(place) for place in range(12)]
        self.assertEqual(names[:5], [
            "trial.front.shaded.0000.png", "trial.front.depth.0000.png", "trial.side.shaded.0000.png",
            "trial.side.depth.0000.png", "trial.front.shaded.0001.png",
        ])  # fmt: skip
        looks = [plan.picture_spec(place) for place in range(4)]
        self.assertEqual([look.render_pass for look in looks], ["shaded", "depth"] * 2)
        self.assertNotEqual(looks[0].shutter_samples[0].camera.position, looks[2].shutter_samples[0].camera.position)
        self.assertEqual(len({look.key for look in looks}), 4)

    def test_names_that_do_not_tell_them_apart_are_refused(self):
        for pattern, told in (
            ("{title}.{frame}", "add {camera}"), ("{title}.{camera}", "add {frame:04}"), ("a/{frame}", "'/'"),
            ("{shot}.{frame}", "no field {shot}"), (".{camera}{frame}", "begin with a dot"),
        ):  # fmt: skip
            document = walk() | {"names": {"pattern": pattern}, "cameras": [{"name": "side"}]}
            with self.assertRaises(Mistake) as said:
                read_shot_document(document)
            self.assertIn(told, str(said.exception))
        with self.assertRaisesRegex(Mistake, "two cameras are named main"):
            read_shot_document(walk() | {"cameras": [{}]})


if __name__ == "__main__":
    unittest.main()
