"""Pictures are converted without reading what lies behind them in memory."""

import subprocess
import sys
import unittest

# It would end the process that converts, so that it is a process of its own: mprotect(2), PROT_NONE.
CONVERT = """
import ctypes, mmap
import numpy as np
from vexel.output.job.frame_converter import FrameConverter, PixelForm

def before_nothing(shape, kind):
    count = int(np.prod(shape))
    size = count * np.dtype(kind).itemsize
    held = -(-size // mmap.PAGESIZE) * mmap.PAGESIZE
    memory = mmap.mmap(-1, held + mmap.PAGESIZE)
    end = ctypes.addressof(ctypes.c_char.from_buffer(memory)) + held
    assert ctypes.CDLL(None).mprotect(ctypes.c_void_p(end), mmap.PAGESIZE, 0) == 0
    return np.frombuffer(memory, kind, offset=held - size, count=count).reshape(shape)

for kind in (np.uint8, np.uint16):
    for channels in (3, 4):
        for wide in (64, 65, 642, 2388):
            pixels = before_nothing((38, wide, channels), kind)
            for name in ("yuv420p", "yuv444p", "yuv420p10le", "gbrp"):
                FrameConverter(PixelForm(name))(pixels)
"""


class FrameMemoryTest(unittest.TestCase):
    def test_pictures_at_the_end_of_the_memory_are_converted(self):
        done = subprocess.run([sys.executable, "-c", CONVERT], capture_output=True, text=True)
        self.assertEqual((done.returncode, done.stderr), (0, ""))


if __name__ == "__main__":
    unittest.main()
