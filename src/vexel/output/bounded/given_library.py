"""The media of a reel in a media process: those that its project gives, and files by their paths."""

from dataclasses import replace

from vexel.core.document.shot import Shot
from vexel.core.errors import Failure
from vexel.core.reel.media import MediaRef
from vexel.core.reel.true_frames import TrueFrames
from vexel.disk.named_place import named_place
from vexel.output.bounded.media_orders import GivenMedia, ReelOrder
from vexel.output.reel.kept_media import KeptMedia
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.media import FootageMedia, Media, PlannedMedia, TrueFramesMedia


class GivenLibrary:
    """See `vexel.output.reel.library.Library`.

    Parameters
    ----------
    order : ReelOrder
    kept : KeptMedia
        Media that stay open from reel to reel.
    """

    def __init__(self, order: ReelOrder, kept: KeptMedia) -> None:
        self._order = order
        self._beside = FolderLibrary(order.folder)
        self._kept = kept

    def open(self, ref: MediaRef, rate: str) -> Media:
        """See `Library.open`."""
        given = self._order.given.get(ref)
        if given is not None:
            return media_given(ref, given, self._kept)
        place = named_place(self._order.folder, ref.place)
        mark = place.stat().st_mtime_ns if place.exists() else 0
        return self._kept.of((ref, rate, place, mark), lambda: self._beside.open(ref, rate))

    def true_frames(self, ref: MediaRef, frames: TrueFrames) -> Media | None:
        """See `Library.true_frames`."""
        footage = self._order.captured.get(ref)
        return None if footage is None else TrueFramesMedia(footage)


def media_given(ref: MediaRef, given: GivenMedia, kept: KeptMedia) -> Media:
    """Open what a project gives."""
    if given.trouble:
        raise Failure(given.trouble)
    shot = Shot.model_validate_json(given.shot)
    footage = given.footage
    if footage is None:
        return PlannedMedia.of(shot, given.name)
    media = kept.of((ref, footage.files), lambda: FootageMedia.of(footage, shot))
    assert isinstance(media, FootageMedia)
    return replace(media, facts=replace(media.facts, stale=given.stale))
