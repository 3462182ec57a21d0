"""Pictures that a reel shows again, kept when they are first read: repeats, and layouts of what was shown alone."""

import threading
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from typing import TypeAlias

from vexel.core.reel.layout import placed_cells
from vexel.core.reel.node import Cells, Divided, Mixed, Node, Shown, SideTransition
from vexel.core.reel.reel_plan import ReelPlan
from vexel.imaging.fitting import fitted_into
from vexel.output.job.memory import room
from vexel.output.job.pictures import Pixels

MOST_FRAMES = 20_000
"""Number of a reel's frames that are examined in advance."""
ROOM_SHARE, MOST_ROOM = 8, 1 << 29
"""Of the free memory, and bytes at most, that pictures are kept in."""
Placed: TypeAlias = tuple[Shown, int, int]
"""A frame of media with the size that it is shown in."""


class ReuseCache:
    """Gives pictures as a reel shows them, and reads those that come again only once, as far as there is room.

    Parameters
    ----------
    plan : ReelPlan
    numbers : sequence of int
        The reel's frames to draw.
    read : callable
        Returns a frame without scaling, in 8 bits.
    """

    def __init__(self, plan: ReelPlan, numbers: Sequence[int], read: Callable[[Shown], Pixels]) -> None:
        self._plan = plan
        self._numbers = numbers
        self._read = read
        self._kept: dict[Placed, Pixels] = {}
        self._room = room(ROOM_SHARE, MOST_ROOM)
        self._turn = threading.Lock()

    def fitted(self, shown: Shown, width: int, height: int) -> Pixels:
        """A frame scaled into a part of the picture. It is not to be changed."""
        wanted = shown, width, height
        with self._turn:
            sizes, left = self._foreseen
            if wanted in left:
                left[wanted] -= 1
            kept = self._kept.get(wanted)
            if kept is not None and left[wanted] <= 0:
                del self._kept[wanted]
                self._room += kept.nbytes
        if kept is not None:
            return kept
        pixels = self._read(shown)
        made = fitted_into(pixels, width, height, shown.fit, shown.focus)
        for other in sizes.get(_source(shown), ()):
            again, wide, high = other
            if left[other] > 0 and other not in self._kept and wide * high * pixels.shape[2] <= self._room:
                self._keep(other, made if other == wanted else fitted_into(pixels, wide, high, again.fit, again.focus))
        return made

    @cached_property
    def _foreseen(self) -> tuple[dict[Shown, list[Placed]], dict[Placed, int]]:
        """Frames that are shown more than once with the ways in which they are, and how often each of these is left."""
        reel, shown = self._plan.reel, Counter[Placed]()
        for number in self._numbers[:MOST_FRAMES]:
            shown.update(placed_frames(self._plan.node(number), reel.width, reel.height))
        sizes: defaultdict[Shown, list[Placed]] = defaultdict(list)
        for one in shown:
            sizes[_source(one[0])].append(one)
        again = {frame: of for frame, of in sizes.items() if sum(shown[one] for one in of) > 1}
        return again, {one: shown[one] for of in again.values() for one in of}

    def _keep(self, wanted: Placed, pixels: Pixels) -> None:
        with self._turn:
            if wanted not in self._kept and pixels.nbytes <= self._room:
                self._room -= pixels.nbytes
                self._kept[wanted] = pixels


def _source(shown: Shown) -> Shown:
    """The same frame, however it is fitted."""
    return Shown(shown.ref, shown.frame, phase=shown.phase)


def placed_frames(node: Node, width: int, height: int) -> Iterator[Placed]:
    """All frames that a tree shows, with their sizes."""
    if isinstance(node, Shown):
        yield node, width, height
    elif isinstance(node, (Mixed, SideTransition, Divided)):
        for one in (node.one, node.other):
            yield from placed_frames(one, width, height)
    elif isinstance(node, Cells):
        for one, place in zip(node.nodes, placed_cells(node.layout, width, height), strict=True):
            yield from placed_frames(one, *place.rect[2:])
