"""one history

Spotting sheets leave the rows of pictures; a step of undo holds patches of any number of things, and every thing a revision.
"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

_SHEET = ("hits", "lines", "shots", "suggested_cuts", "carried")
_THINGS = ("cues", "tracks", "pictures")
_OF = (("cue", "cues"), ("track", "tracks"), ("picture", "pictures"))
# A step of a picture holds fields of the sheet, or of the picture itself, never both.
_IS_OF_SHEET = "JSON_CONTAINS_PATH(s.after, 'one', " + ", ".join(f"'$.{name}'" for name in _SHEET) + ")"


def upgrade() -> None:
    op.create_table(
        "sheets",
        sa.Column("picture_id", sa.Integer(), nullable=False),
        *(sa.Column(name, sa.JSON(), nullable=True) for name in _SHEET),
        sa.Column("revision", sa.Integer(), nullable=False, server_default="0"),
        sa.ForeignKeyConstraint(
            ["picture_id"], ["pictures.id"], name=op.f("fk_sheets_picture_id_pictures"), ondelete="CASCADE"
        ),
        sa.PrimaryKeyConstraint("picture_id", name=op.f("pk_sheets")),
    )
    names = ", ".join(f"`{name}`" for name in _SHEET)
    op.execute(f"INSERT INTO sheets (picture_id, {names}) SELECT id, {names} FROM pictures")
    for name in _SHEET:
        op.drop_column("pictures", name)
    for table in _THINGS:
        op.add_column(table, sa.Column("revision", sa.Integer(), nullable=False, server_default="0"))
    op.rename_table("changes", "steps")
    op.create_table(
        "patches",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("step_id", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("thing_id", sa.Integer(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
        sa.Column("after", sa.JSON(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False, server_default="0"),
        sa.ForeignKeyConstraint(["step_id"], ["steps.id"], name=op.f("fk_patches_step_id_steps"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_patches")),
    )
    op.create_index("ix_patches_kind_thing_id_revision", "patches", ["kind", "thing_id", "revision"])
    for thing, _ in _OF:
        kind = f"IF({_IS_OF_SHEET}, 'sheet', 'picture')" if thing == "picture" else f"'{thing}'"
        op.execute(
            f"INSERT INTO patches (step_id, kind, thing_id, `before`, `after`) "
            f"SELECT s.id, {kind}, s.{thing}_id, s.`before`, s.`after` FROM steps s WHERE s.{thing}_id IS NOT NULL"
        )
    op.drop_constraint("fk_changes_production_id_productions", "steps", type_="foreignkey")
    for thing, table in _OF:
        op.drop_constraint(f"fk_changes_{thing}_id_{table}", "steps", type_="foreignkey")
        op.drop_column("steps", f"{thing}_id")
    for name in ("before", "after"):
        op.drop_column("steps", name)
    op.add_column("steps", sa.Column("who", sa.String(length=100), nullable=False, server_default=""))
    op.add_column("steps", sa.Column("is_past", sa.Boolean(), nullable=False, server_default="0"))
    op.create_index("ix_steps_production_id_is_past_undone_id", "steps", ["production_id", "is_past", "undone", "id"])
    op.drop_index("ix_changes_production_id_undone_id", "steps")
    op.create_foreign_key(
        "fk_steps_production_id_productions", "steps", "productions", ["production_id"], ["id"], ondelete="CASCADE"
    )


def downgrade() -> None:
    op.drop_constraint("fk_steps_production_id_productions", "steps", type_="foreignkey")
    op.execute("DELETE FROM steps WHERE is_past OR (SELECT COUNT(*) FROM patches p WHERE p.step_id = steps.id) <> 1")
    for name in ("before", "after"):
        op.add_column("steps", sa.Column(name, sa.JSON(), nullable=False))
    op.execute("UPDATE steps s JOIN patches p ON p.step_id = s.id SET s.`before` = p.`before`, s.`after` = p.`after`")
    for thing, _ in reversed(_OF):
        op.add_column("steps", sa.Column(f"{thing}_id", sa.Integer(), nullable=True))
        kinds = "('picture', 'sheet')" if thing == "picture" else f"('{thing}')"
        op.execute(f"UPDATE steps s JOIN patches p ON p.step_id = s.id SET s.{thing}_id = p.thing_id WHERE p.kind IN {kinds}")
    op.drop_table("patches")
    for thing, table in _OF:
        op.execute(f"DELETE FROM steps WHERE {thing}_id IS NOT NULL AND {thing}_id NOT IN (SELECT id FROM {table})")
    op.create_index("ix_changes_production_id_undone_id", "steps", ["production_id", "undone", "id"])
    op.drop_index("ix_steps_production_id_is_past_undone_id", "steps")
    for name in ("is_past", "who"):
        op.drop_column("steps", name)
    op.rename_table("steps", "changes")
    op.create_foreign_key(
        "fk_changes_production_id_productions", "changes", "productions", ["production_id"], ["id"], ondelete="CASCADE"
    )
    for thing, table in _OF:
        op.create_foreign_key(f"fk_changes_{thing}_id_{table}", "changes", table, [f"{thing}_id"], ["id"], ondelete="CASCADE")
    for table in _THINGS:
        op.drop_column(table, "revision")
    for name in _SHEET:
        op.add_column("pictures", sa.Column(name, sa.JSON(), nullable=True))
    values = ", ".join(f"p.`{name}` = s.`{name}`" for name in _SHEET)
    op.execute(f"UPDATE pictures p JOIN sheets s ON s.picture_id = p.id SET {values}")
    op.drop_table("sheets")
