"""productions put away

A production that is done with is put away: it stays, and is not among those that are offered.
"""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("productions", sa.Column("is_put_away", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("productions", "is_put_away")
