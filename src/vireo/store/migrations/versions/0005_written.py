"""Which files of variants were handed out, and of what they were."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "written",
        sa.Column(
            "document_id",
            sa.String(40),
            sa.ForeignKey("documents.id", ondelete="CASCADE"),
            primary_key=True,
        ),
        sa.Column("row", sa.String(24), primary_key=True),
        sa.Column("form", sa.String(16), primary_key=True),
        sa.Column("stand", sa.String(40), nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("at", sa.Float, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("written")
