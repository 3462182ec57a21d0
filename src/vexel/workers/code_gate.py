"""Which code may run: every project that contains it, or a document that leads to it, must permit it."""

from collections.abc import Iterable, Iterator
from pathlib import Path

from vexel.core.document.shot import Shot
from vexel.core.document_text import MOST_BYTES
from vexel.core.errors import VexelError
from vexel.disk.named_place import named_place
from vexel.sources.files import source_files
from vexel.store.consent import Consent, Unseen, homes_of
from vexel.workers.planner import Gate, OpenGate

Code = tuple[tuple[Path, ...], str]
"""Files that would run, the main one first, and the digest of their content; none where nothing runs."""


class CodeGate:
    """Permits code that no received project holds back.

    Parameters
    ----------
    own : Consent, optional
        Of the project that is open.
    documents : iterable of Path
        What leads to the code: a reel, its reels, a shot. Their projects are asked too.
    """

    def __init__(self, own: Consent | None = None, documents: Iterable[Path] = ()) -> None:
        self._documents = tuple(documents)
        self._own = [own.home] if own else []
        self._consents = {own.home: own} if own else {}

    def check(self, files: tuple[Path, ...], digest: str) -> None:
        """Let code of this content run, or not.

        Raises
        ------
        Unseen
        """
        if not self.allows(files, digest):
            raise Unseen(files, digest)

    def allows(self, files: tuple[Path, ...], digest: str) -> bool:
        """Whether these files, of this content, may run."""
        # Not all that were ever asked: one that was received has no say in code of others.
        asked = [*self._own, *(home for path in (*self._documents, *files) for home in homes_of(path))]
        return not files or all(self._consent(home).allows(digest) for home in dict.fromkeys(asked))

    def trust(self, digests: Iterable[str]) -> None:
        """Let code of this content run, as the user has reviewed it."""
        for consent in self._consents.values():
            consent.trust(digests)

    def _consent(self, home: Path) -> Consent:
        if home not in self._consents:
            self._consents[home] = Consent(home)
        return self._consents[home]


def code_of_shot(shot: Shot, folder: Path) -> Code:
    """Files of a shot's source that would run.

    Parameters
    ----------
    folder : Path
        Where the shot's document lies.

    Raises
    ------
    Mistake
        When the source is not there.
    """
    source = shot.source
    return source_files(source.kind, named_place(folder, source.file), source.options()).code_of(source.kind)


def code_of_path(file: Path) -> Code:
    """Files of a camera path's formula that would run."""
    return source_files("model", file.resolve()).code_of("model")


def unseen_of(shots: Iterable[tuple[Shot, Path]], gate: CodeGate) -> dict[str, tuple[tuple[Path, ...], list[Shot]]]:
    """Sources that may not run yet, by the digests of their content: their files, and the shots that show them.

    Parameters
    ----------
    shots : iterable of (Shot, Path)
        Each with the folder of its document.
    """
    found: dict[str, tuple[tuple[Path, ...], list[Shot]]] = {}
    for shot, folder in shots:
        try:
            files, digest = code_of_shot(shot, folder)
        except (VexelError, OSError):
            continue
        if not gate.allows(files, digest):
            found.setdefault(digest, (files, []))[1].append(shot)
    return found


def gate_of(documents: Iterable[Path], trusted: bool) -> Gate:
    """The gate for code that documents lead to: their projects decide, or else the user who named them."""
    return OpenGate() if trusted else CodeGate(documents=documents)


def shots_in(folder: Path) -> Iterator[tuple[Shot, Path]]:
    """All shots in a folder that can be read, each with that folder."""
    from vexel.core.document.shot import read_shot

    for file in sorted(folder.glob("*.json")):
        try:
            if file.is_file() and file.stat().st_size <= MOST_BYTES:
                yield read_shot(file.read_bytes(), file.name), folder
        except (VexelError, OSError):
            continue
