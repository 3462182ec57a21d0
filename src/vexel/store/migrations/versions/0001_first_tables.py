"""shots, revisions, runs, ledger, outputs, facts"""

import sqlalchemy as sa
from alembic import op

revision = '0001'
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('facts',
    sa.Column('key', sa.String(length=64), nullable=False),
    sa.Column('value', sa.Text(), nullable=False),
    sa.PrimaryKeyConstraint('key')
    )
    op.create_table('runs',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('shot_id', sa.String(length=100), nullable=False),
    sa.Column('document', sa.Text(), nullable=False),
    sa.Column('plan', sa.Text(), nullable=False),
    sa.Column('state', sa.String(length=16), nullable=False),
    sa.Column('message', sa.Text(), nullable=False),
    sa.Column('count', sa.Integer(), nullable=False),
    sa.Column('created', sa.String(length=32), nullable=False),
    sa.Column('ended', sa.String(length=32), nullable=False),
    sa.Column('seconds', sa.Double(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('runs', schema=None) as batch_op:
        batch_op.create_index('runs_by_shot', ['shot_id'], unique=False)

    op.create_table('shots',
    sa.Column('id', sa.String(length=100), nullable=False),
    sa.Column('created', sa.String(length=32), nullable=False),
    sa.Column('edited', sa.String(length=32), nullable=False),
    sa.Column('head', sa.Integer(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_table('ledger',
    sa.Column('run_id', sa.Integer(), nullable=False),
    sa.Column('number', sa.Integer(), nullable=False),
    sa.Column('key', sa.String(length=64), nullable=False),
    sa.Column('state', sa.String(length=8), nullable=False),
    sa.Column('seconds', sa.Double(), nullable=False),
    sa.Column('bytes', sa.Integer(), nullable=False),
    sa.Column('error', sa.Text(), nullable=False),
    sa.ForeignKeyConstraint(['run_id'], ['runs.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('run_id', 'number')
    )
    op.create_table('outputs',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('run_id', sa.Integer(), nullable=False),
    sa.Column('recipe', sa.String(length=40), nullable=False),
    sa.Column('file', sa.String(length=300), nullable=False),
    sa.Column('state', sa.String(length=16), nullable=False),
    sa.Column('message', sa.Text(), nullable=False),
    sa.Column('receipt', sa.Text(), nullable=False),
    sa.Column('created', sa.String(length=32), nullable=False),
    sa.ForeignKeyConstraint(['run_id'], ['runs.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_table('revisions',
    sa.Column('shot_id', sa.String(length=100), nullable=False),
    sa.Column('number', sa.Integer(), nullable=False),
    sa.Column('document', sa.Text(), nullable=False),
    sa.Column('what', sa.String(length=200), nullable=False),
    sa.ForeignKeyConstraint(['shot_id'], ['shots.id'], ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('shot_id', 'number')
    )


def downgrade() -> None:
    op.drop_table('revisions')
    op.drop_table('outputs')
    op.drop_table('ledger')
    op.drop_table('shots')
    with op.batch_alter_table('runs', schema=None) as batch_op:
        batch_op.drop_index('runs_by_shot')

    op.drop_table('runs')
    op.drop_table('facts')
