"""Files are made of reels too."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """A file is of a run or of a reel; of that it keeps the document that it was ordered by."""
    with op.batch_alter_table("outputs") as outputs:
        outputs.alter_column("run_id", existing_type=sa.Integer(), nullable=True)
        outputs.add_column(sa.Column("reel", sa.String(100), nullable=False, server_default=""))
        outputs.add_column(sa.Column("reel_document", sa.Text(), nullable=False, server_default=""))


def downgrade() -> None:
    """Forget files of reels."""
    op.execute("DELETE FROM outputs WHERE run_id IS NULL")
    with op.batch_alter_table("outputs") as outputs:
        outputs.drop_column("reel_document")
        outputs.drop_column("reel")
        outputs.alter_column("run_id", existing_type=sa.Integer(), nullable=False)
