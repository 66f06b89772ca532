"""Undo of several things at once, revisions, two people at one thing, and transactions that give way."""

import threading
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import select, text
from sqlalchemy.exc import OperationalError

from evenseam.api.app import create_app
from evenseam.core.timebase import FLICKS_PER_S
from evenseam.services.context import Context
from evenseam.store.database import again_on_deadlock
from evenseam.store.history import change, step_history
from evenseam.store.models import Cue, Picture, Production, Track, UndoStep
from tests.api.conftest import Ids
from tests.api.server import own_database, settings_for
from tests.api.test_pictures import edit, production_of


def cue_of(client: TestClient, ids: Ids) -> dict[str, Any]:
    return next(c for c in production_of(client, ids)["cues"] if c["id"] == ids.cue)


def patch(client: TestClient, ids: Ids, **body: Any) -> Any:
    return client.patch(f"/api/cues/{ids.cue}", json=body)


def test_one_step_holds_several_things_and_is_taken_back_whole(app: FastAPI, client: TestClient, ids: Ids) -> None:
    context: Context = app.state.context
    production = f"/api/productions/{ids.production}"
    with context.database.transaction() as session:
        cue = session.get_one(Cue, ids.cue)
        picture = session.get_one(Picture, cue.picture_id)
        sheet = {"suggested_cuts": [7, 9]}
        assert change(session, "three things", (cue, {"name": "New"}), (picture, {"name": "New"}), (picture.sheet, sheet))
        assert not change(session, "nothing", (cue, {"name": "New"}))
    for _ in range(2):
        assert client.post(f"{production}/undo").json()["history"]["redo"] == "three things"
        read = production_of(client, ids)
        assert (read["cues"][0]["name"], read["pictures"][0]["name"]) == ("Cue", "Film")
        address = f"/api/pictures/{read['pictures'][0]['id']}/sheet"
        assert client.get(address).json()["suggested_cuts"] == []
        client.post(f"{production}/redo")
        assert client.get(address).json()["suggested_cuts"] == [7, 9]


def test_what_was_undone_and_passed_over_still_tells_and_is_never_redone(client: TestClient, ids: Ids) -> None:
    production = f"/api/productions/{ids.production}"
    seen = cue_of(client, ids)["revision"]
    patch(client, ids, name="First")
    client.post(f"{production}/undo")
    patch(client, ids, notes="softer")
    assert client.post(f"{production}/redo").json()["code"] == "nothing_to_undo"
    stale = patch(client, ids, name="Mine", revision=seen).json()
    assert stale["code"] == "stale", "it was changed and changed back since"
    assert "taking back naming the cue First" in stale["detail"]


def test_an_absolute_change_of_what_somebody_else_changed_is_refused_with_both_versions(client: TestClient, ids: Ids) -> None:
    seen = cue_of(client, ids)["revision"]
    assert patch(client, ids, length="0:45", revision=seen).status_code == 200
    refused = patch(client, ids, length="0:30", revision=seen)
    assert (refused.status_code, refused.json()["code"]) == (409, "stale")
    assert "Now: 0:45.000 long. Yours: 0:30.000 long. Nothing was changed." in refused.json()["detail"]
    now = cue_of(client, ids)
    assert now["slot_length_flicks"] == 45 * FLICKS_PER_S
    assert refused.json()["params"]["revision"] == now["revision"]
    assert patch(client, ids, name="Other field", revision=seen).status_code == 200, "nobody touched the name"
    assert patch(client, ids, start="+1f", revision=seen).status_code == 200, "relative changes add up"
    assert patch(client, ids, start="+2f", revision=seen).status_code == 200
    assert cue_of(client, ids)["slot_start_frames"] == 3
    moved = patch(client, ids, slot_start_frames=80, revision=seen).json()
    assert "Now: at 00:00:00:03. Yours: at 00:00:03:05." in moved["detail"]
    assert patch(client, ids, length="0:45", revision=seen).status_code == 200, "both want the same"
    assert patch(client, ids, length="0:30").status_code == 200, "without a revision whatever is asked for counts"


def test_a_hit_that_somebody_else_moved_is_not_moved_back_and_others_are_free(client: TestClient, ids: Ids) -> None:
    picture = production_of(client, ids)["pictures"][0]["id"]
    first = edit(client, picture, edit="add_hit", at_frames=10, label="door")["hits"][0]["id"]
    sheet = edit(client, picture, edit="add_hit", at_frames=20, label="star")
    second = next(h["id"] for h in sheet["hits"] if h["id"] != first)
    seen = sheet["revision"]
    edit(client, picture, edit="change_hit", id=first, at_frames=12, revision=seen)
    address = f"/api/pictures/{picture}/edits"
    refused = client.post(address, json={"edit": "change_hit", "id": first, "at_frames": 50, "revision": seen})
    assert (refused.status_code, refused.json()["code"]) == (409, "stale")
    assert "Now: at 00:00:00:12. Yours: at 00:00:02:00." in refused.json()["detail"]
    edit(client, picture, edit="change_hit", id=first, label="gate", revision=seen)
    edit(client, picture, edit="change_hit", id=second, at_frames=30, revision=seen)
    edit(client, picture, edit="change_hit", id=first, at="+2f", revision=seen)
    hits = client.get(f"/api/pictures/{picture}/sheet").json()["hits"]
    assert [(h["at_frames"], h["label"]) for h in hits] == [(14, "gate"), (30, "star")]


def test_who_did_it_is_what_a_proxy_says_and_nobody_else(client: TestClient, ids: Ids) -> None:
    client.patch(f"/api/cues/{ids.cue}", json={"name": "A"}, headers={"X-Forwarded-User": "ada"})
    assert production_of(client, ids)["history"]["undo_by"] == "", "this one has no proxy before it"
    with own_database() as (url, data):
        app = create_app(settings_for(data, behind_proxy=True), url)
        with TestClient(app, base_url="http://127.0.0.1:8620") as behind:
            context: Context = app.state.context
            with context.database.transaction() as session:
                production = Production(name="P")
                session.add(production)
                session.flush()
                picture = Picture(production_id=production.id, name="F", rate_num=25, rate_den=1, length_frames=9)
                session.add(picture)
                session.flush()
            behind.patch(f"/api/pictures/{picture.id}", json={"name": "G"}, headers={"X-Forwarded-User": "ada"})
            history = behind.get(f"/api/productions/{production.id}").json()["history"]
            assert (history["undo"], history["undo_by"]) == ("renaming F", "ada")


def test_steps_of_a_deleted_track_go_and_those_of_other_things_stay(app: FastAPI, client: TestClient, ids: Ids) -> None:
    from evenseam.store.tracks import add_track, delete_track

    context: Context = app.state.context
    with context.database.transaction() as session:
        track, _ = add_track(session, ids.production, "9c" * 32, 1, "x.wav")
        cue = session.get_one(Cue, ids.cue)
        change(session, "of both", (track, {"title": "T"}), (cue, {"name": "N"}))
        change(session, "of the track", (track, {"title": "U"}))
        delete_track(session, track.id)
        words = session.scalars(select(UndoStep.words).where(UndoStep.production_id == ids.production)).all()
        assert words == ["of both"]
        step_history(session, ids.production, back=True)
        assert session.get_one(Cue, ids.cue).name == "Cue"
        assert session.get(Track, track.id) is None


def test_a_transaction_that_had_to_give_way_is_run_again(app: FastAPI, client: TestClient, ids: Ids) -> None:
    """Two that hold one row each and want the other's: the database ends one of them, and both are done."""
    context: Context = app.state.context
    other = Production(name="Other")
    with context.database.transaction() as session:
        session.add(other)
    both, tries = threading.Barrier(2), []

    @again_on_deadlock
    def rename(first: int, second: int) -> None:
        tries.append(first)
        with context.database.transaction() as session:
            for k, production_id in enumerate((first, second)):
                session.execute(text("UPDATE productions SET name = CONCAT(name, '+') WHERE id = :id"), {"id": production_id})
                if k == 0 and len(tries) <= 2:
                    both.wait(timeout=30)

    threads = [threading.Thread(target=rename, args=pair) for pair in ((ids.production, other.id), (other.id, ids.production))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(timeout=60)
    assert len(tries) == 3
    assert client.get(f"/api/productions/{ids.production}").json()["name"] == "Test++"

    @again_on_deadlock
    def is_broken() -> None:
        tries.append(0)
        raise OperationalError("select", {}, Exception(2006, "gone"))

    tries.clear()
    with pytest.raises(OperationalError):
        is_broken()
    assert len(tries) == 1, "a database that is away is not waited for here"
