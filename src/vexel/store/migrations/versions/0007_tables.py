"""All tables from before reels had separate ones.

The revision keeps the number of the last of the seven steps that it is made of, so that a project that took those
continues from here.
"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = None
branch_labels = None
depends_on = None


def _text(name: str, length: int | None = None, default: str | None = None) -> "sa.Column[str]":
    kind = sa.String(length) if length else sa.Text()
    return sa.Column(name, kind, nullable=False, server_default=default)


def _number(name: str, kind: type = sa.Integer, default: str | None = None) -> "sa.Column[int]":
    return sa.Column(name, kind(), nullable=False, server_default=default)


def upgrade() -> None:
    """Make them."""
    op.create_table("facts", sa.Column("key", sa.String(64), primary_key=True), _text("value"))
    op.create_table(
        "shots",
        sa.Column("id", sa.String(100), primary_key=True),
        _text("created", 32),
        _text("edited", 32),
        _number("head"),
    )
    op.create_table(
        "revisions",
        sa.Column("shot_id", sa.String(100), sa.ForeignKey("shots.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        _text("document"),
        _text("what", 200),
    )
    op.create_table(
        "runs",
        sa.Column("id", sa.Integer(), primary_key=True),
        _text("shot_id", 100),
        _text("document"),
        _text("plan"),
        _text("state", 16),
        _text("message"),
        _number("count"),
        _text("created", 32),
        _text("ended", 32),
        _number("seconds", sa.Double),
        _number("rough", sa.Boolean, "0"),
        _text("makes", 40, ""),
    )
    op.create_index("runs_by_shot", "runs", ["shot_id"])
    op.create_table(
        "ledger",
        sa.Column("run_id", sa.Integer(), sa.ForeignKey("runs.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        _text("key", 64),
        _text("state", 8),
        _number("seconds", sa.Double),
        _number("bytes"),
        _text("error"),
    )
    op.create_index("ledger_by_key", "ledger", ["key"])
    op.create_index("ledger_by_state", "ledger", ["run_id", "state", "bytes"])
    op.create_table(
        "frames",
        sa.Column("key", sa.String(64), primary_key=True),
        _number("bytes"),
        _text("digest", 64),
        _number("written", sa.BigInteger),
    )
    op.create_table(
        "texts",
        sa.Column("file", sa.String(500), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        _text("text"),
        _text("what", 200),
        _number("stands", sa.Boolean),
    )
    op.create_table(
        "outputs",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("run_id", sa.Integer(), sa.ForeignKey("runs.id", ondelete="CASCADE"), nullable=True),
        _text("recipe", 40),
        _text("file", 300),
        _text("state", 16),
        _text("message"),
        _text("receipt"),
        _text("created", 32),
        _number("strand", default="0"),
        _number("bytes", default="0"),
        _text("digest", 64, ""),
        _number("written", sa.BigInteger, "0"),
        _text("document", default=""),
        _text("fits", default=""),
        _number("batch", default="0"),
        _text("reel", 100, ""),
        _text("reel_document", default=""),
    )
