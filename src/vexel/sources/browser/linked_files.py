"""Files that a page draws on: what its texts name, and what pages load of a folder that is theirs alone."""

import itertools
import os
import re
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import unquote

from vexel.core.errors import Mistake

LOADED = frozenset(
    f".{ending}"
    for group in (
        "html htm svg css js mjs json geojson topojson xml wasm csv tsv glsl vert frag wgsl vtt woff woff2 ttf otf",
        "png jpg jpeg gif webp avif apng ico bmp hdr exr ktx ktx2 basis dds",
        "mp4 m4v webm ogv mov mp3 ogg oga opus wav m4a flac",
        "glb gltf bin obj mtl stl ply drc splat npy npz parquet arrow",
    )
    for ending in group.split()
)
"""Endings of what pages load by names that are put together while they run."""
TEXTS = (".html", ".htm", ".svg", ".css", ".js", ".mjs", ".json")
MAX_FILES = 5000
MAX_BYTES = 1024**3
_BASE = re.compile(rb"""<base\s[^>]*href\s*=\s*["']?([^"'>\s]{1,200})""", re.IGNORECASE)
_NAMED = re.compile(rb"""["'(=\s]([\w@%./ -]{1,200}\.[A-Za-z0-9]{1,6})(?:[?#][^"')\s]*)?["')\s>]""")


def linked_files(file: Path) -> Iterator[Path]:
    """Files beside a page.

    All that its own text names, and what those texts name in turn. A page named
    index.html also gets the files of its folder of the sorts that pages load.

    Raises
    ------
    Mistake
        When that is more than a page may be.
    """
    if file.suffix.lower() == ".zip":
        return
    found = dict.fromkeys([*_named(file), *(_loadable(file.parent) if file.stem.lower() == "index" else ())])
    count = total = 0
    for path in found:
        count, total = count + 1, total + path.stat().st_size
        if count > MAX_FILES or total > MAX_BYTES:
            raise Mistake(
                f"the folder of {file.name} holds more than the {MAX_FILES:,} files or {MAX_BYTES // 1024**2:,} MB "
                "that a page can have: move the page into a separate folder"
            )
        yield path


def _loadable(folder: Path) -> Iterator[Path]:
    for place, folders, names in os.walk(folder):
        # Hidden ones, such as a repository's, may be large, and are never part of a page.
        folders[:] = [name for name in folders if not name.startswith(".")]
        for name in names:
            path = Path(place) / name
            if path.suffix.lower() in LOADED and not name.startswith(".") and path.is_file():
                yield path


def _named(file: Path) -> Iterator[Path]:
    seen, waiting, bases = {file}, [file], [file.parent]
    while waiting:
        text = waiting.pop()
        data = text.read_bytes()
        names = {match.decode("utf-8", "replace") for match in _NAMED.findall(data)}
        # Scripts name files relative to the page, not to themselves.
        bases += _bases(text, data)
        places = itertools.product(names | {unquote(name) for name in names}, (text.parent, *bases))
        for path in (_place(base, name) for name, base in places):
            if path is None or path in seen or not path.is_relative_to(file.parent.resolve()):
                continue
            seen.add(path)
            yield path
            if path.suffix.lower() in TEXTS:
                waiting.append(path)


def _place(base: Path, name: str) -> Path | None:
    """A file that is there, by its name."""
    try:
        path = (base / name.lstrip("/")).resolve()
        return path if path.is_file() else None
    except (ValueError, OSError):
        return None


def _bases(text: Path, data: bytes) -> list[Path]:
    """Folders that addresses of a page are relative to, as its ``base`` element says (HTML, 4.2.3)."""
    hrefs = [match.decode("utf-8", "replace") for match in _BASE.findall(data)]
    return [text.parent / unquote(href).rpartition("/")[0].lstrip("/") for href in hrefs]
