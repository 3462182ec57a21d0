"""Reels have separate tables, and waiting work is queued."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

REELS = "id LIKE 'reel:%'"
"""Reels were rows of shots, told by their names."""


def upgrade() -> None:
    """Move the rows of reels with their histories."""
    op.create_table(
        "reels",
        sa.Column("id", sa.String(100), primary_key=True),
        sa.Column("created", sa.String(32), nullable=False),
        sa.Column("edited", sa.String(32), nullable=False),
        sa.Column("head", sa.Integer(), nullable=False),
    )
    op.create_table(
        "reel_revisions",
        sa.Column("reel_id", sa.String(100), sa.ForeignKey("reels.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("document", sa.Text(), nullable=False),
        sa.Column("what", sa.String(200), nullable=False),
    )
    op.execute(f"INSERT INTO reels SELECT substr(id, 6), created, edited, head FROM shots WHERE {REELS}")
    op.execute(
        "INSERT INTO reel_revisions SELECT substr(shot_id, 6), number, document, what FROM revisions "
        "WHERE shot_id LIKE 'reel:%'"
    )
    op.execute("DELETE FROM revisions WHERE shot_id LIKE 'reel:%'")
    op.execute(f"DELETE FROM shots WHERE {REELS}")
    op.execute("ALTER TABLE outputs RENAME COLUMN strand TO camera_pass")
    for table in ("runs", "outputs"):
        op.execute(f"UPDATE {table} SET state = 'queued' WHERE state = 'waiting'")
