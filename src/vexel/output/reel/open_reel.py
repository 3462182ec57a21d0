"""A reel opened: worked out with its media, and drawn frame by frame."""

from collections.abc import Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeGuard

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake, VexelError
from vexel.core.finding import Finding, Fix
from vexel.core.reel.formats import format_findings, in_format
from vexel.core.reel.item_spec import ItemSpec, TitleItem
from vexel.core.reel.media import MediaRef
from vexel.core.reel.node import MissingMedia, ReelFrame, Shown
from vexel.core.reel.reel_findings import reel_findings
from vexel.core.reel.reel_plan import ReelPlan, plan_reel
from vexel.core.reel.reel_spec import Reel
from vexel.core.reel.true_frames import TrueFrames, true_frames
from vexel.imaging.codes import to_bytes
from vexel.imaging.fitting import fitted_into
from vexel.output.job.pictures import Pixels
from vexel.output.reel.beside import Beside
from vexel.output.reel.draw_frame import Brush, Fitted
from vexel.output.reel.library import Library, opened
from vexel.output.reel.media import Media
from vexel.output.reel.nested_reels import whole_reel
from vexel.output.reel.reel_sound import sound_findings
from vexel.output.reel.reel_texts import texts_of
from vexel.output.reel.reuse_cache import placed_frames
from vexel.stage.label_findings import label_findings

READ_AT_ONCE = 4


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
        Instants that must be captured.
    captured : mapping of MediaRef to Media
        Those that were captured.
    beside : Beside
        What is known of images and sounds.
    notes : tuple of str
        Parts of nested reels that are not imported.
    reels : tuple of Path
        The files of reels within it.
    """

    plan: ReelPlan
    media: Mapping[MediaRef, Media]
    gone: Mapping[MediaRef, VexelError]
    wanted: Mapping[MediaRef, TrueFrames]
    captured: Mapping[MediaRef, Media]
    beside: Beside
    notes: tuple[str, ...] = ()
    reels: tuple[Path, ...] = ()

    @property
    def folder(self) -> Path:
        """That paths are relative to."""
        return self.beside.folder

    @property
    def brush(self) -> Brush:
        """What draws its frames."""
        return Brush(self.fitted, self.plan.reel.background, self.folder)

    @property
    def findings(self) -> Iterator[Finding]:
        """What is off with it, but for what only its pictures tell; of single items last, since they may be many."""
        yield from self.image_findings()
        yield from self.media_findings()
        reel = self.plan.reel
        yield from label_findings(texts_of(self.plan), reel.width, reel.height)
        for note in self.notes:
            yield Finding("reel-within", note, "Anything that should stay must be set in this reel too.")
        yield from format_findings(self.plan)
        yield from sound_findings(self.plan, self.folder, self.beside.seconds)
        yield from reel_findings(self.plan)

    def image_findings(self) -> Iterator[Finding]:
        """Images behind titles, and the mark, that cannot be opened."""
        reel = self.plan.reel
        without_mark = (Fix("Remove the mark", {"mark": None}),)
        named: list[tuple[str, str, tuple[Fix, ...]]] = [
            (item.image, f"behind {item.text or 'a title'}", ()) for item in reel.walked() if _has_image(item)
        ]
        named += [(reel.mark.file, "of the mark", without_mark)] if reel.mark else []
        for name, where, fixes in named:
            if not self.beside.shows_image(name):
                what = f"The image {where} cannot be opened: {name}, as seen from the reel's file"
                yield Finding("image-missing", what, "It is left out here, and no file is made.", fixes)

    def media_findings(self) -> Iterator[Finding]:
        """How the pictures of items differ from those of a reel."""
        for ref, media in self.media.items():
            for said in media.notes:
                yield Finding("item-odd", f"{ref.label}: {said}", "A reel is even, of 8 bits and of sRGB.")

    def read(self, shown: Shown) -> Pixels:
        """Pixels of a frame in 8 bits; the nearest one there is where the instant itself was not captured yet."""
        if shown.phase is not None and shown.ref in self.captured:
            pixels = self.captured[shown.ref].picture(self.wanted[shown.ref].number(shown.phase))
        else:
            pixels = self.media[shown.ref].picture(shown.frame)
        return to_bytes(pixels) if pixels.dtype == np.uint16 else pixels

    def fitted(self, shown: Shown, width: int, height: int) -> Pixels:
        """A frame scaled into a part of the picture."""
        return fitted_into(self.read(shown), width, height, shown.fit, shown.focus)

    def first_file(self, ref: MediaRef) -> Path | None:
        """The file of media, or of their first frame."""
        media = self.media.get(ref)
        return media.first_file if media is not None else None

    def lacking(self) -> dict[MediaRef, TrueFrames]:
        """Instants that are still to be captured."""
        return {ref: frames for ref, frames in self.wanted.items() if ref not in self.captured}


def open_reel(
    reel: Reel,
    library: Library,
    folder: Path,
    file: Path | None = None,
    beside: Beside | None = None,
    before: ReelPlan | None = None,
) -> OpenReel:
    """Open a reel's media and work it out.

    Parameters
    ----------
    folder : Path
        That paths in it are relative to.
    file : Path, optional
        Its own, which no reel within it may be.
    beside : Beside, optional
        What is known of images and sounds; they are read here by default.
    before : ReelPlan, optional
        See `plan_reel`.

    Raises
    ------
    Mistake
        When it contains itself, or asks for frames that its media do not have.
    """
    whole = whole_reel(reel, folder, file)
    media, gone = opened(whole.reel, library)
    facts = {ref: one.facts for ref, one in media.items()} | dict.fromkeys(gone)
    plan = plan_reel(in_format(whole.reel), facts, before)
    wanted = true_frames(plan, facts)
    captured = {ref: found for ref, frames in wanted.items() if (found := library.true_frames(ref, frames)) is not None}
    return OpenReel(plan, media, gone, wanted, captured, beside or Beside(folder), whole.notes, whole.files)


def _has_image(item: ItemSpec) -> TypeGuard[TitleItem]:
    return isinstance(item, TitleItem) and bool(item.image)


def still_of(
    reel: OpenReel, number: int, long_side: int | None = None, fitted: Fitted | None = None
) -> NDArray[np.uint8]:
    """A frame for looking at, made small before it is put together.

    Parameters
    ----------
    fitted : callable, optional
        Gives frames in the size in which they are shown, in place of the reel, and keeps them: several are read at
        once.
    """
    spec = reel.plan.reel
    scale = min((long_side or max(spec.width, spec.height)) / max(spec.width, spec.height), 1)
    width, height = max(round(spec.width * scale), 1), max(round(spec.height * scale), 1)
    try:
        frame = reel.plan.frame(number)
    except Mistake as error:
        # An item within a group or a fitted reel may refuse its place only here.
        frame = ReelFrame(MissingMedia(spec.title, str(error)))
    brush = reel.brush if fitted is None else replace(reel.brush, fitted=fitted)
    several = [*placed_frames(frame.node, width, height)]
    if fitted is not None and len(several) > 1:
        with ThreadPoolExecutor(READ_AT_ONCE) as pool:
            list(pool.map(lambda one: fitted(*one), several))
    return brush.frame(frame, width, height, spec.mark)
