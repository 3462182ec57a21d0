"""Source kind ``page``: HTML or SVG with its scripts and assets, shown in a browser whose time stands still."""

import math
import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.picture import TRANSPARENT, rgb
from vexel.core.plan import SourceFacts
from vexel.sources.archive import unpacked_page
from vexel.sources.browser.chromium import new_page, take_frame
from vexel.sources.browser.site import ORIGIN, Site
from vexel.sources.contract import Asked, SourceError, TookTooLong

LOAD_MS = 20_000
CLOCK = Path(__file__).with_name("browser") / "clock.js"


class PageFile:
    """A page, loaded anew for every sequence of frames that does not go on from the last.

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
        self._look: tuple[object, ...] = ()
        self._page: Any = None
        self._devtools: Any = None
        self._frame = -1
        # A page remembers, so its frames depend on every step from the first on, and a step on the rate.
        self.facts = SourceFacts(sees=("frame", "rate"), pictures=True, walks=True)

    def show(self, asked: Asked) -> NDArray[np.uint8]:
        """Move the page to the frame and take its picture; see `Source.show`."""
        data = np.frombuffer(self.png(asked), np.uint8)
        pixels = cv2.cvtColor(cv2.imdecode(data, cv2.IMREAD_UNCHANGED), _TO_RGBA[_channels(data)])
        return np.asarray(pixels, np.uint8)

    def png(self, asked: Asked) -> bytes:
        """The picture as the browser encodes it; see `Encoded.png`."""
        from playwright.sync_api import Error, TimeoutError

        frame, rate = int(asked.seen["frame"]), Fraction(asked.seen["rate"])
        try:
            look = (rate, asked.layout, asked.size, asked.samples, asked.background)
            if look != self._look or (frame < self._frame and not self._seeks):
                self._load(asked)
                self._look, self._frame = look, -1
            self._go(frame, rate)
            return take_frame(self._devtools, *asked.layout, _ratio(asked))
        except TimeoutError:
            self._look = ()
            raise TookTooLong(
                f"{self._name} did not load within {LOAD_MS // 1000} s: look for a script without an end"
            ) from None
        except Error as error:
            self._look = ()
            if self._site.troubles:
                raise self._wrong() from None
            raise SourceError(f"{self._name}: the browser could not show it: {str(error).splitlines()[0]}") from None

    def _load(self, asked: Asked) -> None:
        if self._page is not None:
            self._page.context.close()
        self._site = Site(self._file.parent)
        self._page = new_page(
            *asked.layout, _ratio(asked),
            locale="en-GB", timezone_id="UTC", accept_downloads=False, service_workers="block",
        )  # fmt: skip
        context = self._page.context
        context.route("**/*", self._site.answer)
        context.add_init_script(CLOCK.read_text() + f"\n__vexel.seed({self._seed});")
        self._page.set_default_timeout(LOAD_MS)
        address = f"{ORIGIN}/{self._file.name}"
        self._page.on("download", lambda download: self._note(f"it downloads {download.suggested_filename}"))
        self._page.on("dialog", self._dismissed)
        self._page.on("framenavigated", lambda frame: self._moved(frame, address))
        self._page.goto(address, wait_until="load")
        self._devtools = context.new_cdp_session(self._page)
        self._set_background(asked.background)
        self._page.evaluate("__vexel.settle()")
        self._seeks = bool(self._page.evaluate("__vexel.seeks()"))
        self._check(self._page.evaluate("__vexel.errors()"))

    def _moved(self, frame: Any, address: str) -> None:
        if frame == self._page.main_frame and frame.url.split("#")[0] not in (address, "about:blank"):
            self._note(f"it goes away to {frame.url[:200]}: a page that is captured stays where it is")

    def _dismissed(self, dialog: Any) -> None:
        self._note(f"it opens a dialog: {dialog.message[:80]!r}")
        dialog.dismiss()

    def _note(self, trouble: str) -> None:
        self._site.troubles.append(trouble)

    def _set_background(self, background: str) -> None:
        red, green, blue, alpha = (0, 0, 0, 0) if background == TRANSPARENT else (*rgb(background), 255)
        colour = {"r": red, "g": green, "b": blue, "a": alpha / 255}
        self._devtools.send("Emulation.setDefaultBackgroundColorOverride", {"color": colour})

    def _go(self, frame: int, rate: Fraction) -> None:
        if frame != self._frame:
            if self._seeks:
                errors = self._page.evaluate("a => __vexel.seek(...a)", [frame, rate.numerator, rate.denominator])
            else:
                span = [self._frame + 1, frame, rate.numerator, rate.denominator]
                errors = self._page.evaluate("a => __vexel.go(...a)", span)
            self._frame = frame
            self._check(errors)

    def _check(self, errors: list[str]) -> None:
        self._site.troubles.extend(errors)
        if self._site.troubles:
            self._look = ()
            raise self._wrong()

    def _wrong(self) -> SourceError:
        first, *more = dict.fromkeys(self._site.troubles)
        others = f" (and {len(more)} more)" if more else ""
        return SourceError(f"{self._name}: {first}{others}")


def _ratio(asked: Asked) -> float:
    """Pixels of the picture for each of the page's own, along a side; more samples make it finer."""
    return asked.size[0] / asked.layout[0] * math.isqrt(asked.samples)


_TO_RGBA = {3: cv2.COLOR_BGR2RGBA, 4: cv2.COLOR_BGRA2RGBA}


def _channels(png: NDArray[np.uint8]) -> int:
    """Channels of a PNG: its header's colour type is 2 without alpha, 6 with it."""
    return 3 if png[25] == 2 else 4
