"""A bounded process that opens media, draws reels and compiles files; see `vexel.output.bounded.media_commands`."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from vexel.core.finding import Finding
from vexel.core.forecast.foretold import FileProbe
from vexel.core.recipes.recipe import Recipe
from vexel.core.reel.media import MediaFacts, MediaRef
from vexel.core.time.clock import Clock
from vexel.disk.write import remove_parts
from vexel.imaging.images import Header
from vexel.output.bounded.media_orders import (
    FileOrder,
    GivenMedia,
    Imported,
    KnownMedia,
    MadeFile,
    ReelOrder,
    SoundLength,
    Work,
    sent,
    sent_media,
    set_aside,
)
from vexel.output.compiling.gif_table import GifRow
from vexel.output.footage.footage import Footage
from vexel.output.inspecting.trial import Trial
from vexel.output.reading.picture_file import DamagedFrame
from vexel.workers.bounded_process import BoundedProcess, Ending, LimitReached, ProcessEnded

OPENING, DRAWING, TRYING = 15, 3, 30
"""Times the limit of a question: to index a long video, to draw a frame, to compile a stretch of frames."""


class MediaProcess(BoundedProcess):
    """Asks questions of a media process."""

    answers = "vexel.output.bounded.media_commands:MediaCommands"

    def sentence(self, ending: Ending, file: Path, detail: str) -> str:
        """See `BoundedProcess.sentence`."""
        if ending == "too long":
            return (
                f"reading {file.name} took longer than {self._limits.seconds:g} s for a step and was stopped: "
                f"use a smaller file, or set {self._limits.seconds_name} higher"
            )
        if ending == "too much memory":
            return (
                f"{file.name} needs more than the {self._limits.memory_mb:,} MB of memory that media may take: "
                f"use a smaller size, or set {self._limits.memory_name} higher"
            )
        how = detail or "its answer was not valid"
        return f"{file.name} ended the process that reads it ({how}): one of its files is damaged, export it again"

    def known(self, folder: Path, ref: MediaRef, rate: str, given: GivenMedia | None) -> KnownMedia:
        """See `MediaCommands.known`."""
        plain = given and sent_media(given)
        answer: KnownMedia = self._ask(KnownMedia, "known", Path(ref.place), folder, ref, rate, plain, patience=OPENING)
        return answer

    def shows_image(self, folder: Path, name: str) -> bool:
        """See `MediaCommands.shows_image`."""
        answer: bool = self._ask(bool, "shows_image", Path(name), folder, name)
        return answer

    def sound_length(self, file: Path) -> SoundLength:
        """See `MediaCommands.sound_length`."""
        answer: SoundLength = self._ask(SoundLength, "sound_length", file, file)
        return answer

    def peaks(self, file: Path, count: int) -> tuple[float, list[float]]:
        """See `MediaCommands.peaks`."""
        answer: tuple[float, list[float]] = self._ask(tuple, "peaks", file, file, count, patience=OPENING)
        return answer

    def beats(self, file: Path) -> list[float]:
        """See `MediaCommands.beats`."""
        answer: list[float] = self._ask(list, "beats", file, file, patience=OPENING)
        return answer

    def imported(self, places: Sequence[Path], folder: Path) -> Imported:
        """See `MediaCommands.imported`."""
        answer: Imported = self._ask(Imported, "imported", places[0], list(places), folder, patience=OPENING)
        return answer

    def picture(self, token: int, order: ReelOrder, name: str, number: int, long_side: int) -> bytes:
        """A frame of a reel as JPEG, or as PNG where it has transparency.

        Parameters
        ----------
        token : int
            Identifies the order.
        name : str
            Of the reel.
        """
        return self._of_reel(token, order, name, "picture", number, long_side)

    def item_picture(self, token: int, order: ReelOrder, name: str, item: int, frame: int, long_side: int) -> bytes:
        """The same of what an item plays, by its number there."""
        return self._of_reel(token, order, name, "item_picture", item, frame, long_side)

    def looks(self, order: ReelOrder, name: str) -> tuple[list[Finding], str]:
        """See `MediaCommands.looks`."""
        answer: tuple[list[Finding], str] = self._ask(tuple, "looks", Path(name), sent(order), patience=OPENING)
        return answer

    def header(self, file: Path) -> Header:
        """See `MediaCommands.header`."""
        answer: Header = self._ask(Header, "header", file, file)
        return answer

    def png(self, file: Path) -> bytes:
        """See `MediaCommands.png`."""
        answer: bytes = self._ask(bytes, "png", file, file)
        return answer

    def thumbnail(self, file: Path) -> bytes:
        """See `MediaCommands.thumbnail`."""
        answer: bytes = self._ask(bytes, "thumbnail", file, file)
        return answer

    def file_facts(self, file: Path) -> MediaFacts:
        """See `ReviewCommands.file_facts`."""
        answer: MediaFacts = self._ask(MediaFacts, "file_facts", file, file, patience=OPENING)
        return answer

    def hold(self, token: int, order: ReelOrder, title: str) -> None:
        """Let the process open a reel, unless it holds it already."""
        if not self._ask(bool, "holds", Path(title), token):
            self._ask(type(None), "hold", Path(title), token, sent(order), patience=OPENING)

    def inspected(self, place: Path) -> dict[str, Any]:
        """See `ReviewCommands.inspected`."""
        answer: dict[str, Any] = self._ask(dict, "inspected", place, place, patience=OPENING)
        return answer

    def stills(self, folder: Path, rate: str) -> tuple[Footage, int, int, int]:
        """See `ReviewCommands.stills`."""
        answer: tuple[Footage, int, int, int] = self._ask(tuple, "stills", folder, folder, rate, patience=OPENING)
        return answer

    def review(self, kind: type, question: str, title: str, *arguments: Any) -> Any:
        """The answer, of a type, to a question of `ReviewCommands`; `title` is what it is about, for sentences."""
        return self._ask(kind, question, Path(title), *arguments, patience=OPENING)

    def compile(
        self,
        work: Work,
        orders: Sequence[tuple[Recipe, Path]],
        name: str,
        on_progress: Callable[[int, int, int], None],
        stopped: Callable[[int], bool],
    ) -> list[MadeFile]:
        """Compile files, and prove each.

        Parameters
        ----------
        name : str
            Of what they are made of.
        on_progress : callable
            Called with the number of an order, its steps done and its steps in all.
        stopped : callable
            Asked after each step whether to end an order.

        Raises
        ------
        DamagedFrame
            When a frame is no longer what was made; it is set aside.
        Mistake, Failure
        """

        def step(value: tuple[int, int, int]) -> None:
            number, done, of = value
            if stopped(number):
                (self._folder.path / f"stop-{number}").touch()
            on_progress(number, done, of)

        files = [FileOrder.of(recipe, file) for recipe, file in orders]
        try:
            with _Damage(work):
                made: list[MadeFile] = self._ask(
                    list, "compile", Path(name), sent(work), files, patience=None, on_step=step
                )
                return made
        except (LimitReached, ProcessEnded):
            for _, file in orders:
                remove_parts(file, self._pid)
            raise

    def trial(self, work: Work, recipe: Recipe, name: str, frame: int) -> tuple[Trial, bool]:
        """See `MediaCommands.trial`."""
        with _Damage(work):
            order = FileOrder.of(recipe, Path())
            answer: tuple[Trial, bool] = self._ask(
                tuple, "trial", Path(name), sent(work), order, frame, patience=TRYING
            )
            return answer

    def probe_file(
        self, footage: Footage, stretches: Sequence[range], recipe: Recipe, clock: Clock
    ) -> FileProbe | None:
        """See `MediaCommands.probe_file`."""
        with _Damage(footage):
            order, parts = FileOrder.of(recipe, Path()), [(one.start, one.stop) for one in stretches]
            answer: FileProbe | None = self._ask(
                (FileProbe, type(None)),
                "probe_file",
                Path(footage.title or "the probe"),
                sent(footage),
                parts,
                order,
                clock,
                patience=TRYING,
            )
            return answer

    def gif_table(self, work: Work, recipe: Recipe, name: str) -> list[GifRow]:
        """See `MediaCommands.gif_table`."""
        with _Damage(work):
            order = FileOrder.of(recipe, Path())
            answer: list[GifRow] = self._ask(list, "gif_table", Path(name), sent(work), order, patience=TRYING)
            return answer

    def line(self, footage: Footage, recipe: Recipe, file: Path) -> tuple[str, str, list[str]]:
        """See `MediaCommands.line`."""
        answer: tuple[str, str, list[str]] = self._ask(tuple, "line", file, sent(footage), FileOrder.of(recipe, file))
        return answer

    def _of_reel(self, token: int, order: ReelOrder, name: str, question: str, *arguments: Any) -> bytes:
        about = Path(name)
        with _Damage(order):
            self.hold(token, order, name)
            answer: bytes = self._ask(bytes, question, about, token, *arguments, patience=DRAWING)
            return answer


class _Damage:
    """Moves a damaged frame out of the way when a question about work meets one."""

    def __init__(self, work: Work) -> None:
        self._work = work

    def __enter__(self) -> None:
        """Begin."""

    def __exit__(self, kind: object, error: object, trace: object) -> None:
        if isinstance(error, DamagedFrame):
            set_aside(self._work, error.file)
