"""Productions that were stored by every earlier version open as they were, and can go back."""

import hashlib
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from fastapi.testclient import TestClient
from sqlalchemy import Connection, create_engine, inspect, text
from sqlalchemy.orm import Session

from evenseam.api.app import create_app
from evenseam.core.audio.encode import write_wav
from evenseam.core.spot import Hit
from evenseam.services.work.listening import hear_into
from evenseam.store.briefs import BriefDocument, asked_of, digest_of, seams_asked
from evenseam.store.database import Database, alembic_config
from evenseam.store.fits import find_fit, get_fit
from evenseam.store.history import history_steps, step_history
from evenseam.store.jobs import take_waiting
from evenseam.store.media import MediaStore, original_name
from evenseam.store.models import Patch, UndoStep
from evenseam.store.plans import read_plan
from evenseam.store.productions import get_cue, get_picture, get_production
from evenseam.store.sheets import sheet_of
from evenseam.store.tracks import get_track
from tests.api.server import own_database, settings_for
from tests.conftest import drum_loop

REVISIONS = ("0001", "0002", "0003", "0004", "0005", "0006", "0007", "0008", "0009", "0010")
AT, SHA, FLICKS_PER_S = "2026-11-01 10:00:00.000000", "ab" * 32, 705_600_000
BASELINES = Path(__file__).parents[1] / "core" / "baselines"
PLAN = json.loads((BASELINES / "plans_v1.json").read_text())["fits"][0]["plan"]
LENGTH_FLICKS = PLAN["target_samples"] * FLICKS_PER_S // PLAN["rate"]
HIT = {
    "at_frames": 50, "label": "door", "kind": "downbeat", "weight": "must", "tolerance_frames": 1, "until_frames": None, "id": 1,
}  # fmt: skip
MOVED = {**HIT, "at_frames": 60}


@pytest.fixture(scope="module")
def url() -> Iterator[str]:
    with own_database() as (address, _):
        yield address


class Rows:
    """Writes rows of those tables and columns that there are at a revision."""

    def __init__(self, connection: Connection) -> None:
        self._connection, found = connection, inspect(connection)
        self.columns = {table: {c["name"] for c in found.get_columns(table)} for table in found.get_table_names()}

    def put(self, table: str, **values: Any) -> None:
        kept = {k: v for k, v in values.items() if k in self.columns.get(table, ())}
        if not kept:
            return
        stored = {k: json.dumps(v) if isinstance(v, dict | list) else v for k, v in kept.items()}
        names, slots = ", ".join(f"`{k}`" for k in kept), ", ".join(f":{k}" for k in kept)
        self._connection.execute(text(f"INSERT INTO {table} ({names}) VALUES ({slots})"), stored)

    def step(self, number: int, kind: str, before: dict[str, Any], after: dict[str, Any], undone: bool = False) -> None:
        """A step of undo in the form of the time, where such a thing could be changed then."""
        if "steps" in self.columns:
            self.put("steps", id=number, production_id=1, words=f"step {number}", undone=undone, created_at=AT)
            self.put("patches", step_id=number, kind=kind, thing_id=1, before=before, after=after)
            return
        of = "picture" if kind == "sheet" else kind
        if f"{of}_id" in self.columns["changes"]:
            who = {f"{of}_id": 1}
            words = f"step {number}"
            self.put(
                "changes",
                id=number,
                production_id=1,
                words=words,
                before=before,
                after=after,
                undone=undone,
                created_at=AT,
                **who,
            )


def fill(connection: Connection, revision: str) -> None:
    """A production with a picture, two hits' worth of history, a corrected track, a fitted cue, and jobs."""
    rows = Rows(connection)
    rows.put("productions", id=1, name="Kept", created_at=AT)
    meter = 4 if revision == "0001" else "4/4"
    rows.put(
        "recordings",
        sha256=SHA,
        size_bytes=9,
        suffix=".wav",
        chart_version=1,
        rate_hz=PLAN["rate"],
        channels=2,
        meter=meter,
        hearings=1,
    )
    rows.put(
        "films",
        sha256=SHA,
        size_bytes=9,
        suffix=".mp4",
        width_px=9,
        height_px=9,
        codec="x",
        has_sound=0,
        is_playable=1,
        has_copy=0,
    )
    film = {"film_sha256": SHA, "is_deleted": 0}
    sheet: dict[str, Any] = {"hits": [MOVED], "lines": [], "shots": [[0, 90, "A1", 5, "one"]], "suggested_cuts": [30]}
    rows.put(
        "pictures", id=1, production_id=1, name="Film", rate_num=25, rate_den=1, drop_frame=0, length_frames=90, start_frames=0,
        **film, **sheet,
    )  # fmt: skip
    rows.put("sheets", picture_id=1, revision=2, **sheet)
    rows.put("tracks", id=1, production_id=1, sha256=SHA, title="New", file_name="a.wav", created_at=AT, corrections_digest="")
    rows.put(
        "cues",
        id=1,
        production_id=1,
        picture_id=1,
        number="1m1",
        name="Cue",
        slot_start_frames=0,
        slot_length_flicks=LENGTH_FLICKS,
        track_id=1,
        fit_id=None,
    )
    for number, samples in ((1, PLAN["target_samples"]), (2, PLAN["target_samples"] + 1)):
        document = {"version": 1, "length_flicks": -(-samples * FLICKS_PER_S // PLAN["rate"]) if number == 2 else LENGTH_FLICKS}
        digest = digest_of(document)
        rows.put("briefs", digest=digest, document=document, created_at=AT)
        rows.put(
            "fits",
            id=number,
            brief_digest=digest,
            cue_id=1,
            track_id=1,
            target_samples=samples,
            chart_id="1.",
            plan=PLAN,
            created_at=AT,
        )
    if "fit_id" in rows.columns["cues"]:
        connection.execute(text("UPDATE cues SET fit_id = 1"))
    old_length = LENGTH_FLICKS - FLICKS_PER_S
    rows.step(1, "cue", {"slot_length_flicks": old_length}, {"slot_length_flicks": LENGTH_FLICKS})
    rows.step(2, "track", {"title": "Old"}, {"title": "New"})
    rows.step(3, "sheet", {"hits": [HIT]}, {"hits": [MOVED]})
    rows.step(4, "cue", {"name": "Cue"}, {"name": "Undone"}, undone=True)
    job = {"production_id": 1, "progress": 0.5, "stage": "", "created_at": AT}
    rows.put(
        "jobs", id=1, kind="listen", state="waiting", track_id=1, subject="track", subject_id=1, attempts=1, deaths=1, **job
    )
    rows.put(
        "jobs", id=2, kind="render", state="running", fit_id=1, subject="fit", subject_id=1, attempts=1, deaths=0,
        sample_format="int16", asked={"sample_format": "int16"}, **job,
    )  # fmt: skip


def check(session: Session, revision: str) -> None:
    """All of it is there, and its history works."""
    production = get_production(session, 1)
    assert [p.name for p in production.pictures] == ["Film"]
    spotted = revision >= "0005"
    assert sheet_of(get_picture(session, 1)).hits == ((Hit(60, "door", weight="must", tolerance_frames=1),) if spotted else ())
    cue, track = get_cue(session, 1), get_track(session, 1)
    fit = get_fit(session, 1)
    assert read_plan(fit.plan).target_samples == fit.target_samples
    for number in (1, 2):
        made = get_fit(session, number)
        assert BriefDocument.model_validate(made.brief.document).at(PLAN["rate"]).target_samples == made.target_samples
    assert cue.fit_id == 1
    if revision >= "0003":  # before, nobody noted which chart a fit was made from
        track.recording.chart_version = 1
        assert fit.chart_id == "1."
        # Hits were not aimed at then.
        assert asked_of(cue).model_copy(update={"hits": None}).digest == fit.brief_digest
        assert find_fit(session, cue, track, fit.brief_digest) in (fit, None)
    undo, redo = history_steps(session, 1)
    assert undo is not None
    assert redo is not None
    assert redo.words == "step 4"
    for _ in range(1 + (revision >= "0003") + spotted):
        step_history(session, 1, back=True)
    session.flush()
    assert (cue.slot_length_flicks, track.title) == (LENGTH_FLICKS - FLICKS_PER_S, "Old" if revision >= "0003" else "New")
    assert [h.at_frames for h in sheet_of(get_picture(session, 1)).hits] == ([50] if spotted else [])
    step_history(session, 1, back=False)
    assert cue.slot_length_flicks == LENGTH_FLICKS
    jobs = {job.id: job for job in take_waiting(session, "me", 9, ())}
    assert {(j.kind, j.subject, j.subject_id, j.deaths) for j in jobs.values()} == {
        ("listen", "track", 1, 1),
        ("render", "fit", 1, 0),
    }
    assert jobs[2].asked == {"sample_format": "int16"}
    assert session.query(UndoStep).count() == session.query(Patch).count()


@pytest.mark.parametrize("revision", REVISIONS)
def test_what_was_stored_at_every_revision_opens_and_can_go_back(url: str, revision: str) -> None:
    config, engine = alembic_config(url), create_engine(url)
    command.downgrade(config, "base")
    command.upgrade(config, revision)
    with engine.begin() as connection:
        fill(connection, revision)
    command.upgrade(config, "head")
    database = Database(url)
    with database.transaction() as session:
        check(session, revision)
    database.dispose()
    command.downgrade(config, revision)
    with engine.begin() as connection:
        assert connection.scalar(text("SELECT slot_length_flicks FROM cues")) == LENGTH_FLICKS
        assert connection.scalar(text("SELECT COUNT(*) FROM fits")) == 2
    engine.dispose()


def test_cues_that_were_carried_and_not_fitted_yet_still_ask_for_the_seams_of_before(url: str) -> None:
    config, engine = alembic_config(url), create_engine(url)
    command.downgrade(config, "base")
    command.upgrade(config, "0007")
    with engine.begin() as connection:
        fill(connection, "0007")
        Rows(connection).put(
            "cues", id=2, production_id=1, picture_id=1, number="1m1", name="Cue", slot_start_frames=0,
            slot_length_flicks=LENGTH_FLICKS, track_id=1, carried_from_id=1,
        )  # fmt: skip
    command.upgrade(config, "head")
    database = Database(url)
    with database.transaction() as session:
        seams = tuple((s.source_from_samples, s.source_to_samples) for s in read_plan(PLAN).seams)
        assert seams
        assert asked_of(get_cue(session, 2)).kept_seams == seams
    database.dispose()
    engine.dispose()


BEFORE = json.loads((Path(__file__).parent / "baselines" / "production_0010.json").read_text())


@pytest.fixture(scope="module")
def opened(url: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """The application on a production that the version before this one's seams wrote, its recordings heard."""
    config, engine, data = alembic_config(url), create_engine(url), tmp_path_factory.mktemp("before")
    command.downgrade(config, "base")
    command.upgrade(config, "0010")
    with engine.begin() as connection:
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
        for table, found in BEFORE["rows"].items():
            for row in found:
                Rows(connection).put(table, **row)
    engine.dispose()
    command.upgrade(config, "head")
    settings = settings_for(data)
    media = MediaStore(settings.media_location, settings.scratch_dir / "cache")
    for loop in (drum_loop(40.0), drum_loop(36.0, bpm=100.0)):
        file = data / "loop.wav"
        write_wav(file, loop.samples, loop.rate, "int16")
        sha256 = hashlib.sha256(file.read_bytes()).hexdigest()
        assert sha256 in {row["sha256"] for row in BEFORE["rows"]["recordings"]}
        media.put_file(file, original_name(sha256, ".wav"))
        settings.scratch_dir.mkdir(parents=True, exist_ok=True)
        hear_into(media, settings.scratch_dir, sha256, ".wav", lambda _share, _stage: None)
    with TestClient(create_app(settings, url), base_url="http://127.0.0.1:8620") as client:
        yield client


def wishes_of(client: TestClient, cue: str) -> dict[str, list[list[int]]]:
    """What is wished for, as it was kept: names are those of the cuts of the time."""
    with client.app.state.context.database.transaction() as session:  # type: ignore[attr-defined]
        kept, forbidden = seams_asked(get_cue(session, int(cue)))
    found = {"kept_seams": [list(s) for s in kept], "forbidden_seams": [list(s) for s in forbidden]}
    return {name: seams for name, seams in found.items() if seams}


def asked_before(asks: dict[str, Any] | None) -> tuple[dict[str, Any], dict[str, Any]]:
    """What a cue asked then: what is asked beside its seams, and those."""
    seams = ("kept_seams", "forbidden_seams")
    return {k: v for k, v in (asks or {}).items() if k not in seams}, {k: v for k, v in (asks or {}).items() if k in seams}


def test_a_production_of_before_opens_with_the_same_fits_scores_and_verdicts(opened: TestClient) -> None:
    for cue, before in BEFORE["expected"]["fits"].items():
        now = opened.get(f"/api/cues/{cue}/fit").json()
        assert (now["fit_id"], now["plan"], now["is_outdated"]) == (before["fit_id"], before["plan"], before["is_outdated"])
        assert [f["id"] for f in opened.get(f"/api/cues/{cue}/fits").json()] == [
            f["id"] for f in BEFORE["expected"]["lists"][cue]
        ]
        rest, seams = asked_before(BEFORE["expected"]["cues"][cue])
        asked = next(c for c in opened.get("/api/productions/1").json()["cues"] if c["id"] == int(cue))["asks"]
        assert (asked or {}) == rest
        assert wishes_of(opened, cue) == seams
    said = [s for s in opened.get("/api/cues/1/seams").json() if s["verdict"]]
    verdicts = [v for found in BEFORE["expected"]["verdicts"].values() for v in found]
    assert sorted((s["verdict"], s["words"]) for s in said) == sorted((v["verdict"], v["words"]) for v in verdicts)
    # Said of an earlier fit, and shown in the one that is now: it is one seam.
    assert [s["verdict"] for s in opened.get("/api/cues/1/fit").json()["seams"]] == ["passed"]


def test_its_history_goes_back_to_its_beginning_and_on_again(opened: TestClient) -> None:
    for step in BEFORE["expected"]["steps"]:
        production = opened.post("/api/productions/1/undo").json()
        assert production["history"]["redo"] == step["undo"]
        assert {str(c["id"]): c["asks"] or {} for c in production["cues"]} == {
            cue: asked_before(asks)[0] for cue, asks in step["asks"].items()
        }
        for cue, asks in step["asks"].items():
            assert wishes_of(opened, cue) == asked_before(asks)[1], step["undo"]
    for _ in BEFORE["expected"]["steps"]:
        assert opened.post("/api/productions/1/redo").status_code == 200
    for cue, before in BEFORE["expected"]["fits"].items():
        assert opened.get(f"/api/cues/{cue}/fit").json()["plan"] == before["plan"]
