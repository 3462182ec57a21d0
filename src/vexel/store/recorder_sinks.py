"""Frames that a running program hands over: in a folder with a ledger, or to a running Vexel."""

import http.client
import json
import shutil
import time
from pathlib import Path
from typing import Any
from urllib.parse import quote, urlencode, urlsplit

from vexel.core.document.naming import frame_name
from vexel.core.errors import Failure, Mistake
from vexel.core.wording import slug
from vexel.disk.finished import finished
from vexel.disk.write import write_whole
from vexel.store.folder_take import LEDGER, read_ledger, unwritable

MOST_FRAMES = 100_000
"""File names are padded for so many, since nobody knows beforehand how many will come."""
SAVE_SECONDS = 1.0


class FolderRecording:
    """Numbered frames in a folder, with the ledger of a take."""

    def __init__(self, folder: Path, rate: str, title: str, existing: str) -> None:
        self._folder, self._rate, self._title = folder.absolute(), rate, title
        self._rows: list[dict[str, Any]] = []
        self._saved = 0.0
        try:
            if existing == "fresh" and (self._folder / LEDGER).exists():
                shutil.rmtree(self._folder)
            self._folder.mkdir(parents=True, exist_ok=True)
            # Hidden files are the system's, or parts that a killed program left.
            held = [path for path in self._folder.iterdir() if not path.name.startswith(".")]
        except OSError as error:
            raise unwritable(self._folder, error) from None
        if held and existing == "resume":
            self._rows = read_ledger(self._folder)["frames"]
        elif held:
            raise Mistake(
                f'{self._folder} already holds {len(held):,} files: say existing="resume" to add to them, '
                'existing="fresh" to replace them, or name another folder'
            )

    def keep(self, data: bytes) -> int:
        """Write the next frame; its number."""
        number = len(self._rows)
        name = frame_name(self._title, "shaded", number, MOST_FRAMES)
        try:
            write_whole(self._folder / name, data)
        except OSError as error:
            raise unwritable(self._folder, error) from None
        row = {"file": name, "number": number, "state": "made", "error": ""}
        self._rows.append(row | vars(finished(self._folder / name)))
        # The ledger is written whole: after every frame, ten thousand of them would write gigabytes.
        if time.monotonic() - self._saved > SAVE_SECONDS:
            self._save()
        return number

    def close(self) -> None:
        """Write the ledger."""
        if self._rows:
            self._save()

    def _save(self) -> None:
        first = self._rows[0]["file"]
        shot = {
            "vexel": 1,
            "title": self._title,
            "source": {"kind": "stills", "file": first, "rate": self._rate},
            "clock": {"rate": self._rate, "frames": len(self._rows), "span": "ends"},
        }
        ledger = {"vexel": 1, "shot": shot, "facts": {}, "frames": self._rows}
        write_whole(self._folder / LEDGER, json.dumps(ledger, indent=1).encode())
        self._saved = time.monotonic()


class ServerRecording:
    """Frames sent to a running Vexel, which keeps them as numbered stills with a shot of their own."""

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
