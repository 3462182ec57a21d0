"""A drawing that has the number of its frame in its pixels, so that any picture tells which frame it is."""

BITS = 10
CODE = """import numpy as np
from vexel.author import dial, sketch


@sketch
def draw(size, instant=None, tint=dial(60, low=0, high=255)):
    wide, high = size
    picture = np.full((high, wide, 3), int(tint), np.uint8)
    for bit in range(10):
        picture[: high // 4, bit * wide // 10 : (bit + 1) * wide // 10] = 250 if instant.frame >> bit & 1 else 10
    return picture
"""
"""Ten squares along the top are the bits of the number, the lowest at the left; below them is one grey."""


def number_in(row) -> int:
    """The number in brightnesses along the middle of the squares."""
    return sum((value > 128) << bit for bit, value in enumerate(row))


def places(width: int) -> list[int]:
    """Where the middles of the squares are."""
    return [round((bit + 0.5) * width / BITS) for bit in range(BITS)]
