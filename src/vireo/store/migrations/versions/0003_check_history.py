"""What checks found, one row for each state: their history, with the revisions that took part."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.rename_table("check_results", "check_results_before")
    op.create_table(
        "check_results",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("document_id", sa.String(40), nullable=False),
        sa.Column("check_id", sa.String(24), nullable=False),
        sa.Column("variant", sa.Text(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("state_of", sa.String(40), nullable=False),
        sa.Column("answer", sa.JSON(), nullable=False),
        sa.Column("reached", sa.JSON(), nullable=False),
        sa.Column("created", sa.Float(), nullable=False),
        sa.ForeignKeyConstraint(["document_id"], ["documents.id"], ondelete="CASCADE"),
    )
    op.execute(
        "INSERT INTO check_results (document_id, check_id, variant, revision, state_of, answer, reached, "
        "created) SELECT document_id, check_id, variant, revision, state_of, answer, '{}', created "
        "FROM check_results_before ORDER BY created"
    )
    op.drop_table("check_results_before")
    op.create_index("ix_check_results", "check_results", ["document_id", "check_id"])


def downgrade() -> None:
    op.execute("DELETE FROM check_results")
    op.drop_index("ix_check_results", "check_results")
    op.drop_table("check_results")
