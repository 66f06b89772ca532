"""lease jobs

A job names its subject instead of having a column for every kind of them, and is leased to one application process. Events
go to the pages of every process.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

_SUBJECTS = (("track", "tracks"), ("fit", "fits"), ("picture", "pictures"))


def upgrade() -> None:
    op.add_column("jobs", sa.Column("subject", sa.String(length=20), nullable=False, server_default=""))
    op.add_column("jobs", sa.Column("subject_id", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("jobs", sa.Column("asked", sa.JSON(), nullable=True))
    op.add_column("jobs", sa.Column("deaths", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("jobs", sa.Column("leased_by", sa.String(length=40), nullable=True))
    op.add_column("jobs", sa.Column("leased_until", mysql.DATETIME(fsp=6), nullable=True))
    op.add_column("jobs", sa.Column("told", sa.String(length=300), nullable=False, server_default=""))
    for subject, _ in _SUBJECTS:
        op.execute(f"UPDATE jobs SET subject = '{subject}', subject_id = {subject}_id WHERE {subject}_id IS NOT NULL")
    op.execute("UPDATE jobs SET asked = JSON_OBJECT('sample_format', sample_format) WHERE sample_format IS NOT NULL")
    # Until now a job counted how often it was begun; what waits or runs was begun once more than a worker died at it.
    op.execute("UPDATE jobs SET deaths = attempts WHERE state = 'waiting'")
    op.execute("UPDATE jobs SET deaths = attempts - 1 WHERE state = 'running' AND attempts > 0")
    for name in ("subject", "subject_id"):
        kind = sa.String(length=20) if name == "subject" else sa.Integer()
        op.alter_column("jobs", name, existing_type=kind, existing_nullable=False, server_default=None)
    op.alter_column("jobs", "deaths", existing_type=sa.Integer(), existing_nullable=False, server_default=None)
    for subject, table in _SUBJECTS:
        op.drop_constraint(f"fk_jobs_{subject}_id_{table}", "jobs", type_="foreignkey")
        op.drop_column("jobs", f"{subject}_id")
    op.drop_column("jobs", "sample_format")
    op.drop_column("jobs", "attempts")
    op.create_index("ix_jobs_kind_subject_id", "jobs", ["kind", "subject_id"])
    op.create_table(
        "events",
        sa.Column("id", sa.BigInteger(), nullable=False),
        sa.Column("origin", sa.String(length=40), nullable=False),
        sa.Column("body", sa.JSON(), nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_events")),
    )
    op.create_index("ix_events_created_at", "events", ["created_at"])


def downgrade() -> None:
    op.drop_table("events")
    op.drop_index("ix_jobs_kind_subject_id", "jobs")
    op.add_column("jobs", sa.Column("attempts", sa.Integer(), nullable=False, server_default="0"))
    op.execute("UPDATE jobs SET attempts = deaths + (state = 'running')")
    op.alter_column("jobs", "attempts", existing_type=sa.Integer(), existing_nullable=False, server_default=None)
    op.add_column("jobs", sa.Column("sample_format", sa.String(length=10), nullable=True))
    op.execute("UPDATE jobs SET sample_format = JSON_VALUE(asked, '$.sample_format')")
    for subject, table in _SUBJECTS:
        op.add_column("jobs", sa.Column(f"{subject}_id", sa.Integer(), nullable=True))
        op.execute(f"DELETE FROM jobs WHERE subject = '{subject}' AND subject_id NOT IN (SELECT id FROM {table})")
        op.execute(f"UPDATE jobs SET {subject}_id = subject_id WHERE subject = '{subject}'")
        op.create_foreign_key(f"fk_jobs_{subject}_id_{table}", "jobs", table, [f"{subject}_id"], ["id"], ondelete="CASCADE")
    for name in ("told", "leased_until", "leased_by", "deaths", "asked", "subject_id", "subject"):
        op.drop_column("jobs", name)
