"""One page in the browser, in an isolated context: nothing of it is shared or kept."""

import base64
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from vexel.core.errors import SourceError
from vexel.sources.browser.chromium import browser
from vexel.sources.browser.protocol import NoAnswer, Protocol, ProtocolError
from vexel.sources.browser.site import Site

INTERVAL_MS = 1000 / 60
TRIES = 20
SHOT_FRAMES, SHOT_WAIT, SHOT_TICK_MS = 100, 0.01, 1 / 200
"""A picture of more pixels than the page's own takes some frames more, which come so close that nothing moves."""
WORKER_SECONDS = 30.0


class Worker:
    """A worker of a page."""

    def __init__(self, connection: Protocol, session: str) -> None:
        self._connection, self._session = connection, session

    def evaluate(self, expression: str) -> None:
        """Run a script in it, when it is free, until it is settled; one that has ended runs nothing."""
        order = {"expression": expression, "awaitPromise": True}
        with suppress(ProtocolError):
            self._connection.send("Runtime.evaluate", self._session, WORKER_SECONDS, **order)


class Tab:
    """An empty page, which paints only when a frame is asked for.

    Parameters
    ----------
    width, height : int
        In the page's own pixels.
    ratio : float
        Pixels of the picture for each of the page's own.
    site : Site
        Answers all its requests.
    worker_script : str
        Runs in every worker before its own scripts.

    Attributes
    ----------
    workers : list of Worker
    """

    def __init__(self, width: int, height: int, ratio: float, site: Site, worker_script: str = "") -> None:
        self._size: dict[str, Any] = {"width": width, "height": height}
        self._ratio, self.site, self._worker_script = ratio, site, worker_script
        self.workers: list[Worker] = []
        self._is_clear = False
        self._browser = browser()
        self._context: str = self._browser.send("Target.createBrowserContext")["browserContextId"]
        order = {"url": "about:blank", "browserContextId": self._context, "enableBeginFrameControl": True}
        self._target: str = self._browser.send("Target.createTarget", **order, **self._size)["targetId"]
        self._session = ""
        self._session = self._browser.send("Target.attachToTarget", targetId=self._target, flatten=True)["sessionId"]
        self._moved: Callable[[str], None] = lambda to: None
        self._here = ""
        self.on("Inspector.targetCrashed", self._crashed)
        self.on("Fetch.requestPaused", self._answer)
        self.on("Target.attachedToTarget", self._attached)
        for domain in ("Page", "Runtime", "Inspector"):
            self.send(f"{domain}.enable")
        self.send("Fetch.enable", patterns=[{"urlPattern": "*"}])
        self.send("Target.setAutoAttach", autoAttach=True, waitForDebuggerOnStart=True, flatten=True)
        self.send("Emulation.setDeviceMetricsOverride", **self._size, deviceScaleFactor=ratio, mobile=False)
        self.send("Emulation.setFocusEmulationEnabled", enabled=True)
        self.send("Emulation.setLocaleOverride", locale="en-GB")
        self.send("Emulation.setTimezoneOverride", timezoneId="UTC")
        self._browser.send("Browser.setDownloadBehavior", behavior="deny", browserContextId=self._context)

    def send(self, method: str, seconds: float | None = None, **parameters: Any) -> dict[str, Any]:
        """See `Protocol.send`."""
        return self._browser.send(method, self._session, seconds, **parameters)

    def wait_until(self, happened: Callable[[], bool], seconds: float | None, what: str) -> None:
        """See `Protocol.wait_until`."""
        self._browser.wait_until(happened, seconds, what)

    def on(self, event: str, handler: Callable[[dict[str, Any]], None]) -> None:
        """Call `handler` with an event's parameters whenever it comes."""
        self._browser.on(event, self._session, handler)

    def on_dialog(self, handler: Callable[[str], None]) -> None:
        """Call `handler` with what a dialog says, and dismiss it."""

        def opened(event: dict[str, Any]) -> None:
            handler(event["message"])
            self._browser.tell("Page.handleJavaScriptDialog", self._session, accept=False)

        self.on("Page.javascriptDialogOpening", opened)

    def on_moved(self, here: str, handler: Callable[[str], None]) -> None:
        """Call `handler` with every other address than `here` that the page itself would show."""
        self._here, self._moved = here, handler

        def moved(event: dict[str, Any]) -> None:
            frame = event["frame"]
            if "parentId" not in frame and frame["url"] not in (here, "about:blank"):
                handler(frame["url"])

        self.on("Page.frameNavigated", moved)

    def begin_with(self, script: str) -> None:
        """Run a script in every document of the page before the page's own scripts."""
        self.send("Page.addScriptToEvaluateOnNewDocument", source=script)

    def go_to(self, address: str, seconds: float) -> None:
        """Show a document that needs nothing else.

        Raises
        ------
        NoAnswer
            When it does not come to an end in time.
        """
        loaded: list[bool] = []
        self.on("Page.loadEventFired", lambda _: loaded.append(True))
        self.send("Page.navigate", seconds, url=address)
        self.wait_until(lambda: bool(loaded), seconds, "loading")

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

    def frame(self, ticks: float) -> None:
        """Make a frame at a time of the browser's own, without a picture."""
        self.send("HeadlessExperimental.beginFrame", frameTimeTicks=ticks, interval=INTERVAL_MS)

    def set_clear(self, on: bool) -> None:
        """Let pictures have alpha where the page paints nothing, or white there."""
        if on != self._is_clear:
            self._is_clear = on
            colour = {"r": 0, "g": 0, "b": 0, "a": 0} if on else {"r": 255, "g": 255, "b": 255, "a": 1}
            self.send("Emulation.setDefaultBackgroundColorOverride", color=colour)

    def picture(self, ticks: float) -> bytes:
        """What it shows in a frame that is made at a time of the browser's own, as a PNG file."""
        order: dict[str, Any] = {"format": "png", "optimizeForSpeed": True}
        if self._ratio == 1:
            return base64.b64decode(self._painted(ticks, order))
        self.frame(ticks)
        # A frame's own picture has one pixel for each CSS pixel, at every ratio; this one has all device pixels.
        clip = {"x": 0, "y": 0, **self._size, "scale": 1}
        return base64.b64decode(self._shot(ticks, order | {"clip": clip}))

    def close(self) -> None:
        """Close it, with its context."""
        self._browser.forget(self._session)
        self._browser.send("Target.disposeBrowserContext", browserContextId=self._context)

    def _painted(self, ticks: float, order: dict[str, Any]) -> str:
        """The page painted once; again if the browser was still about to show its first frame."""
        for number in range(TRIES):
            timing = {"frameTimeTicks": ticks + number * SHOT_TICK_MS, "interval": INTERVAL_MS}
            event = self.send("HeadlessExperimental.beginFrame", **timing, screenshot=order)
            if "screenshotData" in event:
                return str(event["screenshotData"])
            time.sleep(0.01)
        raise SourceError("the browser painted nothing: capture again")

    def _shot(self, ticks: float, order: dict[str, Any]) -> str:
        """A picture that is taken of the frames that follow; the page sees none of them."""
        shot = self._browser.begin("Page.captureScreenshot", self._session, **order)
        for _ in range(SHOT_FRAMES):
            ticks += SHOT_TICK_MS
            self.frame(ticks)
            with suppress(NoAnswer):
                self.wait_until(lambda: self._browser.has(shot), SHOT_WAIT, "a picture")
                return str(self._browser.take(shot)["data"])
        raise SourceError("the browser painted nothing: capture again")

    def _answer(self, event: dict[str, Any]) -> None:
        request = event["request"]
        leaves = event.get("resourceType") == "Document" and event.get("frameId") == self._target
        if leaves and self._here and request["url"] != self._here:
            self._moved(request["url"])
            self._refuse(event, "Aborted")
            return
        wanted = {name.lower(): value for name, value in request["headers"].items()}.get("range", "")
        answer = self.site.answer(request["url"], wanted)
        if answer is None:
            self._refuse(event, "AddressUnreachable")
            return
        self._browser.tell(
            "Fetch.fulfillRequest",
            self._session,
            requestId=event["requestId"],
            responseCode=answer.status,
            responseHeaders=[{"name": name, "value": value} for name, value in answer.headers.items()],
            body=base64.b64encode(answer.body).decode(),
        )

    def _refuse(self, event: dict[str, Any], reason: str) -> None:
        refusal = {"requestId": event["requestId"], "errorReason": reason}
        self._browser.tell("Fetch.failRequest", self._session, **refusal)

    def _attached(self, event: dict[str, Any]) -> None:
        """A worker is about to begin: it gets the page's clock first."""
        session, kind = event["sessionId"], event["targetInfo"]["type"]
        if kind == "worker":
            self.workers.append(Worker(self._browser, session))
            self._browser.tell("Runtime.evaluate", session, expression=self._worker_script)
        self._browser.tell("Runtime.runIfWaitingForDebugger", session)

    def _crashed(self, _: dict[str, Any]) -> None:
        raise ProtocolError("the page crashed the browser, often for want of memory")
