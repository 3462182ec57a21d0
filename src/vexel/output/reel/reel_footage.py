"""A reel as footage: its frames are drawn when they are asked for."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from pathlib import Path
from typing import Any

from numpy.typing import NDArray

from vexel.core.errors import Failure, Mistake
from vexel.core.reel.item_spec import ReelItem
from vexel.core.reel.node import ReelFrame, Shown
from vexel.core.reel.tracks import missing_items
from vexel.core.time.clock import Clock
from vexel.core.wording import counted, slug
from vexel.output.footage.footage import Footage
from vexel.output.reading.picture_file import PictureKind
from vexel.output.reel.analyse import cut_findings
from vexel.output.reel.draw_frame import Brush
from vexel.output.reel.flash_watcher import Watcher
from vexel.output.reel.media import PlannedMedia
from vexel.output.reel.open_reel import OpenReel
from vexel.output.reel.reel_sound import sound_of
from vexel.output.reel.reuse_cache import ReuseCache
from vexel.store.documents.reels import spelled_reel


@dataclass(frozen=True)
class ReelFootage(Footage):
    """Frames of a reel."""

    reel: OpenReel | None = None
    brush: Brush | None = field(default=None, compare=False)
    numbers: Sequence[int] = field(default=())
    watcher: Watcher | None = field(default=None, compare=False)

    @property
    def count(self) -> int:
        """See `Footage.count`."""
        return len(self.numbers)

    def picture(self, position: int, deep: bool = False) -> NDArray[Any]:
        """See `Footage.picture`."""
        assert self.reel is not None and self.brush is not None
        plan = self.reel.plan
        spec, number = plan.reel, self.numbers[position]
        pixels = self.brush.frame(plan.frame(number), spec.width, spec.height, spec.mark)
        if self.watcher is not None:
            self.watcher.see(number, pixels)
        return pixels

    @cached_property
    def kind(self) -> PictureKind:
        """See `Footage.kind`: a reel is put together in 8 bits, and is transparent where its ground is."""
        assert self.reel is not None
        spec = self.reel.plan.reel
        return PictureKind(spec.height, spec.width, spec.is_transparent)

    def told_by_pictures(self) -> list[str]:
        """See `Footage.told_by_pictures`."""
        if self.watcher is None or self.reel is None:
            return []
        findings, left_out = cut_findings(self.reel)
        told = [finding.what for finding in (*self.watcher.findings(), *findings)]
        return [*told, left_out] if left_out else told

    def part(self, positions: Sequence[int]) -> "ReelFootage":
        """See `Footage.part`."""
        clock = Clock(self.clock.rate, len(positions), "ends")
        files = tuple(self.files[n] for n in positions) if self.files else ()
        names = tuple(self.file_names[n] for n in positions)
        numbers = [self.numbers[n] for n in positions]
        # A part is looked at, and not made: it says nothing of the whole.
        brush = _brush(self.reel, numbers) if self.reel is not None else None
        return replace(self, files=files, names=names, clock=clock, numbers=numbers, watcher=None, brush=brush)


def _brush(reel: OpenReel, numbers: Sequence[int]) -> Brush:
    """What draws some frames of a reel, and keeps what they show again."""
    return replace(reel.brush, fitted=ReuseCache(reel.plan, numbers, reel.read).fitted)


def plain_frame(reel: OpenReel, frame: ReelFrame) -> Shown | None:
    """The frame of media that a reel frame shows unchanged, where there is one of the reel's own size."""
    spec, node = reel.plan.reel, frame.node
    if frame.labels or spec.mark is not None:
        return None
    if not isinstance(node, Shown) or (node.phase is not None and node.ref in reel.captured):
        return None
    facts = reel.media[node.ref].facts
    same = (facts.width, facts.height) == (spec.width, spec.height)
    return node if same and (spec.is_transparent or not facts.transparent) else None


def footage_of_reel(reel: OpenReel) -> ReelFootage:
    """A reel to compile.

    Raises
    ------
    Mistake, Failure
        When it has no frames, something of it is gone, or frames are still to be captured.
    """
    plan = reel.plan
    if plan.frames == 0:
        raise Mistake(f"{plan.reel.title} has no items yet: put a take, a file or a title into it")
    if reel.gone:
        ref, error = next(iter(reel.gone.items()))
        more = f", and {len(reel.gone) - 1} more" if len(reel.gone) > 1 else ""
        raise Failure(f"{ref.label} of the reel is missing{more}: {error}")
    for gone in missing_items(plan.sequence) if plan.sequence else ():
        if gone.why:
            raise Mistake(gone.why)
    for ref, media in reel.media.items():
        if isinstance(media, PlannedMedia):
            raise Failure(f"{ref.label} of the reel has no take yet: capture it first")
    for item in plan.reel.walked():
        if isinstance(item, ReelItem):
            raise Failure(f"the reel {item.reel} is missing or has no items: check the path, or take it out")
    for finding in reel.image_findings():
        raise Failure(f"{finding.what}: check the path, or take it out")
    if lacking := reel.lacking():
        wanted = [f"{counted(len(frames.numbers), 'frame')} of {ref.label}" for ref, frames in lacking.items()]
        more = f" (and so of {len(wanted) - 1} more)" if len(wanted) > 1 else ""
        verb = "is" if sum(len(frames.numbers) for frames in lacking.values()) == 1 else "are"
        raise Failure(
            f"{wanted[0]}{more} between those of its take {verb} still to be captured: "
            "capture them, or set between to nearest or blend"
        )
    rate = plan.rate
    digits = max(4, len(str(plan.frames - 1)))
    stem = slug(plan.reel.title)
    clear = plan.reel.is_transparent
    names = tuple(f"{stem}.{n:0{digits}d}.png" for n in range(plan.frames))
    files = _files(reel)
    return ReelFootage(
        files, Clock(rate, plan.frames, "ends"), title=plan.reel.title, names=names, clear=clear,
        made_of="reel", document=spelled_reel(plan.reel),
        chapters=plan.chapters if len(plan.chapters) > 1 else (), subtitles=plan.subtitles, reel=reel,
        numbers=range(plan.frames),
        brush=_brush(reel, range(plan.frames)),
        notes=tuple(_notes(reel)), watcher=Watcher(rate),
        sound=sound_of(plan, reel.folder),
    )  # fmt: skip


def _notes(reel: OpenReel) -> Iterator[str]:
    """What putting the reel together leaves out, drops or rounds."""
    for finding in reel.findings:
        yield finding.what
    for ref, frames in reel.wanted.items():
        if frames.rounded:
            yield f"{ref.label}: instants between its frames are rounded to a 64th of their distance"


def _files(reel: OpenReel) -> tuple[Path, ...]:
    """The frames' own files, where every picture is one of them unchanged; else none."""
    found: list[Path] = []
    for number in range(reel.plan.frames):
        node = plain_frame(reel, reel.plan.frame(number))
        file = reel.media[node.ref].file(node.frame) if node else None
        if file is None:
            return ()
        found.append(file)
    return tuple(found)
