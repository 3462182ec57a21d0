"""Source kind ``page``: HTML or SVG with its scripts and assets, shown in a browser whose time is stopped."""

import json
import math
import tempfile
from contextlib import suppress
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from urllib.parse import quote

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.document.background import TRANSPARENT
from vexel.core.errors import SourceError, TookTooLong
from vexel.core.evaluate.source_facts import SourceFacts, SourceFinding
from vexel.core.time.animation_length import Animation, AnimationLength, animation_length
from vexel.sources.archive import unpacked_page
from vexel.sources.browser import chromium
from vexel.sources.browser.page_clock import PageClock, steps_to
from vexel.sources.browser.page_dials import page_dials
from vexel.sources.browser.protocol import NoAnswer, ProtocolError
from vexel.sources.browser.site import BLANK, ORIGIN, Site
from vexel.sources.browser.tab import Tab
from vexel.sources.protocols import FrameRequest

LOAD_SECONDS = 20.0
MOST_OPENED = 4
"""Of one page: the viewfinder looks at three places at once, and a page goes forward only."""
LONGEST = 16_384
"""Pixels that Chromium paints along a side."""
LOOKED_AT = (1280, 720)
"""Size at which its animations are read."""
LONGEST_STEP_MS = Fraction(1000, 60)
"""A page that asks for frames gets one at least so often, as on a screen: some take a longer gap for a pause."""
SCRIPT, WORKER_SCRIPT = (Path(chromium.__file__).with_name(name) for name in ("page.js", "worker.js"))


class PageFile:
    """A page, opened once for each size and place at which it is shown.

    Parameters
    ----------
    file : Path
        HTML or SVG, or a ZIP archive that holds ``index.html``.
    seed : int
        Of Math.random.
    """

    def __init__(self, file: Path, seed: int = 0) -> None:
        self._name = file.name
        self._seed = seed
        if file.suffix.lower() == ".zip":
            self._unpacked = tempfile.TemporaryDirectory(prefix="vexel-page-")
            file = unpacked_page(file, Path(self._unpacked.name))
        self._file = file
        self._dials = page_dials(file)
        self._opened: list[OpenedPage] = []

    @cached_property
    def facts(self) -> SourceFacts:
        """A page remembers, so its frames depend on every step from the first on, and a step on the rate."""
        dials = self._dials
        names = tuple(dial.name for dial in dials)
        length, untamed = self._looked_at()
        findings = (SourceFinding("untamed", {"what": ", ".join(untamed)}),) if untamed else ()
        return SourceFacts(
            dials, ("frame", "rate"), pictures=True, sequential=True, settings=names, length=length, findings=findings
        )

    def _looked_at(self) -> tuple[AnimationLength | None, list[str]]:
        """The length of its animations, and its parts with clocks that cannot be stopped.

        Nothing where it cannot be opened; the error is then shown in place of its picture.
        """
        seen: dict[str, int | Fraction] = {"frame": 0, "rate": Fraction(24)}
        asked = FrameRequest({dial.name: dial.default for dial in self._dials}, seen, LOOKED_AT, LOOKED_AT, "#ffffff")
        opened = OpenedPage(self._file, self._name, self._seed, asked)
        try:
            return animation_length(opened.courses()), opened.untamed()
        except (SourceError, ProtocolError):
            return None, []
        finally:
            opened.close()

    def show(self, asked: FrameRequest) -> NDArray[np.uint8]:
        """Move the page to the frame and take its picture, clear where it paints nothing; see `Source.show`."""
        data = np.frombuffer(self.png(asked), np.uint8)
        pixels = cv2.cvtColor(cv2.imdecode(data, cv2.IMREAD_UNCHANGED), _TO_RGBA[_channels(data)])
        return np.asarray(pixels, np.uint8)

    def png(self, asked: FrameRequest) -> bytes:
        """The picture as the browser encodes it; see `Encoded.png`."""
        # More samples are a finer page scaled down: Chromium has no other way to take several of a pixel.
        longest = round(max(asked.layout) * _ratio(asked))
        if longest > LONGEST:
            raise SourceError(
                f"{self._name}: the browser paints at most {LONGEST:,} pixels along a side, and {asked.size[0]:,} × "
                f"{asked.size[1]:,} with {asked.samples} samples take {longest:,}: make the picture smaller, or "
                "take fewer samples"
            )
        frame = int(asked.time_inputs["frame"])
        opened = self._nearest(asked, frame) or self._open(asked)
        try:
            return opened.picture(frame)
        except SourceError:
            self._drop(opened)
            raise
        except NoAnswer:
            self._drop(opened)
            raise TookTooLong(
                f"{self._name} did not load within {LOAD_SECONDS:g} s: look for a script without an end"
            ) from None
        except ProtocolError as error:
            self._drop(opened)
            opened.check([])
            raise SourceError(f"{self._name}: the browser could not show it: {str(error).splitlines()[0]}") from None

    def close(self) -> None:
        """Close all that was opened."""
        while self._opened:
            self._drop(self._opened[0])

    def _nearest(self, asked: FrameRequest, frame: int) -> "OpenedPage | None":
        """The opened page from which the frame is soonest reached."""
        # A page's time runs forward only, so that one that stands later is of no use unless it seeks by itself.
        ready = [o for o in self._opened if o.look == look_of(asked) and (o.seeks or o.frame <= frame)]
        found = max(ready, key=lambda o: o.frame, default=None)
        if found is not None:
            self._opened.remove(found)
            self._opened.append(found)
        return found

    def _open(self, asked: FrameRequest) -> "OpenedPage":
        """Open the page once more; the one that was longest not looked at makes room."""
        while len(self._opened) >= MOST_OPENED:
            self._drop(self._opened[0])
        opened = OpenedPage(self._file, self._name, self._seed, asked)
        self._opened.append(opened)
        return opened

    def _drop(self, opened: "OpenedPage") -> None:
        self._opened.remove(opened)
        opened.close()


class OpenedPage:
    """A page in the browser, at some frame.

    Attributes
    ----------
    look : tuple
        All that a picture depends on beside the frame.
    frame : int
        Where it stands; -1 before the first one.
    seeks : bool
        Whether it goes to any frame by itself.
    """

    def __init__(self, file: Path, name: str, seed: int, asked: FrameRequest) -> None:
        self._file, self._name, self._seed = file, name, seed
        self._place = (*asked.layout, _ratio(asked))
        self._clear = asked.background == TRANSPARENT
        self._rate = Fraction(asked.time_inputs["rate"])
        self._dials = dict(asked.dials)
        self._site = Site(file.parent, file.name)
        self._tab: Tab | None = None
        self._clock: PageClock | None = None
        self._at = Fraction(0)
        self._shown = b""
        self.look = look_of(asked)
        self.frame = -1
        self.seeks = False

    def picture(self, frame: int) -> bytes:
        """What it shows in a frame, reached through all between, as a PNG file.

        Raises
        ------
        SourceError
            When the page raised an error, or did what a captured page may not.
        """
        tab = self._tab or self._load()
        clock = self._clock
        assert clock is not None
        if frame == self.frame:
            return self._shown
        if self.seeks:
            seconds = frame / self._rate
            tab.evaluate(f"__vexel.seek({float(seconds)!r}, {frame})")
            self._shown = clock.picture(Fraction(0))
        else:
            for number in range(self.frame + 1, frame):
                self._step_to(clock, number)
            self._shown = self._picture_at(clock, frame)
        self.frame = frame
        self.check(tab.evaluate("__vexel.errors()"))
        return self._shown

    def courses(self) -> list[Animation]:
        """Its animations after it has loaded."""
        courses = self._load().evaluate("__vexel.courses()")
        return [
            Animation(name, _exact(seconds), None if times is None else _exact(times), _exact(delay))
            for name, seconds, times, delay in courses
        ]

    def untamed(self) -> list[str]:
        """Its parts with clocks that cannot be stopped."""
        assert self._tab is not None
        found: list[str] = self._tab.evaluate("__vexel.untamed()")
        return found

    def check(self, errors: list[str]) -> None:
        """Raise what went wrong, if anything did."""
        self._site.troubles.extend(errors)
        if self._site.troubles:
            first, *more = dict.fromkeys(self._site.troubles)
            others = f" (and {len(more)} more)" if more else ""
            raise SourceError(f"{self._name}: {first}{others}")

    def close(self) -> None:
        """Close it in the browser."""
        if self._tab is not None:
            with suppress(ProtocolError):
                self._tab.close()

    def _step_to(self, clock: PageClock, frame: int) -> None:
        """Through a frame of which no picture is taken."""
        *before, last = self._steps(frame)
        for at in before:
            clock.step(at, of_shot=frame == 0)
        clock.step(last, of_shot=True)

    def _picture_at(self, clock: PageClock, frame: int) -> bytes:
        *before, last = self._steps(frame)
        for at in before:
            clock.step(at, of_shot=frame == 0)
        return clock.picture(last)

    def _steps(self, frame: int) -> list[Fraction]:
        """Times in milliseconds at which the page sees a frame on the way to one of the shot's."""
        at = 1000 * frame / self._rate
        if frame == 0:
            # Some libraries ask for a frame to begin with, and draw in the next.
            return [at, at]
        before, self._at = self._at, at
        assert self._clock is not None
        return steps_to(before, at, LONGEST_STEP_MS) if self._clock.needs else [at]

    def _load(self) -> Tab:
        self._tab = tab = Tab(*self._place, self._site, WORKER_SCRIPT.read_text())
        address = f"{ORIGIN}/{quote(self._file.name)}"
        tab.on("Page.downloadWillBegin", lambda courses: self._note(f"it downloads {courses['suggestedFilename']}"))
        tab.on_dialog(lambda says: self._note(f"it opens a dialog: {says[:80]!r}"))
        tab.set_clear(True)
        # Of the page's own origin, so that it begins in the process that the clock is set for.
        tab.go_to(f"{ORIGIN}/{BLANK}", LOAD_SECONDS)
        tab.on_moved(address, self._moved)
        tab.begin_with(f"{SCRIPT.read_text()}\n__vexel.seed({self._seed}, {json.dumps(self._dials)});")
        self._clock = PageClock(tab, self._clear)
        self._clock.load(address, LOAD_SECONDS, lambda: bool(self._site.troubles))
        self.check([])
        self.seeks = bool(tab.evaluate("__vexel.seeks()"))
        self.check(tab.evaluate("__vexel.errors()"))
        return tab

    def _moved(self, to: str) -> None:
        self._note(f"it goes away to {to[:200]}: a page that is captured stays where it is")

    def _note(self, trouble: str) -> None:
        self._site.troubles.append(trouble)


def _exact(value: float) -> Fraction:
    """A time that was written as a decimal, such as 0.7 s, to the microsecond."""
    return Fraction(round(value * 1_000_000), 1_000_000)


def get_ready() -> None:
    """Start the browser ahead of the first page."""
    chromium.browser()


def look_of(asked: FrameRequest) -> tuple[object, ...]:
    """All that a page's picture depends on beside the frame."""
    dials = tuple(sorted(asked.dials.items()))
    return (
        Fraction(asked.time_inputs["rate"]),
        dials,
        asked.layout,
        asked.size,
        asked.samples,
        asked.background == TRANSPARENT,
    )


def _ratio(asked: FrameRequest) -> float:
    """Pixels of the picture for each of the page's own, along a side; more samples make it finer."""
    return asked.size[0] / asked.layout[0] * math.isqrt(asked.samples)


_TO_RGBA = {3: cv2.COLOR_BGR2RGBA, 4: cv2.COLOR_BGRA2RGBA}


def _channels(png: NDArray[np.uint8]) -> int:
    """Channels of a PNG: its header's colour type is 2 without alpha, 6 with it."""
    return 3 if png[25] == 2 else 4
