"""Runs keep their limits, and frames the reason why they were captured again."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the columns."""
    op.add_column("runs", sa.Column("options", sa.Text(), nullable=False, server_default=""))
    op.add_column("ledger", sa.Column("reason", sa.Text(), nullable=False, server_default=""))
