"""Profile and level of H.264 for a size and a rate (ITU-T H.264, table A-1)."""

from dataclasses import dataclass
from fractions import Fraction

MACROBLOCK = 16


@dataclass(frozen=True)
class Level:
    """Limits of a level: macroblocks a second and a frame, and kilobits a second in the High profile."""

    name: str
    a_second: int
    a_frame: int
    kilobits: int


# ITU-T H.264 (08/2021), table A-1; bit rates of High are 1.25 times those of Main.
LEVELS = (
    Level("3.0", 40_500, 1_620, 12_500),
    Level("3.1", 108_000, 3_600, 17_500),
    Level("3.2", 216_000, 5_120, 25_000),
    Level("4.0", 245_760, 8_192, 25_000),
    Level("4.1", 245_760, 8_192, 62_500),
    Level("4.2", 522_240, 8_704, 62_500),
    Level("5.0", 589_824, 22_080, 168_750),
    Level("5.1", 983_040, 36_864, 300_000),
    Level("5.2", 2_073_600, 36_864, 300_000),
    Level("6.0", 4_177_920, 139_264, 300_000),
    Level("6.1", 8_355_840, 139_264, 600_000),
    Level("6.2", 16_711_680, 139_264, 1_000_000),
)


def level_for(width: int, height: int, rate: Fraction) -> Level | None:
    """The lowest level that holds pictures of a size at a rate; None above all."""
    across, down = -(-width // MACROBLOCK), -(-height // MACROBLOCK)
    blocks = across * down
    for level in LEVELS:
        # No side may be longer than the root of eight times the frame's blocks (A.3.1).
        if blocks <= level.a_frame and max(across, down) ** 2 <= 8 * level.a_frame and blocks * rate <= level.a_second:
            return level
    return None
