"""spot the picture"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

_PICTURE_LISTS = ("hits", "lines", "shots", "suggested_cuts", "carried", "notes")
_KEYS = (
    ("pictures", "film_sha256", "films", "sha256", None),
    ("pictures", "sound_track_id", "tracks", "id", "SET NULL"),
    ("pictures", "version_of_id", "pictures", "id", "SET NULL"),
    ("cues", "carried_from_id", "cues", "id", "SET NULL"),
    ("jobs", "picture_id", "pictures", "id", "CASCADE"),
    ("changes", "picture_id", "pictures", "id", "CASCADE"),
)


def upgrade() -> None:
    op.create_table(
        "films",
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("size_bytes", sa.BigInteger(), nullable=False),
        sa.Column("suffix", sa.String(length=16), nullable=False),
        sa.Column("width_px", sa.Integer(), nullable=False),
        sa.Column("height_px", sa.Integer(), nullable=False),
        sa.Column("codec", sa.String(length=40), nullable=False),
        sa.Column("has_sound", sa.Boolean(), nullable=False),
        sa.Column("is_playable", sa.Boolean(), nullable=False),
        sa.Column("has_copy", sa.Boolean(), nullable=False),
        sa.Column("thumbs", sa.JSON(), nullable=True),
        sa.PrimaryKeyConstraint("sha256", name=op.f("pk_films")),
    )
    for name in _PICTURE_LISTS:
        op.add_column("pictures", sa.Column(name, sa.JSON(), nullable=True))
    op.add_column("pictures", sa.Column("is_deleted", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("cues", sa.Column("colour", sa.String(length=20), nullable=False, server_default="amber"))
    op.add_column("cues", sa.Column("notes", sa.String(length=2000), nullable=False, server_default=""))
    op.add_column("cues", sa.Column("status", sa.String(length=20), nullable=False, server_default="open"))
    op.add_column("cues", sa.Column("look_again", sa.Boolean(), nullable=False, server_default="0"))
    op.add_column("cues", sa.Column("is_deleted", sa.Boolean(), nullable=False, server_default="0"))
    for table, column, other, key, on_delete in _KEYS:
        kind = sa.String(length=64) if key == "sha256" else sa.Integer()
        op.add_column(table, sa.Column(column, kind, nullable=True))
        op.create_foreign_key(f"fk_{table}_{column}_{other}", table, other, [column], [key], ondelete=on_delete)


def downgrade() -> None:
    op.execute("DELETE FROM changes WHERE picture_id IS NOT NULL")
    op.execute("DELETE FROM jobs WHERE picture_id IS NOT NULL")
    for table, column, other, _, _ in reversed(_KEYS):
        op.drop_constraint(f"fk_{table}_{column}_{other}", table, type_="foreignkey")
        op.drop_column(table, column)
    for name in ("is_deleted", "look_again", "status", "notes", "colour"):
        op.drop_column("cues", name)
    for name in ("is_deleted", *reversed(_PICTURE_LISTS)):
        op.drop_column("pictures", name)
    op.drop_table("films")
