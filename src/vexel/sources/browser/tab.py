"""One page in the browser, in a context of its own: nothing of it is shared or kept."""

import base64
import itertools
import time
from collections.abc import Callable
from typing import Any

from vexel.sources.browser.chromium import browser
from vexel.sources.browser.protocol import ProtocolError
from vexel.sources.browser.site import Site
from vexel.sources.protocols import SourceError

INTERVAL_MS = 1000 / 60
TRIES = 20
_TICKS = itertools.count(1000.0, INTERVAL_MS)
"""Times of frames for the browser's own clock, which no page sees."""


class Tab:
    """An empty page.

    Parameters
    ----------
    width, height : int
        In the page's own pixels.
    ratio : float
        Pixels of the picture for each of the page's own. At 1 the page paints
        only when a frame is taken, so that nothing is painted twice.
    site : Site
        Answers all its requests.
    """

    def __init__(self, width: int, height: int, ratio: float, site: Site) -> None:
        self._size: dict[str, Any] = {"width": width, "height": height}
        self._by_frames = ratio == 1
        self._browser = browser(self._by_frames)
        self._context: str = self._browser.send("Target.createBrowserContext")["browserContextId"]
        order = {"url": "about:blank", "browserContextId": self._context, "enableBeginFrameControl": self._by_frames}
        self._target: str = self._browser.send("Target.createTarget", **order, **self._size)["targetId"]
        self._session = ""
        self._session = self._browser.send("Target.attachToTarget", targetId=self._target, flatten=True)["sessionId"]
        self.on("Inspector.targetCrashed", self._crashed)
        self.on("Fetch.requestPaused", lambda event: self._answer(site, event))
        for domain in ("Page", "Runtime", "Inspector"):
            self.send(f"{domain}.enable")
        self.send("Fetch.enable", patterns=[{"urlPattern": "*"}])
        self.send("Emulation.setDeviceMetricsOverride", **self._size, deviceScaleFactor=ratio, mobile=False)
        self.send("Emulation.setFocusEmulationEnabled", enabled=True)
        self.send("Emulation.setLocaleOverride", locale="en-GB")
        self.send("Emulation.setTimezoneOverride", timezoneId="UTC")
        self._browser.send("Browser.setDownloadBehavior", behavior="deny", browserContextId=self._context)

    def send(self, method: str, seconds: float | None = None, **parameters: Any) -> dict[str, Any]:
        """See `Protocol.send`."""
        return self._browser.send(method, self._session, seconds, **parameters)

    def on(self, event: str, handler: Callable[[dict[str, Any]], None]) -> None:
        """Call `handler` with an event's parameters whenever it comes."""
        self._browser.on(event, self._session, handler)

    def on_dialog(self, handler: Callable[[str], None]) -> None:
        """Call `handler` with what a dialog says, and dismiss it."""

        def opened(event: dict[str, Any]) -> None:
            handler(event["message"])
            self._browser.tell("Page.handleJavaScriptDialog", self._session, accept=False)

        self.on("Page.javascriptDialogOpening", opened)

    def on_moved(self, handler: Callable[[str], None]) -> None:
        """Call `handler` with the address of every document that the page itself shows."""

        def moved(event: dict[str, Any]) -> None:
            frame = event["frame"]
            if "parentId" not in frame:
                handler(frame["url"])

        self.on("Page.frameNavigated", moved)

    def begin_with(self, script: str) -> None:
        """Run a script in every document of the page before any of its own."""
        self.send("Page.addScriptToEvaluateOnNewDocument", source=script)

    def go_to(self, address: str, seconds: float) -> None:
        """Load a document with all that it needs.

        Raises
        ------
        NoAnswer
            When it does not come to an end in time.
        """
        loaded: list[bool] = []
        self.on("Page.loadEventFired", lambda _: loaded.append(True))
        end = time.monotonic() + seconds
        self.send("Page.navigate", seconds, url=address)
        self._browser.wait_until(lambda: bool(loaded), end - time.monotonic(), "loading")

    def evaluate(self, expression: str, seconds: float | None = None) -> Any:
        """Value of a script's expression, when it is settled.

        Raises
        ------
        ProtocolError
            When it throws, or the document goes away meanwhile.
        """
        event = self.send("Runtime.evaluate", seconds, expression=expression, awaitPromise=True, returnByValue=True)
        if "exceptionDetails" in event:
            thrown = event["exceptionDetails"]
            raise ProtocolError(thrown.get("exception", {}).get("description", thrown["text"]))
        return event["result"].get("value")

    def picture(self) -> bytes:
        """What it shows, as a PNG file."""
        order: dict[str, Any] = {"format": "png", "optimizeForSpeed": True}
        if self._by_frames:
            return base64.b64decode(self._painted(order))
        # Without a clip, there is one pixel for each of the page's own, whatever its ratio.
        clip = {"x": 0, "y": 0, **self._size, "scale": 1}
        return base64.b64decode(self.send("Page.captureScreenshot", **order, clip=clip)["data"])

    def close(self) -> None:
        """Close it, with its context."""
        self._browser.forget(self._session)
        self._browser.send("Target.disposeBrowserContext", browserContextId=self._context)

    def _painted(self, order: dict[str, Any]) -> str:
        """The page painted once; again if the browser was still about to show its first frame."""
        for _ in range(TRIES):
            timing = {"frameTimeTicks": next(_TICKS), "interval": INTERVAL_MS}
            event = self.send("HeadlessExperimental.beginFrame", **timing, screenshot=order)
            if "screenshotData" in event:
                return str(event["screenshotData"])
            time.sleep(0.01)
        raise SourceError("the browser painted nothing: capture again")

    def _answer(self, site: Site, event: dict[str, Any]) -> None:
        request = event["request"]
        wanted = {name.lower(): value for name, value in request["headers"].items()}.get("range", "")
        answer = site.answer(request["url"], wanted)
        if answer is None:
            reason = {"requestId": event["requestId"], "errorReason": "AddressUnreachable"}
            self._browser.tell("Fetch.failRequest", self._session, **reason)
            return
        self._browser.tell(
            "Fetch.fulfillRequest",
            self._session,
            requestId=event["requestId"],
            responseCode=answer.status,
            responseHeaders=[{"name": name, "value": value} for name, value in answer.headers.items()],
            body=base64.b64encode(answer.body).decode(),
        )

    def _crashed(self, _: dict[str, Any]) -> None:
        raise ProtocolError("the page crashed the browser, often for want of memory")
