"""Clips: exact counts against ffprobe, any frame by its number, odd rates told."""

import json
import subprocess
import unittest
from fractions import Fraction

import numpy as np

from tests.helpers import asked, scratch
from vexel.core.checks.source_sentences import source_sentence
from vexel.sources.kinds.clip import ClipFile
from vexel.sources.pictures.mixing import mixed
from vexel.sources.protocols import SourceError

BARS = "testsrc2=s=160x120:r={rate}:d={seconds}"


def ffmpeg(*arguments):
    subprocess.run(["ffmpeg", "-v", "error", "-y", *map(str, arguments)], check=True)


def frames_of(file):
    """All frames, decoded by Debian's ffmpeg as an outside reader."""
    raw = subprocess.run(
        ["ffmpeg", "-v", "error", "-i", file, "-f", "rawvideo", "-pix_fmt", "rgba", "-fps_mode", "passthrough", "-"],
        capture_output=True, check=True,
    ).stdout  # fmt: skip
    return np.frombuffer(raw, np.uint8).reshape(-1, 120, 160, 4)


def count_of(file):
    told = subprocess.run(
        ["ffprobe", "-v", "error", "-count_frames", "-select_streams", "v", "-show_streams", "-of", "json", file],
        capture_output=True, check=True,
    ).stdout  # fmt: skip
    return int(json.loads(told)["streams"][0]["nb_read_frames"])


class ClipTest(unittest.TestCase):
    def setUp(self):
        self.folder = scratch(self)

    def frame(self, source, number):
        return source.show(asked({"slot": number}))

    def test_any_frame_by_its_number(self):
        for name, codec in (("a.mp4", "libx264"), ("a.webm", "libvpx-vp9"), ("a.mov", "prores_ks"), ("a.avi", "mpeg4")):
            with self.subTest(codec):
                file = self.folder / name
                ffmpeg("-f", "lavfi", "-i", BARS.format(rate="30000/1001", seconds=2), "-c:v", codec, file)
                source, expected = ClipFile(file), frames_of(file)
                self.assertEqual(source.facts.source_frames.count, count_of(file))
                self.assertEqual(source.facts.source_frames.rate, "30000/1001")
                self.assertEqual(source.facts.findings, ())
                for number in (0, 41, 7, 8, 9, len(expected) - 1, 30):
                    got = self.frame(source, number).astype(int)
                    others = [np.abs(got - expected[n])[..., :3].mean() for n in range(len(expected))]
                    self.assertEqual(int(np.argmin(others)), number)
                    self.assertLess(others[number], 4, "colours are those that ffmpeg gives")

    def test_between_two_frames_both_are_seen(self):
        file = self.folder / "a.mp4"
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate="24", seconds=1), "-c:v", "libx264", file)
        plain, blend = ClipFile(file), ClipFile(file, between="blend")
        self.assertEqual((plain.facts.source_frames.mixed, blend.facts.source_frames.mixed), (False, True))
        for slot in (3, 4, 9, 4):
            half = blend.show(asked({"slot": slot, "part": Fraction(1, 2)}))
            expected = mixed([(self.frame(plain, slot), 0.5), (self.frame(plain, slot + 1), 0.5)])
            np.testing.assert_array_equal(half, expected)

    def test_a_variable_rate_is_found_and_said(self):
        file = self.folder / "v.mp4"
        pace = "setpts='if(lt(N,10),N,10+(N-10)*3)/(25*TB)'"
        ffmpeg(
            "-f",
            "lavfi",
            "-i",
            BARS.format(rate=25, seconds=1),
            "-vf",
            pace,
            "-fps_mode",
            "vfr",
            "-c:v",
            "libx264",
            file,
        )
        facts = ClipFile(file).facts
        self.assertEqual((facts.source_frames.count, len(facts.source_frames.times)), (25, 25))
        self.assertIn("durations vary, from 0.04 to 0.12 s", source_sentence(facts.findings[0]))

    def test_alpha_comes_along(self):
        file = self.folder / "a.webm"
        half = "geq=r=200:g=40:b=40:a='if(lt(X,80),255,0)'"
        ffmpeg(
            "-f",
            "lavfi",
            "-i",
            "color=c=red:s=160x120:r=10:d=0.5,format=rgba",
            "-vf",
            half,
            "-c:v",
            "libvpx-vp9",
            "-pix_fmt",
            "yuva420p",
            file,
        )
        alpha = self.frame(ClipFile(file), 2)[60, :, 3]
        self.assertGreater(alpha[20], 240)
        self.assertLess(alpha[140], 15)

    def test_a_turned_clip_stands_upright(self):
        plain, turned = self.folder / "p.mp4", self.folder / "t.mp4"
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate=10, seconds=0.5), "-c:v", "libx264", plain)
        ffmpeg("-i", plain, "-c", "copy", "-metadata:s:v:0", "rotate=90", turned)
        source = ClipFile(turned)
        picture = self.frame(source, 0)
        self.assertEqual(picture.shape, (160, 120, 4))
        raw = subprocess.run(
            ["ffmpeg", "-v", "error", "-i", turned, "-frames:v", "1", "-f", "rawvideo", "-pix_fmt", "rgba", "-"],
            capture_output=True, check=True,
        ).stdout  # fmt: skip
        expected = np.frombuffer(raw, np.uint8).reshape(160, 120, 4).astype(int)
        self.assertLess(np.abs(picture - expected)[..., :3].mean(), 4, "as ffmpeg turns it")
        self.assertEqual(source.facts.findings[0].code, "rotated")

    def test_what_is_no_video_is_a_sentence(self):
        file = self.folder / "a.mp4"
        sound = self.folder / "s.m4a"
        ffmpeg("-f", "lavfi", "-i", "sine=d=0.2", sound)
        ffmpeg("-f", "lavfi", "-i", BARS.format(rate=10, seconds=1), "-c:v", "libx264", file)
        whole = file.read_bytes()
        for data, words in (
            (b"", "a.mp4 cannot be read as a video"),
            (b"hello" * 99, "a.mp4 cannot be read as a video"),
            (whole[:900], "a.mp4 cannot be read as a video"),
            (sound.read_bytes(), "holds no picture stream"),
        ):
            file.write_bytes(data)
            with self.assertRaisesRegex(SourceError, words):
                ClipFile(file)


if __name__ == "__main__":
    unittest.main()
