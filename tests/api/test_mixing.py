"""What sounds and how loud, over HTTP: programmes that plan nothing, and levels that outlive fits, tracks and versions."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from evenseam.core.exchange.marks import write_edl
from evenseam.core.spot import Shot
from evenseam.core.timebase import FLICKS_PER_S
from evenseam.demo.film.cuts import FILM, RECUT
from tests.api.conftest import Ids, add_and_listen
from tests.api.test_fits import counts, fit
from tests.api.test_pictures import production_of
from tests.api.test_together import all_at_once

DIP = [{"at_flicks": k * FLICKS_PER_S, "gain_db": gain_db} for k, gain_db in ((2, 0.0), (3, -12.0), (6, -12.0), (7, 0.0))]


@pytest.fixture
def picture(client: TestClient, ids: Ids, loop_wav: Path) -> str:
    """The address of a picture with a cue of 32 seconds that is fitted."""
    track = add_and_listen(client, ids, "loop.wav", loop_wav.read_bytes())
    client.patch(f"/api/cues/{ids.cue}", json={"track_id": track["id"], "length": "0:32", "start": "0:04"})
    fit(client, ids)
    return f"/api/pictures/{production_of(client, ids)['pictures'][0]['id']}"


def set_level(client: TestClient, picture: str, of: str, **fields: Any) -> dict[str, Any]:
    answer = client.patch(f"{picture}/mix/{of}", json=fields)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def clips(client: TestClient, picture: str) -> list[dict[str, Any]]:
    return list(client.get(f"{picture}/programme").json()["programme"]["clips"])


def test_a_programme_has_everything_at_its_place_and_asking_for_it_plans_nothing(
    app: FastAPI, client: TestClient, ids: Ids, picture: str
) -> None:
    first = client.get(f"{picture}/programme").json()
    [clip], [sound] = first["programme"]["clips"], first["sounds"]
    rate = first["programme"]["rate"]
    assert (clip["at_samples"], clip["n_samples"], clip["bus"]) == (4 * rate, 32 * rate, "music")
    assert (sound["cue_id"], sound["name"], first["unfitted"]) == (ids.cue, clip["sound"], [])
    assert client.get(f"{picture}/programme").json()["revision"] == first["revision"]
    heard = client.get(sound["url"], params={"start": 0, "stop": rate, "rate": rate})
    assert np.frombuffer(heard.content, "<f4").size == sound["channels"] * rate
    before = counts(app, ids)
    client.patch(f"/api/cues/{ids.cue}", json={"length": "0:24"})
    after = client.get(f"{picture}/programme").json()
    assert (after["unfitted"], [s["name"] for s in after["sounds"]]) == ([ids.cue], [sound["name"]])
    assert counts(app, ids) == before
    fit(client, ids)
    assert client.get(f"{picture}/programme").json()["unfitted"] == []


def test_levels_are_steps_of_undo_and_outlive_every_fit_and_track(client: TestClient, ids: Ids, picture: str) -> None:
    of = f"cues/{ids.cue}"
    plain = client.get(f"{picture}/programme").json()
    set_level(client, picture, of, gain_db=-3.0)
    kept = set_level(client, picture, of, points=DIP)
    assert (kept["cues"][0]["gain_db"], kept["cues"][0]["points"]) == (-3.0, DIP)
    [levelled] = clips(client, picture)
    rate = plain["programme"]["rate"]
    assert [(p["at_samples"] / rate, p["gain_db"]) for p in levelled["gain"]["points"]] == [
        (2, -3),
        (3, -15),
        (6, -15),
        (7, -3),
    ]

    client.patch(f"/api/cues/{ids.cue}", json={"length": "0:28", "start": "0:06"})
    fit(client, ids)
    [again] = clips(client, picture)
    assert (again["at_samples"], again["gain"]) == (6 * rate, levelled["gain"])
    assert again["sound"] != levelled["sound"]
    client.patch(f"/api/cues/{ids.cue}", json={"track_id": None})
    assert (clips(client, picture), client.get(f"{picture}/mix").json()["cues"]) == ([], kept["cues"])
    for _ in range(4):
        client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(f"{picture}/mix").json()["cues"] == []
    assert clips(client, picture) == plain["programme"]["clips"]
    for _ in range(2):
        client.post(f"/api/productions/{ids.production}/redo")
    assert client.get(f"{picture}/mix").json()["cues"] == kept["cues"]


def test_a_muted_cue_is_heard_by_itself_at_its_level(client: TestClient, ids: Ids, picture: str) -> None:
    set_level(client, picture, f"cues/{ids.cue}", gain_db=-5.0, is_muted=True)
    set_level(client, picture, "buses/music", gain_db=-40.0)
    assert [p["gain_db"] for p in clips(client, picture)[0]["gain"]["points"]] == [-120.0]
    alone = client.get(f"/api/cues/{ids.cue}/programme").json()["programme"]
    assert [p["gain_db"] for p in alone["clips"][0]["gain"]["points"]] == [-5.0]
    assert [b["gain"]["points"] for b in alone["buses"]] == [[]]


def test_what_cannot_be_is_refused_in_words_and_changes_nothing(client: TestClient, ids: Ids, picture: str) -> None:
    bad: list[tuple[str, dict[str, Any], int]] = [
        (f"cues/{ids.cue}", {"gain_db": 90}, 422),
        (f"cues/{ids.cue}", {"points": list(reversed(DIP))}, 422),
        (f"cues/{ids.cue}", {"points": [{"at_flicks": 0, "gain_db": 60}]}, 422),
        (f"cues/{ids.cue}", {"fade_in": {"length_flicks": -1}}, 422),
        (f"cues/{ids.cue}", {"is_muted": "perhaps"}, 422),
        ("cues/999999", {"gain_db": 1}, 404),
        ("buses/horns", {"gain_db": 1}, 404),
    ]
    for of, fields, status in bad:
        answer = client.patch(f"{picture}/mix/{of}", json=fields)
        assert (answer.status_code, bool(answer.json()["detail"])) == (status, True), (of, fields, answer.text)
    assert client.get(f"{picture}/mix").json()["cues"] == []


def test_two_who_set_the_same_are_told_of_each_other_and_two_who_do_not_are_not(
    client: TestClient, ids: Ids, picture: str
) -> None:
    of = f"cues/{ids.cue}"
    seen = set_level(client, picture, of, gain_db=-1.0)["revision"]
    set_level(client, picture, of, gain_db=-2.0)
    set_level(client, picture, of, is_muted=True, revision=seen)
    refused = client.patch(f"{picture}/mix/{of}", json={"gain_db": -7.0, "revision": seen})
    assert refused.status_code == 409
    assert client.get(f"{picture}/mix").json()["cues"][0]["gain_db"] == -2.0
    names = ["music", "speech", "own"]
    answers = all_at_once(lambda k: client.patch(f"{picture}/mix/buses/{names[k % 3]}", json={"gain_db": -float(k)}), 24)
    assert {a.status_code for a in answers} == {200}
    assert {b["name"] for b in client.get(f"{picture}/mix").json()["buses"]} == set(names)


def test_levels_go_along_to_a_new_version_of_the_picture(client: TestClient, ids: Ids, loop_wav: Path) -> None:
    """Those of a cue as they are, for they count from its start; those of a bus with the shots that they lie in."""
    listed = write_edl(FILM.sheet).encode()
    add = f"/api/productions/{ids.production}/pictures/list"
    old = client.post(add, params={"file_name": "film.edl", "rate": "25"}, content=listed).json()
    span = {"start_frames": 0, "end_frames": 500}
    cue = client.post(f"/api/pictures/{old['id']}/cues", json=span).json()["id"]
    picture = f"/api/pictures/{old['id']}"
    set_level(client, picture, f"cues/{cue}", points=DIP, fade_out={"length_flicks": FLICKS_PER_S, "shape": "cosine"})
    shots = FILM.sheet.shots
    points = [{"at_flicks": (s.start_frames + 3) * FLICKS_PER_S // 25, "gain_db": -float(k)} for k, s in enumerate(shots)]
    set_level(client, picture, "buses/own", points=points)
    recut = write_edl(replace(RECUT.sheet, start_frames=FILM.sheet.start_frames)).encode()
    new = client.post(f"{picture}/versions", params={"file_name": "recut.edl", "shift": True}, content=recut).json()
    mix = client.get(f"/api/pictures/{new['id']}/mix").json()
    assert [{k: v for k, v in level.items() if k != "cue_id"} for level in mix["cues"]] == [
        {k: v for k, v in level.items() if k != "cue_id"} for level in client.get(f"{picture}/mix").json()["cues"]
    ]
    assert mix["cues"][0]["cue_id"] in {c["id"] for c in production_of(client, ids)["cues"] if c["picture_id"] == new["id"]}
    carried = {p["gain_db"]: p["at_flicks"] for p in mix["buses"][0]["points"]}
    kept = {s.name: s for s in RECUT.sheet.shots}
    expected = {-float(k): kept[s.name] for k, s in enumerate(shots) if s.name in kept and shows(kept[s.name], s)}
    assert len(expected) > 3
    assert {gain: at * 25 // FLICKS_PER_S for gain, at in carried.items() if gain in expected} == {
        gain: s.start_frames + 3 for gain, s in expected.items()
    }


def shows(new: Shot, old: Shot) -> bool:
    """Whether a shot begins with the frame of the source that it began with before."""
    return new.source_start_frames == old.source_start_frames and new.length_frames > 3
