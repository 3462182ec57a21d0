"""Easing, lanes, lens, orbit and framing against things outside the project."""

import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import BPoly, CubicSpline, PchipInterpolator
from scipy.optimize import brentq
from scipy.signal import step
from scipy.spatial.transform import Rotation

from tests.helpers import shot_document
from vexel.core.camera.camera_path import orbit, rotated
from vexel.core.camera.framing import distance_to_fill, sphere_about
from vexel.core.camera.lens import Lens, field_of_view_deg, sharp_depth
from vexel.core.document.rig_spec import OrbitSpec
from vexel.core.document.shot import read_shot_document
from vexel.core.edits.stagger import stagger_lanes
from vexel.core.errors import Mistake
from vexel.core.evaluate.lane_sampling import lane_tracks
from vexel.core.evaluate.rigs.orbit import turns_at
from vexel.core.lanes.easing import CURVES, Easing
from vexel.core.lanes.lane import Key, LaneTiming, lane_values
from vexel.core.merge_patch import merged

PHASES = np.linspace(0, 1, 101)


def eased(text, progress):
    return Easing.parse(text)(np.array(progress, dtype=float))


class EaseTest(unittest.TestCase):
    def test_named_curves_are_those_published(self):
        # W3C CSS Easing Functions: control points; scipy's Bernstein polynomials are the second opinion.
        published = {
            "ease": (0.25, 0.1, 0.25, 1), "ease-in": (0.42, 0, 1, 1),
            "ease-out": (0, 0, 0.58, 1), "ease-in-out": (0.42, 0, 0.58, 1),
        }  # fmt: skip
        self.assertEqual(CURVES, published)
        for name, (x1, y1, x2, y2) in (
            *published.items(),
            ("cubic-bezier(0.1, -0.4, 0.9, 1.5)", (0.1, -0.4, 0.9, 1.5)),
        ):
            x, y = (BPoly([[0], [a], [b], [1]], [0, 1]) for a, b in ((x1, x2), (y1, y2)))
            expected = [y(brentq(lambda s, x=x, p=p: x(s) - p, 0, 1, xtol=1e-14)) for p in PHASES]
            np.testing.assert_allclose(eased(name, PHASES), expected, atol=1e-7, err_msg=name)

    def test_ends_are_exact(self):
        for name in ("linear", *CURVES, "smooth", "hold", "steps(3)", "spring", "spring(0)"):
            np.testing.assert_allclose(eased(name, [0, 1]), [0, 1], atol=1e-12, err_msg=name)

    def test_points_at_one_place(self):
        """CSS Easing Functions 2 (from memory): before two points at one place the first one's output, after them the
        second one's. Chromium 156 gives the second one's on both sides.
        """
        for text, at, expected in (
            ("linear(0 1%, 1 0%)", [0, 0.005, 0.01, 0.5, 1], [0, 0, 1, 1, 1]),
            ("linear(0.2 60%, 0.9 30%, 0.4 100%)", [0, 0.5, 0.6, 0.8, 1], [0.2, 0.2, 0.9, 0.65, 0.4]),
            ("linear(0, 0.3 50%, 0.9 20%)", [0.25, 0.5, 1], [0.15, 0.9, 0.9]),
        ):
            np.testing.assert_allclose(eased(text, at), expected, atol=1e-12, err_msg=text)

    def test_a_spring_is_a_damped_oscillator(self):
        # scipy's step response of 1/(s² + 2ζωs + ω²), with ω so that the swing has died down to a thousandth.
        for bounce in (0.2, 0.4, 0.8):
            damping = 1 - bounce
            speed = -np.log(1e-3 * np.sqrt(1 - damping**2)) / damping
            _, expected = step(([speed**2], [1, 2 * damping * speed, speed**2]), T=PHASES)
            np.testing.assert_allclose(eased(f"spring({bounce})", PHASES), expected, atol=2e-3)
        self.assertLessEqual(eased("spring(0)", PHASES).max(), 1 + 1e-9)

    def test_refuses_what_is_no_easing(self):
        for text, word in (
            ("bouncy", "easing 'bouncy' is not known"),
            ("cubic-bezier(2, 0, 1, 1)", "the first and third of them 0 to 1"),
            ("cubic-bezier(0, a, 1, 1)", "something that is not a number"),
            ("steps(1.5)", "one whole number of steps"),
            ("spring(2)", "needs its bounce, 0 to 0.95"),
            ("steps(3, sideways)", "jumps at 'sideways'"),
            ("steps(1, jump-none)", "at least 2 steps"),
            ("linear(0)", "needs at least two values"),
            ("linear(0, 20% 30% 40%, 1)", "holds '20% 30% 40%'"),
        ):
            with self.subTest(text), self.assertRaisesRegex(Mistake, word):
                Easing.parse(text)


class ExactKeysTest(unittest.TestCase):
    """Jumps come in the very frame of their key, whatever the unit it is given in: counted in fractions."""

    @given(st.data())
    def test_keys_in_seconds_and_frames_jump_in_their_frame(self, data):
        rate = Fraction(data.draw(st.sampled_from(("24", "25", "30", "60", "30000/1001", "24000/1001", "48"))))
        span, count = data.draw(st.sampled_from(("loop", "ends"))), data.draw(st.integers(8, 400))
        unit = data.draw(st.sampled_from(("seconds", "frames", "phase")))
        steps = count if span == "loop" else count - 1
        jumps = sorted(data.draw(st.sets(st.integers(1, steps - 1), min_size=1, max_size=5)))
        scale = {"seconds": 1 / rate, "frames": Fraction(1), "phase": Fraction(1, steps)}[unit]
        keys = [[0, 0.0], *([float(frame * scale), n + 1.0] for n, frame in enumerate(jumps))]
        lane = {"drive": "dial:x", "keys": keys, "at": unit, "ease": "hold"}
        clock = {"rate": str(rate), "frames": count, "span": span}
        shot = read_shot_document(shot_document({"kind": "sketch", "file": "a.py"}) | {"clock": clock, "lanes": [lane]})
        values = lane_tracks(shot, shot.clock.exact.phases())["dial:x"]
        self.assertEqual(values.tolist(), [sum(frame <= n for frame in jumps) for n in range(count)])

    @given(st.data())
    def test_steps_repeats_and_stretches_jump_in_their_frame(self, data):
        count, steps = data.draw(st.integers(8, 400)), data.draw(st.integers(1, 24))
        begin = data.draw(st.integers(0, count // 2))
        end = data.draw(st.integers(begin + 2, count))
        repeat, offset = data.draw(st.integers(1, 6)), Fraction(data.draw(st.integers(0, 9)), 10)
        course = LaneTiming(repeat, offset=float(offset), begin=begin / count, end=end / count)
        places = course.places(np.arange(count + 1) / count)
        values = lane_values([Key(0, 0, Easing.parse(f"steps({steps})")), Key(1, steps)], places)
        for n, value in enumerate(values):
            run = min(max(Fraction(n - begin, end - begin), Fraction(0)), Fraction(1)) * repeat
            place = run - (repeat - 1 if run == repeat else run.__floor__()) + offset
            if offset:
                place -= place.__floor__()
            self.assertAlmostEqual(value, steps if place == 1 else (place * steps).__floor__(), 9, n)


class FormulaTest(unittest.TestCase):
    def track(self, formula, *others, **course):
        lanes = [{"drive": "dial:x", "formula": formula} | course, *others]
        document = shot_document({"kind": "sketch", "file": "a.py"}) | {"lanes": lanes}
        shot = read_shot_document(document | {"clock": {"rate": "24", "frames": 48, "span": "ends"}})
        return lane_tracks(shot, shot.clock.exact.phases())["dial:x"]

    def test_a_formula_gives_what_numpy_gives(self):
        frame = np.arange(48.0)
        phase, seconds = frame / 47, frame / 24
        ramp = np.clip((phase - 0.2) / 0.6, 0, 1)
        for text, expected in (
            ("2 + 0.5 * sin(tau * 3 * phase)", 2 + 0.5 * np.sin(6 * np.pi * phase)),
            ("seconds ^ 2 - frame // 10", seconds**2 - frame // 10),
            ("-1 if phase < 0.5 and not frame == 3 else 4", np.where((phase < 0.5) & (frame != 3), -1, 4)),
            ("mix(1, 5, smoothstep(0.2, 0.8, phase))", 1 + 4 * (3 * ramp**2 - 2 * ramp**3)),
            ("clamp(atan2(seconds, 1), 0, 0.5) + e", np.clip(np.arctan2(seconds, 1), 0, 0.5) + np.e),
            ("7", np.full(48, 7)),
        ):  # fmt: skip
            with self.subTest(text):
                np.testing.assert_allclose(self.track(text), expected, rtol=1e-12, atol=1e-12)

    def test_a_formula_takes_other_lanes_and_runs_as_its_lane_does(self):
        depth = {"drive": "dial:depth", "keys": [[0, 3], [1, 9]]}
        np.testing.assert_allclose(self.track('lane("dial:depth") / 3 + phase', depth), 1 + 3 * np.arange(48) / 47)
        np.testing.assert_allclose(self.track("phase", back=True)[[0, -1]], 0, atol=1e-9)
        self.assertAlmostEqual(self.track("phase", within=[0.5, 1])[10], 0)

    def test_what_is_no_formula_is_named(self):
        for text, words in (
            ("2 +", "cannot be read"),
            ("phas * 2", "knows no 'phas'; did you mean phase"),
            ("__import__('os')", "knows no __import__"),
            ("sine(2)", "knows no sine"),
            ("phase.real", "cannot hold 'phase.real'"),
            ("sin(1, 2)", "takes 1 values, not 2"),
            ("[1][0]", "cannot hold"),
            ("lambda: 1", "cannot hold"),
            ("'a'", "'a', which is not a number"),
            ("True", "not a number"),
            ("1 < phase < 2", "two values at a time"),
            ("1 / frame", "not finite at frame 0"),
            ("10 ** 400", "not finite"),
            ('lane("dial:y")', "follows dial:y, but there is no such lane"),
            ('lane("dial:x")', "follows it in turn"),
            ("(" * 300 + "1" + ")" * 300, "cannot be read"),
            ("1+" * 600 + "1", "at most 1,000 characters"),
        ):
            with self.subTest(text), self.assertRaisesRegex(Mistake, words):
                self.track(text)


class LaneTest(unittest.TestCase):
    def values(self, *keys, at, **course):
        made = [Key(place, value, Easing.parse(easing)) for place, value, easing in keys]
        return lane_values(made, LaneTiming(**course).places(np.array(at, dtype=float)))

    def test_meets_its_keys_and_stays_outside_them(self):
        keys = ((0.2, 1.0, "ease-in-out"), (0.6, 5.0, "hold"), (0.8, 3.0, "linear"), (0.9, 4.0, "linear"))
        np.testing.assert_allclose(
            self.values(*keys, at=[0, 0.2, 0.4, 0.6, 0.7, 0.8, 0.85, 1]), [1, 1, 3, 5, 5, 3, 3.5, 4], atol=1e-12
        )

    def test_smooth_never_leaves_the_values_of_its_keys(self):
        # Fritsch and Carlson, 1980; scipy's own is the second opinion, and a plain cubic spline would overshoot.
        for number in range(40):
            made = np.random.default_rng(number)
            at, value = np.cumsum(made.uniform(0.05, 0.2, 6)), made.integers(-3, 4, 6).astype(float)
            got = self.values(
                *((a, v, "smooth") for a, v in zip(at, value, strict=True)), at=np.linspace(*at[[0, -1]], 99)
            )
            np.testing.assert_allclose(got, PchipInterpolator(at, value)(np.linspace(*at[[0, -1]], 99)), atol=1e-9)
        at, value = [0, 0.2, 0.5, 0.6, 1], [0.0, 1, 1, 5, 5]
        got = self.values(*((a, v, "smooth") for a, v in zip(at, value, strict=True)), at=PHASES)
        np.testing.assert_allclose(got, PchipInterpolator(at, value)(PHASES), atol=1e-12)
        self.assertTrue((got >= 0).all() and (got <= 5).all() and (np.diff(got) >= -1e-12).all())
        self.assertGreater(CubicSpline(at, value)(PHASES).max(), 5.1)

    def test_a_smooth_loop_goes_on_through_its_seam(self):
        keys = [Key(a, v, Easing("smooth")) for a, v in ((0, 1.0), (0.25, 2.0), (0.75, 0.0), (1, 1.0))]
        h = 1e-6
        a, b, c, d = lane_values(keys, np.array([0, h, 1 - h, 1]), closes=True)
        self.assertAlmostEqual((b - a) / h, (d - c) / h, places=3)
        self.assertGreater((b - a) / h, 1)

    def test_repeat_back_offset_and_stretch(self):
        line = ((0, 0.0, "linear"), (1, 8.0, "linear"))
        for course, expected in (
            ({}, [0, 2, 4, 6, 8]),
            ({"repeat": 2}, [0, 4, 0, 4, 8]),
            ({"back": True}, [0, 4, 8, 4, 0]),
            ({"repeat": 2, "back": True}, [0, 8, 0, 8, 0]),
            ({"offset": 0.25}, [2, 4, 6, 0, 2]),
            ({"begin": 0.5}, [0, 0, 0, 4, 8]),
        ):
            with self.subTest(**course):
                self.assertEqual(self.values(*line, at=[0, 0.25, 0.5, 0.75, 1], **course).tolist(), expected)

    def test_one_phase_drives_lanes_that_follow(self):
        shot = read_shot_document(
            shot_document(
                {"kind": "model", "file": "a.py"},
                frames=24,
                clock={"rate": "12", "frames": 24, "span": "ends"},
                ease="ease-in",
                lanes=[
                    {"drive": "rig:elevation", "follows": "dial:a", "times": 2, "plus": 5},
                    {"drive": "dial:a", "keys": [[0, 1], [1, 3]]},
                    {"drive": "dial:b", "keys": [[0, 0], [1.5, 9, "hold"], [1.9, 1]], "at": "seconds"},
                ],
            )
        )
        phases = np.array([0.0, 0.5, 1.0])
        tracks = lane_tracks(shot, phases)
        np.testing.assert_allclose(tracks["dial:a"], 1 + 2 * eased("ease-in", phases), atol=1e-9)
        np.testing.assert_allclose(tracks["rig:elevation"], 2 * tracks["dial:a"] + 5)
        self.assertEqual(tracks["dial:b"][2], 1)
        for lanes, word in (
            ([{"drive": "dial:a", "follows": "dial:b"}], "but there is no such lane"),
            ([{"drive": "dial:a", "follows": "dial:a"}], "which follows it in turn"),
            ([{"drive": "dial:a"}], "needs one of these: keys, another lane"),
            ([{"drive": "dial:a", "keys": [[0]]}], "a key is .place, value."),
            ([{"drive": "dial:a", "keys": [[0, 1, "fast"]]}], "easing 'fast' is not known"),
            ([{"drive": "dial:a", "keys": [[0.5, 1], [0.2, 1]]}], "in the order of their places"),
        ):
            with self.subTest(word), self.assertRaisesRegex(Mistake, word):
                lane_tracks(read_shot_document(shot.model_dump(mode="json") | {"lanes": lanes}), phases)

    def test_a_lane_that_follows_runs_at_its_own_times(self):
        def tracks(*lanes):
            phases = np.linspace(0, 1, 41)
            document = shot_document({"kind": "model", "file": "a.py"}, frames=24, lanes=list(lanes))
            return lane_tracks(read_shot_document(document), phases)

        leader = {"drive": "dial:a", "keys": [[0, 1], [0.3, 5], [1, 2]]}
        both = {"repeat": 3, "back": True, "offset": -0.1}
        for timing in ({"offset": 0.25}, {"repeat": 2}, {"back": True}, {"within": [0.2, 0.7]}, both):
            with self.subTest(timing):
                # As the same keys with the same timing give.
                own = tracks(leader | timing)["dial:a"]
                for follower in ({"follows": "dial:a"}, {"formula": 'lane("dial:a")'}):
                    found = tracks(leader, {"drive": "dial:b"} | follower | timing)
                    np.testing.assert_allclose(found["dial:b"], own, atol=1e-12)
                    np.testing.assert_allclose(found["dial:a"], tracks(leader)["dial:a"])
        chain = [
            {"drive": f"dial:c{n}", "offset": 0.1, "follows": f"dial:c{n - 1}" if n else "dial:a"} for n in range(9)
        ]
        np.testing.assert_allclose(
            tracks(leader, *chain[:3])["dial:c2"], tracks(leader | {"offset": 0.3})["dial:a"], atol=1e-9
        )
        with self.assertRaisesRegex(Mistake, "follows over 4 lanes .* in a chain: give one of them keys"):
            tracks(leader, *chain)


class LensTest(unittest.TestCase):
    def test_fields_of_view_of_the_handbooks(self):
        # Geometry, 2·atan(d/2f); handbook lens tables agree (REFERENCES.md).
        for focal, wide, high in ((50, 39.6, 27.0), (24, 73.7, 53.1)):
            got = Lens(focal, 36, 24).view_deg(3, 2)
            np.testing.assert_allclose(got[:2], (wide, high), atol=0.05)
        self.assertAlmostEqual(Lens(50, 36, 24).view_deg(3, 2)[2], 46.8, delta=0.05)
        self.assertAlmostEqual(field_of_view_deg(36, 35), 54.4, delta=0.05)
        self.assertAlmostEqual(field_of_view_deg(36, 85), 23.9, delta=0.05)

    def test_another_shape_is_cut_from_the_sensor(self):
        self.assertEqual(Lens(50, 36, 24).used_sensor_mm(1920, 1080), (36, 20.25))
        self.assertEqual(Lens(50, 36, 24).used_sensor_mm(1080, 1080), (24, 24))


class OrbitTest(unittest.TestCase):
    def test_positions_are_those_of_rotations(self):
        # scipy's Rotation: first up by the elevation about x, then round z.
        phases = np.arange(7) / 7
        for direction, sign in (("ccw", 1), ("cw", -1)):
            rig = OrbitSpec(kind="orbit", turns=1.5, direction=direction)
            angles = 30 + turns_at(rig, phases).camera
            np.testing.assert_allclose(angles, 30 + sign * 540 * phases)
            path = orbit(angles, elevation_deg=25, centre=(1, 2, 3), distance=4)
            turns = [
                Rotation.from_euler("z", a, degrees=True) * Rotation.from_euler("x", -25, degrees=True) for a in angles
            ]
            np.testing.assert_allclose(path.positions - [1, 2, 3], [t.apply([0, -4, 0]) for t in turns], atol=1e-9)
            np.testing.assert_allclose(path.ups, [t.apply([0, 0, 1]) for t in turns], atol=1e-9)

    def test_any_axis_is_the_upright_turntable_laid_over(self):
        # scipy's Rotation.align_vectors has no shortest way; its rotation vector along the cross product is that way.
        azimuths = np.linspace(0, 360, 7)
        upright = orbit(azimuths, elevation_deg=20, centre=(0, 0, 0), distance=3)
        for axis in ((1, 0, 0), (0.3, -2, 0.5), (0, 0, -1), (0, 0, 4)):
            unit = np.array(axis) / np.linalg.norm(axis)
            cross = np.cross([0, 0, 1], unit)
            about = cross / np.linalg.norm(cross) if np.linalg.norm(cross) > 0 else np.array([1.0, 0, 0])
            over = Rotation.from_rotvec(about * np.arccos(unit[2]))
            path = orbit(azimuths, elevation_deg=20, centre=(0, 0, 0), distance=3, axis=axis)
            np.testing.assert_allclose(path.positions, over.apply(upright.positions), atol=1e-9)
            spun = Rotation.from_rotvec(np.radians(azimuths)[:, None] * unit)
            np.testing.assert_allclose(
                rotated(path.positions[:1].repeat(7, 0), azimuths, axis), spun.apply(path.positions[:1]), atol=1e-9
            )

    def test_straight_from_above_the_front_is_below(self):
        path = orbit(np.array([0.0]), elevation_deg=90, centre=(0, 0, 0), distance=1)
        np.testing.assert_allclose(path.positions, [[0, 0, 1]], atol=1e-9)
        np.testing.assert_allclose(path.ups, [[0, 1, 0]], atol=1e-9)

    def test_a_loop_of_whole_turns_has_equal_steps_over_its_seam(self):
        path = orbit(-720 * np.arange(24) / 24, elevation_deg=0, centre=(0, 0, 0), distance=1)
        steps = np.linalg.norm(np.roll(path.positions, -1, axis=0) - path.positions, axis=1)
        np.testing.assert_allclose(steps, steps[0], rtol=1e-9)


class FramingTest(unittest.TestCase):
    def test_the_sphere_takes_the_share_that_was_asked_for(self):
        # Points of the sphere, projected by a pinhole: tan of their angle off the axis.
        radius, fill, view = 2.5, 0.7, 32.0
        distance = distance_to_fill(radius, fill, view)
        turn = np.linspace(0, 2 * np.pi, 20001)
        across, toward = radius * np.sin(turn), radius * np.cos(turn)
        share = (across / (distance - toward)).max() / np.tan(np.radians(view / 2))
        self.assertAlmostEqual(share, fill, places=6)

    def test_sphere_holds_every_cloud(self):
        clouds = [np.array([[0, 0, 0], [2, 0, 0]]), np.array([[0, 4, 0]]), np.empty((0, 3))]
        sphere = sphere_about(clouds)
        self.assertEqual(sphere.centre, (1, 2, 0))
        self.assertAlmostEqual(sphere.radius, np.sqrt(5))


class SharpDepthTest(unittest.TestCase):
    def test_handbook_values(self):
        # Standard optics: H = f²/(N·c) + f. 50 mm at f/8 with a circle of 0.03 mm: 10.47 m; 35 mm at f/11: 3.75 m.
        depth = sharp_depth(50, 8, 5000, 0.03)
        self.assertAlmostEqual(depth.hyperfocal, 10_466.7, delta=0.1)
        # By hand: 5000·10416.7/15366.7 = 3389.4 mm, and 5000·10416.7/5466.7 = 9527.4 mm.
        self.assertAlmostEqual(depth.near, 3389.4, delta=0.1)
        self.assertAlmostEqual(depth.far, 9527.4, delta=0.1)
        self.assertAlmostEqual(sharp_depth(35, 11, 1, 0.03).hyperfocal, 3747.1, delta=0.1)

    def test_at_the_hyperfocal_distance_all_is_sharp_from_half_of_it(self):
        hyperfocal = sharp_depth(24, 5.6, 1, 0.02).hyperfocal
        depth = sharp_depth(24, 5.6, hyperfocal, 0.02)
        self.assertAlmostEqual(depth.near, hyperfocal / 2, places=6)
        self.assertEqual(depth.far, float("inf"))

    def test_its_limits_blur_by_the_circle(self):
        # Geometry of a thin lens: a point at d makes a circle of A·m·|d − s|/d on the sensor, m = f/(s − f).
        depth = sharp_depth(85, 1.8, 3000, 0.03)
        for limit in (depth.near, depth.far):
            circle = 85 / 1.8 * 85 / (3000 - 85) * abs(limit - 3000) / limit
            self.assertAlmostEqual(circle, 0.03, places=6)


class StaggerTest(unittest.TestCase):
    def test_lanes_in_turn_fill_the_shot_and_overlap(self):
        document = shot_document({"kind": "model", "file": "a.py"})
        document["lanes"] = [{"drive": f"dial:{name}", "keys": [[0, 0], [1, 1]]} for name in "abc"]
        document["lanes"].append({"drive": "dial:d", "follows": "dial:a"})
        for overlap, spans in (
            (0, [(0, 1 / 3), (1 / 3, 2 / 3), (2 / 3, 1)]),
            (0.5, [(0, 0.5), (0.25, 0.75), (0.5, 1)]),
        ):
            shot = read_shot_document(merged(document, stagger_lanes(read_shot_document(document), overlap)))
            np.testing.assert_allclose([lane.within for lane in shot.lanes[:3]], spans, atol=1e-8)
            self.assertEqual(shot.lanes[3].within, (0, 1), "one that follows goes along")
        with self.assertRaisesRegex(Mistake, "needs two lanes"):
            stagger_lanes(read_shot_document(document | {"lanes": document["lanes"][:1]}), 0)


if __name__ == "__main__":
    unittest.main()
