"""Outputs know which strand of a take they show."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Older outputs show the only strand that there was."""
    with op.batch_alter_table("outputs") as outputs:
        outputs.add_column(sa.Column("strand", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    """Forget it."""
    with op.batch_alter_table("outputs") as outputs:
        outputs.drop_column("strand")
