"""All kinds of source, one record each: how a file is recognised, opened and copied.

What is always true of a kind is in `vexel.core.document.source_spec`, with
its part of the shot document. Implementations are imported when one is
opened, since each imports other libraries.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from importlib import import_module
from pathlib import Path
from typing import Any

from vexel.core.document.source_spec import (
    ClipSource,
    ModelSource,
    ObjectSource,
    PageSource,
    PhotoSource,
    SeriesSource,
    SimulationSource,
    SketchSource,
    SourceSpec,
    StillsSource,
)
from vexel.core.evaluate.source_facts import SourceAt
from vexel.imaging.float_images import RADIANCE
from vexel.imaging.images import IMAGES
from vexel.sources.browser.linked_files import linked_files
from vexel.sources.contained_path import contained_file
from vexel.sources.dependencies import (
    beside_code,
    beside_mesh,
    members_of_series,
    members_of_stills,
    stamp_of_clip,
    stamp_of_sequence,
    stamp_of_series,
)
from vexel.sources.meshes.mesh_format import SUFFIXES as MESH_SUFFIXES
from vexel.sources.pictures.sequence_members import COLLECTIONS, numbered_meshes, single_picture
from vexel.sources.protocols import Source

CLIPS = (
    ".mp4", ".mov", ".mkv", ".webm", ".avi", ".m4v", ".mpg", ".mpeg", ".ogv", ".gif", ".m2ts", ".mts", ".vob", ".flv",
    ".wmv", ".mxf", ".3gp", ".y4m", ".ivf", ".h264", ".264", ".h265", ".265", ".hevc", ".apng", ".dv",
)  # fmt: skip
TRANSPORT_PACKET = 188
"""Distance in bytes between the sync bytes of a transport stream (ITU-T H.222.0)."""
DATA = (".npz", ".npy", ".csv", ".parquet", ".pvd", ".vtu", ".vti", ".vts", ".vtr", ".vtk", *COLLECTIONS)
PAGES = (".html", ".htm", ".svg")


@dataclass(frozen=True)
class Detection:
    """How a file of a kind is recognised, from its content before its name.

    Attributes
    ----------
    mark : str
        Decorator on one of its functions, where it is Python.
    begins : tuple of bytes
        With any of these a file of the kind begins.
    content : callable
        Whether the first bytes of a file without such a beginning mark the kind.
    place : callable
        Whether a file is of the kind because of the files beside it.
    suffixes : tuple of str
    archived : tuple of str
        Suffixes in a ZIP archive that mark the kind.
    """

    mark: str = ""
    begins: tuple[bytes, ...] = ()
    content: Callable[[bytes], bool] = lambda head: False
    place: Callable[[Path], bool] = lambda file: False
    suffixes: tuple[str, ...] = ()
    archived: tuple[str, ...] = ()


def _none_beside(file: Path) -> Iterator[Path]:
    return iter(())


@dataclass(frozen=True)
class KindFiles:
    """Which files a source is made of.

    Attributes
    ----------
    beside : callable
        Files that its main file draws on.
    stamp : callable or None
        A digest of a source that is read where it lies, since it may be very
        large, by its main file and options; None for one that is copied.
    code : callable
        The file that would run, by the main file and options; None where nothing runs.
    members : callable
        All files that a source which is read where it lies consists of, by its main file.
    keeps_states : bool
        Whether states of it are kept on disk, from which its frames are reached.
    """

    beside: Callable[[Path], Iterator[Path]] = _none_beside
    stamp: Callable[[Path, Mapping[str, Any]], str] | None = None
    code: Callable[[Path, Mapping[str, Any]], Path | None] = lambda main, options: None
    members: Callable[[Path], Iterable[Path]] = lambda main: (main,)
    keeps_states: bool = False


@dataclass(frozen=True)
class SourceKind:
    """A kind of source.

    Attributes
    ----------
    spec : type of SourceSpec
        Its part of the shot document, with its traits.
    opens : str
        Module and class of the implementation, below ``vexel.sources.kinds``.
    several : bool
        Whether any file of the kind can represent all of them.
    """

    spec: type[SourceSpec]
    opens: str
    detection: Detection
    files: KindFiles = field(default_factory=KindFiles)
    several: bool = False

    @property
    def name(self) -> str:
        """Its name in the document."""
        return self.spec.kind_name()

    @property
    def suffixes(self) -> tuple[str, ...]:
        """Endings of the files that it takes."""
        return self.detection.suffixes


def _is_code(main: Path, options: Mapping[str, Any]) -> Path | None:
    return main


def _drawing_of(main: Path, options: Mapping[str, Any]) -> Path | None:
    draw = str(options.get("draw") or "")
    return contained_file(main.parent, draw, main.name) if draw else None


def _is_page(head: bytes) -> bool:
    text = head.lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    return text.startswith((b"<!doctype html", b"<html", b"<svg"))


def _is_clip(head: bytes) -> bool:
    marks = head[: 4 * TRANSPORT_PACKET : TRANSPORT_PACKET]
    transport = len(marks) == 4 and marks == b"GGGG"
    return transport or head[4:8] == b"ftyp" or (head.startswith(b"RIFF") and head[8:12] == b"AVI ")


def _is_webp(head: bytes) -> bool:
    return head.startswith(b"RIFF") and head[8:12] == b"WEBP"


CODE = KindFiles(beside_code, code=_is_code)
KINDS: Mapping[str, SourceKind] = {
    kind.name: kind
    for kind in (
        SourceKind(
            SimulationSource,
            "simulation:SimulationFile",
            Detection("simulation"),
            KindFiles(beside_code, code=_is_code, keeps_states=True),
        ),
        SourceKind(SketchSource, "sketch:SketchFile", Detection("sketch"), CODE),
        SourceKind(
            PageSource,
            "page:PageFile",
            Detection(content=_is_page, suffixes=PAGES, archived=(".html", ".htm")),
            KindFiles(linked_files, code=_is_code),
        ),
        SourceKind(ModelSource, "model:ModelFile", Detection("model"), CODE),
        SourceKind(
            ObjectSource,
            "object:ObjectFile",
            Detection(begins=(b"glTF", b"ply\n", b"ply\r"), suffixes=tuple(MESH_SUFFIXES)),
            KindFiles(beside_mesh),
        ),
        SourceKind(
            SeriesSource,
            "series:SeriesFile",
            Detection(begins=(b"\x93NUMPY", b"PAR1"), place=numbered_meshes, suffixes=DATA),
            KindFiles(stamp=stamp_of_series, code=_drawing_of, members=members_of_series),
            several=True,
        ),
        SourceKind(
            ClipSource,
            "clip:ClipFile",
            Detection(begins=(b"\x1aE\xdf\xa3", b"GIF8", b"OggS"), content=_is_clip, suffixes=CLIPS),
            KindFiles(stamp=stamp_of_clip),
        ),
        SourceKind(
            StillsSource,
            "stills:StillsFolder",
            Detection(
                begins=(b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"II*\0", b"MM\0*", b"v/1\x01", *RADIANCE),
                content=_is_webp,
                suffixes=IMAGES,
                archived=IMAGES,
            ),
            KindFiles(stamp=stamp_of_sequence, members=members_of_stills),
            several=True,
        ),
        SourceKind(PhotoSource, "photo:PhotoFile", Detection(place=single_picture, suffixes=IMAGES)),
    )
}
"""By name. Of several imported files, the first of these kinds is the source."""


def load(kind: str) -> None:
    """Import a kind's libraries."""
    _implementation(kind)


def get_ready(kind: str) -> None:
    """Import a kind's libraries and start the program that it needs, ahead of its first frame."""
    module, _ = _implementation(kind)
    starting = getattr(module, "get_ready", None)
    if starting is not None:
        starting()


def open_source(at: SourceAt) -> Source:
    """Open a source of a kind of the shot document.

    Raises
    ------
    SourceError
        When the file cannot be what the kind says.
    """
    module, name = _implementation(at.kind)
    more = {"drawing": at.drawing, "states": at.states}
    source: Source = getattr(module, name)(at.file, **at.options, **{k: v for k, v in more.items() if v is not None})
    return source


def _implementation(kind: str) -> tuple[Any, str]:
    module, _, name = KINDS[kind].opens.partition(":")
    return import_module(f"vexel.sources.kinds.{module}"), name
