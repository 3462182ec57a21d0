"""The clock of a page in the browser: it is stopped, and advances to an exact time on request.

The browser has a virtual time, by which all that it shows runs:
timers, dates, animations, pictures that move. It is let on by a stretch, and
then a frame is begun for exactly its end. It never waits for the wall clock,
but for what is being fetched. (A clock in the page's own script had to put
itself in the place of each of these, and missed some.)
"""

import math
import time
from collections.abc import Callable
from fractions import Fraction

from vexel.sources.browser.protocol import NoAnswer
from vexel.sources.browser.tab import Tab

EPOCH = 1_767_225_600
"""A page's date when it is opened: 1 January 2026, 00:00 UTC."""
TICK_MS = Fraction(1, 200)
"""What the browser rounds its clocks to for a page that shares nothing with others; so do we, or chance would."""
LEAST_MS = 0.0001
"""So little that the browser's clock, which counts microseconds, stays where it is, while it does what waits."""
COARSE_MS, BEYOND_MS = 0.1, 0.002
"""Scripts and timers come a little farther than a frame, so that what is due at its very time is done before it: to
next tenth of a millisecond. To these the browser rounds the clocks of pictures in a page, unpredictably."""
MEDIA_SECONDS, SETTLE_SECONDS = 5.0, 10.0
LATE_SECONDS = 0.25
"""After this time the picture that a video shows is taken for the requested one."""
WAIT_SECONDS = 0.001
TRIES = 4
WHOLE_FRAME = 2


class PageClock:
    """Moves a page that is open in a tab.

    Parameters
    ----------
    tab : Tab
        Whose page is not loaded yet.
    clear : bool
        Whether its pictures keep their alpha; else only where the page does not paint its whole canvas.

    Attributes
    ----------
    needs : int
        Which frames between those of the shot the page would have noticed when time last advanced: 0 for none, or
        `WHOLE_FRAME` where running animations must advance in them.
    """

    def __init__(self, tab: Tab, clear: bool) -> None:
        self._tab = tab
        self._clear = clear
        self._expired = 0
        tab.on("Emulation.virtualTimeBudgetExpired", lambda _: self._note())
        answer = tab.send("Emulation.setVirtualTimePolicy", policy="pause", initialVirtualTime=EPOCH)
        self._base = float(answer["virtualTimeTicksBase"])
        self._stood = -1.0
        self._plays = False
        self.needs = WHOLE_FRAME

    def load(self, address: str, seconds: float, failed: Callable[[], bool]) -> None:
        """Load a document with all that it needs while its time is stopped, unless it fails before.

        Raises
        ------
        NoAnswer
            When it does not come to an end in time.
        """
        loaded: list[bool] = []
        self._tab.on("Page.loadEventFired", lambda _: loaded.append(True))
        end = time.monotonic() + seconds
        self._tab.send("Page.navigate", seconds, url=address)
        while not loaded and not failed():
            self._let_on(LEAST_MS, end - time.monotonic())
        if not failed():
            self.settle(end - time.monotonic())

    def step(self, at: Fraction, of_shot: bool) -> None:
        """Come to a time in milliseconds, and let the page do the work of a frame, of which no picture is taken.

        Parameters
        ----------
        at : Fraction
        of_shot : bool
            Whether it is a frame of the shot, which is made also when only it is passed by; else one between two.
        """
        self._come_to(at)
        if (of_shot and self.goes_its_own_way) or self.needs == WHOLE_FRAME:
            self._tab.frame(self._ticks(at))
        elif self.needs:
            # Where no frame reports its end, painting it would be waste.
            self._tab.evaluate("__vexel.pass()")

    @property
    def goes_its_own_way(self) -> bool:
        """Whether what the page shows may depend on which frames there were: not if only styles move."""
        return bool(self.needs or self._plays or self._tab.workers or self._tab.site.moving)

    def picture(self, at: Fraction) -> bytes:
        """Come to a time in milliseconds, and take a picture of the frame there, as a PNG file.

        What only this frame turned out to need, such as a picture in a style, is waited for, and it is painted again.
        """
        self._come_to(at)
        if self._tab.workers:
            # What a worker draws reaches the page with the frame after the one in which it was drawn.
            self._tab.frame(self._ticks(at))
            self._meet_workers()
        if self._plays:
            self._tab.evaluate("__vexel.present()")
        for _ in range(TRIES):
            asked = self._tab.site.asked
            picture = self._tab.picture(self._ticks(at))
            if self._tab.site.asked == asked and not self._tab.evaluate("__vexel.busy()"):
                break
            self.settle()
        return picture

    def _come_to(self, at: Fraction) -> None:
        """Advance time, and wait for all that is fetched or decoded."""
        exact = float(at)
        stands = self._tab.evaluate(f"__vexel.allow({exact!r})")
        for worker in self._tab.workers:
            worker.evaluate(f"__vexelWorker.tick({exact!r})")
        # What it went too far or not far enough before, by the microsecond, is made up for.
        ahead = COARSE_MS * (math.floor(exact / COARSE_MS) + 1) + BEYOND_MS - stands
        if ahead > 0:
            self._let_on(ahead)
        self._meet_workers()
        media, busy, self.needs, covers = self._tab.evaluate("__vexel.arrive()")
        self._tab.set_clear(self._clear or not covers)
        if media:
            self._wait_for_media()
            self._plays = True
        if busy:
            self.settle()

    def settle(self, seconds: float = SETTLE_SECONDS) -> None:
        """Wait until nothing is being fetched or decoded.

        Raises
        ------
        NoAnswer
            When that takes too long.
        """
        end = time.monotonic() + seconds
        while self._tab.evaluate("__vexel.busy()"):
            if time.monotonic() > end:
                raise NoAnswer(f"it never settles: something is still being fetched after {seconds:.0f} s")
            self._let_on(LEAST_MS, seconds)
            time.sleep(WAIT_SECONDS)

    def _meet_workers(self) -> None:
        """Let what the page and its workers have sent each other arrive."""
        for _ in range(2 if self._tab.workers else 0):
            for worker in self._tab.workers:
                worker.evaluate("0")
            self._let_on(LEAST_MS)

    def _wait_for_media(self) -> None:
        begun = time.monotonic()
        while not self._tab.evaluate("__vexel.mediaReady(false)"):
            waited = time.monotonic() - begun
            if waited > LATE_SECONDS and self._tab.evaluate("__vexel.mediaReady(true)"):
                return
            if waited > MEDIA_SECONDS:
                return
            self._let_on(LEAST_MS)
            time.sleep(WAIT_SECONDS)

    def _ticks(self, at: Fraction) -> float:
        """The time of a frame by the browser's own count, which must rise from frame to frame."""
        whole = float(round(at / TICK_MS) * TICK_MS)
        self._stood = max(whole, self._stood + float(TICK_MS))
        return self._base + self._stood

    def _let_on(self, milliseconds: float, seconds: float | None = None) -> None:
        before = self._expired
        self._tab.send("Emulation.setVirtualTimePolicy", policy="pauseIfNetworkFetchesPending", budget=milliseconds)
        self._tab.wait_until(lambda: self._expired > before, seconds, "its scripts")

    def _note(self) -> None:
        self._expired += 1


def steps_to(before: Fraction, at: Fraction, longest: Fraction) -> list[Fraction]:
    """Times from one to another by equal steps of at most a length, the last one exactly."""
    count = max(-((before - at) // longest), 1)
    return [before + (at - before) * n / count for n in range(1, count + 1)]
