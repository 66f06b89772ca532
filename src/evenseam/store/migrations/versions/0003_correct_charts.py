"""correct charts"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("recordings", sa.Column("hearings", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("tracks", sa.Column("corrections", sa.JSON(), nullable=True))
    op.add_column("tracks", sa.Column("corrections_digest", sa.String(length=16), nullable=False, server_default=""))
    op.add_column("tracks", sa.Column("set_tempo_bpm", sa.Double(), nullable=True))
    op.add_column("tracks", sa.Column("set_meter", sa.String(length=8), nullable=True))
    op.alter_column("changes", "cue_id", existing_type=sa.Integer(), nullable=True)
    op.add_column("changes", sa.Column("track_id", sa.Integer(), nullable=True))
    op.create_foreign_key("fk_changes_track_id_tracks", "changes", "tracks", ["track_id"], ["id"], ondelete="CASCADE")
    op.add_column("fits", sa.Column("chart_id", sa.String(length=24), nullable=False, server_default=""))
    op.create_unique_constraint(
        "uq_fits_cue_id_track_id_target_samples_chart_id", "fits", ["cue_id", "track_id", "target_samples", "chart_id"]
    )
    op.drop_constraint("uq_fits_cue_id_track_id_target_samples", "fits", type_="unique")


def downgrade() -> None:
    op.execute(
        "DELETE older FROM fits older JOIN fits newer ON older.cue_id = newer.cue_id AND older.track_id = newer.track_id"
        " AND older.target_samples = newer.target_samples AND older.id < newer.id"
    )
    op.create_unique_constraint("uq_fits_cue_id_track_id_target_samples", "fits", ["cue_id", "track_id", "target_samples"])
    op.drop_constraint("uq_fits_cue_id_track_id_target_samples_chart_id", "fits", type_="unique")
    op.drop_column("fits", "chart_id")
    op.execute("DELETE FROM changes WHERE cue_id IS NULL")
    op.drop_constraint("fk_changes_track_id_tracks", "changes", type_="foreignkey")
    op.drop_column("changes", "track_id")
    op.alter_column("changes", "cue_id", existing_type=sa.Integer(), nullable=False)
    for name in ("set_meter", "set_tempo_bpm", "corrections_digest", "corrections"):
        op.drop_column("tracks", name)
    op.drop_column("recordings", "hearings")
