"""Runs and takes in the project's database: the ledger, one row a frame."""

import json
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Any, cast

from sqlalchemy import Table, bindparam, delete, func, insert, not_, select, update
from sqlalchemy.orm import Session, sessionmaker

from vexel.core.document.shot import Shot, read_shot
from vexel.core.errors import Missing
from vexel.store.endings import Endings
from vexel.store.frame_states import READY, UNDER_WAY, FrameState
from vexel.store.frames import FrameStore, KeyedFrames
from vexel.store.tables import LedgerRow, OutputRow, RunRow, now

KEPT_SHOTS = 512
ROWS_AT_ONCE = 20_000
"""Rows of the ledger in one transaction, where a sweep begins many runs: a fraction of a second."""
MOST_ASKED = 10_000
"""Runs that one query names: SQLite takes 32,766 values."""


def shot_of(row: RunRow) -> Shot:
    """The shot that a run captures, which never changes."""
    return _read(row.document)


@lru_cache(KEPT_SHOTS)
def _read(document: str) -> Shot:
    return read_shot(document)


MOST_ID = 2**63 - 1
"""A database takes no larger number."""
_MADE_SO = (LedgerRow.state == "made") & (LedgerRow.key == bindparam("b_key"))
_KEPT = (
    update(cast(Table, LedgerRow.__table__))
    .where(LedgerRow.run_id == bindparam("b_run_id"), LedgerRow.number == bindparam("b_number"), not_(_MADE_SO))
    .values({name: bindparam(f"b_{name}") for name in ("key", "state", "seconds", "bytes", "error")})
)
"""A frame that this run made stays so when the run is resumed: what was measured of it is used for forecasts."""


class ProjectTake(KeyedFrames):
    """The take of one run: frames under their keys, rows in the database."""

    def __init__(self, run_id: int, frames: FrameStore, sessions: sessionmaker[Session], suffix: str = ".png") -> None:
        super().__init__(frames, suffix)
        self.run_id = run_id
        self._sessions = sessions

    def record(self, states: Sequence[FrameState]) -> None:
        """Write rows of the ledger; the frames' files are there already."""
        if not states:
            return
        super().record(states)
        columns = ("number", "key", "state", "seconds", "bytes", "error")
        rows = [{"run_id": self.run_id} | {name: getattr(state, name) for name in columns} for state in states]
        kept = [row for row in rows if row["state"] == "kept"]
        with self._sessions.begin() as session:
            if made := [row for row in rows if row["state"] != "kept"]:
                session.execute(update(LedgerRow), made)
            if kept:
                session.execute(_KEPT, [{f"b_{name}": value for name, value in row.items()} for row in kept])


class Ledger:
    """All runs of a project."""

    def __init__(self, frames: FrameStore, sessions: sessionmaker[Session]) -> None:
        self.frames = frames
        self._sessions = sessions
        self._endings = Endings(self._write)

    def begin(
        self,
        shot_id: str,
        document: dict[str, Any],
        numbers: Sequence[int],
        *,
        draft: bool = False,
        makes: str = "",
        options: str = "",
    ) -> int:
        """A new run with a waiting row for each frame number; its id.

        Parameters
        ----------
        makes : str
            Recipe of the file that is made when all frames are there; empty for frames alone.
        options
            See `RunRow`.
        """
        with self._sessions.begin() as session:
            run = RunRow(
                shot_id=shot_id, document=json.dumps(document), state="queued",
                count=len(numbers), draft=draft, makes=makes, options=options,
            )  # fmt: skip
            session.add(run)
            session.flush()
            session.execute(insert(LedgerRow), [{"run_id": run.id, "number": n} for n in numbers])
            return run.id

    def begin_sweep(
        self,
        shot_id: str,
        documents: Sequence[tuple[dict[str, Any], int, str]],
        *,
        draft: bool = False,
        makes: str = "",
        options: str = "",
    ) -> list[int]:
        """New runs of the variants of a shot; their ids.

        They are written in several transactions: one of millions of rows would block all other writers for longer than
        they wait.

        Parameters
        ----------
        documents : sequence of (dict, int, str)
            The document of each, its number of pictures, and the name of the variant.
        """
        ids: list[int] = []
        while len(ids) < len(documents):
            with self._sessions.begin() as session:
                rows = 0
                while len(ids) < len(documents) and rows < ROWS_AT_ONCE:
                    document, count, variant = documents[len(ids)]
                    run = RunRow(
                        shot_id=shot_id, document=json.dumps(document), state="queued", count=count, draft=draft,
                        makes=makes, sweep=ids[0] if ids else 0, variant=variant, options=options,
                    )  # fmt: skip
                    session.add(run)
                    session.flush()
                    run.sweep = run.sweep or run.id
                    session.execute(insert(LedgerRow), [{"run_id": run.id, "number": n} for n in range(count)])
                    ids.append(run.id)
                    rows += count
        return ids

    def take(self, run_id: int, suffix: str = ".png") -> ProjectTake:
        """The take that a run writes to, in files of one ending."""
        return ProjectTake(run_id, self.frames, self._sessions, suffix)

    def run(self, run_id: int) -> RunRow:
        """A run's row.

        Raises
        ------
        Mistake
            When there is none.
        """
        with self._sessions() as session:
            row = session.get(RunRow, run_id) if 0 < run_id <= MOST_ID else None
        if row is None:
            raise Missing(f"there is no run {run_id}")
        return self._endings.on(row)

    def runs(self, shot_id: str = "", most: int | None = None) -> list[RunRow]:
        """All runs, or those of one shot, newest first; at most some."""
        query = select(RunRow).order_by(RunRow.id.desc()).limit(most)
        with self._sessions() as session:
            rows = list(session.scalars(query.where(RunRow.shot_id == shot_id) if shot_id else query))
        return [self._endings.on(row) for row in rows]

    def some(self, run_ids: Iterable[int]) -> dict[int, RunRow]:
        """Rows of some runs, by their ids."""
        wanted, found = sorted(set(run_ids)), dict[int, RunRow]()
        with self._sessions() as session:
            for begin in range(0, len(wanted), MOST_ASKED):
                query = select(RunRow).where(RunRow.id.in_(wanted[begin : begin + MOST_ASKED]))
                found |= {row.id: self._endings.on(row) for row in session.scalars(query).all()}
        return found

    def states(self) -> tuple[tuple[int, str, str], ...]:
        """Ids, states and shots of all runs, without their documents."""
        with self._sessions() as session:
            query = select(RunRow.id, RunRow.state, RunRow.shot_id)
            return tuple((run_id, state, shot_id) for run_id, state, shot_id in session.execute(query))

    def set(self, run_id: int, **values: Any) -> None:
        """Set columns of a run."""
        self._endings.set(run_id, values)

    def _write(self, run_id: int, **values: Any) -> None:
        with self._sessions.begin() as session:
            session.execute(update(RunRow).where(RunRow.id == run_id).values(**values))

    def end(self, run_id: int, **values: Any) -> None:
        """Set columns of a run that ended, at the latest when the disk has room again."""
        self._endings.record(run_id, values)

    def add_message(self, run_id: int, sentence: str) -> None:
        """Add a sentence to what a run's page says, unless it is there."""
        before = self.run(run_id).message
        if sentence not in before:
            self.set(run_id, message=f"{before} {sentence}".strip())

    def overview(self, run_ids: Sequence[int] | None = None) -> dict[int, dict[str, tuple[int, int]]]:
        """Frames and their bytes in each state, of all runs or of some, by the runs' ids."""
        query = select(LedgerRow.run_id, LedgerRow.state, func.count(), func.sum(LedgerRow.bytes))
        query = query.group_by(LedgerRow.run_id, LedgerRow.state)
        if run_ids is not None:
            query = query.where(LedgerRow.run_id.in_(run_ids))
        found: dict[int, dict[str, tuple[int, int]]] = {}
        with self._sessions() as session:
            for run, state, count, size in session.execute(query):
                found.setdefault(run, {})[state] = count, size or 0
        return found

    def per_shot(self) -> dict[str, int]:
        """How many runs each shot has, by the shots' ids."""
        query = select(RunRow.shot_id, func.count()).group_by(RunRow.shot_id)
        with self._sessions() as session:
            return dict(session.execute(query).all())

    def counts(self, run_id: int) -> dict[str, int]:
        """How many frames are in each state."""
        query = select(LedgerRow.state, func.count()).where(LedgerRow.run_id == run_id)
        with self._sessions() as session:
            return dict(session.execute(query.group_by(LedgerRow.state)).all())

    def bytes(self, run_id: int) -> int:
        """Bytes of all frames of a run."""
        query = select(func.sum(LedgerRow.bytes)).where(LedgerRow.run_id == run_id)
        with self._sessions() as session:
            return session.scalar(query) or 0

    def made(self, run_id: int) -> tuple[int, int]:
        """How many frames a run made itself, and their bytes."""
        query = select(func.count(), func.coalesce(func.sum(LedgerRow.bytes), 0))
        with self._sessions() as session:
            count, size = session.execute(query.where(LedgerRow.run_id == run_id, LedgerRow.state == "made")).one()
        return count, size

    def frame(self, run_id: int, number: int) -> LedgerRow | None:
        """One row of the ledger."""
        with self._sessions() as session:
            return session.get(LedgerRow, (run_id, number))

    def seconds_of(self, key: str) -> float | None:
        """Seconds that the frame of a key took when it was made; None where no run made it."""
        query = select(LedgerRow.seconds).where(LedgerRow.key == key, LedgerRow.state == "made").limit(1)
        with self._sessions() as session:
            return session.scalar(query)

    def rows(
        self, run_id: int, states: Sequence[str] = (), offset: int = 0, limit: int | None = None
    ) -> list[LedgerRow]:
        """Rows of the ledger in order of number, all or those in some states."""
        query = select(LedgerRow).where(LedgerRow.run_id == run_id).order_by(LedgerRow.number)
        if states:
            query = query.where(LedgerRow.state.in_(states))
        with self._sessions() as session:
            return list(session.scalars(query.offset(offset).limit(limit)))

    def make_again(self, run_id: int, numbers: Sequence[int], reason: str) -> None:
        """Let pictures of a run wait to be made again, for a reason that their rows keep."""
        rows = [{"run_id": run_id, "number": n, "state": "waiting", "error": "", "reason": reason} for n in numbers]
        with self._sessions.begin() as session:
            session.execute(update(LedgerRow), rows)

    def again(self, run_id: int) -> list[int]:
        """Pictures of a run that wait to be made again, though they may be there."""
        wanted = (LedgerRow.run_id == run_id, LedgerRow.state == "waiting", LedgerRow.reason != "")
        with self._sessions() as session:
            return list(session.scalars(select(LedgerRow.number).where(*wanted)))

    def failures(self, run_id: int) -> list[tuple[str, int, int]]:
        """Errors of a run's failed frames, with how many frames each has and the first of them; the commonest first."""
        count, first = func.count(), func.min(LedgerRow.number)
        query = select(LedgerRow.error, count, first).where(LedgerRow.run_id == run_id, LedgerRow.state == "failed")
        with self._sessions() as session:
            found = session.execute(query.group_by(LedgerRow.error).order_by(count.desc(), first)).all()
        return [(error, frames, number) for error, frames, number in found]

    def numbers_of(self, run_id: int, error: str) -> list[int]:
        """Pictures of a run that failed with an error."""
        wanted = (LedgerRow.run_id == run_id, LedgerRow.state == "failed", LedgerRow.error == error)
        with self._sessions() as session:
            return list(session.scalars(select(LedgerRow.number).where(*wanted).order_by(LedgerRow.number)))

    def interrupt_all(self) -> None:
        """After a start: mark runs as stopped that were running when the server ended."""
        message = "Vexel was ended during this run. Resume it to make the missing frames."
        with self._sessions.begin() as session:
            under_way = update(RunRow).where(RunRow.state.in_(UNDER_WAY))
            session.execute(under_way.values(state="stopped", message=message, ended=now()))
            unfinished = update(OutputRow).where(OutputRow.state.in_(UNDER_WAY))
            message = "Vexel ended before this file was verified: make it again. A file of its name was not verified."
            session.execute(unfinished.values(state="failed", message=message))

    def own_frames(self, run_id: int) -> dict[str, int]:
        """Bytes of the frames that no other run shows, by their keys."""
        others = select(LedgerRow.key).where(LedgerRow.run_id != run_id)
        query = select(LedgerRow.key, func.max(LedgerRow.bytes)).where(
            LedgerRow.run_id == run_id, LedgerRow.state.in_(READY), LedgerRow.key.not_in(others)
        )
        with self._sessions() as session:
            return dict(session.execute(query.group_by(LedgerRow.key)).all())

    def remove(self, run_id: int, suffix: str) -> None:
        """Forget a run; the frames that no other run shows go with it."""
        own = self.own_frames(run_id)
        with self._sessions.begin() as session:
            session.execute(delete(RunRow).where(RunRow.id == run_id))
        self.frames.remove(list(own), suffix)
