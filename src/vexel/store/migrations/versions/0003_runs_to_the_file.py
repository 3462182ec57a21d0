"""Runs know whether they are rough, and what file is made when they are done; frames are found by their keys."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Older runs are whole, and left frames alone."""
    with op.batch_alter_table("runs") as runs:
        runs.add_column(sa.Column("rough", sa.Boolean(), nullable=False, server_default=sa.false()))
        runs.add_column(sa.Column("makes", sa.String(40), nullable=False, server_default=""))
    op.create_index("ledger_by_key", "ledger", ["key"])


def downgrade() -> None:
    """Forget it."""
    op.drop_index("ledger_by_key", "ledger")
    with op.batch_alter_table("runs") as runs:
        runs.drop_column("makes")
        runs.drop_column("rough")
