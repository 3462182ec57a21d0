"""Files leave in batches, each by a recipe as it was, into a folder of the person's own."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Files of before were made alone, by recipes of ours."""
    with op.batch_alter_table("outputs") as outputs:
        outputs.add_column(sa.Column("document", sa.Text(), nullable=False, server_default=""))
        outputs.add_column(sa.Column("fits", sa.Text(), nullable=False, server_default=""))
        outputs.add_column(sa.Column("batch", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    """Forget it."""
    with op.batch_alter_table("outputs") as outputs:
        for name in ("batch", "fits", "document"):
            outputs.drop_column(name)
