"""Runs keep what was foretold of them, and of which variant of a sweep they are."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the columns."""
    op.add_column("runs", sa.Column("foretold", sa.Text(), nullable=False, server_default=""))
    op.add_column("runs", sa.Column("sweep", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("runs", sa.Column("variant", sa.String(120), nullable=False, server_default=""))
