"""Frames and files are known by their digests, and the texts of sources have a history."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """What older versions made is known by its size alone, until it is looked at."""
    op.create_table(
        "frames",
        sa.Column("key", sa.String(64), primary_key=True),
        sa.Column("bytes", sa.Integer(), nullable=False),
        sa.Column("digest", sa.String(64), nullable=False),
        sa.Column("written", sa.BigInteger(), nullable=False),
    )
    op.create_table(
        "texts",
        sa.Column("file", sa.String(500), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("what", sa.String(200), nullable=False),
        sa.Column("stands", sa.Boolean(), nullable=False),
    )
    with op.batch_alter_table("outputs") as outputs:
        outputs.add_column(sa.Column("bytes", sa.Integer(), nullable=False, server_default="0"))
        outputs.add_column(sa.Column("digest", sa.String(64), nullable=False, server_default=""))
        outputs.add_column(sa.Column("written", sa.BigInteger(), nullable=False, server_default="0"))


def downgrade() -> None:
    """Forget it."""
    with op.batch_alter_table("outputs") as outputs:
        for name in ("written", "digest", "bytes"):
            outputs.drop_column(name)
    op.drop_table("texts")
    op.drop_table("frames")
