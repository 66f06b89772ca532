"""Cues: lengths, tracks, fits, undo; hearing and saving what was fitted."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import scipy.signal
import soundfile as sf
import soxr
from fastapi.testclient import TestClient

from evenseam.api.sound import DRAFT_HEADER
from evenseam.core.timebase import FLICKS_PER_S
from tests.api.conftest import Ids, add_and_listen, wait_for

RATE = 22_050


@pytest.fixture
def fitted(client: TestClient, ids: Ids, loop_wav: Path) -> dict[str, Any]:
    """A cue with a track and a length of 48 seconds, and its fit."""
    track = add_and_listen(client, ids, "loop.wav", loop_wav.read_bytes())
    assert client.patch(f"/api/cues/{ids.cue}", json={"track_id": track["id"], "length": "0:48"}).status_code == 200
    return dict(client.post(f"/api/cues/{ids.cue}/fit").json())


@pytest.mark.parametrize(
    ("text", "seconds"),
    [("1:12", 72), ("72", 72), ("72.5s", 72.5), ("112", 72), ("10230", 3750), ("190", 190), ("00:01:12:00", 72), ("1800f", 72)],
)
def test_lengths_are_kept_exactly_as_typed(client: TestClient, ids: Ids, text: str, seconds: float) -> None:
    cue = client.patch(f"/api/cues/{ids.cue}", json={"length": text}).json()
    assert cue["slot_length_flicks"] == seconds * FLICKS_PER_S


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"length": "soon"}, "time_unreadable"),
        ({"length": "0"}, "brief_invalid"),
        ({"length": "4:00:00"}, "brief_invalid"),
        ({"slot_length_flicks": -5}, "request_invalid"),
        ({"colour": "red"}, "request_invalid"),
        ({"track_id": 999_999}, "not_found"),
    ],
)
def test_refused_changes_change_nothing(client: TestClient, ids: Ids, change: dict[str, Any], code: str) -> None:
    before = client.get(f"/api/productions/{ids.production}").json()
    refused = client.patch(f"/api/cues/{ids.cue}", json=change)
    assert refused.json()["code"] == code
    assert client.get(f"/api/productions/{ids.production}").json() == before


def test_a_fit_is_made_once_and_found_again(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    plan = fitted["plan"]
    assert plan["target_samples"] == 48 * RATE
    assert (plan["rests"] or plan["passages"][-1]["pins"])[-1].get("out_out_samples", 48 * RATE) == 48 * RATE
    assert plan["seams"]
    assert client.post(f"/api/cues/{ids.cue}/fit").json() == fitted
    assert client.get(f"/api/cues/{ids.cue}/fit").json() == fitted
    client.patch(f"/api/cues/{ids.cue}", json={"length": "30"})
    for _ in range(2):
        missing = client.get(f"/api/cues/{ids.cue}/fit").json()
        assert (missing["is_missing"], missing["plan"], missing["fit_id"]) == (True, None, None), "asking plans nothing"
    assert client.post(f"/api/cues/{ids.cue}/fit").json()["fit_id"] != fitted["fit_id"]
    client.patch(f"/api/cues/{ids.cue}", json={"length": "48"})
    assert client.post(f"/api/cues/{ids.cue}/fit").json()["fit_id"] == fitted["fit_id"]


def test_a_cue_is_fitted_to_the_hits_in_its_slot_and_anew_when_they_move(
    client: TestClient, ids: Ids, fitted: dict[str, Any]
) -> None:
    picture = client.get(f"/api/productions/{ids.production}").json()["pictures"][0]["id"]
    hits = [{"at_frames": 253, "weight": "must"}, {"at_frames": 775, "kind": "beat", "weight": "nice"}]
    for hit in hits:
        assert client.post(f"/api/pictures/{picture}/edits", json={"edit": "add_hit", **hit}).status_code == 200
    assert client.get(f"/api/cues/{ids.cue}/fit").json()["is_missing"]
    aimed = client.post(f"/api/cues/{ids.cue}/fit").json()
    first = aimed["plan"]["hits"][0]
    assert (first["asked_samples"], first["weight"]) == (round(10.12 * RATE), "must")
    assert abs(first["landed_samples"] - first["asked_samples"]) <= RATE / 50
    assert len(aimed["plan"]["hits"]) == 2
    # Going back to the fit of before asks for its hits, which are none, until the cue is fitted again.
    back = client.put(f"/api/cues/{ids.cue}/fit", json={"fit_id": fitted["fit_id"]}).json()
    assert (back["fit_id"], back["is_outdated"]) == (fitted["fit_id"], True)
    assert client.post(f"/api/cues/{ids.cue}/fit").json()["fit_id"] == aimed["fit_id"]


def test_trying_a_length_keeps_nothing(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    tried = client.post(f"/api/cues/{ids.cue}/try", json={"slot_length_flicks": 33 * FLICKS_PER_S}).json()
    assert tried["fit_id"] is None
    assert tried["plan"]["target_samples"] == 33 * RATE
    assert client.post(f"/api/cues/{ids.cue}/fit").json() == fitted


def test_a_length_that_cannot_be_met_is_answered_with_what_can(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    client.patch(f"/api/cues/{ids.cue}", json={"length": "2"})
    answer = client.post(f"/api/cues/{ids.cue}/fit").json()
    assert answer["plan"] is None
    assert answer["problem"]["code"] == "no_plan"
    possible_s = answer["problem"]["params"]["possible_s"][0]
    client.patch(f"/api/cues/{ids.cue}", json={"slot_length_flicks": int(possible_s * FLICKS_PER_S) + 1})
    assert client.post(f"/api/cues/{ids.cue}/fit").json()["plan"] is not None


def test_undo_and_redo_go_through_every_step(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    def length_s() -> float:
        return float(client.get(f"/api/productions/{ids.production}").json()["cues"][0]["slot_length_flicks"] / FLICKS_PER_S)

    for text in ("30", "20", "25"):
        client.patch(f"/api/cues/{ids.cue}", json={"length": text})
    seen = []
    for _ in range(3):
        history = client.post(f"/api/productions/{ids.production}/undo").json()["history"]
        seen.append(length_s())
    assert seen == [20, 30, 48]
    assert history["redo"] == "setting the length to 0:30.000"
    client.post(f"/api/productions/{ids.production}/redo")
    assert length_s() == 30
    client.patch(f"/api/cues/{ids.cue}", json={"length": "26"})
    assert client.post(f"/api/productions/{ids.production}/redo").json()["code"] == "nothing_to_undo"
    for _ in range(3):
        client.post(f"/api/productions/{ids.production}/undo")
    assert length_s() == 72
    assert client.get(f"/api/productions/{ids.production}").json()["cues"][0]["track_id"] is None


@pytest.mark.parametrize(("sample_format", "subtype"), [("int16", "PCM_16"), ("int24", "PCM_24"), ("float32", "FLOAT")])
def test_what_is_heard_is_what_is_saved(
    client: TestClient, fitted: dict[str, Any], tmp_path: Path, sample_format: str, subtype: str
) -> None:
    job = client.post(f"/api/fits/{fitted['fit_id']}/renders", json={"sample_format": sample_format}).json()
    done = wait_for(lambda: client.get(f"/api/jobs/{job['id']}").json(), lambda j: j["state"] in ("done", "failed"))
    assert done["state"] == "done", done
    answer = client.get(f"/api/jobs/{job['id']}/file")
    assert "1m1 Cue 0-48 loop.wav" in answer.headers["content-disposition"].replace("%20", " ")
    (tmp_path / "saved.wav").write_bytes(answer.content)
    info = sf.info(tmp_path / "saved.wav")
    assert (info.frames, info.samplerate, info.subtype) == (48 * RATE, RATE, subtype)
    start, stop = 20 * RATE, 24 * RATE
    heard = wait_for(
        lambda: client.get(f"/api/fits/{fitted['fit_id']}/sound", params={"start": start, "stop": stop}),
        lambda answer: DRAFT_HEADER not in answer.headers,
    )
    sound = np.frombuffer(heard.content, "<f4").reshape(2, -1)
    saved = sf.read(tmp_path / "saved.wav", start=start, stop=stop, dtype="float32")[0].T
    np.testing.assert_allclose(sound, saved, rtol=0, atol=1e-4)


def test_sound_outside_the_fit_is_refused(client: TestClient, fitted: dict[str, Any]) -> None:
    for start, stop in ((60 * RATE, 70 * RATE), (0, 40 * RATE), (5, 5)):
        refused = client.get(f"/api/fits/{fitted['fit_id']}/sound", params={"start": start, "stop": stop})
        assert refused.json()["code"] == "stretch_refused"


def test_sound_comes_at_the_rate_that_is_asked_for(client: TestClient, fitted: dict[str, Any]) -> None:
    at = f"/api/fits/{fitted['fit_id']}/sound"
    own, other = (
        np.frombuffer(
            wait_for(
                lambda rate=rate: client.get(at, params={"start": 3 * rate, "stop": 5 * rate, "rate": rate}),
                lambda answer: DRAFT_HEADER not in answer.headers,
            ).content,
            "<f4",
        ).reshape(2, -1)
        for rate in (RATE, 48_000)
    )
    assert other.shape == (2, 96_000)
    back = soxr.resample(other.T, 48_000, RATE, quality="VHQ").T
    below = scipy.signal.firwin(101, 0.7)  # the noise of the drums reaches past the resamplers' own edges
    both = [scipy.signal.lfilter(below, 1, x, axis=1)[:, 500 : back.shape[1] - 500] for x in (back, own)]
    np.testing.assert_allclose(*both, rtol=0, atol=2e-3)
    assert client.get(at, params={"start": 0, "stop": 5, "rate": 7}).status_code == 422


def test_a_cue_whose_track_is_deleted_is_without_one(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    assert client.delete(f"/api/tracks/{fitted['track_id']}").status_code == 204
    assert client.post(f"/api/cues/{ids.cue}/fit").json() == {
        "fit_id": None, "track_id": None, "plan": None, "problem": None, "is_outdated": False, "is_missing": False,
        "choices": [], "seams": [],
    }  # fmt: skip
    undone = client.post(f"/api/productions/{ids.production}/undo").json()
    redone = client.post(f"/api/productions/{ids.production}/redo").json()
    assert undone["cues"][0]["track_id"] is None
    assert redone["cues"][0]["track_id"] is None


def test_what_is_asked_of_a_cue_is_what_its_fit_does_and_can_be_undone(
    client: TestClient, ids: Ids, fitted: dict[str, Any]
) -> None:
    address = f"/api/cues/{ids.cue}"
    asks = {
        "landing": "fade",
        "fade_s": 3,
        "shape": [{"start_flicks": 0, "end_flicks": 20 * FLICKS_PER_S, "start_level": 0, "end_level": 1}],
        "listening": {"harmony": 2.5},
    }
    assert client.patch(address, json={"asks": asks}).json()["asks"] == asks
    plan = client.post(f"{address}/fit").json()["plan"]
    assert plan["landing"]["kind"] == "fade"
    client.patch(address, json={"asks": {"order": "forward"}})
    refused = client.post(f"{address}/fit").json()
    assert refused["problem"]["code"] == "no_plan", "48 s of half a minute cannot be had only forward"
    client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(f"{address}/fit").json()["plan"] == plan


@pytest.mark.parametrize(
    "asks",
    [
        {"landing": "sideways"},
        {"fade_s": 0},
        {"order": "backward"},
        {"kept_seams": [[1, 2]]},
        {"give_pct": "2"},
        {"hold_bars": 2.5},
        {"max_seams": True},
        {"hits": []},
        {"pinned_bars": [{"hit_id": 1, "source_samples": 2**63}]},
        {"shape": [{"start_flicks": 0, "end_flicks": 10, "start_level": 0, "end_level": 2}]},
        {"listening": {"harmony": 9}},
        {"listening": {"smell": 1}},
    ],
)
def test_what_cannot_be_asked_is_refused(client: TestClient, ids: Ids, asks: dict[str, Any]) -> None:
    assert client.patch(f"/api/cues/{ids.cue}", json={"asks": asks}).json()["code"] == "request_invalid"


PIN = {"hit_id": 1, "source_samples": 5}


def test_a_bar_is_tried_on_a_hit_then_pinned_to_it_kept_off_it_and_let_go(
    client: TestClient, ids: Ids, fitted: dict[str, Any]
) -> None:
    address = f"/api/cues/{ids.cue}"
    picture = client.get(f"/api/productions/{ids.production}").json()["pictures"][0]["id"]
    client.post(f"/api/pictures/{picture}/edits", json={"edit": "add_hit", "at_frames": 303, "weight": "nice"})
    hit_id = client.get(f"/api/pictures/{picture}/sheet").json()["hits"][0]["id"]
    free = client.post(f"{address}/fit").json()
    places = {c["source_samples"] for c in free["choices"][0]["choices"]}
    now = free["plan"]["hits"][0]["source_samples"]
    other = next(iter(places - {now}))
    pinned = {"give_pct": 12, "pinned_bars": [{"hit_id": hit_id, "source_samples": other}]}
    tried = client.post(f"{address}/try", json={"asks": pinned}).json()
    assert tried["fit_id"] is None
    assert (tried["plan"]["hits"][0]["source_samples"], tried["plan"]["hits"][0]["weight"]) == (other, "must")
    assert client.post(f"{address}/fit").json() == free, "trying keeps nothing"
    assert client.patch(address, json={"asks": pinned}).json()["asks"] == pinned
    kept = client.post(f"{address}/fit").json()
    assert kept["plan"] == tried["plan"]
    assert kept["choices"] == tried["choices"]
    client.put(f"{address}/fit", json={"fit_id": free["fit_id"]})
    assert client.put(f"{address}/fit", json={"fit_id": kept["fit_id"]}).json()["is_outdated"] is False
    cue = client.get(f"/api/productions/{ids.production}").json()["cues"][0]
    assert cue["asks"] == pinned, "with what it was asked for"
    client.patch(address, json={"asks": {"forbidden_bars": [{"hit_id": hit_id, "source_samples": now}]}})
    assert client.post(f"{address}/fit").json()["plan"]["hits"][0]["source_samples"] != now


def test_bars_of_one_track_are_not_asked_of_another(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    asks = {
        "order": "forward",
        "pinned_bars": [PIN],
        "forbidden_bars": [PIN],
    }
    client.patch(f"/api/cues/{ids.cue}", json={"asks": asks})
    assert client.patch(f"/api/cues/{ids.cue}", json={"track_id": None}).json()["asks"] == {"order": "forward"}


def test_a_must_that_is_missed_is_answered_with_what_would_do(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    address = f"/api/cues/{ids.cue}"
    assert client.get(f"{address}/changes").json() == []
    picture = client.get(f"/api/productions/{ids.production}").json()["pictures"][0]["id"]
    for at in (253, 295):
        hit = {"edit": "add_hit", "at_frames": at, "weight": "must"}
        assert client.post(f"/api/pictures/{picture}/edits", json=hit).status_code == 200
    client.patch(address, json={"asks": {"give_pct": 0.2, "max_seams": len(fitted["plan"]["seams"])}})
    hits = client.post(f"{address}/fit").json()["plan"]["hits"]
    assert not all(abs(h["landed_samples"] - h["asked_samples"]) <= h["tolerance_samples"] for h in hits)
    changes = client.get(f"{address}/changes").json()
    kinds = [change["kind"] for change in changes]
    assert kinds, "one thing let go of is enough here"
    assert set(kinds) <= {"give_pct", "max_seams", "tolerance_frames"}, "nothing else was asked for"
    change = changes[-1]
    assert change["kind"] == "tolerance_frames"
    sheet = client.get(f"/api/pictures/{picture}/sheet").json()
    for hit in sheet["hits"]:
        wider = {"edit": "change_hit", "id": hit["id"], "tolerance_frames": int(change["value"])}
        assert client.post(f"/api/pictures/{picture}/edits", json=wider).status_code == 200
    client.post(f"{address}/fit")
    assert client.get(f"{address}/changes").json() == []
