"""Frames that a running program hands over: in a folder with a ledger, or to a running Vexel."""

import http.client
import json
import secrets
import shutil
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlencode, urlsplit

from vexel.core.document.naming import frame_name
from vexel.core.errors import Failure, Mistake
from vexel.core.wording import counted, slug
from vexel.disk.finished import finished
from vexel.disk.write import write_whole
from vexel.store.folder_take import LEDGER, read_ledger, unwritable
from vexel.store.recordings.row_journal import RowJournal

MOST_FRAMES = 100_000
"""File names are padded for this number of frames, since the real number is unknown."""


class FolderRecording:
    """Numbered frames in a folder, with the ledger of a take.

    Attributes
    ----------
    first : Path or None
        The first of the frames that are there already.
    notes : list of str
        What became of them otherwise than was asked for.

    Raises
    ------
    Mistake
        When the folder holds other frames, or another program records into it.
    Failure
        When it cannot be written, or its disk has no locks.
    """

    def __init__(self, folder: Path, rate: str, title: str, existing: str) -> None:
        self._folder, self._rate, self._title = folder.absolute(), rate, title
        self._rows: list[dict[str, Any]] = []
        self.first: Path | None = None
        self.notes: list[str] = []
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            self._journal = RowJournal(self._folder)
        except OSError as error:
            raise unwritable(self._folder, error) from None
        try:
            self._begin(existing)
        except BaseException:
            self._journal.leave(whole=False)
            raise

    def _begin(self, existing: str) -> None:
        # Hidden files are the system's, or parts that a killed program left.
        held = [path for path in self._folder.iterdir() if not path.name.startswith(".")]
        if existing == "fresh" and (self._folder / LEDGER).exists():
            for path in held:
                shutil.rmtree(path) if path.is_dir() else path.unlink()
        elif held and existing == "resume":
            self._resume()
        elif held:
            raise Mistake(
                f'{self._folder} already holds {counted(len(held), "file")}: say existing="resume" to add to them, '
                'existing="fresh" to replace them, or name another folder'
            )
        self._recording = secrets.token_hex(8)
        if self._rows:
            self._save()
        self._journal.begin(self._recording)
        for row in self._rows:
            self._journal.add(row)

    def _resume(self) -> None:
        """Continue a recording that ended or was killed."""
        if not (self._folder / LEDGER).is_file():
            raise Mistake(
                f"{self._folder} holds files but no {LEDGER}, so there is no recording to resume: name another folder"
            )
        ledger = read_ledger(self._folder)
        was = ledger["shot"]
        for what, before, now in (("rate", was["clock"]["rate"], self._rate), ("title", was["title"], self._title)):
            if before != now:
                raise Mistake(
                    f"{self._folder} was recorded with the {what} {before!r}, not {now!r}: give that one, say "
                    'existing="fresh" to replace it, or name another folder'
                )
        self._rows = ledger["frames"]
        while (file := self._folder / self._name(len(self._rows))).is_file():
            # Written, and killed before its row was.
            self._rows.append(self._row(file.name, len(self._rows)))
            self.notes.append(f"{file.name} was not in the ledger, and is added to it")
        if self._rows:
            self.first = self._folder / self._rows[0]["file"]

    def keep(self, data: bytes) -> int:
        """Write the next frame; its number."""
        number = len(self._rows)
        name = self._name(number)
        try:
            write_whole(self._folder / name, data)
            self._rows.append(self._row(name, number))
            if number == 0:
                self._save()
            self._journal.add(self._rows[-1])
        except OSError as error:
            raise unwritable(self._folder, error) from None
        return number

    def close(self) -> None:
        """Write the ledger."""
        if self._rows:
            self._save()
        self._journal.leave(whole=True)

    def _name(self, number: int) -> str:
        return frame_name(self._title, "shaded", number, MOST_FRAMES)

    def _row(self, name: str, number: int) -> dict[str, Any]:
        row = {"file": name, "number": number, "state": "made", "error": ""}
        return row | vars(finished(self._folder / name))

    def _save(self) -> None:
        shot = {
            "vexel": 1,
            "title": self._title,
            "source": {"kind": "stills", "file": self._rows[0]["file"], "rate": self._rate},
            "clock": {"rate": self._rate, "frames": len(self._rows), "span": "ends"},
        }
        ledger = {"vexel": 1, "recording": self._recording, "shot": shot, "facts": {}, "frames": self._rows}
        write_whole(self._folder / LEDGER, json.dumps(ledger, indent=1).encode())


class ServerRecording:
    """Frames sent to a running Vexel, which keeps them as numbered stills with a shot for them."""

    def __init__(self, address: str, rate: str, title: str) -> None:
        parts = urlsplit(address)
        if parts.scheme != "http" or not parts.hostname or not parts.path.startswith("/push/"):
            raise Mistake(
                f"{address!r} is not the address for frames that Vexel printed: http://127.0.0.1:PORT/push/KEY"
            )
        self._where = f"{parts.hostname}:{parts.port or 80}"
        self._base = parts.path.rstrip("/")
        self._connection = http.client.HTTPConnection(parts.hostname, parts.port or 80, timeout=60)
        query = urlencode({"rate": rate, "begin": "1", "title": title})
        self._name = self._ask(f"{self._base}/{quote(slug(title))}?{query}", b"")["name"]

    def keep(self, data: bytes) -> int:
        """Send the next frame; its number."""
        return int(self._ask(f"{self._base}/{self._name}", data)["number"])

    def close(self) -> None:
        """Say that all frames are there."""
        self._ask(f"{self._base}/{self._name}?end=1", b"")
        self._connection.close()

    def _ask(self, path: str, data: bytes) -> dict[str, Any]:
        try:
            self._connection.request("POST", path, body=data, headers={"Content-Type": "application/octet-stream"})
            answer = self._connection.getresponse()
            body: dict[str, Any] = json.loads(answer.read())
        except (OSError, http.client.HTTPException, ValueError) as error:
            raise Failure(f"no Vexel takes frames at {self._where} ({error}): start it, and use its address") from None
        if answer.status != 200:
            raise Failure(str(body.get("error", f"Vexel answered with status {answer.status}")))
        return body
