"""Figures of frames against FFmpeg's signalstats, and findings: each planted fault, and nothing else."""

import subprocess
import unittest
from itertools import pairwise

import cv2
import numpy as np

from tests.helpers import scratch, vexel
from vexel.core.errors import Mistake
from vexel.core.review.between import seen_between
from vexel.core.review.figures import Measured, Step
from vexel.core.review.findings import seen_in, usual_step
from vexel.imaging.image_bytes import encoded_png
from vexel.imaging.signal import closer_of, figures_of, step_of
from vexel.output.reviewing.measure import measured, reviewed

WIDE, HIGH, COUNT = 160, 90, 48


def scene(phase):
    """A lit ball that goes round before a texture; phase 1 is phase 0 again."""
    y, x = np.mgrid[:HIGH, :WIDE].astype(float)
    picture = np.stack([60 + 25 * np.sin(x / 3), 70 + 20 * np.cos(y / 4), 90 + 15 * np.sin((x + y) / 5)], axis=-1)
    at = WIDE / 2 + 40 * np.cos(2 * np.pi * phase), HIGH / 2 + 20 * np.sin(2 * np.pi * phase)
    away = np.hypot(x - at[0], y - at[1])
    cover = np.clip(18.5 - away, 0, 1)[..., None]
    ball = np.clip(200 - 5 * away, 0, 255)[..., None] * np.array([1.0, 0.9, 0.7])
    return np.rint(picture * (1 - cover) + ball * cover).astype(np.uint8)


def loop():
    return [scene(n / COUNT) for n in range(COUNT)]


class BetweenTest(unittest.TestCase):
    """What is found between two sequences that should match."""

    @classmethod
    def setUpClass(cls):
        cls.frames = loop()
        cls.one = cls.of(cls.frames)

    @classmethod
    def of(cls, frames):
        figures = tuple(figures_of(np.clip(np.rint(frame), 0, 255).astype(np.uint8)) for frame in frames)
        nothing = tuple(0.0 for _ in frames)
        return Measured(figures, tuple(Step(0.0, 0.0, 0.0) for _ in frames), nothing, {})

    def found(self, frames, shift=0):
        pairs = [(at, at - shift) for at in range(shift, COUNT)]
        return [(one.finding.name, one.finding.what) for one in seen_between(self.one, self.of(frames), pairs)]

    def test_equal_and_slightly_compressed_frames_give_no_finding(self):
        random = np.random.default_rng(1)
        self.assertEqual(self.found(self.frames), [])
        self.assertEqual(self.found([frame + random.normal(0, 0.2, frame.shape) for frame in self.frames]), [])
        self.assertEqual(seen_between(self.one, self.one, []), [])

    def test_noise(self):
        random = np.random.default_rng(2)
        ((name, _),) = self.found([frame + random.normal(0, 6, frame.shape) for frame in self.frames])
        self.assertEqual(name, "noise-differs")

    def test_ranges_and_matrices_as_ffmpeg_decodes_them_wrongly(self):
        cases = (
            ("out_range=tv", "in_range=pc", "limited range had been taken for full"),
            ("out_range=pc", "in_range=tv", "full range had been taken for limited"),
            ("out_color_matrix=bt709", "in_color_matrix=bt601", "BT.709 had been decoded by that of BT.601"),
            ("out_color_matrix=bt601", "in_color_matrix=bt709", "BT.601 had been decoded by that of BT.709"),
        )
        tinted = [np.clip(frame * [1.2, 0.9, 0.5] + [10, 0, 20], 20, 235).astype(np.uint8) for frame in self.frames[:8]]
        one = self.of(tinted)
        for encoded, decoded, words in cases:
            with self.subTest(words):
                wrong = [through_ffmpeg(frame, encoded, decoded) for frame in tinted]
                pairs = [(at, at) for at in range(8)]
                found = {seen.finding.name: seen.finding.what for seen in seen_between(one, self.of(wrong), pairs)}
                self.assertIn(words, found.get("colours-drifted", "nothing"))

    def test_another_light_is_no_drift_of_a_file(self):
        self.assertNotIn("colours-drifted", dict(self.found([frame * [1.0, 0.8, 0.8] for frame in self.frames])))


def through_ffmpeg(frame, encoded, decoded):
    """A frame as YCbCr and back, by FFmpeg's scaler, by other rules each way."""
    size = f"{WIDE}x{HIGH}"
    flags = "flags=accurate_rnd+full_chroma_int+full_chroma_inp"
    rules = {"out_range": "tv", "out_color_matrix": "bt709"} | dict([encoded.split("=")])
    back = {"in_range": "tv", "in_color_matrix": "bt709"} | dict([decoded.split("=")])
    if "range" in encoded:
        back["in_range"], rules["out_range"] = decoded.split("=")[1], encoded.split("=")[1]
    there = ":".join(f"{name}={value}" for name, value in rules.items())
    here = ":".join(f"{name}={value}" for name, value in back.items())
    raw = ["-f", "rawvideo", "-s", size]
    order = ["ffmpeg", "-v", "error", *raw, "-pix_fmt", "rgb24", "-i", "-", "-vf", f"scale={there}:{flags}"]
    coded = subprocess.run([*order, "-pix_fmt", "yuv444p", "-f", "rawvideo", "-"], input=frame.tobytes(),
                           capture_output=True, check=True).stdout  # fmt: skip
    order = ["ffmpeg", "-v", "error", *raw, "-pix_fmt", "yuv444p", "-i", "-", "-vf", f"scale={here}:{flags}"]
    shown = subprocess.run([*order, "-pix_fmt", "rgb24", "-f", "rawvideo", "-"], input=coded,
                           capture_output=True, check=True).stdout  # fmt: skip
    return np.frombuffer(shown, np.uint8).reshape(HIGH, WIDE, 3)


class FiguresTest(unittest.TestCase):
    def test_brightness_is_that_of_ffmpegs_signalstats(self):
        folder, frames = scratch(self), loop()
        for n, frame in enumerate(frames):
            (folder / f"a.{n:04d}.png").write_bytes(encoded_png(frame))
        # Full range Y of BT.709, as the figures are of encoded values too.
        chain = "scale=out_color_matrix=bt709:out_range=pc,format=yuv444p,signalstats,metadata=print:file=-"
        told = subprocess.run(
            ["ffmpeg", "-v", "error", "-i", str(folder / "a.%04d.png"), "-vf", chain, "-f", "null", "-"],
            capture_output=True, text=True, check=True,
        ).stdout  # fmt: skip
        of = {
            name: [float(line.rpartition("=")[2]) for line in told.splitlines() if f".{name}=" in line]
            for name in ("YAVG", "YMIN", "YMAX", "YDIF")
        }
        found = [figures_of(frame) for frame in frames]
        for name, values, within in (
            ("YAVG", [255 * one.mean for one in found], 0.6), ("YMIN", [255 * one.low for one in found], 1.01),
            ("YMAX", [255 * one.high for one in found], 1.01),
        ):  # fmt: skip
            np.testing.assert_allclose(values, of[name], atol=within, err_msg=name)
        grey = [np.repeat(frame[..., :1], 3, axis=2) for frame in frames]
        steps = [255 * step_of(before, after).mean for before, after in pairwise(grey)]
        self.assertGreater(np.corrcoef(steps, of["YDIF"][1:])[0, 1], 0.9)

    def test_noise_is_that_which_was_added_and_sharpness_falls_with_blur(self):
        flat, random = np.full((200, 200, 3), 120.0), np.random.default_rng(2)
        for sigma in (2, 5, 10):
            noisy = np.rint(flat + random.normal(0, sigma, (200, 200, 1))).astype(np.uint8)
            self.assertAlmostEqual(255 * figures_of(noisy).noise, sigma, delta=0.1 * sigma)
        sharp = [figures_of(cv2.GaussianBlur(scene(0), (0, 0), blur)).sharpness for blur in (0.3, 1, 3)]
        self.assertEqual(sharp, sorted(sharp, reverse=True))

    def test_the_same_in_16_bits_and_shares_of_pixels(self):
        eight = scene(0.3)
        eight[:9], eight[9:18], eight[40, 40:56] = 0, 255, 250
        for one, other in zip(
            vars(figures_of(eight)).values(), vars(figures_of(eight.astype(np.uint16) * 257)).values(), strict=True
        ):
            np.testing.assert_allclose(one, other, atol=0.004)
        found = figures_of(eight)
        self.assertAlmostEqual(found.dark, 0.1, places=2)
        self.assertAlmostEqual(found.light, 0.1, places=2)
        after = eight.copy()
        after[50, 50] ^= 128
        step = step_of(eight, after)
        self.assertAlmostEqual(step.most, 128 / 255)
        self.assertAlmostEqual(step.changed, 1 / (WIDE * HIGH))
        self.assertAlmostEqual(step.mean, 128 / 255 / (WIDE * HIGH))


class FindingsTest(unittest.TestCase):
    def found(self, frames, **options):
        folder = scratch(self)
        for n, frame in enumerate(frames):
            (folder / f"a.{n:04d}.png").write_bytes(encoded_png(frame))
        footage, _ = reviewed(folder)
        return seen_in(measured(footage), **{"loops": True} | options)

    def assert_only(self, frames, name, places, **options):
        found = [(one.finding.name, one.frames) for one in self.found(frames, **options)]
        self.assertEqual(found, [(name, tuple(places))])

    def test_nothing_is_found_where_nothing_is_wrong(self):
        self.assertEqual(self.found(loop()), [])
        self.assertEqual(self.found([frame[::2, ::2].repeat(2, 0).repeat(2, 1) for frame in loop()]), [])
        still = [scene(0)] * 12
        self.assertEqual(self.found(still), [], "a still is no freeze")
        rests = [scene(min(max(n - 12, 0), 12) / 48) for n in range(36)]
        held = [n > 0 and (n <= 12 or n > 24) for n in range(36)]
        self.assertEqual(self.found(rests, loops=False, planned_equal=held), [], "planned holds are no freeze")

    def test_an_old_frame(self):
        frames = loop()
        frames[20] = scene(9 / COUNT)
        self.assert_only(frames, "frame-out-of-line", [20])

    def test_a_jump(self):
        frames = [scene((n + (8 if n >= 24 else 0)) / 60) for n in range(COUNT)]
        self.assert_only(frames, "jump", [24], loops=False)

    def test_a_freeze(self):
        frames = loop()
        frames[30:35] = [frames[30]] * 5
        # What follows a freeze jumps to where the motion has got to.
        found = {one.finding.name: one.frames for one in self.found(frames)}
        self.assertEqual(found["frozen"], (31, 32, 33, 34))
        self.assertLessEqual(set(found), {"frozen", "jump"})

    def test_flicker(self):
        frames = [np.clip(frame + (3.0 if n % 2 and 10 <= n < 30 else 0), 0, 255) for n, frame in enumerate(loop())]
        (one,) = self.found([np.rint(frame).astype(np.uint8) for frame in frames])
        self.assertEqual(one.finding.name, "flicker")
        self.assertTrue(set(range(12, 28)) <= set(one.frames) <= set(range(8, 32)), one.frames)

    def test_a_seam_that_does_not_close(self):
        frames = [scene(n / 60) for n in range(COUNT)]
        self.assert_only(frames, "seam-open", [47, 0])
        self.assertEqual(self.found(frames, loops=False), [])

    def test_empty_frames(self):
        frames = loop()
        frames[5] = np.zeros_like(frames[5])
        found = [(one.finding.name, one.frames) for one in self.found(frames)]
        self.assertIn(("empty-frame", (5,)), found)
        self.assertLessEqual({name for name, _ in found}, {"empty-frame", "frame-out-of-line"})
        clear = [
            np.dstack([frame, np.full((HIGH, WIDE), 0 if n == 7 else 255, np.uint8)]) for n, frame in enumerate(loop())
        ]
        self.assertIn(("empty-frame", (7,)), [(one.finding.name, one.frames) for one in self.found(clear)])

    def test_clipped_highlights_but_no_white_background_and_no_graphics(self):
        bright = [np.clip(frame.astype(float) * 2.4, 0, 255).astype(np.uint8) for frame in loop()]
        (one,) = self.found(bright)
        self.assertEqual((one.finding.name, one.frames), ("highlights-clipped", tuple(range(COUNT))))
        page = [np.where(frame.max(axis=2, keepdims=True) < 120, 255, frame).astype(np.uint8) for frame in loop()]
        self.assertEqual(self.found(page), [])
        graphic = [((frame[..., :1] > 100) * np.uint8(255)).repeat(3, 2) for frame in loop()]
        graphic = [np.pad(one[2:-2, 2:-2], ((2, 2), (2, 2), (0, 0))) for one in graphic]
        self.assertNotIn("highlights-clipped", [one.finding.name for one in self.found(graphic)])

    def test_banding_unless_it_is_dithered(self):
        ramp = np.linspace(20, 32, 400)[None, :].repeat(300, 0)[..., None].repeat(3, 2)
        self.assertGreater(closer_of(np.rint(ramp).astype(np.uint8)).banding, 0.5)
        dithered = ramp + np.random.default_rng(1).uniform(-0.5, 0.5, ramp.shape[:2])[..., None]
        self.assertEqual(closer_of(np.rint(dithered).astype(np.uint8)).banding, 0)
        self.assertEqual(closer_of(np.full((300, 400, 3), 30, np.uint8)).banding, 0, "a plain colour")
        self.assertEqual(closer_of(scene(0)).banding, 0)

    def test_fringes_at_transparent_edges(self):
        y, x = np.mgrid[:HIGH, :WIDE].astype(float)
        alpha = np.clip(30 - np.hypot(x - 80, y - 45), 0, 4) / 4
        colour = np.array([180.0, 120.0, 90.0])
        for told, tends in ((0, None), (1, 0.0), (-1, 255.0)):
            own = np.broadcast_to(colour, (HIGH, WIDE, 3))
            if tends is not None:
                own = own * alpha[..., None] + tends * (1 - alpha[..., None])
            picture = np.rint(np.dstack([own, 255 * alpha])).astype(np.uint8)
            self.assertAlmostEqual(closer_of(picture).fringe, told, delta=0.2)

    def test_what_cannot_be_reviewed_is_a_sentence(self):
        with self.assertRaisesRegex(
            Mistake, r"a.000[023].png and a.000[023].png are not alike \(1[56]0 × 90.*1[56]0 × 90"
        ):
            self.found([*loop()[:3], scene(0)[:, :150]])
        folder = scratch(self)
        for n in (0, 1, 4):
            (folder / f"a.{n}.png").write_bytes(encoded_png(scene(0)))
        with self.assertRaisesRegex(Mistake, "2 frames of .* are missing"):
            reviewed(folder)

    def test_by_command_with_a_table(self):
        folder = scratch(self)
        frames = loop()
        frames[20] = scene(9 / COUNT)
        for n, frame in enumerate(frames):
            (folder / f"a.{n:04d}.png").write_bytes(encoded_png(frame))
        told = vexel("review", folder, "--loop", "--csv", folder / "f.csv")
        self.assertEqual(told.returncode, 0, told.stderr)
        self.assertIn("finding: Frame 20 is out of line", told.stdout)
        rows = (folder / "f.csv").read_text().splitlines()
        self.assertEqual((len(rows), rows[0].split(",")[:2]), (COUNT + 1, ["frame", "mean"]))
        footage, _ = reviewed(folder)
        self.assertIn(f"step       {255 * usual_step(measured(footage)):.2f} of 255", told.stdout)


if __name__ == "__main__":
    unittest.main()
