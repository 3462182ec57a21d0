"""The folder of a page, served to the browser as a separate site."""

import mimetypes
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import unquote, urlsplit

ORIGIN = "https://page.invalid"
"""RFC 2606 keeps .invalid from ever being a real host."""
BLANK = ".vexel-blank"
"""An empty document of a page's own origin, which it never sees."""
ALONE = {
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Embedder-Policy": "require-corp",
    "Cross-Origin-Resource-Policy": "same-origin",
    # What the machine has and does is not a page's business, and would differ from capture to capture.
    "Permissions-Policy": ", ".join(
        f"{power}=()"
        for power in (
            "bluetooth",
            "camera",
            "compute-pressure",
            "display-capture",
            "geolocation",
            "hid",
            "local-fonts",
            "microphone",
            "midi",
            "serial",
            "usb",
        )
    ),
}
"""With these a page is alone in its process, and the browser keeps its clocks to 5 µs in place of 100."""
TYPES = {
    ".js": "text/javascript", ".mjs": "text/javascript", ".css": "text/css", ".svg": "image/svg+xml",
    ".html": "text/html", ".htm": "text/html", ".json": "application/json", ".wasm": "application/wasm",
    ".woff2": "font/woff2", ".woff": "font/woff", ".glb": "model/gltf-binary", ".webm": "video/webm",
}  # fmt: skip

HEAD = 65536
MOVES = {
    "image/gif": (b"GIF8",), "image/png": (b"acTL",), "image/apng": (b"acTL",), "image/webp": (b"ANIM",),
    "image/avif": (b"avis",), "image/svg+xml": (b"<animate", b"<set", b"@keyframes"),
}  # fmt: skip
"""By what in its first bytes a picture shows that it moves."""


@dataclass(frozen=True)
class Answer:
    """What a request is answered with."""

    status: int
    body: bytes = b""
    headers: Mapping[str, str] = field(default_factory=dict)


class Site:
    """Answers requests from a folder, and notes what could not be had.

    Parameters
    ----------
    folder : Path
    main : str
        Name of the page's own file.

    Attributes
    ----------
    troubles : list of str
        Addresses that were missing or outside, a sentence each.
    asked : int
        How many requests there were so far.
    moving : bool
        Whether one was for a picture that moves by itself.
    """

    def __init__(self, folder: Path, main: str = "index.html") -> None:
        self._folder, self._main = folder.resolve(), main
        self.troubles: list[str] = []
        self.asked = 0
        self.moving = False

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
        self.asked += 1
        if not address.startswith(f"{ORIGIN}/"):
            self._trouble(f"it asks for {address[:200]}, but a page has no network: put that file beside it")
            return None
        name = unquote(urlsplit(address).path).lstrip("/")
        if name == BLANK:
            return Answer(200, b"<!doctype html>", ALONE | {"Content-Type": "text/html"})
        place = (self._folder / name).resolve()
        if not place.is_relative_to(self._folder) or not place.is_file():
            if name != "favicon.ico":
                self._trouble(f"it needs {name}, which is not beside it: {self._cure(name)}")
            return Answer(404, headers=ALONE)
        kind = TYPES.get(place.suffix.lower()) or mimetypes.guess_type(place.name)[0] or "application/octet-stream"
        data = place.read_bytes()
        self.moving |= kind.startswith("image/") and any(mark in data[:HEAD] for mark in MOVES.get(kind, ()))
        return _file(data, kind, wanted)

    def _cure(self, name: str) -> str:
        if self._main.lower() in ("index.html", "index.htm"):
            return "add that file too"
        # A page of another name has only the files that its text names, and not those whose names it makes up.
        return (
            f"add that file too, or, where {self._main} makes up its name while it runs, rename {self._main} to "
            "index.html, so that its whole folder belongs to it"
        )

    def _trouble(self, sentence: str) -> None:
        if sentence not in self.troubles:
            self.troubles.append(sentence)


def _file(data: bytes, kind: str, wanted: str) -> Answer:
    """A file, or the range of it that a player asks for."""
    headers = ALONE | {"Accept-Ranges": "bytes", "Content-Type": kind}
    if not wanted.startswith("bytes="):
        return Answer(200, data, headers)
    first, _, last = wanted.removeprefix("bytes=").partition("-")
    begin, end = int(first or 0), min(int(last or len(data) - 1), len(data) - 1)
    headers["Content-Range"] = f"bytes {begin}-{end}/{len(data)}"
    return Answer(206, data[begin : end + 1], headers)
