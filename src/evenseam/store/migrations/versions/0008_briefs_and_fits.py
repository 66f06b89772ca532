"""briefs and fits

What is asked of a cue becomes a document; a fit answers one, is never changed, and is found by a key; a cue points to its
fit. Functions here are those of the time of this migration and stay as they are.
"""

import hashlib
import json
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

_FLICKS_PER_S = 705_600_000


def _digest(document: dict[str, Any]) -> str:
    return hashlib.sha256(json.dumps(document, sort_keys=True, separators=(",", ":")).encode()).hexdigest()


def _nearest(length_flicks: int, rate_hz: int) -> int:
    return (2 * length_flicks * rate_hz + _FLICKS_PER_S) // (2 * _FLICKS_PER_S)


def upgrade() -> None:
    op.create_table(
        "briefs",
        sa.Column("digest", sa.String(length=64), nullable=False),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("created_at", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("digest", name=op.f("pk_briefs")),
    )
    op.add_column("cues", sa.Column("asks", sa.JSON(), nullable=True))
    op.add_column("cues", sa.Column("fit_id", sa.Integer(), nullable=True))
    op.create_foreign_key("fk_cues_fit_id_fits", "cues", "fits", ["fit_id"], ["id"], ondelete="SET NULL")
    op.add_column("fits", sa.Column("brief_digest", sa.String(length=64), nullable=True))
    op.add_column("fits", sa.Column("key", sa.String(length=64), nullable=True))
    op.add_column("fits", sa.Column("rank", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("fits", sa.Column("origin", sa.String(length=20), nullable=False, server_default="planned"))
    op.add_column("fits", sa.Column("name", sa.String(length=200), nullable=False, server_default=""))
    op.add_column("fits", sa.Column("revision", sa.Integer(), nullable=False, server_default="0"))
    _keep_seams_of_carried_cues()
    _write_briefs()
    op.alter_column("fits", "brief_digest", existing_type=sa.String(length=64), nullable=False)
    op.create_foreign_key("fk_fits_brief_digest_briefs", "fits", "briefs", ["brief_digest"], ["digest"])
    op.create_unique_constraint("uq_fits_cue_id_key_rank", "fits", ["cue_id", "key", "rank"])
    op.create_index("ix_fits_cue_id_track_id_brief_digest", "fits", ["cue_id", "track_id", "brief_digest"])
    op.drop_constraint("uq_fits_cue_id_track_id_target_samples_chart_id", "fits", type_="unique")
    op.create_table(
        "verdicts",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("fit_id", sa.Integer(), nullable=False),
        sa.Column("source_from_samples", sa.BigInteger(), nullable=False),
        sa.Column("source_to_samples", sa.BigInteger(), nullable=False),
        sa.Column("verdict", sa.String(length=20), nullable=False, server_default=""),
        sa.Column("words", sa.String(length=2000), nullable=False, server_default=""),
        sa.Column("revision", sa.Integer(), nullable=False, server_default="0"),
        sa.ForeignKeyConstraint(["fit_id"], ["fits.id"], name=op.f("fk_verdicts_fit_id_fits"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_verdicts")),
        sa.UniqueConstraint(
            "fit_id", "source_from_samples", "source_to_samples",
            name=op.f("uq_verdicts_fit_id_source_from_samples_source_to_samples"),
        ),
    )  # fmt: skip


def _keep_seams_of_carried_cues() -> None:
    """Cues of a new version that were never fitted ask for the seams of the fit before, as their first fit did until now."""
    rows = op.get_bind().execute(
        sa.text(
            "SELECT c.id, f.plan FROM cues c JOIN fits f ON f.cue_id = c.carried_from_id AND f.track_id = c.track_id "
            "WHERE NOT EXISTS (SELECT 1 FROM fits own WHERE own.cue_id = c.id) ORDER BY f.id"
        )
    )
    for cue_id, plan in rows.all():
        seams = [[s["source_from_samples"], s["source_to_samples"]] for s in json.loads(plan).get("seams", [])]
        asks = json.dumps({"kept_seams": seams}) if seams else None
        op.get_bind().execute(sa.text("UPDATE cues SET asks = :asks WHERE id = :id"), {"asks": asks, "id": cue_id})


def _write_briefs() -> None:
    """A document for every fit: of its cue's length where it answers that, else of its own to the sample."""
    connection = op.get_bind()
    rows = connection.execute(
        sa.text(
            "SELECT f.id, f.cue_id, f.target_samples, f.chart_id, t.sha256, r.rate_hz, c.slot_length_flicks, c.asks, "
            "c.track_id = t.id "
            "FROM fits f JOIN tracks t ON t.id = f.track_id JOIN recordings r ON r.sha256 = t.sha256 "
            "JOIN cues c ON c.id = f.cue_id ORDER BY f.id"
        )
    )
    for fit_id, cue_id, target, chart_id, sha256, rate_hz, slot_flicks, asks, is_of_track in rows.all():
        rate = rate_hz or json.loads(connection.scalar(sa.text("SELECT plan FROM fits WHERE id = :id"), {"id": fit_id}))["rate"]
        is_wanted = _nearest(slot_flicks, rate) == target
        length = slot_flicks if is_wanted else target * _FLICKS_PER_S // rate
        document = {"version": 1, "length_flicks": length, **(json.loads(asks) if asks and is_wanted else {})}
        digest = _digest(document)
        key = _digest({"brief": digest, "chart": chart_id, "sha256": sha256, "planner": 1})
        connection.execute(
            sa.text("INSERT IGNORE INTO briefs (digest, document, created_at) VALUES (:d, :doc, UTC_TIMESTAMP(6))"),
            {"d": digest, "doc": json.dumps(document)},
        )
        connection.execute(
            sa.text("UPDATE fits SET brief_digest = :d, `key` = :k WHERE id = :id"), {"d": digest, "k": key, "id": fit_id}
        )
        if is_wanted and is_of_track:
            connection.execute(sa.text("UPDATE cues SET fit_id = :f WHERE id = :c"), {"f": fit_id, "c": cue_id})


def downgrade() -> None:
    op.drop_table("verdicts")
    op.execute("DELETE FROM patches WHERE kind IN ('fit', 'verdict')")
    op.execute("DELETE FROM steps WHERE id NOT IN (SELECT step_id FROM patches)")
    op.drop_constraint("fk_cues_fit_id_fits", "cues", type_="foreignkey")
    op.execute("DELETE FROM fits WHERE rank <> 0 OR origin = 'by hand'")
    op.execute(
        "DELETE older FROM fits older JOIN fits newer ON older.cue_id = newer.cue_id AND older.track_id = newer.track_id"
        " AND older.target_samples = newer.target_samples AND older.chart_id = newer.chart_id AND older.id < newer.id"
    )
    op.create_unique_constraint(
        "uq_fits_cue_id_track_id_target_samples_chart_id", "fits", ["cue_id", "track_id", "target_samples", "chart_id"]
    )
    op.drop_constraint("fk_fits_brief_digest_briefs", "fits", type_="foreignkey")
    op.drop_constraint("uq_fits_cue_id_key_rank", "fits", type_="unique")
    op.drop_index("ix_fits_cue_id_track_id_brief_digest", "fits")
    for name in ("revision", "name", "origin", "rank", "key", "brief_digest"):
        op.drop_column("fits", name)
    for name in ("fit_id", "asks"):
        op.drop_column("cues", name)
    op.drop_table("briefs")
