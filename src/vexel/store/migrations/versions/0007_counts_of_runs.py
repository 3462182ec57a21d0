"""Counting the frames of all runs reads an index and not the ledger."""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add it."""
    op.create_index("ledger_by_state", "ledger", ["run_id", "state", "bytes"])


def downgrade() -> None:
    """Take it away."""
    op.drop_index("ledger_by_state", "ledger")
