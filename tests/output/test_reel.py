"""A reel compiled: every frame is the one that the plan names, light adds up, and its sound ends with the picture."""

import json
import os
import subprocess
import unittest
from dataclasses import replace
from fractions import Fraction
from unittest import mock

import cv2
import numpy as np
import pyloudnorm
from scipy.io import wavfile

from tests.helpers import HEADER, scratch, vexel
from tests.output.test_recipes import changed, ffprobe, read_by_ffmpeg
from vexel.core.errors import Failure, Mistake
from vexel.core.recipes.shipped import RECIPES
from vexel.core.reel.node import shown_in
from vexel.core.reel.reel_spec import read_reel
from vexel.output.compiling.compile import compile_footage
from vexel.output.reel.analyse import picture_findings
from vexel.output.reel.kept_media import KeptPictures
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.open_reel import OpenReel, open_reel, still_of
from vexel.output.reel.reel_footage import footage_of_reel
from vexel.output.reel.reuse_cache import ReuseCache

WIDTH, HEIGHT, COUNT = 96, 64, 12
BITS = 6


def numbered(folder, name, red, count=COUNT, size=(WIDTH, HEIGHT)):
    """Stills that carry their number as six bars, black or white, on a colour that tells them apart."""
    place = folder / name
    place.mkdir()
    for n in range(count):
        picture = np.full((size[1], size[0], 3), (90, 120, red), np.uint8)
        for bit in range(BITS):
            picture[8:24, 8 + 12 * bit : 16 + 12 * bit] = 255 if n >> bit & 1 else 0
        cv2.imwrite(str(place / f"f.{n:04d}.png"), picture)
    return {"kind": "stills", "file": name, "rate": "24"}


def number_of(pixels):
    """The number in a picture of RGB."""
    return sum(1 << bit for bit in range(BITS) if pixels[16, 12 + 12 * bit].mean() > 128)


class ReelTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)
        self.red = numbered(self.folder, "red", 220)
        self.dark = numbered(self.folder, "dark", 40)

    def opened(self, *items, **parts):
        document = {"title": "Hall", "width": WIDTH, "height": HEIGHT, "items": list(items)} | parts
        reel = read_reel(json.dumps(document))
        return open_reel(reel, FolderLibrary(self.folder), self.folder)

    def compiled(self, reel, name="ffv1"):
        file = self.folder / f"out{RECIPES[name].suffix}"
        receipt = compile_footage(footage_of_reel(reel), file, RECIPES[name])
        self.assertTrue(receipt.holds, receipt)
        return file, receipt

    def test_every_frame_is_the_one_that_the_plan_names(self):
        reel = self.opened(
            self.red | {"repeat": 2, "order": "there-and-back", "transition": {"kind": "cross-dissolve", "frames": 4}},
            self.dark | {"first": 3, "hold_start": 2, "hold_end": 3},
            {"kind": "title", "text": "Tern Point", "frames": 5},
            {"kind": "group", "repeat": 2, "items": [self.red | {"last": 4}, self.dark | {"last": 2, "speed": 0.5}]},
            self.red | {"frames": 20},
        )
        file, receipt = self.compiled(reel)
        seen = read_by_ffmpeg(file, "rgb24")
        self.assertEqual(len(seen), reel.plan.frames)
        compared = 0
        for number, pixels in enumerate(seen):
            node = reel.plan.node(number)
            if type(node).__name__ == "Shown":
                self.assertEqual(number_of(pixels), node.frame, number)
                self.assertEqual(pixels[40, 40, 0] > 128, node.ref.place == "red")
                compared += 1
        self.assertGreater(compared, 80)
        chapters = [check for check in receipt.checks if check.what == "chapters"]
        self.assertEqual(chapters[0].found, "5")

    def test_what_is_shown_again_is_read_once_as_far_as_there_is_room(self):
        cell = {"item": self.red | {"fit": "cover"}}
        layout = {"kind": "layout", "arrangement": "row", "cells": [cell, {"item": self.dark}]}
        fade = {"transition": {"kind": "cross-dissolve", "frames": 4}}
        reel = self.opened(self.red | {"repeat": 2} | fade, layout, self.dark | {"order": "there-and-back"})
        numbers = range(reel.plan.frames)
        plain = [reel.brush.frame(reel.plan.frame(n), WIDTH, HEIGHT) for n in numbers]
        shown = [one for n in numbers for one in shown_in(reel.plan.node(n))]
        for room, reads in ((1 << 29, 2 * COUNT), (0, len(shown))):
            read = mock.Mock(side_effect=reel.read)
            with mock.patch("vexel.output.reel.reuse_cache.room", return_value=room):
                again = ReuseCache(reel.plan, numbers, read)
            brush = replace(reel.brush, fitted=again.fitted)
            for number in numbers:
                made = brush.frame(reel.plan.frame(number), WIDTH, HEIGHT)
                np.testing.assert_array_equal(made, plain[number], str(number))
            self.assertEqual(read.call_count, reads)
            # Another round, as files of a stated size need, reads anew.
            np.testing.assert_array_equal(brush.frame(reel.plan.frame(3), WIDTH, HEIGHT), plain[3])

    def test_pictures_that_are_kept_are_those_of_their_files(self):
        fade = {"transition": {"kind": "cross-dissolve", "frames": 4}}
        cells = [{"item": self.red | {"fit": "cover"}}, {"item": self.dark}]
        layout = {"kind": "layout", "arrangement": "row", "cells": cells}
        reel = self.opened(self.red | {"last": 9} | fade, self.dark | {"last": 9}, layout, self.red | {"fit": "none"})
        pictures = KeptPictures()
        numbers = (3, 7, 12, 20, 16 + COUNT + 4)
        for _ in range(2):
            for number in numbers:
                seen = still_of(reel, number, 60, pictures.fitted(reel))
                np.testing.assert_array_equal(seen, still_of(reel, number, 60), str(number))
        with mock.patch.object(OpenReel, "read", side_effect=AssertionError("read again")):
            still_of(reel, 7, 60, pictures.fitted(reel))
        changed = self.folder / "red/f.0003.png"
        cv2.imwrite(str(changed), np.full((HEIGHT, WIDTH, 3), 200, np.uint8))
        os.utime(changed, (1, 1))
        self.assertEqual(still_of(reel, 3, 60, pictures.fitted(reel)).min(), 200)

    def test_one_sequence_alone_leaves_byte_for_byte(self):
        reel = self.opened(self.red)
        folder = self.folder / "frames"
        compile_footage(footage_of_reel(reel), folder, RECIPES["frames"])
        made = sorted(folder.iterdir())
        self.assertEqual(len(made), COUNT)
        for file, own in zip(made, sorted((self.folder / "red").iterdir()), strict=True):
            self.assertEqual(file.read_bytes(), own.read_bytes())

    def test_a_fade_is_the_mean_of_the_light(self):
        reel = self.opened(self.red | {"transition": {"kind": "cross-dissolve", "frames": 3}}, self.dark)
        seen = read_by_ffmpeg(self.compiled(reel)[0], "rgb24")

        def light(codes):  # IEC 61966-2-1
            codes = np.asarray(codes) / 255
            return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)

        for number, share in ((9, 0.25), (10, 0.5), (11, 0.75)):
            mean = light([220, 120, 90]) * (1 - share) + light([40, 120, 90]) * share
            codes = 255 * np.where(mean <= 0.0031308, mean * 12.92, 1.055 * mean ** (1 / 2.4) - 0.055)
            np.testing.assert_allclose(seen[number][40, 40], codes, atol=0.5)

    def test_wipes_slides_and_layouts_lie_where_they_say(self):
        wipe, slide = ({"kind": kind, "frames": 3, "towards": "left"} for kind in ("wipe", "slide"))
        half = {
            "kind": "layout",
            "arrangement": "row",
            "cells": [{"item": self.red}, {"item": self.dark, "margin": 0.1}],
        }
        line = {"kind": "layout", "arrangement": "divided", "divider": [[0, 0], [1, 1]],
                "cells": [{"item": self.red}, {"item": self.dark}]}  # fmt: skip
        reel = self.opened(self.red | {"transition": wipe}, self.dark | {"transition": slide}, self.red, half, line)
        seen = read_by_ffmpeg(self.compiled(reel)[0], "rgb24")
        reds = [(pixels[40, :, 0] > 128).mean() for pixels in seen]
        np.testing.assert_allclose(reds[9:12], [0.75, 0.5, 0.25], atol=0.01)
        np.testing.assert_allclose(reds[18:21], [0.25, 0.5, 0.75], atol=0.01)
        np.testing.assert_allclose(reds[-12:], np.arange(12) / 11, atol=0.01)
        cells = seen[30 + 3]
        self.assertTrue((cells[32, 47] == (220, 120, 90)).all() and (cells[32, 49] == (0x2B, 0x2F, 0x33)).all())
        self.assertTrue((cells[32, 60] == (40, 120, 90)).all())

    def test_sound_ends_with_the_picture_at_its_level(self):
        tone = [
            "ffmpeg",
            "-v",
            "error",
            "-f",
            "lavfi",
            "-i",
            "anoisesrc=d=4:a=0.1:r=44100:seed=1",
            self.folder / "n.wav",
        ]
        subprocess.run(tone, check=True)
        sounds = [
            {"file": "n.wav", "gain_db": -6, "fade_in": 0.5},
            {"file": "n.wav", "at": 1, "first": 1, "seconds": 0.5},
        ]
        reel = self.opened(self.red | {"repeat": 4}, sound=sounds, loudness=-23, rate="24")
        footage = footage_of_reel(reel)
        file = self.folder / "sound.mov"
        receipt = compile_footage(footage, file, RECIPES["prores-422-hq"])
        self.assertTrue(receipt.holds, receipt)
        run = ["ffmpeg", "-v", "error", "-i", file, "-f", "f32le", "-ac", "2", "-"]
        heard = np.frombuffer(subprocess.run(run, check=True, capture_output=True).stdout, np.float32).reshape(-1, 2)
        self.assertEqual(len(heard), 2 * 48_000)
        self.assertAlmostEqual(pyloudnorm.Meter(48_000).integrated_loudness(heard), -23, delta=0.15)
        self.assertEqual(float(np.abs(heard[:2]).max()), 0)
        _, receipt = self.compiled(reel, "gif")
        self.assertIn("GIF holds no sound: that of the reel is left out", receipt.notes)
        silent = self.opened(self.red, sound=[{"file": "red/f.0000.png"}])
        with self.assertRaisesRegex(Mistake, "f.0000.png is not a video or sound file"):
            compile_footage(footage_of_reel(silent), self.folder / "silent.mp4", RECIPES["h264"])

    def test_a_stretch_has_its_own_sound_and_what_is_played_again_is_heard_again(self):
        rising = np.arange(4 * 48_000, dtype=np.float32) / (4 * 48_000)
        (self.folder / "rise.f32").write_bytes(rising.tobytes())
        made = ["ffmpeg", "-v", "error", "-f", "f32le", "-ar", "48000", "-i", self.folder / "rise.f32"]
        subprocess.run([*made, "-c:a", "pcm_f32le", self.folder / "rise.wav"], check=True)
        reel = self.opened(self.red | {"repeat": 4}, sound=[{"file": "rise.wav"}])
        recipe = changed("prores-422-hq", timing={"frames": "24-35", "repeats": 2})
        compile_footage(footage_of_reel(reel), self.folder / "s.mov", recipe)
        run = ["ffmpeg", "-v", "error", "-i", self.folder / "s.mov", "-f", "f32le", "-ac", "1", "-"]
        heard = np.frombuffer(subprocess.run(run, check=True, capture_output=True).stdout, np.float32)
        expected = np.tile(rising[48_000:72_000], 2)
        self.assertEqual(len(heard), len(expected))
        np.testing.assert_allclose(heard / heard.max(), expected / expected.max(), atol=2e-4)

    def test_nothing_is_put_together_without_a_word(self):
        gap = {"kind": "gap", "frames": 3}
        for name in ("zip", "frames"):
            with self.assertRaisesRegex(Mistake, "these are composed: use png"):
                compile_footage(footage_of_reel(self.opened(self.red, gap)), self.folder / name, RECIPES[name])
        with self.assertRaisesRegex(Failure, "the reel none.json is missing"):
            footage_of_reel(self.opened(self.red, {"kind": "reel", "reel": "none.json"}))
        swinging = {"kind": "dip-to-colour", "frames": 8, "ease": "spring(0.6)"}
        reel = self.opened(self.red | {"frames": 30, "between": "true", "transition": swinging}, self.dark)
        notes = " ".join(self.compiled(reel)[1].notes)
        self.assertIn("has 12 frames for 30 in the reel, which repeats 18", notes)

    def test_pictures_tell_what_documents_do_not(self):
        place = self.folder / "blinks"
        place.mkdir()
        for n in range(48):
            cv2.imwrite(str(place / f"b.{n:02d}.png"), np.full((HEIGHT, WIDTH, 3), 255 * (n // 2 % 2), np.uint8))
        still = {"kind": "stills", "file": "red/f.0007.png", "frames": 4}
        blinks = {"kind": "stills", "file": "blinks", "rate": "24"}
        reel = self.opened(self.red | {"last": 7}, still, blinks)
        found = {finding.name: finding for finding in picture_findings(reel)[0]}
        self.assertEqual(set(found), {"frame-doubled", "flashes"})
        self.assertIn("The last picture of", found["frame-doubled"].what)
        notes = " ".join(self.compiled(reel)[1].notes)
        self.assertIn("Flashes more than three times a second", notes)
        self.assertNotIn("Flashes", " ".join(self.compiled(self.opened(self.red), "h264")[1].notes))

    def test_sound_and_reels_within_say_what_does_not_fit(self):
        wavfile.write(self.folder / "tide.wav", 48_000, np.zeros((96_000, 2), np.float32))
        inner = {"title": "Inner", "items": [self.red], "sound": [{"file": "tide.wav"}], "mark": {"file": "m.png"}}
        (self.folder / "in.json").write_text(json.dumps(inner))
        within = {"kind": "reel", "reel": "in.json"}
        for document, name, said in (
            ({"sound": [{"file": "tide.wav"}]}, "sound-ends-early", "ends at 2 s, the picture at 5 s"),
            ({"sound": [{"file": "tide.wav", "at": 4}]}, "sound-too-long", "lasts to 6 s"),
            ({"sound": [{"file": "lost.wav"}]}, "sound-missing", "no such file"),
            ({}, "reel-within", "not its mark and sound"),
        ):
            with self.subTest(name):
                item = within if name == "reel-within" else self.red | {"repeat": 10}
                (finding,) = (one for one in self.opened(item, **document).findings if one.name == name)
                self.assertIn(said, finding.what)

    def test_images_that_are_gone_are_left_out_of_what_is_seen_and_of_no_file(self):
        card = {"kind": "title", "text": "Tern Point", "frames": 72, "image": "lost.jpg"}
        reel = self.opened(card, mark={"file": "lost.png"})
        self.assertEqual([finding.name for finding in reel.findings], ["image-missing"] * 2)
        self.assertGreater(still_of(reel, 0).std(), 1)
        with self.assertRaisesRegex(Failure, "behind Tern Point cannot be opened: lost.jpg"):
            footage_of_reel(reel)
        cv2.imwrite(str(self.folder / "lost.jpg"), np.full((64, 96, 3), (10, 90, 200), np.uint8))
        cv2.imwrite(str(self.folder / "lost.png"), np.full((9, 9, 3), 255, np.uint8))
        again = self.opened(card, mark={"file": "lost.png"})
        self.assertEqual(list(again.findings), [])
        self.assertGreater(still_of(again, 0)[2, 2, 0], 180)

    def test_what_is_gone_is_a_hole_that_is_named(self):
        reel = self.opened(self.red, {"kind": "clip", "file": "lost.mp4", "frames": 10}, self.dark)
        self.assertEqual(reel.plan.frames, 34)
        self.assertGreater(int(still_of(reel, 15, 48)[..., 0].std()), 5)
        with self.assertRaisesRegex(Failure, "lost.mp4 of the reel is missing: there is no file lost.mp4"):
            footage_of_reel(reel)

    def test_frames_of_a_clip_last_as_long_as_it_says(self):
        """Against ffmpeg's own conversion to an even rate."""
        clip, even = self.folder / "uneven.mkv", self.folder / "even.mkv"
        kept = "select='not(between(n,20,44))*not(between(n,60,70)*mod(n,2))'"
        source = ["-f", "lavfi", "-i", "testsrc2=size=160x96:rate=30:duration=3", "-vf", kept, "-fps_mode", "vfr"]
        lossless = ["-c:v", "ffv1", "-pix_fmt", "bgr0"]
        subprocess.run(["ffmpeg", "-v", "error", *source, *lossless, clip], check=True)
        subprocess.run(["ffmpeg", "-v", "error", "-i", clip, "-vf", "fps=30", *lossless, even], check=True)
        reel = self.opened({"kind": "clip", "file": "uneven.mkv"}, rate="30", width=160, height=96)
        truth = read_by_ffmpeg(even, "rgb24").astype(int)
        self.assertEqual(reel.plan.frames, len(truth))
        for number, pixels in enumerate(truth):
            np.testing.assert_array_equal(still_of(reel, number), pixels, str(number))
        self.assertIn("frames of unequal length fill 90, 30 fps", " ".join(footage_of_reel(reel).notes))

    def test_clips_of_elsewhere_and_other_reels(self):
        size = f"{WIDTH}x{HEIGHT}"
        made = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", f"testsrc2=s={size}:r=30:d=1", self.folder / "c.webm"]
        subprocess.run(made, check=True)
        (self.folder / "inner").mkdir()
        inner = {
            "title": "Inner",
            "items": [{"kind": "stills", "file": "../red", "rate": "24"}],
            "width": 32,
            "height": 32,
        }
        (self.folder / "inner/in.json").write_text(json.dumps(inner))
        reel = self.opened({"kind": "clip", "file": "c.webm"}, {"kind": "reel", "reel": "inner/in.json", "repeat": 2})
        self.assertEqual(reel.plan.frames, 24 + 24)
        self.compiled(reel)
        (self.folder / "inner/in.json").write_text(json.dumps(inner | {"items": [{"kind": "reel", "reel": "in.json"}]}))
        with self.assertRaisesRegex(Mistake, "contains itself"):
            self.opened({"kind": "reel", "reel": "inner/in.json"})

    def test_what_a_take_of_several_passes_shows_is_its_first_unless_it_is_said(self):
        code = "@model\ndef post(instant=None):\n    return pv.Cube().rotate_z(90 * float(instant.phase))\n"
        (self.folder / "post.py").write_text(HEADER + code)
        shot = {
            "title": "Post", "source": {"kind": "model", "file": "post.py"}, "clock": {"rate": "24", "frames": 4},
            "picture": {"width": WIDTH, "height": HEIGHT, "samples": 1, "passes": ["shaded", "wire"]},
        }  # fmt: skip
        (self.folder / "post.json").write_text(json.dumps(shot))
        done = vexel("capture", self.folder / "post.json", "--to", self.folder / "post", "--trust")
        self.assertEqual(done.returncode, 0, done.stderr)
        item = {"kind": "take", "take": "post"}
        reel = self.opened(item, item | {"render_pass": "wire"}, {"kind": "shot", "shot": "post.json"})
        self.assertEqual(reel.plan.names, ("Post, shaded", "Post, wire", "Post, shaded"))
        first, second = (still_of(reel, number).astype(int) for number in (0, 4))
        own = cv2.imread(str(self.folder / "post/post.shaded.0000.png"))[..., ::-1].astype(int)
        np.testing.assert_array_equal(first, own)
        self.assertGreater(np.abs(second - first).max(), 20)
        differ = [finding.name for finding in reel.findings]
        self.assertNotIn("looks-differ", differ, "passes are meant to look otherwise")
        with self.assertRaisesRegex(Failure, "no depth"):
            footage_of_reel(self.opened(item | {"render_pass": "depth"}))

    def test_by_command_shots_are_captured_and_instants_between_their_frames_too(self):
        code = "@model\ndef post(turn=dial(0, low=0, high=90)):\n    return pv.Cube().rotate_z(turn)\n"
        (self.folder / "post.py").write_text(HEADER + code)
        shot = {
            "title": "Post", "source": {"kind": "model", "file": "post.py"}, "clock": {"rate": "24", "frames": 8},
            "lanes": [{"drive": "dial:turn", "keys": [[0, 0], [1, 90]]}],
            "picture": {"width": WIDTH, "height": HEIGHT, "samples": 1},
        }  # fmt: skip
        (self.folder / "post.json").write_text(json.dumps(shot))
        item = {"kind": "shot", "shot": "post.json", "repeat": 2, "frames": 12, "between": "true"}
        document = {"title": "Posts", "width": WIDTH, "height": HEIGHT, "items": [item]}
        (self.folder / "r.json").write_text(json.dumps(document))
        told = json.loads(vexel("plan", self.folder / "r.json", "--json").stdout)
        self.assertEqual((told["frames"], told["to_capture"]), (12, {"post.json": 4}))
        run = vexel("reel", self.folder / "r.json", "-o", self.folder / "r.mkv", "--trust")
        self.assertEqual(run.returncode, 0, run.stderr)
        seen = read_by_ffmpeg(self.folder / "r.mkv", "rgb24")
        # The same shot given as many frames as a turn of the reel has.
        (self.folder / "six.json").write_text(json.dumps(shot | {"clock": {"rate": "24", "frames": 6}}))
        self.assertEqual(
            vexel("capture", self.folder / "six.json", "--to", self.folder / "six", "--trust").returncode, 0
        )
        for number, pixels in enumerate(seen):
            own = cv2.imread(str(self.folder / f"six/post.shaded.{number % 6:04d}.png"))[..., ::-1]
            np.testing.assert_array_equal(pixels, own, err_msg=str(number))
        labels = [{"text": "{turn:.2f}"}]
        library = FolderLibrary(self.folder)
        plan = open_reel(read_reel(json.dumps(document | {"labels": labels})), library, self.folder).plan
        said = [float(plan.frame(number).labels[0].text) for number in range(6)]
        np.testing.assert_allclose(said, np.arange(6) * 15, atol=0.01)
        again = vexel("reel", self.folder / "r.json", "-o", self.folder / "r.mkv")
        self.assertIn("is there already", again.stderr)
        again = vexel("reel", self.folder / "r.json", "-o", self.folder / "r.mkv", "--overwrite")
        self.assertIn("0 made, 8 reused", again.stderr)
        self.assertEqual(Fraction(ffprobe(self.folder / "r.mkv")["r_frame_rate"]), 24)


if __name__ == "__main__":
    unittest.main()
