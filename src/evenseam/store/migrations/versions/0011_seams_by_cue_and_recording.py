"""seams by cue and recording

What is said of a seam (verdicts, and which are to be kept or left out) belongs to a cue and a recording, and no more to one
fit or to what is asked beside it. Steps of undo that were made of the old rows are made of the new ones. Functions here are
those of the time of this migration and stay as they are.
"""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

_WISHES = {"kept_seams": "kept", "forbidden_seams": "forbidden"}
Key = tuple[int, str, int, int]  # cue, recording, and the samples that a seam leaves and enters


def upgrade() -> None:
    op.create_table(
        "seams",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("cue_id", sa.Integer(), nullable=False),
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("leaves_samples", sa.BigInteger(), nullable=False),
        sa.Column("enters_samples", sa.BigInteger(), nullable=False),
        sa.Column("verdict", sa.String(length=20), nullable=False, server_default=""),
        sa.Column("words", sa.String(length=2000), nullable=False, server_default=""),
        sa.Column("wish", sa.String(length=20), nullable=False, server_default=""),
        sa.Column("moved_leaves_samples", sa.BigInteger(), nullable=True),
        sa.Column("moved_enters_samples", sa.BigInteger(), nullable=True),
        sa.Column("revision", sa.Integer(), nullable=False, server_default="0"),
        sa.ForeignKeyConstraint(["cue_id"], ["cues.id"], name=op.f("fk_seams_cue_id_cues"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_seams")),
        sa.UniqueConstraint(
            "cue_id", "sha256", "leaves_samples", "enters_samples",
            name=op.f("uq_seams_cue_id_sha256_leaves_samples_enters_samples"),
        ),
    )  # fmt: skip
    _take_verdicts()
    for cue in _rows("SELECT id, track_id, asks FROM cues"):
        _Cue(cue).take_wishes()
    op.drop_table("verdicts")


def downgrade() -> None:
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
    for row in _rows("SELECT id, track_id, asks FROM cues"):
        asks, sha = _json(row.asks), _sha_of(row.track_id)
        for field, wish in _WISHES.items():
            found = _rows(
                "SELECT leaves_samples, enters_samples FROM seams "
                "WHERE cue_id = :cue AND sha256 = :sha AND wish = :wish ORDER BY id",
                cue=row.id, sha=sha or "", wish=wish,
            )  # fmt: skip
            asks |= {field: [list(seam) for seam in found]} if found else {}
        _run("UPDATE cues SET asks = :asks WHERE id = :id", id=row.id, asks=json.dumps(asks) if asks else None)
    _run("DELETE FROM patches WHERE kind = 'seam'")
    op.drop_table("seams")


def _take_verdicts() -> None:
    """Under the numbers that they had, so that steps of undo find them; of several fits of one cue the newest counts."""
    taken: dict[Key, int] = {}
    rows = _rows(
        "SELECT v.id, f.cue_id, t.sha256, v.source_from_samples, v.source_to_samples, v.verdict, v.words, v.revision "
        "FROM verdicts v JOIN fits f ON f.id = v.fit_id JOIN tracks t ON t.id = f.track_id ORDER BY v.id DESC"
    )
    for row in rows:
        key = (row.cue_id, row.sha256, row.source_from_samples, row.source_to_samples)
        if key in taken:
            _run("DELETE FROM patches WHERE kind = 'verdict' AND thing_id = :id", id=row.id)
            continue
        taken[key] = row.id
        _run(
            "INSERT INTO seams (id, cue_id, sha256, leaves_samples, enters_samples, verdict, words, revision) "
            "VALUES (:id, :cue, :sha, :leaves, :enters, :verdict, :words, :revision)",
            id=row.id, cue=row.cue_id, sha=row.sha256, leaves=row.source_from_samples, enters=row.source_to_samples,
            verdict=row.verdict, words=row.words, revision=row.revision,
        )  # fmt: skip
    _run("UPDATE patches SET kind = 'seam' WHERE kind = 'verdict'")


class _Cue:
    """A cue whose wishes for seams, in what it asks and in the steps of undo that changed that, become rows of their own."""

    def __init__(self, row: Any) -> None:
        self._id, self._track_id, self._asks = row.id, row.track_id, _json(row.asks)

    def take_wishes(self) -> None:
        for (_, sha, leaves, enters), wish in _wishes(self._id, _sha_of(self._track_id), self._asks).items():
            _run("UPDATE seams SET wish = :wish WHERE id = :id", id=self._row((self._id, sha, leaves, enters)), wish=wish)
        kept = _without_wishes(self._asks)
        _run("UPDATE cues SET asks = :asks WHERE id = :id", id=self._id, asks=json.dumps(kept) if kept else None)
        self._steps("s.undone = 0 ORDER BY p.id DESC", is_back=True)
        self._steps("s.undone = 1 AND s.is_past = 0 ORDER BY p.id", is_back=False)
        for patch in self._patches("s.is_past = 1"):
            self._strip(patch, _json(patch.before), _json(patch.after))

    def _steps(self, which: str, is_back: bool) -> None:
        """Steps from the newest back, or those that can be redone from the oldest on: which track it had by then is known."""
        track_id = self._track_id
        for patch in self._patches(which):
            sides = {"before": _json(patch.before), "after": _json(patch.after)}
            far = "before" if is_back else "after"
            far_track = sides[far].get("track_id", track_id)
            tracks = {far: far_track, "after" if is_back else "before": track_id}
            if "asks" in sides["before"] or "asks" in sides["after"]:
                was, becomes = (_wishes(self._id, _sha_of(tracks[s]), sides[s].get("asks") or {}) for s in ("before", "after"))
                for key in {**was, **becomes}:
                    if was.get(key) != becomes.get(key):
                        self._add_patch(patch.step_id, key, was.get(key, ""), becomes.get(key, ""))
            self._strip(patch, sides["before"], sides["after"])
            track_id = far_track

    def _patches(self, which: str) -> list[Any]:
        return _rows(
            "SELECT p.id, p.step_id, p.before, p.after FROM patches p JOIN steps s ON s.id = p.step_id "
            f"WHERE p.kind = 'cue' AND p.thing_id = :cue AND {which}",
            cue=self._id,
        )

    def _add_patch(self, step_id: int, key: Key, was: str, becomes: str) -> None:
        _run(
            "INSERT INTO patches (step_id, kind, thing_id, `before`, `after`, revision) "
            "VALUES (:step, 'seam', :thing, :was, :becomes, 0)",
            step=step_id, thing=self._row(key), was=json.dumps({"wish": was}), becomes=json.dumps({"wish": becomes}),
        )  # fmt: skip

    def _strip(self, patch: Any, before: dict[str, Any], after: dict[str, Any]) -> None:
        """What is left of a patch: nothing where it was of seams alone."""
        if "asks" not in before and "asks" not in after:
            return
        for side in (before, after):
            side["asks"] = _without_wishes(side.get("asks") or {}) or None
        if before["asks"] == after["asks"]:
            del before["asks"], after["asks"]
        if before or after:
            _run(
                "UPDATE patches SET `before` = :was, `after` = :becomes WHERE id = :id",
                id=patch.id, was=json.dumps(before), becomes=json.dumps(after),
            )  # fmt: skip
        else:
            _run("DELETE FROM patches WHERE id = :id", id=patch.id)

    def _row(self, key: Key) -> int:
        cue, sha, leaves, enters = key
        values = {"cue": cue, "sha": sha, "leaves": leaves, "enters": enters}
        where = "cue_id = :cue AND sha256 = :sha AND leaves_samples = :leaves AND enters_samples = :enters"
        if not _rows(f"SELECT id FROM seams WHERE {where}", **values):
            _run(
                "INSERT INTO seams (cue_id, sha256, leaves_samples, enters_samples) VALUES (:cue, :sha, :leaves, :enters)",
                **values,
            )
        return int(_rows(f"SELECT id FROM seams WHERE {where}", **values)[0].id)


def _wishes(cue_id: int, sha256: str | None, asks: dict[str, Any]) -> dict[Key, str]:
    """What was wished for, in the order in which it was asked."""
    if sha256 is None:
        return {}
    return {(cue_id, sha256, a, b): wish for field, wish in _WISHES.items() for a, b in asks.get(field) or ()}


def _without_wishes(asks: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in asks.items() if name not in _WISHES}


def _sha_of(track_id: int | None) -> str | None:
    found = _rows("SELECT sha256 FROM tracks WHERE id = :id", id=track_id)
    return str(found[0].sha256) if found else None


def _json(value: Any) -> dict[str, Any]:
    return (json.loads(value) if isinstance(value, str) else value) or {}


def _rows(statement: str, **values: Any) -> list[Any]:
    return list(op.get_bind().execute(sa.text(statement), values))


def _run(statement: str, **values: Any) -> None:
    op.get_bind().execute(sa.text(statement), values)
