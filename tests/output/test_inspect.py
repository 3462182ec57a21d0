"""What `inspect` says of videos that Debian's ffmpeg made, against what its ffprobe says."""

import itertools
import json
import os
import subprocess
import unittest
from fractions import Fraction

from tests.helpers import scratch, vexel
from vexel.output.inspecting.inspect import inspect

PLAIN = ("-f", "lavfi", "-i", "testsrc2=d=2:r={rate}:s=96x64")
KINDS = {
    "h264.mp4": ("-c:v", "libx264", "-bf", "2"), "h264.mkv": ("-c:v", "libx264"), "h264.mov": ("-c:v", "libx264"),
    "h264.ts": ("-c:v", "libx264"), "raw.h264": ("-c:v", "libx264", "-bf", "0"), "h265.mp4": ("-c:v", "libx265"),
    "vp8.webm": ("-c:v", "libvpx"), "vp9.webm": ("-c:v", "libvpx-vp9", "-deadline", "realtime"),
    "ffv1.mkv": ("-c:v", "ffv1"), "prores.mov": ("-c:v", "prores_ks"), "mpeg2.mpg": ("-c:v", "mpeg2video"),
    "mpeg4.avi": ("-c:v", "mpeg4"), "mjpeg.mov": ("-c:v", "mjpeg"), "small.gif": (), "vp8a.webm": (
        "-vf", "format=rgba,colorchannelmixer=aa=0.5", "-c:v", "libvpx", "-pix_fmt", "yuva420p", "-auto-alt-ref", "0"),
    "vp9a.webm": ("-vf", "format=rgba,colorchannelmixer=aa=0.5", "-c:v", "libvpx-vp9", "-pix_fmt", "yuva420p",
                  "-deadline", "realtime"),
    "hdr.mp4": ("-c:v", "libx265", "-pix_fmt", "yuv420p10le", "-color_primaries", "bt2020", "-color_trc", "smpte2084",
                "-colorspace", "bt2020nc"),
    "wide.mp4": ("-c:v", "libx264", "-vf", "setsar=2"), "lines.mpg": (
        "-c:v", "mpeg2video", "-vf", "setfield=tff", "-flags", "+ilme+ildct"),
}  # fmt: skip
RATES = ("25", "30000/1001", "50")
LONG = "VEXEL_TEST_LONG" in os.environ
CASES = list(itertools.product(KINDS, RATES) if LONG else zip(KINDS, itertools.cycle(RATES), strict=False))
"""All kinds at all rates, or each at one of them."""


def ffmpeg(*words, folder):
    subprocess.run(["ffmpeg", "-v", "error", "-y", *map(str, words)], cwd=folder, check=True)


def probed(file):
    command = ["ffprobe", "-v", "error", "-count_frames", "-show_streams", "-show_format", "-of", "json", file]
    found = json.loads(subprocess.run(command, capture_output=True, check=True).stdout)
    return next(stream for stream in found["streams"] if stream["codec_type"] == "video")


class LeftoversTest(unittest.TestCase):
    """Files of a folder that do not belong to the rest, and a copy without them."""

    def setUp(self):
        self.folder = scratch(self) / "frames"
        self.folder.mkdir()
        ffmpeg("-f", "lavfi", "-i", "testsrc2=d=1:r=20:s=96x64", "a.%03d.png", folder=self.folder)
        self.files = sorted(self.folder.iterdir())
        for place, file in enumerate(self.files):
            os.utime(file, (1_800_000_000 + 3 * place,) * 2)

    def findings(self):
        return inspect(self.folder)["findings"]

    def test_nothing_is_found_in_one_export(self):
        self.assertEqual(self.findings(), [])
        # Frames that take minutes each are no leftovers of each other.
        for place, file in enumerate(self.files):
            os.utime(file, (1_800_000_000 + 700 * place,) * 2)
        self.assertEqual(self.findings(), [])

    def test_sizes_and_ages_are_found_and_a_clean_copy_leaves_them_out(self):
        ffmpeg("-f", "lavfi", "-i", "testsrc2=d=0.05:r=20:s=48x32", "-frames:v", "1", self.files[5], folder=self.folder)
        for file in self.files[:3]:
            os.utime(file, (1_800_000_000 - 7200,) * 2)
        os.utime(self.files[5], (1_800_000_020,) * 2)
        size, age = self.findings()
        self.assertIn("1 file has another size than most, such as a.006.png", size)
        self.assertIn("3 files are 2.0 h older than the rest, such as a.001.png", age)
        before = {file.name: file.stat().st_mtime_ns for file in self.folder.iterdir()}
        target = self.folder.parent / "clean"
        done = vexel("inspect", self.folder, "--clean-copy", target)
        self.assertIn("16 files copied", done.stdout, done.stderr)
        left = {file.name for file in self.files[:3]} | {self.files[5].name}
        self.assertEqual({file.name for file in target.iterdir()}, {file.name for file in self.files} - left)
        self.assertEqual((target / "a.010.png").read_bytes(), self.files[9].read_bytes())
        self.assertEqual({file.name: file.stat().st_mtime_ns for file in self.folder.iterdir()}, before)
        for wrong, says in ((target, "exists"), (self.folder / "clean", "is within the folder")):
            done = vexel("inspect", self.folder, "--clean-copy", wrong)
            self.assertEqual(done.returncode, 2)
            self.assertIn(says, done.stderr)
        self.assertEqual({file.name: file.stat().st_mtime_ns for file in self.folder.iterdir()}, before)


class InspectVideoTest(unittest.TestCase):
    def test_facts_of_many_kinds_are_those_of_ffprobe(self):
        folder = scratch(self)
        for name, rate in CASES:
            with self.subTest(name, rate=rate):
                if rate == "50" and name.endswith(".mpg"):
                    continue
                plain = [word.format(rate=rate) for word in PLAIN]
                ffmpeg(*plain, *KINDS[name], name, folder=folder)
                facts, stream = inspect(folder / name)["facts"], probed(folder / name)
                self.assertEqual(facts["codec"], stream["codec_name"])
                self.assertEqual(facts["frames"], int(stream["nb_read_frames"]))
                wide, high = stream["width"], stream["height"]
                aspect = Fraction(stream.get("sample_aspect_ratio", "1:1").replace(":", "/"))
                self.assertEqual(facts["size"], f"{round(wide * aspect)} × {high}")
                # A raw stream states no rate and a GIF only hundredths; ffprobe takes 25, and means.
                if name not in ("raw.h264", "small.gif"):
                    self.assertEqual(Fraction(facts["rate"]), Fraction(rate))
                    self.assertAlmostEqual(float(facts["seconds"]), facts["frames"] / float(Fraction(rate)), places=3)
                self.assertEqual(facts["alpha"], "yes" if "8a" in name or "9a" in name else
                                 facts["alpha"] if name == "small.gif" else "none")  # fmt: skip
                if "color_primaries" in stream:
                    self.assertIn(stream["color_primaries"], facts["colour"])

    def test_what_is_odd_is_said(self):
        folder = scratch(self)
        plain = [word.format(rate="25") for word in PLAIN]
        ffmpeg(*plain, "-c:v", "libx264", "-bf", "2", "-g", "12", "a.mp4", folder=folder)
        for name, order, words, frames in (
            ("wide.mp4", (*plain, *KINDS["wide.mp4"]), "its pixels are 2:1, not square", 50),
            ("hdr.mp4", (*plain, *KINDS["hdr.mp4"]), "it is HDR video", 50),
            ("lines.mpg", (*plain, *KINDS["lines.mpg"]), "its frames are interlaced", 50),
            ("turned.mp4", ("-i", "a.mp4", "-c", "copy", "-metadata:s:v:0", "rotate=90"), "rotated by", 50),
            ("uneven.mkv", (*plain, "-vf", "setpts='(N+floor((N+1)/2))*40/1000/TB'", "-fps_mode", "vfr", "-c:v",
                            "ffv1"), "frame durations vary", 50),
            # An edit list that leaves the first frames out: 25 a second still, and not 50 in 1.5 s.
            ("edit.mp4", ("-ss", "0.6", "-i", "a.mp4", "-c", "copy"), None, 35),
        ):  # fmt: skip
            with self.subTest(name):
                ffmpeg(*order, name, folder=folder)
                found = inspect(folder / name)
                self.assertEqual(found["facts"]["frames"], frames)
                if words:
                    self.assertIn(words, " ".join(found["findings"]))
                else:
                    self.assertEqual(found["facts"]["rate"], "25/1")

    def test_jumps_of_a_transport_stream(self):
        """Two streams put together: ffmpeg's own reading of them for a new file has no gap either."""
        folder = scratch(self)
        plain = [word.format(rate="25") for word in PLAIN]
        ffmpeg(*plain, "-c:v", "libx264", "-bf", "2", "a.ts", folder=folder)
        ffmpeg(*plain, "-c:v", "libx264", "-bf", "2", "-output_ts_offset", "3600", "b.ts", folder=folder)
        parts = {name: (folder / f"{name}.ts").read_bytes() for name in "ab"}
        for order in ("ab", "ba", "aa"):
            file = folder / f"{order}.ts"
            file.write_bytes(b"".join(parts[name] for name in order))
            found = inspect(file)
            self.assertEqual([found["facts"][name] for name in ("frames", "rate", "seconds")], [100, "25/1", "4"])
            self.assertIn(
                "the times in the file jump 1 time, first before frame 50: the frames follow each other there",
                found["findings"],
            )
        # The clock of such a stream begins anew after 26.5 hours.
        ffmpeg(*plain, "-c:v", "libx264", "-output_ts_offset", "95442.5", "w.ts", folder=folder)
        self.assertEqual([inspect(folder / "w.ts")["facts"][name] for name in ("frames", "rate")], [50, "25/1"])

    def test_sound_is_told(self):
        folder = scratch(self)
        plain = [word.format(rate="25") for word in PLAIN]
        ffmpeg(*plain, "-f", "lavfi", "-i", "sine=d=2", "-c:v", "libx264", "-ac", "1", "-ar", "44100", "s.mp4",
               folder=folder)  # fmt: skip
        self.assertRegex(inspect(folder / "s.mp4")["facts"]["sound"], r"aac, 44,100 Hz, mono, 2(\.\d+)? s")


if __name__ == "__main__":
    unittest.main()
