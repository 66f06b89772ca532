"""know the library"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("recordings", sa.Column("sections", sa.JSON(), nullable=True))
    op.add_column("recordings", sa.Column("cover_suffix", sa.String(length=5), nullable=True))
    op.add_column("tracks", sa.Column("artist", sa.String(length=300), nullable=False, server_default=""))
    op.add_column("tracks", sa.Column("tags", sa.JSON(), nullable=True))
    op.add_column("tracks", sa.Column("licence", sa.JSON(), nullable=True))
    op.create_table(
        "refusals",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("production_id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=300), nullable=False),
        sa.Column("reason", mysql.LONGTEXT(), nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.ForeignKeyConstraint(
            ["production_id"], ["productions.id"], name=op.f("fk_refusals_production_id_productions"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_refusals")),
    )


def downgrade() -> None:
    op.drop_table("refusals")
    for table, name in (
        ("tracks", "licence"), ("tracks", "tags"), ("tracks", "artist"),
        ("recordings", "cover_suffix"), ("recordings", "sections"),
    ):  # fmt: skip
        op.drop_column(table, name)
