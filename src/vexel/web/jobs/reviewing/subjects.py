"""What can be reviewed: the frames of a take, of a file, or of a reel."""

import hashlib
import json
import threading
from collections.abc import Hashable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Any, Literal

from cachetools import LRUCache

from vexel.core.errors import Failure, Missing, Mistake, VexelError
from vexel.core.reel.media import MediaRef
from vexel.core.review.figures import Step
from vexel.disk.changed import changed_at
from vexel.disk.named_place import named_place
from vexel.output.bounded.media_orders import ReelOrder, sent
from vexel.output.bounded.review_commands import Pictures, PixelNumbers
from vexel.output.footage.footage import Footage
from vexel.output.reading.picture_file import DamagedFrame
from vexel.output.reviewing.measure import Stretch
from vexel.store.project import Project
from vexel.store.tables import OutputRow, RunRow
from vexel.store.takes import shot_of
from vexel.web.jobs.media_pool import MediaPool
from vexel.web.jobs.media_process import MediaProcess
from vexel.web.jobs.reel_service import ReelService
from vexel.web.jobs.take_files import take_footage

SubjectKind = Literal["take", "file", "reel", "import"]
STILLS_RATE = "24"
"""Frames a second of imported images, whose files do not state it."""
KEPT = 16
"""Takes that are kept, and contents of reels."""
MOVING = (".mp4", ".mov", ".mkv", ".webm", ".gif", ".webp", ".png", ".apng")
"""Endings of files whose frames can be reviewed."""


@dataclass(frozen=True)
class Subject:
    """Frames that are reviewed.

    Attributes
    ----------
    kind : str
    name : str
        The number of a run or of a file, or the name of a reel.
    title : str
    camera_passes : tuple of str
        Labels of the cameras and passes that a take has; empty for others.
    camera_pass : int
    keys : tuple of str
        What identifies the content of each frame.
    missing : tuple of int
        Frames that are not there: each repeats the one before.
    first : int
        Number of the first frame in its shot.
    rate : Fraction
        Frames a second.
    width, height : int
    bits : int
        Of a channel; 0 for floating-point numbers.
    closes : bool
        Whether the first frame follows the last.
    is_light : bool
        Whether the numbers are light that may exceed 1.
    is_data : bool
        Whether they are numbers of a data pass.
    shot_id : str
        The shot of a take.
    footage : Footage or None
        Of a take.
    file : Path or None
        Of a file.
    held : tuple of (int, ReelOrder) or None
        Of a reel: its token and order.
    """

    kind: SubjectKind
    name: str
    title: str
    keys: tuple[str, ...]
    rate: Fraction
    width: int
    height: int
    bits: int = 8
    closes: bool = False
    camera_passes: tuple[str, ...] = ()
    camera_pass: int = 0
    missing: tuple[int, ...] = ()
    first: int = 0
    is_light: bool = False
    is_data: bool = False
    shot_id: str = ""
    footage: Footage | None = None
    file: Path | None = None
    held: tuple[int, ReelOrder] | None = None

    @property
    def count(self) -> int:
        """How many frames there are."""
        return len(self.keys)

    @property
    def id(self) -> str:
        """Identifies it in the project, with all its cameras and passes."""
        return f"{self.kind}:{self.name}"

    @cached_property
    def content(self) -> str:
        """A digest of all frames: the same in every project that has them."""
        return hashlib.sha256("\n".join(self.keys).encode()).hexdigest()

    def pictures(self, positions: Sequence[int] = ()) -> Pictures:
        """All frames for a media process; of a take those at the positions alone, in their order."""
        if self.footage is not None:
            part = sent(replace(self.footage.part(positions), set_aside=self.footage.set_aside))
            assert isinstance(part, Footage)
            known = {file: part.known[file] for file in part.files if file in part.known}
            return Pictures(footage=replace(part, known=known))
        return Pictures(file=self.file) if self.file is not None else Pictures(token=self.held[0] if self.held else 0)

    def picture(self, number: int) -> tuple[Pictures, int]:
        """One frame for a media process, and its number there.

        Raises
        ------
        Missing
            When there is no such frame.
        """
        if not 0 <= number < self.count:
            raise Missing(f"{self.title} has frames 0 to {self.count - 1:,}, not {number:,}")
        return (self.pictures([number]), 0) if self.footage is not None else (self.pictures(), number)


class Subjects:
    """Finds what is reviewed, and asks media processes about it."""

    def __init__(self, project: Project, media: MediaPool, reels: ReelService) -> None:
        self._project, self._media, self._reels = project, media, reels
        self._takes: LRUCache[tuple[int, int], tuple[Hashable, Subject]] = LRUCache(KEPT)
        self._contents: LRUCache[int, str] = LRUCache(KEPT)
        self._turn = threading.Lock()

    def find(self, kind: str, name: str, camera_pass: int = 0) -> Subject:
        """What is reviewed.

        Raises
        ------
        Missing
            When there is none of this name.
        Mistake, Failure
            When it has no such pass, no frame, or cannot be read.
        """
        if kind == "reel":
            return self._reel(name)
        if kind == "import":
            return self._import(name)
        if not (name.isascii() and name.isdecimal() and len(name) < 16):
            raise Missing(f"there is no {kind} {name[:40]}")
        if kind == "take":
            return self._take(int(name), camera_pass)
        if kind == "file":
            return self._file(int(name))
        raise Missing(f"there is no kind of review {kind[:40]}: takes, files, reels and imports can be reviewed")

    def look(self, subject: Subject, number: int, wide: int, stops: float) -> bytes:
        """A frame for the screen; see `ReviewCommands.review_picture`."""
        with self._for_screen(subject) as process:
            data: bytes = _ask(process, bytes, "review_picture", subject, *subject.picture(number), wide, stops)
            return data

    def pixel(self, subject: Subject, number: int, x: int, y: int) -> PixelNumbers:
        """See `ReviewCommands.review_pixel`."""
        with self._for_screen(subject) as process:
            picture = subject.picture(number)
            found: PixelNumbers = _ask(process, PixelNumbers, "review_pixel", subject, *picture, x, y)
            return found

    def step(self, one: Subject, at: int, other: Subject, at_other: int) -> tuple[Step, tuple[int, int]]:
        """See `ReviewCommands.review_step`."""
        with self._for_screen(one, other) as process:
            _hold(process, other)
            pictures = (*one.picture(at), *other.picture(at_other))
            found: tuple[Step, tuple[int, int]] = _ask(process, tuple, "review_step", one, *pictures)
            return found

    def steps(
        self, process: MediaProcess, one: Subject, other: Subject, pairs: Sequence[tuple[int, int]]
    ) -> list[Step]:
        """How frames of two subjects differ, measured by a process; see `ReviewCommands.review_steps`."""
        _hold(process, other)
        sides: list[object] = []
        for subject, ats in ((one, [at for at, _ in pairs]), (other, [at for _, at in pairs])):
            of_take = subject.footage is not None
            sides += [subject.pictures(ats), list(range(len(ats))) if of_take else ats]
        found: list[Step] = _ask(process, list, "review_steps", one, *sides)
        return found

    def figures(self, process: MediaProcess, subject: Subject, begin: int, end: int, chosen: Sequence[int]) -> Stretch:
        """Figures of frames in a row, measured by a process; see `ReviewCommands.review_figures`."""
        closer = [at for at in chosen if begin <= at < end]
        if subject.footage is None:
            found: Stretch = _ask(process, Stretch, "review_figures", subject, subject.pictures(), begin, end, closer)
            return found
        around = [at % subject.count for at in range(begin - 1, end + 1)]
        pictures, shift = subject.pictures(around), begin - 1
        found = _ask(
            process, Stretch, "review_figures", subject, pictures, 1, end - shift, [at - shift for at in closer]
        )
        return replace(found, closer={at + shift: one for at, one in found.closer.items()})

    @contextmanager
    def _for_screen(self, *subjects: Subject) -> Iterator[MediaProcess]:
        """A process for a question of the screen; a frame that it finds damaged is set aside."""
        with self._media.asked(_token(subjects[0])) as process:
            try:
                yield process
            except DamagedFrame as error:
                for subject in subjects:
                    if subject.footage is not None and error.file in subject.footage.known:
                        subject.footage.set_aside(error.file)
                raise

    def _take(self, run_id: int, camera_pass: int) -> Subject:
        """A take, which is asked for with each of its frames: read again only where its run has changed."""
        ledger = self._project.ledger
        run = ledger.run(run_id)
        mark = run.document, run.plan, run.state, run.ended, tuple(sorted(ledger.counts(run_id).items()))
        with self._turn:
            kept = self._takes.get((run_id, camera_pass))
        if kept is not None and kept[0] == mark:
            return kept[1]
        subject = self._read_take(run, camera_pass)
        with self._turn:
            self._takes[run_id, camera_pass] = mark, subject
        return subject

    def _read_take(self, run: RunRow, camera_pass: int) -> Subject:
        run_id = run.id
        shot = shot_of(run)
        labels = tuple(one.label for one in shot.camera_passes)
        if camera_pass >= len(labels):
            raise Mistake(f"take {run_id} has {len(labels)} of cameras and passes: {'; '.join(labels)}")
        footage = take_footage(self._project, run_id, camera_pass)
        whole = footage.count == shot.clock.exact.frames
        suffix = shot.picture.suffix
        is_light = suffix == ".exr" and not footage.is_data
        return Subject(
            kind="take",
            name=str(run_id),
            title=run.variant or shot.title,
            # The key of a frame is its file's name.
            keys=tuple(file.name.split(".")[0] for file in footage.files),
            rate=footage.clock.rate.fps,
            width=shot.picture.width,
            height=shot.picture.height,
            bits=0 if suffix == ".exr" else 16 if shot.picture.format == "png16" else 8,
            closes=whole and footage.clock.span == "loop",
            camera_passes=labels,
            camera_pass=camera_pass,
            missing=footage.held,
            first=footage.first,
            is_light=is_light,
            is_data=footage.is_data,
            shot_id=run.shot_id,
            footage=footage,
        )

    def _file(self, output_id: int) -> Subject:
        row = self._project.outputs.get(output_id)
        place = self._project.files / row.file
        self._refuse_unfit(row, place)
        # Also of a file that has been replaced since it was made.
        return self._of_file("file", str(output_id), row.file, place, f"{row.digest}.{changed_at(place)}")

    def folder_of(self, name: str) -> Path:
        """The folder of an import.

        Raises
        ------
        Missing
            When there is none of this name.
        """
        folder = self._project.reviewed / name
        usable = bool(name) and name == Path(name).name and not name.startswith(".")
        if not usable or not folder.is_dir() or folder.is_symlink():
            raise Missing(f"there is no import {name[:40]}")
        return folder

    def place_of(self, name: str) -> Path:
        """The file that was dropped on Review, or the folder of several.

        Raises
        ------
        Missing
            When there is none of this name.
        Mistake
            When it holds a link.
        """
        folder = self.folder_of(name)
        files = [file for file in folder.iterdir() if not file.name.startswith(".")]
        if any(file.is_symlink() for file in files):
            # Uploads hold none: a received project may lead out by them.
            raise Mistake(f"{name} holds a link to another place: delete it, and drop the files themselves")
        return files[0] if len(files) == 1 and files[0].is_file() else folder

    def _import(self, name: str) -> Subject:
        place = self.place_of(name)
        if place.is_file():
            return self._of_file("import", name, place.name, place, str(changed_at(place)))
        with self._media.asked() as process:
            footage, width, height, bits = process.stills(place, STILLS_RATE)
        return Subject(
            kind="import",
            name=name,
            title=name,
            keys=tuple(f"{name}.{file.name}.{changed_at(file)}" for file in footage.files),
            rate=footage.clock.rate.fps,
            width=width,
            height=height,
            bits=bits,
            missing=footage.held,
            first=0,
            footage=footage,
        )

    def _of_file(self, kind: SubjectKind, name: str, title: str, place: Path, content: str) -> Subject:
        with self._media.asked() as process:
            facts = process.file_facts(place)
        return Subject(
            kind=kind,
            name=name,
            title=title,
            keys=tuple(f"{content}.{n}" for n in range(facts.frames)),
            rate=facts.rate,
            width=facts.width,
            height=facts.height,
            file=place,
        )

    def _refuse_unfit(self, row: OutputRow, place: Path) -> None:
        if row.state != "done":
            raise Mistake(f"{row.file} is not finished ({row.state}): it can be reviewed once it is")
        if place.suffix.lower() not in MOVING or not place.is_file():
            kinds = ", ".join(MOVING)
            why = "is not there any more: compile it again" if not place.exists() else f"is none of {kinds}"
            raise Mistake(f"{row.file} {why}")

    def _reel(self, reel_id: str) -> Subject:
        reel = self._project.reels.get(reel_id).value
        held = self._reels.held(reel)
        plan = held.opened.plan
        if not plan.frames:
            raise Failure(f"{reel.title} is empty: add a take first")
        with self._turn:
            content = self._contents.get(held.token, "")
        if not content:
            content = self._contents[held.token] = _content(held.order, held.opened.media)
        return Subject(
            kind="reel",
            name=reel_id,
            title=reel.title,
            keys=tuple(f"{content}.{n}" for n in range(plan.frames)),
            rate=Fraction(plan.rate.fps),
            width=reel.width,
            height=reel.height,
            held=(held.token, held.order),
        )


def _ask(process: MediaProcess, kind: type, question: str, subject: Subject, *arguments: Any) -> Any:
    """An answer; what measures in the background leaves damaged frames to those who look for them."""
    _hold(process, subject)
    return process.review(kind, question, subject.title, *arguments)


def _hold(process: MediaProcess, subject: Subject) -> None:
    if subject.held is not None:
        process.hold(*subject.held, subject.title)


def _content(order: ReelOrder, media: Iterable[MediaRef]) -> str:
    """A digest of all that decides the frames of a reel: its document, the frames of its takes, and other files."""
    stamps = []
    for ref in sorted(media, key=str):
        try:
            stamps.append((str(ref), changed_at(named_place(order.folder, ref.place))))
        except (VexelError, OSError):
            stamps.append((str(ref), 0))
    frames = sorted(str(file) for footage in order.footages for file in footage.files)
    return hashlib.sha256(json.dumps([order.document, stamps, frames]).encode()).hexdigest()


def _token(subject: Subject) -> int:
    return subject.held[0] if subject.held is not None else 0
