"""hear more of a recording"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.alter_column("recordings", "meter", existing_type=sa.Integer(), type_=sa.String(length=8), existing_nullable=True)
    op.execute("UPDATE recordings SET meter = CONCAT(meter, '/4') WHERE meter IS NOT NULL")
    op.add_column("recordings", sa.Column("free_time", sa.Boolean(), nullable=True))
    op.add_column("recordings", sa.Column("true_peak_dbtp", sa.Double(), nullable=True))
    op.add_column("recordings", sa.Column("voice_pct", sa.Double(), nullable=True))


def downgrade() -> None:
    for name in ("voice_pct", "true_peak_dbtp", "free_time"):
        op.drop_column("recordings", name)
    op.execute("UPDATE recordings SET meter = SUBSTRING_INDEX(meter, '/', 1) WHERE meter LIKE '%/%'")
    op.execute("UPDATE recordings SET meter = NULL WHERE meter = 'free'")
    op.alter_column("recordings", "meter", existing_type=sa.String(length=8), type_=sa.Integer(), existing_nullable=True)
