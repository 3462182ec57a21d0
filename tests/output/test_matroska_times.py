"""Times of Matroska files, which are whole milliseconds: read as the rate says where they agree with it.

Files are written by FFmpeg through PyAV, frame by frame at times of our choice, and read by Debian's ffprobe too.
"""

import subprocess
import unittest
from fractions import Fraction

import av
import numpy as np

from tests.helpers import scratch
from vexel.output.proving.readback import video_facts

TICKS = 90_000


class MatroskaTimesTest(unittest.TestCase):
    def written(self, rate, count, place=lambda n, rate: n / rate, left_out=()):
        """A file that states a rate, and whose frames are at some places in seconds."""
        file = scratch(self) / "a.mkv"
        with av.open(str(file), "w") as container:
            stream = container.add_stream("ffv1", rate=rate)
            stream.width = stream.height = 32
            stream.pix_fmt, stream.codec_context.time_base = "yuv420p", Fraction(1, TICKS)
            for n in range(count):
                if n in left_out:
                    continue
                frame = av.VideoFrame.from_ndarray(np.full((32, 32, 3), n % 256, np.uint8), "rgb24")
                frame.pts, frame.time_base = round(place(n, rate) * TICKS), Fraction(1, TICKS)
                container.mux(stream.encode(frame))
            container.mux(stream.encode())
        return file

    def test_exact_rates_come_back_exactly(self):
        for rate, count in ((Fraction(24), 90), (Fraction(30000, 1001), 300), (Fraction(60), 7), (Fraction(25), 1)):
            file = self.written(rate, count)
            facts = video_facts(file)
            self.assertEqual((facts.frames, facts.rate, facts.seconds), (count, rate, count / rate))
            ask = ["ffprobe", "-v", "error", "-show_entries", "stream=avg_frame_rate", "-of", "csv=p=0", str(file)]
            told = subprocess.run(ask, capture_output=True, text=True, check=True).stdout.strip()
            self.assertEqual(Fraction(told), rate)

    def test_times_that_contradict_the_rate_count(self):
        slow = video_facts(self.written(Fraction(24), 90, lambda n, rate: n / Fraction(20)))
        self.assertLess(abs(slow.rate - 20), Fraction(1, 10), "twenty a second, whatever the header says")
        lacking = video_facts(self.written(Fraction(24), 90, left_out=(40,)))
        self.assertEqual(lacking.frames, 89)
        self.assertLess(
            abs(lacking.seconds - Fraction(90, 24)), Fraction(1, 500), "the time that is missing is not hidden"
        )


if __name__ == "__main__":
    unittest.main()
