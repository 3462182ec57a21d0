"""The browser's own protocol over a pair of pipes: commands go out, answers and events come in.

The Chrome DevTools Protocol is an open document. Over pipes, each message is
a JSON text ended by a zero byte. All runs in the caller's thread: events are
handed to their handlers while an answer is waited for. (A driver between took
0.7 s to start in each worker, and 4 ms a frame.)
"""

import json
import os
import select
import time
from collections.abc import Callable
from itertools import count
from typing import Any

CHUNK = 1 << 20
Message = dict[str, Any]
Handler = Callable[[Message], None]


class ProtocolError(Exception):
    """The browser refused a command, or is gone."""


class NoAnswer(ProtocolError):
    """The browser took too long."""


class Protocol:
    """A connection to one browser.

    Parameters
    ----------
    orders, answers : int
        File descriptors to write commands to and to read from.

    Attributes
    ----------
    ended : bool
        Whether the browser was found to be gone.
    """

    def __init__(self, orders: int, answers: int) -> None:
        self._orders, self._incoming = orders, answers
        self.ended = False
        self._numbers = count(1)
        self._begun: list[bytes] = []
        self._awaited: set[int] = set()
        self._answers: dict[int, Message] = {}
        self._handlers: dict[tuple[str, str], Handler] = {}

    def send(self, method: str, session: str = "", seconds: float | None = None, **parameters: Any) -> Message:
        """Send a command and wait for its result.

        Parameters
        ----------
        method : str
            As the protocol names it, such as ``Page.enable``.
        session : str
            Of the page that it is for; empty for the browser.
        seconds : float, optional
            How long to wait; for ever by default.

        Raises
        ------
        ProtocolError
            When the browser refuses, does not answer in time, or is gone.
        """
        number = self.begin(method, session, **parameters)
        try:
            self.wait_until(lambda: self.has(number), seconds, method)
            return self.take(number)
        finally:
            self._awaited.discard(number)

    def begin(self, method: str, session: str = "", **parameters: Any) -> int:
        """Send a command whose result is taken later; its number."""
        number = self._write(method, session, parameters)
        self._awaited.add(number)
        return number

    def has(self, number: int) -> bool:
        """Whether the result of a command is there."""
        return number in self._answers

    def take(self, number: int) -> Message:
        """The result of a command that is there.

        Raises
        ------
        ProtocolError
            When the browser refused.
        """
        self._awaited.discard(number)
        answer = self._answers.pop(number)
        if "error" in answer:
            raise ProtocolError(str(answer["error"].get("message", "refused")))
        result: Message = answer["result"]
        return result

    def tell(self, method: str, session: str = "", **parameters: Any) -> None:
        """Send a command without waiting for its result."""
        self._write(method, session, parameters)

    def on(self, event: str, session: str, handler: Handler) -> None:
        """Call `handler` with an event's parameters whenever it comes."""
        self._handlers[session, event] = handler

    def forget(self, session: str) -> None:
        """Drop all handlers of a session."""
        self._handlers = {key: handler for key, handler in self._handlers.items() if key[0] != session}

    def wait_until(self, happened: Callable[[], bool], seconds: float | None = None, what: str = "") -> None:
        """Take in messages until something has happened."""
        end = None if seconds is None else time.monotonic() + seconds
        while not happened():
            left = None if end is None else end - time.monotonic()
            if left is not None and left <= 0:
                raise NoAnswer(f"{what} took longer than {seconds:g} s")
            self._read(left)

    def _write(self, method: str, session: str, parameters: Message) -> int:
        number = next(self._numbers)
        message: Message = {"id": number, "method": method, "params": parameters}
        if session:
            message["sessionId"] = session
        rest = memoryview(json.dumps(message).encode() + b"\0")
        try:
            # A pipe takes what it has room for.
            while rest:
                rest = rest[os.write(self._orders, rest) :]
        except OSError:
            raise self._gone() from None
        return number

    def _read(self, seconds: float | None) -> None:
        """Read the bytes that have arrived, if any arrive in time."""
        if seconds is not None and not select.select([self._incoming], [], [], seconds)[0]:
            return
        chunk = os.read(self._incoming, CHUNK)
        if not chunk:
            raise self._gone()
        # A picture's message comes in many chunks: they are joined once, at its end.
        *whole, rest = chunk.split(b"\0")
        for text in whole:
            message = b"".join((*self._begun, text))
            self._begun = []
            self._take(json.loads(message))
        if rest:
            self._begun.append(rest)

    def _gone(self) -> ProtocolError:
        self.ended = True
        return ProtocolError("the browser has ended")

    def _take(self, message: Message) -> None:
        number = message.get("id")
        if number is None:
            handler = self._handlers.get((message.get("sessionId", ""), message["method"]))
            if handler is not None:
                handler(message["params"])
        # Answers to commands that nobody waits for are dropped, or they would pile up.
        elif number in self._awaited:
            self._answers[number] = message
