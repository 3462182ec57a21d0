"""What a media process answers: files from anywhere are opened, drawn and compiled here, and never in the server."""

import tempfile
import threading
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from dataclasses import replace
from pathlib import Path
from typing import Any

from cachetools import LRUCache

from vexel.core.errors import Mistake
from vexel.core.finding import Finding
from vexel.core.forecast.foretold import FileProbe
from vexel.core.recipes.recipe import Recipe, read_recipe
from vexel.core.reel.item_spec import PlayedSpec
from vexel.core.reel.media import MediaRef
from vexel.core.reel.reel_spec import read_reel
from vexel.core.reel.sound.beats import beats_of
from vexel.core.time.clock import Clock
from vexel.imaging.fitting import fitted_into
from vexel.imaging.image_bytes import for_screen
from vexel.imaging.images import Header, header_of
from vexel.output.bounded.given_library import GivenLibrary, media_given
from vexel.output.bounded.media_orders import (
    KEPT_REELS,
    FileOrder,
    GivenMedia,
    Imported,
    KnownMedia,
    MadeFile,
    ReelOrder,
    SoundLength,
    Work,
)
from vexel.output.bounded.review_commands import ReviewCommands
from vexel.output.compiling.compile import compile_batch
from vexel.output.compiling.gif_table import GifRow, gif_table
from vexel.output.exporting import command_line
from vexel.output.footage.footage import Footage
from vexel.output.inspecting.stretches import probe_file
from vexel.output.inspecting.trial import Trial, try_recipe
from vexel.output.job.job import jobs_of, refusals
from vexel.output.reading.picture_file import png_of, thumbnail
from vexel.output.reel.analyse import picture_findings
from vexel.output.reel.draw_frame import image_of
from vexel.output.reel.import_media import import_media
from vexel.output.reel.kept_media import KeptMedia, KeptPictures
from vexel.output.reel.open_reel import OpenReel, open_reel, still_of
from vexel.output.reel.reel_footage import footage_of_reel
from vexel.output.reel.reel_sound import peaks_of, seconds_of
from vexel.output.writers.sound import decoded


class MediaCommands(ReviewCommands):
    """The questions of `vexel.web.jobs.media_process.MediaProcess`."""

    tell: Callable[[Any], None]

    def __init__(self) -> None:
        self._kept, self._pictures = KeptMedia(), KeptPictures()
        self._reels: LRUCache[int, OpenReel] = LRUCache(KEPT_REELS)
        self._telling = threading.Lock()

    def get_ready(self, kind: str) -> None:
        """Nothing more is loaded than this module loads."""

    def listen(self, question: str) -> AbstractContextManager[Any]:
        """No user code runs here, so that nothing is printed."""
        return nullcontext()

    def known(self, folder: Path, ref: MediaRef, rate: str, given: GivenMedia | None) -> KnownMedia:
        """Open media; what is known of them."""
        if given is not None:
            media = media_given(ref, given, self._kept)
        else:
            media = GivenLibrary(ReelOrder("", folder), self._kept).open(ref, rate)
        return KnownMedia(media.facts, tuple(media.notes), media.first_file)

    def shows_image(self, folder: Path, name: str) -> bool:
        """Whether an image that a reel names can be opened."""
        return image_of(folder, name) is not None

    def sound_length(self, file: Path) -> SoundLength:
        """How long a sound file is."""
        try:
            return SoundLength(seconds_of(file))
        except Mistake as error:
            return SoundLength(trouble=str(error))

    def peaks(self, file: Path, count: int) -> tuple[float, list[float]]:
        """See `vexel.output.reel.reel_sound.peaks_of`."""
        seconds, peaks = peaks_of(file, count)
        return float(seconds), peaks

    def beats(self, file: Path) -> list[float]:
        """Where the beats of a sound are, in seconds."""
        return [float(beat) for beat in beats_of(decoded(file))]

    def imported(self, places: list[Path], folder: Path) -> Imported:
        """Items and sounds that files make."""
        found = import_media(places, folder)
        return Imported(found.items, found.sounds)

    def hold(self, token: int, order: ReelOrder) -> None:
        """Open a reel, and keep it for questions about its token."""
        self._reels[token] = self._opened(order)

    def holds(self, token: int) -> bool:
        """Whether the reel of a token is open here."""
        return token in self._reels

    def picture(self, token: int, number: int, long_side: int) -> bytes:
        """A frame of a reel, for the screen."""
        reel = self._reels[token]
        return for_screen(still_of(reel, number, long_side, self._pictures.fitted(reel)))

    def item_picture(self, token: int, item: int, frame: int, long_side: int) -> bytes:
        """A frame of what an item of a reel plays, for the screen."""
        reel = self._reels[token]
        played = reel.plan.reel.items[item]
        assert isinstance(played, PlayedSpec)
        pixels = reel.media[played.ref].picture(frame)
        scale = min(long_side / max(pixels.shape[:2]), 1)
        size = (max(round(pixels.shape[1] * scale), 1), max(round(pixels.shape[0] * scale), 1))
        return for_screen(fitted_into(pixels, *size, "contain"))

    def looks(self, order: ReelOrder) -> tuple[list[Finding], str]:
        """What only the pictures of a reel tell, and what was not looked at."""
        return picture_findings(self._opened(order), lambda done, of: self._step((0, done, of)))

    def header(self, file: Path) -> Header:
        """An image file's header."""
        return header_of(file)

    def png(self, file: Path) -> bytes:
        """A frame's file as 8-bit PNG."""
        return png_of(file)

    def thumbnail(self, file: Path) -> bytes:
        """A frame's file as a small JPEG."""
        return thumbnail(file)

    def compile(self, work: Work, orders: list[FileOrder]) -> list[MadeFile]:
        """Compile files, and prove each; one is ended where a file ``stop-N`` appears in the temporary folder."""
        footage = self._footage(work)
        wanted = [(_recipe(order), order.file) for order in orders]
        refused = refusals(footage, wanted)
        going = [n for n in range(len(wanted)) if n not in refused]
        stops = [Path(tempfile.gettempdir()) / f"stop-{n}" for n in going]
        made = compile_batch(
            footage,
            [wanted[n] for n in going],
            lambda order, done, of: self._step((going[order], done, of)),
            lambda order: stops[order].exists(),
        )
        came = {n: MadeFile(one.receipt, one.error) for n, one in zip(going, made, strict=True)}
        came |= {n: MadeFile(error=error) for n, error in refused.items()}
        return [came[n] for n in range(len(orders))]

    def trial(self, work: Work, recipe: FileOrder, frame: int) -> tuple[Trial, bool]:
        """A recipe tried on a stretch, and whether the frames can be captured at another rate."""
        footage = self._footage(work)
        return try_recipe(footage, _recipe(recipe), frame), footage.renewable

    def probe_file(
        self, footage: Footage, stretches: list[tuple[int, int]], recipe: FileOrder, clock: Clock
    ) -> FileProbe | None:
        """Stretches of a file, from which the size of the whole is foretold."""
        return probe_file(footage, [range(*one) for one in stretches], _recipe(recipe), clock)

    def gif_table(self, work: Work, recipe: FileOrder) -> list[GifRow]:
        """Ways to make a GIF, the best looking first.

        Ways without dither are left out: they look worse and are hardly smaller as a rule.
        """
        return gif_table(self._footage(work), _recipe(recipe), keep=lambda option: option.dither == "diffuse")

    def line(self, footage: Footage, order: FileOrder) -> tuple[str, str, list[str]]:
        """The encoder's command line of a recipe, for two kinds of shell, and its notes."""
        (job,) = jobs_of(footage, [(_recipe(order), order.file)])
        # Frames lie under their keys here; the line is for those that are written out.
        footage = job.footage
        named = tuple(file.parent / name for file, name in zip(footage.files, footage.names, strict=True))
        job = replace(job, source=replace(job.source, footage=replace(footage, files=named)))
        words, folder = command_line.command_of(job), str(named[0].parent)
        shown = [word.replace(folder, "FRAMES").replace(str(order.file), order.file.name) for word in words]
        notes = ["FRAMES is the folder that the recipe `frames` writes", *command_line.notes_of(job)]
        return command_line.posix(shown), command_line.windows(shown), notes

    def _opened(self, order: ReelOrder) -> OpenReel:
        return open_reel(read_reel(order.document), GivenLibrary(order, self._kept), order.folder)

    def _footage(self, work: Work) -> Footage:
        return footage_of_reel(self._opened(work)) if isinstance(work, ReelOrder) else work

    def _step(self, step: tuple[int, int, int]) -> None:
        with self._telling:
            self.tell(step)


def _recipe(order: FileOrder) -> Recipe:
    return read_recipe(order.recipe)
