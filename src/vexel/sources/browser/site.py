"""The folder that a page lives in, answered to the browser as if it were a site of its own."""

import mimetypes
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

ORIGIN = "http://page.invalid"
"""RFC 2606 keeps .invalid from ever being a real host."""
TYPES = {
    ".js": "text/javascript", ".mjs": "text/javascript", ".css": "text/css", ".svg": "image/svg+xml",
    ".html": "text/html", ".htm": "text/html", ".json": "application/json", ".wasm": "application/wasm",
    ".woff2": "font/woff2", ".woff": "font/woff", ".glb": "model/gltf-binary", ".webm": "video/webm",
}  # fmt: skip


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

    def answer(self, route: Any) -> None:
        """Answer a request of the browser."""
        address = route.request.url
        if not address.startswith(f"{ORIGIN}/"):
            self._trouble(f"it asks for {address[:200]}, but a page has no network: put that file beside it")
            route.abort("addressunreachable")
            return
        place = (self._folder / unquote(urlsplit(address).path).lstrip("/")).resolve()
        if not place.is_relative_to(self._folder) or not place.is_file():
            name = unquote(urlsplit(address).path).lstrip("/")
            if name != "favicon.ico":
                self._trouble(f"it needs {name}, which is not beside it: bring that file too")
            route.fulfill(status=404, body="")
            return
        kind = TYPES.get(place.suffix.lower()) or mimetypes.guess_type(place.name)[0] or "application/octet-stream"
        self._serve(route, place, kind)

    def _serve(self, route: Any, place: Path, kind: str) -> None:
        """The file, or the range of it that a player asks for."""
        data = place.read_bytes()
        wanted = route.request.headers.get("range", "")
        headers = {"Accept-Ranges": "bytes", "Content-Type": kind}
        if not wanted.startswith("bytes="):
            route.fulfill(status=200, body=data, headers=headers)
            return
        first, _, last = wanted.removeprefix("bytes=").partition("-")
        begin, end = int(first or 0), min(int(last or len(data) - 1), len(data) - 1)
        headers["Content-Range"] = f"bytes {begin}-{end}/{len(data)}"
        route.fulfill(status=206, body=data[begin : end + 1], headers=headers)

    def _trouble(self, sentence: str) -> None:
        if sentence not in self.troubles:
            self.troubles.append(sentence)
