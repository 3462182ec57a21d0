"""A take in a folder outside a project: numbered frames and ``take.json``, the ledger."""

import glob
import json
import re
import time
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from types import MappingProxyType
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Failure, Mistake
from vexel.disk.disk_errors import refusal
from vexel.disk.finished import Finished, finished, is_whole, set_aside
from vexel.disk.write import copy_whole, make_folder, write_whole
from vexel.store.frame_states import READY, FrameState
from vexel.store.recordings.row_journal import journal_rows

LEDGER = "take.json"
DAMAGED = "damaged"
"""Folder in a take's folder, for frames that are not what they were."""
OUTDATED = "outdated"
"""Folder in a take's folder, for frames that the current shot does not have."""
SAVE_SHARE = 0.05
"""Saving the ledger of a very long take may use this share of the time."""


class FolderTake:
    """The take of ``vexel capture --to``.

    Parameters
    ----------
    folder : Path
    shot : Shot
    by_key : dict, optional
        Frames of other takes by their keys, which are copied in place of being made; those of this one are added.

    Attributes
    ----------
    depth_ranges : mapping of str to (float, float)
        Meaning of the codes of depth passes, by cameras; see `Plan.depth_ranges`.
    plan : str
        The digest of the plan that its frames are of; empty until that is known.
    foretold : dict
        What a probe of this plan said of the whole, as a document; empty without one.
    reasons : dict of int to str
        Why pictures are captured again, by their numbers; kept with them.
    """

    def __init__(self, folder: Path, shot: Shot, by_key: dict[str, tuple[Path, Finished]] | None = None) -> None:
        self.folder = folder
        self._shot, self._camera_passes = shot, shot.camera_passes
        self._facts: dict[str, Any] = {}
        self._rows: dict[int, FrameState] = {}
        self._names: dict[int, str] = {}
        self._by_key: dict[str, tuple[Path, Finished]] = {} if by_key is None else by_key
        self._saved = self._cost = 0.0
        self._is_of_plan = True
        self._plan_read = ""
        self.damaged: list[Path] = []
        self.outdated: list[Path] = []
        self.depth_ranges: Mapping[str, tuple[float, float]] = {}
        self.plan = ""
        self.foretold: dict[str, Any] = {}
        self.reasons: dict[int, str] = {}

    def enter(self, *, resume: bool, fresh: bool) -> None:
        """Make the folder ready.

        Raises
        ------
        Mistake
            When it holds other frames and neither `resume` nor `fresh` is set.
        Failure
            When it cannot be written.
        """
        try:
            make_folder(self.folder)
            held = sorted(p for p in self.folder.iterdir() if not p.name.startswith("."))
        except OSError as error:
            raise unwritable(self.folder, error) from None
        # A ledger without any frame is what a capture leaves that was refused before its first.
        if [path.name for path in held] not in ([], [LEDGER]) and not resume and not fresh:
            raise Mistake(
                f"{self.folder} already holds {len(held):,} files, such as {held[0].name}: add --resume to continue "
                "the take, --fresh to replace it, or name another folder"
            )
        if fresh:
            self._clear()
        elif resume and (self.folder / LEDGER).exists():
            self._read()
        self.save()

    @property
    def begun(self) -> bool:
        """Whether an earlier sitting left frames here."""
        return bool(self._rows)

    def holds(self, pictures: Sequence[tuple[int, str]]) -> dict[int, Finished]:
        """Those of these pictures, told by number and key, that are there under their own or an equal one's number."""
        found = {number: self._held(number, key) for number, key in pictures}
        return {number: file for number, file in found.items() if file is not None}

    def _held(self, number: int, key: str) -> Finished | None:
        path, row = self.path(number, key), self._rows.get(number)
        if row is not None and row.key == key and row.state in READY:
            if is_whole(path, row.file):
                return row.file
            if (place := set_aside(path, self.folder / DAMAGED)) is not None:
                self.damaged.append(place)
        source, file = self._by_key.get(key, (path, Finished()))
        if source == path or not is_whole(source, file):
            return None
        copy_whole(source, path)
        return finished(path)

    def path(self, number: int, key: str) -> Path:
        """Where the frame will be written."""
        return self.folder / self._shot.file_name(number)

    def record(self, states: Sequence[FrameState]) -> None:
        """Note states; the ledger is saved now and then, and by `save`."""
        for state in states:
            before = self._rows.get(state.number)
            again = state.state == "kept" and before is not None and (before.state, before.key) == ("made", state.key)
            # Made by an earlier sitting: what was measured of it stays.
            seconds = before.seconds if before is not None else 0.0
            kept = replace(state, state="made", seconds=seconds) if again else state
            reason = self.reasons.get(state.number) or (before.reason if before is not None else "")
            self._rows[state.number] = replace(kept, reason=reason) if reason else kept
            if state.state in READY:
                self._by_key.setdefault(state.key, (self.path(state.number, state.key), state.file))
        self._is_of_plan = True
        if time.monotonic() - self._saved > max(1.0, self._cost / SAVE_SHARE):
            self.save()

    def get(self, key: str) -> Any:
        """A measured fact of the source, or None."""
        return self._facts.get(key)

    def put(self, key: str, value: Any) -> None:
        """Keep a measured fact of the source in the ledger."""
        self._facts[key] = value

    def forget(self, key: str) -> None:
        """Keep no such fact."""
        self._facts.pop(key, None)

    def seconds_of(self, number: int, key: str) -> float | None:
        """What a frame took when it was made; None where that is not known."""
        row = self._rows.get(number)
        return row.seconds if row is not None and row.key == key and row.state == "made" else None

    @property
    def known_keys(self) -> dict[int, str]:
        """Keys of the pictures that are there, by their numbers; see `keep_plan`."""
        return {number: row.key for number, row in self._rows.items() if row.state in READY}

    @property
    def keys(self) -> set[str]:
        """Keys of the frames that are there."""
        return set(self._by_key)

    def first_failure(self) -> FrameState:
        """The first frame that failed."""
        return next(row for _, row in sorted(self._rows.items()) if row.state == "failed")

    def save(self) -> None:
        """Write ``take.json``; not while it would give older frames to a shot whose plan is not known yet."""
        if not self._is_of_plan:
            return
        begun = time.monotonic()
        rows = [row for _, row in sorted(self._rows.items())]
        ledger = ledger_document(self._shot, rows, self.depth_ranges, self._facts, self.plan, self.foretold)
        try:
            write_whole(self.folder / LEDGER, _spelled(ledger).encode())
        except OSError as error:
            raise unwritable(self.folder, error) from None
        self._saved = time.monotonic()
        self._cost = self._saved - begun

    def _has(self, row: dict[str, Any]) -> bool:
        """Whether the present shot has the camera pass of a row."""
        return len(self._camera_passes) == 1 or row.get("camera_pass") in [
            camera_pass.label for camera_pass in self._camera_passes
        ]

    def _number(self, row: dict[str, Any]) -> int:
        entry = [camera_pass.label for camera_pass in self._camera_passes]
        camera_pass = entry.index(row["camera_pass"]) if "camera_pass" in row else 0
        return self._shot.index_of(int(row["number"]), camera_pass).picture

    def _read(self) -> None:
        ledger = read_ledger(self.folder)
        self._refuse_other(ledger["shot"])
        self._is_of_plan = False
        self._facts, self._plan_read = ledger.get("facts", {}), ledger.get("plan", "")
        self.foretold = ledger.get("foretold", {})
        for row in ledger["frames"]:
            if row["state"] in READY and self._has(row):
                kept = {name: value for name, value in row.items() if name not in ("file", "camera_pass")}
                state = FrameState(**kept | {"number": self._number(row)})
                self._rows[state.number] = state
                self._names[state.number] = Path(row["file"]).name
                self._by_key.setdefault(state.key, (self.folder / self._names[state.number], state.file))

    def keep_plan(self, key_of: Callable[[int], str | None], asked: Collection[int]) -> None:
        """Keep the frames of the current shot: a take is of one plan, also where only a part of it is captured again.

        Frames of a number that is asked for are made in place of the old ones; all others that are outdated are moved
        into `OUTDATED`. Either may still serve under another number.

        Parameters
        ----------
        key_of : callable
            The key of a picture by its number; None where the shot has none of that number.
        asked : collection of int
            Numbers of pictures that are about to be made.
        """
        self._is_of_plan = True
        if self.plan and self.plan == self._plan_read:
            # All keys are those of the plan.
            return
        self.foretold = {}
        for number, row in list(self._rows.items()):
            if row.key == key_of(number):
                continue
            del self._rows[number]
            if number not in asked and (place := set_aside(self.folder / self._names[number], self.folder / OUTDATED)):
                self.outdated.append(place)
                if self._by_key[row.key][0] == self.folder / self._names[number]:
                    self._by_key[row.key] = place, row.file
        self.save()

    def _refuse_other(self, made: dict[str, Any]) -> None:
        """Refuse the take of another shot."""
        theirs, source = made.get("source", {}), self._shot.source
        if (theirs.get("kind"), Path(str(theirs.get("file", ""))).name) != (source.kind, Path(source.file).name):
            raise Mistake(
                f"{self.folder} holds the take of another shot, of {theirs.get('file', '')}: name "
                "another folder, or add --fresh to replace it"
            )

    def _clear(self) -> None:
        """Remove what an earlier take left: the files its ledger names, and frames of this name."""
        names = {LEDGER}
        if (self.folder / LEDGER).exists():
            names.update(row["file"] for row in read_ledger(self.folder)["frames"])
        count = len(self._camera_passes)
        for number in range(count):
            # All names of the camera pass, of any number.
            numbered = re.split(r"\d+(?!.*\d)", self._shot.file_name(number), maxsplit=1)
            names.update(path.name for path in self.folder.glob("*".join(map(glob.escape, numbered))))
        for name in names:
            (self.folder / Path(name).name).unlink(missing_ok=True)


def ledger_document(
    shot: Shot,
    rows: Sequence[FrameState],
    depth_ranges: Mapping[str, tuple[float, float]],
    facts: Mapping[str, Any] = MappingProxyType({}),
    plan: str = "",
    foretold: Mapping[str, Any] = MappingProxyType({}),
) -> dict[str, Any]:
    """The content of ``take.json``: the shot, the digest of its plan, what was foretold, and a row for each picture.

    A row has the number of its frame, and its camera pass where there are several.
    """
    passes = shot.camera_passes
    depth = {"depth": dict(depth_ranges)} if depth_ranges else {}
    entries = []
    for row in rows:
        index = shot.picture_index(row.number)
        entry = {"file": shot.file_name(row.number), **vars(row), "number": index.frame}
        if not row.reason:
            del entry["reason"]
        entries.append(entry | ({"camera_pass": passes[index.camera_pass].label} if len(passes) > 1 else {}))
    of_plan: dict[str, Any] = {"plan": plan} if plan else {}
    of_plan |= {"foretold": dict(foretold)} if foretold else {}
    whole = {"vexel": 1, "shot": shot.model_dump(mode="json"), **of_plan, "facts": dict(facts)}
    return whole | depth | {"frames": entries}


def _spelled(ledger: dict[str, Any]) -> str:
    """A ledger as JSON, a row a line: with indents, a long one took ten times as long."""
    rows = ",\n  ".join(map(json.dumps, ledger["frames"]))
    head = json.dumps({name: value for name, value in ledger.items() if name != "frames"}, indent=1)
    return f'{head[:-2]},\n "frames": [\n  {rows}\n ]\n}}'


def read_ledger(folder: Path) -> dict[str, Any]:
    """The content of a folder's ``take.json``, with the rows of a recording that was not closed.

    Raises
    ------
    Mistake
        When it is damaged.
    """
    try:
        ledger = json.loads((folder / LEDGER).read_bytes())
        if "recording" in ledger and (more := journal_rows(folder, ledger["recording"])):
            ledger["frames"] += more[len(ledger["frames"]) :]
            ledger["shot"]["clock"]["frames"] = len(ledger["frames"])
        for row in ledger["frames"]:
            if "strand" in row:
                # The name of the key up to version 0.1; takes of that time are resumed and compiled still.
                row["camera_pass"] = row.pop("strand")
            if not (isinstance(row["file"], str) and isinstance(row["state"], str) and isinstance(row["number"], int)):
                raise ValueError("a row of its frames is wrong")
        return dict(ledger)
    except (ValueError, KeyError, TypeError) as error:
        raise Mistake(f"{folder / LEDGER} is damaged ({error}): capture again with --fresh") from None


def finished_of(row: dict[str, Any]) -> Finished | None:
    """The frame's file by the row of a ledger; None where the row has no digest."""
    entry = Finished(row.get("bytes", 0), row.get("digest", ""), row.get("written", 0))
    return entry if entry.digest else None


def unwritable(folder: Path, error: OSError) -> Failure:
    """The error of a folder that takes no files."""
    return Failure(f"{folder} cannot be written: {refusal(error)}")
