"""What checks found, with the state it came from."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "check_results",
        sa.Column("document_id", sa.String(40), nullable=False),
        sa.Column("check_id", sa.String(24), nullable=False),
        sa.Column("variant", sa.String(80), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("state_of", sa.String(40), nullable=False),
        sa.Column("answer", sa.JSON(), nullable=False),
        sa.Column("created", sa.Float(), nullable=False),
        sa.ForeignKeyConstraint(["document_id"], ["documents.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("document_id", "check_id", "variant", "revision"),
    )


def downgrade() -> None:
    op.drop_table("check_results")
