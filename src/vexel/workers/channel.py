"""Numbered, sealed messages between Vexel and a stage process.

User code runs in the process that answers. It may fork, close or write
to descriptors that it does not own: so every message bears a number, the
sender's process and a seal, and the first one that is not as it must be ends
the channel.
"""

import fcntl
import hashlib
import hmac
import io
import os
import pickle
import secrets
import select
import socket
import struct
import time
from fractions import Fraction
from pathlib import PosixPath
from typing import Any

from vexel.core.errors import Failure

KEY_BYTES = 32
SEAL_BYTES = 16
LONGEST = 1 << 30
"""A message of more bytes than this is none of ours."""
FAR_UP = 400
"""Descriptors from here on are out of the way of code that closes or writes to low ones."""
STEP = "step"
"""Outcome of a message that only reports how far an answer is."""
_HEAD = struct.Struct(">4sQQQ")
_MARK = b"VXL1"
_PLAIN = {
    "builtins": {"set", "frozenset", "complex", "bytearray", "OSError", "MemoryError", "FileNotFoundError",
                 "FileExistsError", "PermissionError", "IsADirectoryError", "NotADirectoryError", "BlockingIOError",
                 "InterruptedError", "TimeoutError", "ConnectionError", "BrokenPipeError"},
    "pathlib": {"PosixPath"},
    "fractions": {"Fraction"},
}  # fmt: skip
_KNOWN = {"PosixPath": PosixPath, "Fraction": Fraction}


class ProtocolError(Failure):
    """What came is no message of the other side, or not the one that is due."""


class Channel:
    """One end of a connection.

    Parameters
    ----------
    end : socket.socket
    key : bytes
        Known to both ends; see `first_key` and `take_key`.
    """

    def __init__(self, end: socket.socket, key: bytes) -> None:
        self._end, self._key = end, key

    def send(self, number: int, content: Any, seconds: float | None = None) -> None:
        """Send a message under a number; a `TimeoutError` tells that the other end does not take it."""
        payload = pickle.dumps(content, protocol=pickle.HIGHEST_PROTOCOL)
        head = _HEAD.pack(_MARK, number, os.getpid(), len(payload))
        self._end.settimeout(seconds)
        self._end.sendall(head + self._seal(head, payload) + payload)

    def receive(self, number: int | None, sender: int, seconds: float | None = None) -> tuple[int, Any]:
        """The next message.

        Parameters
        ----------
        number : int or None
            That it must bear; None takes any.
        sender : int
            Process that it must come from.
        seconds : float, optional
            How long to wait; for ever by default.

        Raises
        ------
        TimeoutError
        EOFError
            When the other end is gone.
        ProtocolError
        """
        until = None if seconds is None else time.monotonic() + seconds
        head = self._take(_HEAD.size, until)
        mark, its_number, pid, length = _HEAD.unpack(head)
        if mark != _MARK or length > LONGEST or pid != sender or number not in (None, its_number):
            raise ProtocolError("a message came out of turn")
        seal, payload = self._take(SEAL_BYTES, until), self._take(length, until)
        if not hmac.compare_digest(seal, self._seal(head, payload)):
            raise ProtocolError("a message was not whole")
        try:
            return its_number, _Reader(io.BytesIO(payload)).load()
        except Exception as error:  # noqa: BLE001 (a message that cannot be read is refused, for every reason)
            raise ProtocolError(f"a message could not be read: {error}") from None

    @property
    def is_closed(self) -> bool:
        """Whether the other side is gone, and left nothing to be read."""
        # Asked first: a socket with a timeout waits for missing bytes, in spite of a flag.
        try:
            waiting = select.poll()
            waiting.register(self._end, select.POLLIN)
            return bool(waiting.poll(0)) and self._end.recv(1, socket.MSG_PEEK) == b""
        except OSError:
            return True

    def close(self) -> None:
        """Close this end."""
        self._end.close()

    def _seal(self, head: bytes, payload: bytes) -> bytes:
        seal = hashlib.blake2b(head, digest_size=SEAL_BYTES, key=self._key)
        seal.update(payload)
        return seal.digest()

    def _take(self, count: int, until: float | None) -> bytes:
        taken = bytearray(count)
        view, have = memoryview(taken), 0
        while have < count:
            left = None if until is None else until - time.monotonic()
            if left is not None and left <= 0:
                raise TimeoutError
            self._end.settimeout(left)
            got = self._end.recv_into(view[have:])
            if not got:
                raise EOFError
            have += got
        return bytes(taken)


class _Reader(pickle.Unpickler):
    """Reads values of Vexel's own types and plain ones, and calls nothing else."""

    def find_class(self, module: str, name: str) -> Any:
        """A class that a message may hold."""
        if name in _PLAIN.get(module, ()):
            return _KNOWN.get(name) or getattr(__import__(module), name)
        if module.partition(".")[0] == "vexel":
            found = super().find_class(module, name)
            if isinstance(found, type):
                return found
        raise pickle.UnpicklingError(f"{module}.{name} is no value")


def first_key(end: socket.socket) -> Channel:
    """The asking end: makes the key and sends it, before any user code runs."""
    key = secrets.token_bytes(KEY_BYTES)
    end.sendall(key)
    return Channel(end, key)


def take_key(descriptor: int) -> Channel:
    """The answering end of a descriptor, moved far up and closed on exec and in every fork."""
    moved = fcntl.fcntl(descriptor, fcntl.F_DUPFD_CLOEXEC, FAR_UP)
    os.close(descriptor)
    end = socket.socket(fileno=moved)
    os.register_at_fork(after_in_child=end.close)
    key = b""
    while len(key) < KEY_BYTES:
        part = end.recv(KEY_BYTES - len(key))
        if not part:
            raise EOFError
        key += part
    return Channel(end, key)
