"""Frames on disk under their keys, and what is known of each since it was finished."""

import re
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from sqlalchemy import delete, select, update
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from vexel.core.errors import Failure
from vexel.disk.finished import Finished, is_whole, set_aside
from vexel.store.frame_states import READY, FrameState
from vexel.store.tables import FrameRow, LedgerRow, RunRow

AT_ONCE = 500
"""Number of keys in one query of the database."""
DAMAGED = "damaged"
SET_ASIDE = "Frames of this run had been damaged on disk, and were set aside. Resume it to make them again."
_KEY = re.compile("[0-9a-f]{64}")


class FrameStore:
    """A folder that holds each frame once, named by its key.

    Frames come here by `vexel.disk.write.write_whole`, so what comes is whole;
    what has changed since is noticed by its size, its time, or its digest.

    Parameters
    ----------
    folder : Path
    sessions : sessionmaker
    """

    def __init__(self, folder: Path, sessions: sessionmaker[Session]) -> None:
        self._folder, self._sessions = folder, sessions

    def path(self, key: str, suffix: str = ".png") -> Path:
        """Where the frame of this key is, or will be.

        Raises
        ------
        Failure
            When that is no key, as in a damaged database.
        """
        if not _KEY.fullmatch(key):
            raise Failure(f"{key[:80]!r} is not the key of a frame: the project's database is damaged")
        return self._folder / key[:2] / f"{key}{suffix}"

    def known(self, keys: Sequence[str]) -> dict[str, Finished]:
        """What is known of the frames of these keys; of one that is not there, nothing."""
        known: dict[str, Finished] = {}
        with self._sessions() as session:
            for some in _batches(keys):
                wanted = select(FrameRow).where(FrameRow.key.in_(some))
                known |= {row.key: Finished(row.bytes, row.digest, row.written) for row in session.scalars(wanted)}
        return known

    def there(self, keys: Sequence[str], suffix: str, *, deep: bool = False) -> dict[str, Finished]:
        """The frames of these keys whose files are unchanged; `deep` reads every byte of them."""
        known = self.known(keys)
        return {
            key: known[key] for key in keys if key in known and is_whole(self.path(key, suffix), known[key], deep=deep)
        }

    def keep(self, made: Mapping[str, Finished]) -> None:
        """Note frames that were finished."""
        if not made:
            return
        rows = [{"key": key, **vars(file)} for key, file in made.items()]
        with self._sessions.begin() as session:
            row = insert(FrameRow)
            # A frame may be made again by a run that did not find it: the newest record of it holds.
            known = {name: row.excluded[name] for name in ("bytes", "digest", "written")}
            session.execute(row.on_conflict_do_update(index_elements=["key"], set_=known), rows)

    def set_aside(self, keys: Sequence[str], suffix: str) -> list[Path]:
        """Move damaged frames out of the way, so that they are made again; where they are now.

        Runs that show them wait for them, and one that was done can be resumed.
        """
        if not keys:
            return []
        moved = [set_aside(self.path(key, suffix), self._folder / DAMAGED) for key in keys]
        self.forget(keys)
        with self._sessions.begin() as session:
            for some in _batches(keys):
                shown = LedgerRow.key.in_(some) & LedgerRow.state.in_(READY)
                runs = session.scalars(select(LedgerRow.run_id).where(shown).distinct()).all()
                session.execute(update(LedgerRow).where(shown).values(state="waiting", bytes=0))
                done = update(RunRow).where(RunRow.id.in_(runs), RunRow.state == "done")
                session.execute(done.values(state="stopped", message=SET_ASIDE))
        return [place for place in moved if place is not None]

    def forget(self, keys: Sequence[str]) -> None:
        """Know nothing more of these frames."""
        with self._sessions.begin() as session:
            for some in _batches(keys):
                session.execute(delete(FrameRow).where(FrameRow.key.in_(some)))

    def remove(self, keys: Sequence[str], suffix: str) -> None:
        """Delete frames."""
        for key in keys:
            self.path(key, suffix).unlink(missing_ok=True)
        self.forget(keys)


class KeyedFrames:
    """Frames under their keys, for work that leaves no run: where `vexel.workers.run.Run` puts them.

    Attributes
    ----------
    damaged : list of Path
        Frames that were no longer what they were, where they are now.
    seconds : dict of str to float
        What the frames took that were made here, by their keys.
    """

    def __init__(self, frames: FrameStore, suffix: str) -> None:
        self._frames, self._suffix = frames, suffix
        self.damaged: list[Path] = []
        self.seconds: dict[str, float] = {}

    def holds(self, pictures: Sequence[tuple[int, str]]) -> dict[int, Finished]:
        """Those of these pictures, by number and key, whose files exist and are unchanged."""
        keys = sorted({key for _, key in pictures})
        there = self._frames.there(keys, self._suffix)
        gone = [key for key in self._frames.known(keys) if key not in there]
        self.damaged += self._frames.set_aside(gone, self._suffix)
        return {number: there[key] for number, key in pictures if key in there}

    def path(self, number: int, key: str) -> Path:
        """Where the frame will be written."""
        return self._frames.path(key, self._suffix)

    def record(self, states: Sequence[FrameState]) -> None:
        """Note frames that were made; their files are there already."""
        made = [state for state in states if state.state == "made"]
        self.seconds |= {state.key: state.seconds for state in made}
        self._frames.keep({state.key: state.file for state in made})


def _batches(keys: Sequence[str]) -> Iterator[Sequence[str]]:
    return (keys[begin : begin + AT_ONCE] for begin in range(0, len(keys), AT_ONCE))
