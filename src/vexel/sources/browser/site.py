"""The folder that a page lives in, answered to the browser as if it were a site of its own."""

import mimetypes
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import unquote, urlsplit

ORIGIN = "http://page.invalid"
"""RFC 2606 keeps .invalid from ever being a real host."""
TYPES = {
    ".js": "text/javascript", ".mjs": "text/javascript", ".css": "text/css", ".svg": "image/svg+xml",
    ".html": "text/html", ".htm": "text/html", ".json": "application/json", ".wasm": "application/wasm",
    ".woff2": "font/woff2", ".woff": "font/woff", ".glb": "model/gltf-binary", ".webm": "video/webm",
}  # fmt: skip


@dataclass(frozen=True)
class Answer:
    """What a request is answered with."""

    status: int
    body: bytes = b""
    headers: Mapping[str, str] = field(default_factory=dict)


class Site:
    """Answers requests from a folder, and notes what could not be had.

    Attributes
    ----------
    troubles : list of str
        Addresses that were missing or outside, a sentence each.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder.resolve()
        self.troubles: list[str] = []

    def answer(self, address: str, wanted: str = "") -> Answer | None:
        """Answer a request of the browser.

        Parameters
        ----------
        address : str
        wanted : str
            The request's Range header; empty for the whole file.

        Returns
        -------
        Answer or None
            None when the address is outside, where a page has no network.
        """
        if not address.startswith(f"{ORIGIN}/"):
            self._trouble(f"it asks for {address[:200]}, but a page has no network: put that file beside it")
            return None
        name = unquote(urlsplit(address).path).lstrip("/")
        place = (self._folder / name).resolve()
        if not place.is_relative_to(self._folder) or not place.is_file():
            if name != "favicon.ico":
                self._trouble(f"it needs {name}, which is not beside it: add that file too")
            return Answer(404)
        kind = TYPES.get(place.suffix.lower()) or mimetypes.guess_type(place.name)[0] or "application/octet-stream"
        return _file(place.read_bytes(), kind, wanted)

    def _trouble(self, sentence: str) -> None:
        if sentence not in self.troubles:
            self.troubles.append(sentence)


def _file(data: bytes, kind: str, wanted: str) -> Answer:
    """A file, or the range of it that a player asks for."""
    headers = {"Accept-Ranges": "bytes", "Content-Type": kind}
    if not wanted.startswith("bytes="):
        return Answer(200, data, headers)
    first, _, last = wanted.removeprefix("bytes=").partition("-")
    begin, end = int(first or 0), min(int(last or len(data) - 1), len(data) - 1)
    headers["Content-Range"] = f"bytes {begin}-{end}/{len(data)}"
    return Answer(206, data[begin : end + 1], headers)
