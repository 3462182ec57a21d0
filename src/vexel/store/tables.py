"""The tables of a project's database."""

from datetime import UTC, datetime

from sqlalchemy import BigInteger, ForeignKey, Index, String, Text, false
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def now() -> str:
    """The time now as ISO 8601 text in UTC, as all tables keep it."""
    return datetime.now(UTC).isoformat(timespec="seconds")


class Base(DeclarativeBase):
    """Base of all tables."""


class DocumentRow(Base):
    """A document; the text itself is a file, and its history is in a `RevisionRow` for each state."""

    __abstract__ = True

    id: Mapped[str] = mapped_column(String(100), primary_key=True)
    created: Mapped[str] = mapped_column(String(32), default=now)
    edited: Mapped[str] = mapped_column(String(32), default=now)
    head: Mapped[int] = mapped_column(default=0)


class RevisionRow(Base):
    """One state of a document; `DocumentRow.head` points to the current one."""

    __abstract__ = True

    of: Mapped[str]
    number: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[str] = mapped_column(Text)
    what: Mapped[str] = mapped_column(String(200), default="")


class ShotRow(DocumentRow):
    """A shot."""

    __tablename__ = "shots"


class ShotRevisionRow(RevisionRow):
    """One state of a shot."""

    __tablename__ = "revisions"

    of: Mapped[str] = mapped_column("shot_id", ForeignKey("shots.id", ondelete="CASCADE"), primary_key=True)


class ReelRow(DocumentRow):
    """A reel."""

    __tablename__ = "reels"


class ReelRevisionRow(RevisionRow):
    """One state of a reel."""

    __tablename__ = "reel_revisions"

    of: Mapped[str] = mapped_column("reel_id", ForeignKey("reels.id", ondelete="CASCADE"), primary_key=True)


class RunRow(Base):
    """A run, and the take that it leaves.

    Runs of one sweep have the id of its first run as their `sweep`, and their `variant` by its name.
    """

    __tablename__ = "runs"
    __table_args__ = (Index("runs_by_shot", "shot_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    shot_id: Mapped[str] = mapped_column(String(100))
    document: Mapped[str] = mapped_column(Text)
    plan: Mapped[str] = mapped_column(Text, default="")
    state: Mapped[str] = mapped_column(String(16))
    message: Mapped[str] = mapped_column(Text, default="")
    count: Mapped[int]
    created: Mapped[str] = mapped_column(String(32), default=now)
    ended: Mapped[str] = mapped_column(String(32), default="")
    seconds: Mapped[float] = mapped_column(default=0.0)
    draft: Mapped[bool] = mapped_column("rough", default=False, server_default=false())
    makes: Mapped[str] = mapped_column(String(40), default="", server_default="")
    foretold: Mapped[str] = mapped_column(Text, default="", server_default="")
    sweep: Mapped[int] = mapped_column(default=0, server_default="0")
    variant: Mapped[str] = mapped_column(String(120), default="", server_default="")
    options: Mapped[str] = mapped_column(Text, default="", server_default="")


class LedgerRow(Base):
    """One frame of a run; its `reason` is why it was captured again, if it was."""

    __tablename__ = "ledger"
    __table_args__ = (Index("ledger_by_key", "key"), Index("ledger_by_state", "run_id", "state", "bytes"))

    run_id: Mapped[int] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(String(64), default="")
    state: Mapped[str] = mapped_column(String(8), default="waiting")
    seconds: Mapped[float] = mapped_column(default=0.0)
    bytes: Mapped[int] = mapped_column(default=0)
    error: Mapped[str] = mapped_column(Text, default="")
    reason: Mapped[str] = mapped_column(Text, default="", server_default="")


class FrameRow(Base):
    """A frame's file when it was finished: see `vexel.disk.finished.Finished`."""

    __tablename__ = "frames"

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    bytes: Mapped[int] = mapped_column(default=0)
    digest: Mapped[str] = mapped_column(String(64), default="")
    written: Mapped[int] = mapped_column(BigInteger, default=0)


class OutputRow(Base):
    """A compiled file, its receipt, and the size and digest of the finished file."""

    __tablename__ = "outputs"

    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int | None] = mapped_column(ForeignKey("runs.id", ondelete="CASCADE"))
    reel: Mapped[str] = mapped_column(String(100), default="", server_default="")
    reel_document: Mapped[str] = mapped_column(Text, default="", server_default="")
    camera_pass: Mapped[int] = mapped_column(default=0, server_default="0")
    recipe: Mapped[str] = mapped_column(String(40))
    file: Mapped[str] = mapped_column(String(300))
    state: Mapped[str] = mapped_column(String(16))
    message: Mapped[str] = mapped_column(Text, default="")
    receipt: Mapped[str] = mapped_column(Text, default="")
    bytes: Mapped[int] = mapped_column(default=0, server_default="0")
    digest: Mapped[str] = mapped_column(String(64), default="", server_default="")
    written: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    created: Mapped[str] = mapped_column(String(32), default=now)
    document: Mapped[str] = mapped_column(Text, default="", server_default="")
    fits: Mapped[str] = mapped_column(Text, default="", server_default="")
    batch: Mapped[int] = mapped_column(default=0, server_default="0")

    @property
    def run(self) -> int:
        """The run that it is of; 0 where it is of a reel."""
        return self.run_id or 0


class FactRow(Base):
    """What was once measured of a source, under the digest of all that decided it."""

    __tablename__ = "facts"

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    value: Mapped[str] = mapped_column(Text)


class FigureRow(Base):
    """Figures that were measured of a frame, or between two; see `vexel.core.review.kept`."""

    __tablename__ = "frame_figures"

    name: Mapped[str] = mapped_column(String(160), primary_key=True)
    value: Mapped[str] = mapped_column(Text)


class NoteRow(Base):
    """A note on frames of a take, a file or a reel.

    `mark` is a JSON list: the shape and its points as shares of the picture's width and height; empty for none.
    `uid` identifies the note in other places, such as a review page that comes back.
    """

    __tablename__ = "notes"
    __table_args__ = (Index("notes_by_subject", "subject", "uid", unique=True),)

    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(32))
    subject: Mapped[str] = mapped_column(String(140))
    camera_pass: Mapped[int] = mapped_column(default=0)
    first: Mapped[int] = mapped_column(default=0)
    last: Mapped[int] = mapped_column(default=0)
    mark: Mapped[str] = mapped_column(Text, default="")
    text: Mapped[str] = mapped_column(Text, default="")
    author: Mapped[str] = mapped_column(String(80), default="")
    created: Mapped[str] = mapped_column(String(32), default=now)
    is_open: Mapped[bool] = mapped_column(default=True)


class TextRow(Base):
    """One state of a source's text; the one with the highest number that is not undone is in the file."""

    __tablename__ = "texts"

    file: Mapped[str] = mapped_column(String(500), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    text: Mapped[str] = mapped_column(Text)
    what: Mapped[str] = mapped_column(String(200), default="")
    stands: Mapped[bool] = mapped_column(default=False)
