"""tempo maps

A picture can have a tempo map: the bars that music is written to before there is a track.
"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("sheets", sa.Column("tempo_map", sa.JSON(), nullable=True))


def downgrade() -> None:
    op.drop_column("sheets", "tempo_map")
