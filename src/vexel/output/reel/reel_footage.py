"""A reel as footage: its frames are drawn when they are asked for."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, TypeGuard

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Failure, Mistake, VexelError
from vexel.core.finding import Finding, Mend
from vexel.core.reel.item_spec import ItemSpec, ReelItem, TitleItem
from vexel.core.reel.media import MediaRef
from vexel.core.reel.node import Hole, ReelFrame, Shown
from vexel.core.reel.reel_findings import reel_findings
from vexel.core.reel.reel_plan import ReelPlan, plan_reel
from vexel.core.reel.reel_spec import Reel
from vexel.core.reel.tracks import gone_in
from vexel.core.reel.true_frames import TrueFrames, true_frames
from vexel.core.time.clock import Clock
from vexel.core.wording import counted, slug
from vexel.output.footage import Footage
from vexel.output.reel.draw import Brush, image_of
from vexel.output.reel.library import Library, left_out, opened, with_reels
from vexel.output.reel.media import ClipMedia, FootageMedia, Media, PlannedMedia
from vexel.output.reel.reel_sound import ReelSound, sound_findings
from vexel.output.reel.watcher import Watcher


@dataclass(frozen=True)
class OpenReel:
    """A reel with its media.

    Attributes
    ----------
    plan : ReelPlan
    media : mapping of MediaRef to Media
    gone : mapping of MediaRef to VexelError
        Why some are not there.
    wanted : mapping of MediaRef to TrueFrames
        Instants that are to be captured for real.
    anew : mapping of MediaRef to Media
        Those that were.
    folder : Path
        That paths are relative to.
    notes : tuple of str
        What reels within it do not bring.
    """

    plan: ReelPlan
    media: Mapping[MediaRef, Media]
    gone: Mapping[MediaRef, VexelError]
    wanted: Mapping[MediaRef, TrueFrames]
    anew: Mapping[MediaRef, Media]
    folder: Path
    notes: tuple[str, ...] = ()

    @property
    def brush(self) -> Brush:
        """What draws its frames."""
        return Brush(self.read, self.plan.reel.background, self.folder)

    @property
    def findings(self) -> list[Finding]:
        """What is off with it, but for what only its pictures tell."""
        within = [Finding("reel-within", note, "What is to stay belongs to this reel too.") for note in self.notes]
        return [
            *reel_findings(self.plan),
            *self.image_findings(),
            *within,
            *sound_findings(self.plan, self.folder),
        ]

    def image_findings(self) -> Iterator[Finding]:
        """Images behind titles, and the mark, that cannot be opened."""
        reel = self.plan.reel
        without_mark = (Mend("Remove the mark", {"mark": None}),)
        named: list[tuple[str, str, tuple[Mend, ...]]] = [
            (item.image, f"behind {item.text or 'a title'}", ()) for item in reel.walked() if _has_image(item)
        ]
        named += [(reel.mark.file, "of the mark", without_mark)] if reel.mark else []
        for name, where, mends in named:
            if image_of(self.folder, name) is None:
                what = f"The image {where} cannot be opened: {name}, as seen from the reel's file"
                yield Finding("image-missing", what, "It is left out here, and no file is made.", mends)

    def read(self, shown: Shown) -> NDArray[Any]:
        """Pixels of a frame; the nearest one there is where the instant itself was not captured yet."""
        if shown.phase is not None and shown.ref in self.anew:
            return self.anew[shown.ref].picture(self.wanted[shown.ref].number(shown.phase))
        return self.media[shown.ref].picture(shown.frame)

    def first_file(self, ref: MediaRef) -> Path | None:
        """The file of media, or of their first frame."""
        media = self.media.get(ref)
        if isinstance(media, ClipMedia):
            return media.place
        return media.file(0) if media is not None else None

    def lacking(self) -> dict[MediaRef, TrueFrames]:
        """Instants that are still to be captured."""
        return {ref: frames for ref, frames in self.wanted.items() if ref not in self.anew}


def open_reel(reel: Reel, library: Library, folder: Path, file: Path | None = None) -> OpenReel:
    """Open a reel's media and work it out.

    Raises
    ------
    Mistake
        When it contains itself, or asks for frames that its media do not have.
    """
    whole = with_reels(reel, folder, (file.resolve(),) if file else ())
    media, gone = opened(whole, library)
    facts = {ref: one.facts for ref, one in media.items()} | dict.fromkeys(gone)
    plan = plan_reel(whole, facts)
    wanted = true_frames(plan, facts)
    anew = {ref: found for ref, frames in wanted.items() if (found := library.anew(ref, frames)) is not None}
    return OpenReel(plan, media, gone, wanted, anew, folder, tuple(left_out(reel, folder)))


@dataclass(frozen=True)
class ReelFootage(Footage):
    """Frames of a reel."""

    reel: OpenReel | None = None
    numbers: Sequence[int] = field(default=())
    watcher: Watcher | None = field(default=None, compare=False)

    @property
    def count(self) -> int:
        """See `Footage.count`."""
        return len(self.numbers)

    def picture(self, position: int, deep: bool = False) -> NDArray[Any]:
        """See `Footage.picture`."""
        assert self.reel is not None
        plan = self.reel.plan
        spec, number = plan.reel, self.numbers[position]
        frame = plan.frame(number)
        alone = plain_frame(self.reel, number)
        if alone is not None and deep and not frame.labels and spec.mark is None:
            pixels = self.reel.media[alone.ref].picture(alone.frame)
        else:
            pixels = self.reel.brush.frame(frame, spec.width, spec.height, spec.mark)
        if self.watcher is not None:
            self.watcher.see(number, pixels)
        return pixels

    def told_by_pictures(self) -> list[str]:
        """See `Footage.told_by_pictures`."""
        return [finding.what for finding in self.watcher.findings()] if self.watcher else []

    def part(self, positions: Sequence[int]) -> "ReelFootage":
        """See `Footage.part`."""
        clock = Clock(self.clock.rate, len(positions), "ends")
        files = tuple(self.files[n] for n in positions) if self.files else ()
        names = tuple(self.file_names[n] for n in positions)
        numbers = [self.numbers[n] for n in positions]
        # A part is looked at, and not made: it says nothing of the whole.
        return replace(self, files=files, names=names, clock=clock, numbers=numbers, watcher=None)


def _has_image(item: ItemSpec) -> TypeGuard[TitleItem]:
    return isinstance(item, TitleItem) and bool(item.image)


def plain_frame(reel: OpenReel, number: int) -> Shown | None:
    """The frame that a picture of the reel is, where it is one as it was made, of the reel's own size."""
    node, spec = reel.plan.node(number), reel.plan.reel
    if not isinstance(node, Shown) or (node.phase is not None and node.ref in reel.anew):
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
    for gone in gone_in(plan.row) if plan.row else ():
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
        count = sum(len(frames.numbers) for frames in lacking.values())
        first = next(iter(lacking))
        raise Failure(
            f"{counted(count, 'frame')} of {first.label} between those of its take "
            f"{'is' if count == 1 else 'are'} still to be captured: capture them, or set between to nearest or blend"
        )
    rate = plan.rate
    digits = max(4, len(str(plan.frames - 1)))
    stem = slug(plan.reel.title)
    clear = plan.reel.is_transparent
    names = tuple(f"{stem}.{n:0{digits}d}.png" for n in range(plan.frames))
    files = _files(reel)
    return ReelFootage(
        files, Clock(rate, plan.frames, "ends"), title=plan.reel.title, names=names, clear=clear,
        chapters=plan.chapters if len(plan.chapters) > 1 else (), reel=reel, numbers=range(plan.frames),
        notes=tuple(_notes(reel)), watcher=Watcher(rate),
        sound=ReelSound(plan.reel.sound, reel.folder, plan.reel.loudness) if plan.reel.sound else None,
    )  # fmt: skip


def _notes(reel: OpenReel) -> Iterator[str]:
    """What putting the reel together leaves out, drops or rounds."""
    for finding in reel.findings:
        yield finding.what
    for ref, media in reel.media.items():
        if isinstance(media, FootageMedia):
            if media.source.deep:
                yield f"{ref.label} has 16 bits a channel; the reel is put together in 8"
            if media.footage.panorama is not None:
                yield f"{ref.label} is a panorama; the reel shows it flat"
        for said in media.notes if isinstance(media, ClipMedia) else ():
            yield f"{ref.label}: {said}"
    for ref, frames in reel.wanted.items():
        if frames.rounded:
            yield f"{ref.label}: instants between its frames are rounded to a 64th of their distance"


def _files(reel: OpenReel) -> tuple[Path, ...]:
    """The frames' own files, where every picture is one of them as it is; else none."""
    spec = reel.plan.reel
    if spec.labels or spec.mark is not None:
        return ()
    found: list[Path] = []
    for number in range(reel.plan.frames):
        node = plain_frame(reel, number)
        file = reel.media[node.ref].file(node.frame) if node else None
        if file is None:
            return ()
        found.append(file)
    return tuple(found)


def still_of(reel: OpenReel, number: int, long_side: int | None = None) -> NDArray[np.uint8]:
    """A frame for looking at, made small before it is put together."""
    spec = reel.plan.reel
    scale = min((long_side or max(spec.width, spec.height)) / max(spec.width, spec.height), 1)
    width, height = max(round(spec.width * scale), 1), max(round(spec.height * scale), 1)
    try:
        frame = reel.plan.frame(number)
    except Mistake as error:
        # An item within a group or a fitted reel may refuse its place only here.
        frame = ReelFrame(Hole(spec.title, str(error)))
    return reel.brush.frame(frame, width, height, spec.mark)
