"""Hits, lines, shots and cues over HTTP, and their undo."""

from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from evenseam.core.exchange.marks import FORMS, write_edl
from evenseam.core.timebase import FLICKS_PER_S
from evenseam.demo.film.cuts import FILM
from evenseam.demo.load import FILMS_FOLDER
from evenseam.services.context import Context
from evenseam.store.jobs import OPEN_STATES
from evenseam.store.models import Picture
from tests.api.conftest import Ids, wait_for
from tests.api.test_pictures import add_film, edit, production_of


@pytest.fixture
def picture(client: TestClient, ids: Ids) -> int:
    return int(production_of(client, ids)["pictures"][0]["id"])


def sheet(client: TestClient, picture: int) -> dict[str, Any]:
    return dict(client.get(f"/api/pictures/{picture}/sheet").json())


def test_hits_are_marked_typed_moved_snapped_and_taken_back(client: TestClient, ids: Ids, picture: int) -> None:
    for at in (100, 50, 300):
        made = edit(client, picture, edit="add_hit", at_frames=at, label=f"at {at}")
    first, second, third = (h["id"] for h in made["hits"])
    assert [h["at_frames"] for h in made["hits"]] == [50, 100, 300]
    edit(client, picture, edit="change_hit", id=first, at="+10f", label="door", weight="must", tolerance_frames=2)
    edit(client, picture, edit="change_hit", id=second, at="00:00:06:00")
    edit(client, picture, edit="change_hit", id=third, kind="silence", until="+2s")
    made = edit(client, picture, edit="move_hits", ids=[first, third], by_frames=5)
    assert [(h["label"], h["at_frames"], h["until_frames"]) for h in made["hits"]] == [
        ("door", 65, None), ("at 100", 150, None), ("at 300", 305, 355),
    ]  # fmt: skip
    refused = client.post(f"/api/pictures/{picture}/edits", json={"edit": "snap_hits", "ids": [first]})
    assert "no shot change" in refused.json()["detail"]
    edit(client, picture, edit="cut", at_frames=70)
    assert edit(client, picture, edit="snap_hits", ids=[first])["hits"][0]["at_frames"] == 70
    edit(client, picture, edit="remove_hits", ids=[first, second])
    for _ in range(3):
        client.post(f"/api/productions/{ids.production}/undo")
    assert [h["at_frames"] for h in sheet(client, picture)["hits"]] == [65, 150, 305]
    history = client.post(f"/api/productions/{ids.production}/redo").json()["history"]
    assert (history["undo"], history["redo"]) == ("cutting a shot on Film", "snapping a hit on Film")


@pytest.mark.parametrize(
    ("body", "code"),
    [
        ({"edit": "add_hit", "at_frames": 1801}, "spot_invalid"),
        ({"edit": "add_hit", "at_frames": 9, "kind": "silence"}, "spot_invalid"),
        ({"edit": "add_hit", "at_frames": -1}, "request_invalid"),
        ({"edit": "change_hit", "id": 77, "label": "x"}, "spot_invalid"),
        ({"edit": "add_line", "start_frames": 9, "end_frames": 9}, "spot_invalid"),
        ({"edit": "join", "at_frames": 5}, "spot_invalid"),
        ({"edit": "dance"}, "request_invalid"),
    ],
)
def test_marks_that_make_no_sense_are_refused_and_change_nothing(
    client: TestClient, ids: Ids, picture: int, body: dict[str, Any], code: str
) -> None:
    before = sheet(client, picture), production_of(client, ids)
    refused = client.post(f"/api/pictures/{picture}/edits", json=body)
    assert refused.json()["code"] == code
    assert (sheet(client, picture), production_of(client, ids)) == before


def test_lines_are_marked_typed_and_read(client: TestClient, ids: Ids, picture: int) -> None:
    made = edit(client, picture, edit="add_line", start_frames=10, end_frames=60, text="Good evening")
    line = made["lines"][0]["id"]
    made = edit(client, picture, edit="change_line", id=line, end="+1s", text="Good evening, all")
    assert (made["lines"][0]["end_frames"], made["lines"][0]["text"]) == (85, "Good evening, all")
    address = f"/api/pictures/{picture}/marks"
    told = client.post(address, params={"file_name": "l.srt"}, content=(FILMS_FOLDER / "open_night.srt").read_bytes()).json()
    assert told == {"words": "11 lines", "notes": []}
    client.post(f"/api/productions/{ids.production}/undo")
    assert len(sheet(client, picture)["lines"]) == 1
    assert not edit(client, picture, edit="remove_lines", ids=[line])["lines"]


@pytest.mark.parametrize("form", FORMS)
def test_what_goes_out_in_an_open_form_comes_in_the_same(client: TestClient, ids: Ids, picture: int, form: str) -> None:
    address = f"/api/pictures/{picture}/marks"
    client.post(address, params={"file_name": "f.edl"}, content=write_edl(FILM.sheet).encode())
    edit(client, picture, edit="add_hit", at_frames=77, label="Slit opens", kind="section", weight="must", tolerance_frames=1)
    edit(client, picture, edit="add_line", start_frames=90, end_frames=140, text="At nine")
    out = client.get(address, params={"form": form})
    assert out.status_code == 200
    before = sheet(client, picture)
    fresh = client.post(
        f"/api/productions/{ids.production}/pictures/blank", json={"name": "Copy", "rate": "25", "length": "72"}
    ).json()["id"]
    assert client.post(f"/api/pictures/{fresh}/marks", params={"file_name": f"x{form}"}, content=out.content).status_code == 200
    after = sheet(client, fresh)
    if form in (".vtt", ".srt"):
        assert after["lines"] == before["lines"]
    elif form == ".mid":
        assert [(h["at_frames"], h["label"]) for h in after["hits"]] == [(77, "Slit opens")]
    else:
        assert after["hits"] == before["hits"]
    if form in (".edl", ".otio"):
        shots = [client.get(f"/api/pictures/{p}/shots").json() for p in (picture, fresh)]
        assert shots[0] == shots[1]
    assert (
        client.post(f"/api/pictures/{fresh}/marks", params={"file_name": "x.doc"}, content=b"?").json()["code"]
        == "spot_invalid"
    )


@pytest.mark.parametrize(
    ("text", "here", "frame"),
    [
        ("1:12", 0, 1800),
        ("112", 0, 1800),
        ("30", 0, 750),
        ("-012", 400, 100),
        ("+10f", 90, 100),
        ("-1:00", 1600, 100),
        ("00:00:10:05", 0, 255),
        ("72s", 0, 1800),
        ("-9", 5, 0),
    ],
)
def test_positions_are_typed_in_any_shorthand(client: TestClient, picture: int, text: str, here: int, frame: int) -> None:
    answer = client.get(f"/api/pictures/{picture}/position", params={"text": text, "here_frames": here})
    assert answer.json() == {"frames": frame}


def test_cues_are_numbered_changed_removed_and_brought_back(client: TestClient, ids: Ids, picture: int) -> None:
    address = f"/api/pictures/{picture}/cues"
    made = client.post(address, json={"start_frames": 250, "end_frames": 500}).json()
    assert (made["number"], made["name"], made["slot_length_flicks"]) == ("1m2", "Cue 1m2", 10 * FLICKS_PER_S)
    assert client.post(address, json={"start_frames": 500, "end_frames": 500}).json()["code"] == "spot_invalid"
    body = {"number": "1m2A", "colour": "rose", "status": "review", "notes": "softer", "start": "+1s", "end": "0:25"}
    changed = client.patch(f"/api/cues/{made['id']}", json=body).json()
    assert (changed["slot_start_frames"], changed["slot_length_flicks"]) == (275, 14 * FLICKS_PER_S)
    assert [changed[k] for k in ("number", "colour", "status", "notes")] == ["1m2A", "rose", "review", "softer"]
    assert client.patch(f"/api/cues/{made['id']}", json={"start": "99:00"}).json()["code"] == "brief_invalid"
    assert client.post(address, json={"start_frames": 300, "end_frames": 900}).json()["number"] == "1m3"
    client.delete(f"/api/cues/{made['id']}")
    assert [c["number"] for c in production_of(client, ids)["cues"]] == ["1m1", "1m3"]
    client.post(f"/api/productions/{ids.production}/undo")
    assert [c["number"] for c in production_of(client, ids)["cues"]] == ["1m1", "1m2A", "1m3"]


def told(client: TestClient, answer: Any) -> str:
    """What a job has to say when it is done."""
    assert answer.status_code == 202, answer.text
    job = wait_for(lambda: client.get(f"/api/jobs/{answer.json()['id']}").json(), lambda j: j["state"] not in OPEN_STATES)
    assert job["state"] == "done", job["error"]
    return str(job["told"])


def test_dialogue_is_found_in_the_pictures_own_sound_and_never_twice(client: TestClient, ids: Ids, picture: int) -> None:
    refused = client.post(f"/api/pictures/{picture}/dialogue", json={}).json()
    assert "no sound of its own" in refused["detail"]
    film = add_film(client, ids, FILMS_FOLDER / f"{FILM.slug}.mp4")
    track = film["sound_track_id"]
    wait_for(lambda: client.get(f"/api/tracks/{track}").json(), lambda t: t["state"] == "ready")
    address = f"/api/pictures/{film['id']}/dialogue"
    assert told(client, client.post(address, json={})) == "11 lines"
    undo = client.get(f"/api/productions/{ids.production}").json()["history"]["undo"]
    assert undo == f"finding dialogue on {film['name']}"
    assert told(client, client.post(address, json={})) == "no line that was not marked already"
    late = client.post(f"/api/pictures/{picture}/dialogue", json={"track_id": track, "at_frames": 1000})
    assert told(client, late) == "6 lines", "those that still lie on the picture"


def test_undo_of_a_hit_leaves_what_a_scan_carried_onto_the_sheet_meanwhile(app: FastAPI, client: TestClient, ids: Ids) -> None:
    production = f"/api/productions/{ids.production}"
    picture = client.get(production).json()["pictures"][0]["id"]
    mine = edit(client, picture, edit="add_hit", at_frames=50, label="mine")["hits"][0]
    context: Context = app.state.context
    with context.database.transaction() as session:
        row = session.get_one(Picture, picture).sheet
        row.hits = [*(row.hits or ()), {**mine, "id": 9, "at_frames": 70, "label": "carried"}]
    client.post(f"{production}/undo")
    assert [h["label"] for h in client.get(f"/api/pictures/{picture}/sheet").json()["hits"]] == ["carried"]
    client.post(f"{production}/redo")
    assert [h["label"] for h in client.get(f"/api/pictures/{picture}/sheet").json()["hits"]] == ["mine", "carried"]
