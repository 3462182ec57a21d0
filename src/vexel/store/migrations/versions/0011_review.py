"""Figures of frames are kept, and notes on them."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the tables."""
    op.create_table(
        "frame_figures",
        sa.Column("name", sa.String(160), primary_key=True),
        sa.Column("value", sa.Text(), nullable=False),
    )
    op.create_table(
        "notes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("uid", sa.String(32), nullable=False),
        sa.Column("subject", sa.String(140), nullable=False),
        sa.Column("camera_pass", sa.Integer(), nullable=False),
        sa.Column("first", sa.Integer(), nullable=False),
        sa.Column("last", sa.Integer(), nullable=False),
        sa.Column("mark", sa.Text(), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("created", sa.String(32), nullable=False),
        sa.Column("is_open", sa.Boolean(), nullable=False),
    )
    op.create_index("notes_by_subject", "notes", ["subject", "uid"], unique=True)
