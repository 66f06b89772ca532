"""mixes

A picture can have a mix: levels, fades and curves of its cues and buses.
"""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "mixes",
        sa.Column("picture_id", sa.Integer(), nullable=False),
        sa.Column("cues", sa.JSON(), nullable=True),
        sa.Column("buses", sa.JSON(), nullable=True),
        sa.Column("revision", sa.Integer(), nullable=False, server_default="0"),
        sa.ForeignKeyConstraint(["picture_id"], ["pictures.id"], name=op.f("fk_mixes_picture_id_pictures"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("picture_id", name=op.f("pk_mixes")),
    )


def downgrade() -> None:
    op.drop_table("mixes")
    op.execute(sa.text("DELETE FROM patches WHERE kind = 'mix'"))
