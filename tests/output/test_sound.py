"""Sound: where it begins, how loud it is, and what a mix that is too loud comes to.

Files are made by Debian's ffmpeg.
"""

import json
import subprocess
import unittest
from fractions import Fraction

import numpy as np

from tests.helpers import scratch
from vexel.core.errors import Mistake
from vexel.core.recipes.shipped import RECIPES
from vexel.core.reel.reel_spec import SoundSpec, read_reel
from vexel.core.reel.sound.own_sound import own_sounds
from vexel.output.compiling.compile import compile_footage
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.open_reel import open_reel
from vexel.output.reel.reel_footage import footage_of_reel
from vexel.output.reel.reel_sound import ReelSound, sound_of
from vexel.output.writers.sound import RATE, Level, decoded

TONE = "sine=997:r=48000:d=2"
"""At an eighth of full scale, as ffmpeg documents its source."""


def made(file, *words):
    subprocess.run(["ffmpeg", "-v", "error", "-y", *map(str, words), str(file)], check=True)
    return file


def loud(frequency):
    return f"aevalsrc='0.9*sin(2*PI*{frequency}*t)':s=48000:d=3"


class DecodedTest(unittest.TestCase):
    def test_sound_that_begins_later_than_its_file_has_silence_there(self):
        pictures = ("-f", "lavfi", "-i", "testsrc2=r=25:s=64x48:d=2")
        late = ("-itsoffset", "0.5", "-f", "lavfi", "-i", "sine=997:r=48000:d=1", "-map", "0:v", "-map", "1:a")
        for name, codec in (("a.mkv", "flac"), ("a.mp4", "aac"), ("a.ts", "mp2")):
            with self.subTest(name):
                samples = decoded(made(scratch(self) / name, *pictures, *late, "-c:a", codec))
                heard = np.flatnonzero(np.abs(samples[0]) > 0.02)
                self.assertAlmostEqual(heard[0] / RATE, 0.5, delta=0.005)
                self.assertAlmostEqual(heard[-1] / RATE, 1.5, delta=0.03)

    def test_one_channel_is_heard_on_both_sides_as_it_is(self):
        samples = decoded(made(scratch(self) / "a.wav", "-f", "lavfi", "-i", TONE))
        np.testing.assert_allclose(np.abs(samples).max(axis=1), 1 / 8, atol=1e-3)

    def test_what_is_no_sound_is_said(self):
        file = scratch(self) / "a.wav"
        file.write_text("no sound")
        with self.assertRaisesRegex(Mistake, "a.wav"):
            decoded(file)


class LevelTest(unittest.TestCase):
    def mix(self, **parts):
        folder = scratch(self)
        for name, frequency in (("a", 440), ("b", 550)):
            made(folder / f"{name}.wav", "-f", "lavfi", "-i", loud(frequency))
        return ReelSound([SoundSpec(file="a.wav"), SoundSpec(file="b.wav")], folder, **parts)

    def test_a_mix_that_is_too_loud_is_found_and_each_fix_holds(self):
        mix = self.mix()
        (finding,) = mix.level_findings(Fraction(3))
        # Two tones of 0.9 come to 1.8: 20 log10 1.8 = 5.1 dB.
        self.assertRegex(finding.what, r"reaches 5\.[01] dBFS, and 3\d\.\d% of it is above 0")
        lower, limit, loudness = (fix.patch for fix in finding.fixes)
        quieter = ReelSound([SoundSpec(**one) for one in lower["sound"]], mix.folder)
        for fixed in (quieter, self.mix(**limit), self.mix(**loudness)):
            self.assertEqual(list(fixed.level_findings(Fraction(3))), [])
        held, _ = self.mix(limit=True).samples(3 * RATE)
        plain, _ = mix.samples(3 * RATE)
        self.assertAlmostEqual(Level.of(held).peak, -1, delta=0.01)
        self.assertGreater(np.corrcoef(held[0], plain[0])[0, 1], 0.99, "it is the same sound, at the same time")

    def test_the_receipt_states_the_peak(self):
        folder = self.mix().folder
        title = {"kind": "title", "text": "a", "frames": 24}
        for gain, holds in ((0, False), (-6, True)):
            sounds = [{"file": f"{name}.wav", "gain_db": gain} for name in "ab"]
            reel = {"title": "r", "width": 64, "height": 48, "items": [title], "sound": sounds}
            shown = footage_of_reel(open_reel(read_reel(json.dumps(reel)), FolderLibrary(folder), folder))
            receipt = compile_footage(shown, folder / f"r{gain}.mp4", RECIPES["h264"])
            (peak,) = (check for check in receipt.checks if check.what == "peak")
            self.assertEqual((peak.holds, receipt.holds), (holds, holds), peak)


class OwnSoundTest(unittest.TestCase):
    def opened(self, *items):
        folder = scratch(self)
        made(folder / "a.mp4", "-f", "lavfi", "-i", "testsrc2=r=24:s=64x48:d=2", "-f", "lavfi", "-i", TONE)
        made(folder / "mute.mp4", "-f", "lavfi", "-i", "testsrc2=r=24:s=64x48:d=2")
        reel = {"title": "r", "width": 64, "height": 48, "items": list(items)}
        return open_reel(read_reel(json.dumps(reel)), FolderLibrary(folder), folder)

    def test_it_is_heard_where_the_clip_is_seen(self):
        clip = {"kind": "clip", "file": "a.mp4", "audible": True, "first": 12, "last": 35}
        reel = self.opened({"kind": "gap", "frames": 12}, clip)
        samples, _ = sound_of(reel.plan, reel.folder).samples(36 * RATE // 24)
        heard = np.flatnonzero(np.abs(samples[0]) > 0.02)
        self.assertAlmostEqual(heard[0] / RATE, 0.5, delta=0.01)
        self.assertAlmostEqual(heard[-1] / RATE, 1.5, delta=0.01)
        self.assertIsNone(sound_of(self.opened(clip | {"audible": False}).plan, reel.folder))

    def test_it_is_a_finding_where_it_cannot_be_heard(self):
        clip = {"kind": "clip", "file": "a.mp4", "audible": True}
        for item, words in (
            (clip | {"speed": 2}, "not played forward at its own speed"),
            (clip | {"order": "backward"}, "not played forward at its own speed"),
            ({"kind": "group", "items": [clip]}, "lies within Group"),
            (clip | {"file": "mute.mp4"}, "has no sound"),
        ):
            found = [one.what for one in self.opened(item).findings if one.name == "sound-left-out"]
            self.assertEqual(len(found), 1, item)
            self.assertIn(words, found[0])
        self.assertEqual(len(own_sounds(self.opened(clip | {"repeat": 2}).plan)[0].sounds), 2)


if __name__ == "__main__":
    unittest.main()
