"""Fits as answers to briefs: found again, chosen, named, never changed."""

import csv
import io
from concurrent.futures import ThreadPoolExecutor
from threading import Event
from typing import Any

import mido
import numpy as np
import pytest
import soundfile as sf
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import func, select

from evenseam.core.plan.planner import Planner
from evenseam.services.context import Context
from evenseam.store.models import Brief, Cue, Fit
from tests.api.conftest import Ids, add_and_listen, add_file
from tests.api.test_pictures import production_of


@pytest.fixture
def fitted(client: TestClient, ids: Ids, loop_wav: Any) -> dict[str, Any]:
    """The answer for a cue of 32 seconds."""
    track = add_and_listen(client, ids, "loop.wav", loop_wav.read_bytes())
    client.patch(f"/api/cues/{ids.cue}", json={"track_id": track["id"], "length": "0:32"})
    return fit(client, ids)


def fit(client: TestClient, ids: Ids) -> dict[str, Any]:
    return dict(client.post(f"/api/cues/{ids.cue}/fit").json())


def cue_of(client: TestClient, ids: Ids) -> dict[str, Any]:
    return next(c for c in production_of(client, ids)["cues"] if c["id"] == ids.cue)


def counts(app: FastAPI, ids: Ids) -> tuple[int, int]:
    context: Context = app.state.context
    with context.database.transaction() as session:
        fits = session.scalar(select(func.count()).select_from(Fit).where(Fit.cue_id == ids.cue)) or 0
        return fits, session.scalar(select(func.count()).select_from(Brief)) or 0


def test_the_same_question_finds_the_same_fit_and_asking_writes_nothing(
    app: FastAPI, client: TestClient, ids: Ids, fitted: dict[str, Any]
) -> None:
    first = fitted["fit_id"]
    assert cue_of(client, ids)["fit_id"] == first
    client.patch(f"/api/cues/{ids.cue}", json={"length": "0:24"})
    before = counts(app, ids)
    missing = client.get(f"/api/cues/{ids.cue}/fit").json()
    assert (missing["is_missing"], missing["fit_id"]) == (True, None)
    assert counts(app, ids) == before
    second = fit(client, ids)["fit_id"]
    assert second != first
    assert fit(client, ids)["fit_id"] == second
    assert counts(app, ids) == (before[0] + 1, before[1] + 1)
    client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(f"/api/cues/{ids.cue}/fit").json()["fit_id"] == first
    assert cue_of(client, ids)["fit_id"] == first, "undo brings the choice back with the length"
    client.post(f"/api/productions/{ids.production}/redo")
    assert client.get(f"/api/cues/{ids.cue}/fit").json()["fit_id"] == second


def test_limits_are_part_of_what_is_asked(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    free = fitted["plan"]
    assert free["seams"]
    asked = client.patch(f"/api/cues/{ids.cue}", json={"asks": {"max_seams": 0, "method": "rearrange"}})
    assert asked.json()["asks"] == {"max_seams": 0, "method": "rearrange"}
    refused = fit(client, ids)
    assert refused["problem"]["code"] == "no_plan"
    assert fit(client, ids)["fit_id"] is None
    client.patch(f"/api/cues/{ids.cue}", json={"asks": {"give_pct": 5}})
    bound = fit(client, ids)
    assert bound["fit_id"] not in (None, fitted["fit_id"])
    tried = client.post(f"/api/cues/{ids.cue}/try", json={"slot_length_flicks": 32 * 705_600_000}).json()
    assert tried["plan"]["passages"] == bound["plan"]["passages"], "trials are bound by the same"
    for wrong in ({"give_pct": 90}, {"hold_bars": 0}, {"max_seams": -1}, {"method": "magic"}, {"more": 1}):
        assert client.patch(f"/api/cues/{ids.cue}", json={"asks": wrong}).status_code == 422
    client.patch(f"/api/cues/{ids.cue}", json={"asks": {}})
    assert fit(client, ids)["fit_id"] == fitted["fit_id"], "asked for as at first, answered as at first"


def test_an_earlier_fit_is_chosen_again_with_all_that_it_answered(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    client.patch(f"/api/cues/{ids.cue}", json={"length": "0:24", "asks": {"hold_bars": 2}})
    second = fit(client, ids)
    named = client.patch(f"/api/fits/{fitted['fit_id']}", json={"name": "For the director"}).json()
    assert (named["name"], named["origin"], named["is_chosen"]) == ("For the director", "planned", False)
    back = client.put(f"/api/cues/{ids.cue}/fit", json={"fit_id": fitted["fit_id"]}).json()
    assert back["plan"] == fitted["plan"]
    cue = cue_of(client, ids)
    assert (cue["slot_length_flicks"], cue["asks"], cue["fit_id"]) == (32 * 705_600_000, None, fitted["fit_id"])
    listed = client.get(f"/api/cues/{ids.cue}/fits").json()
    assert [(f["name"], f["is_chosen"]) for f in listed] == [("", False), ("For the director", True)]
    assert listed[1]["n_seams"] == len(fitted["plan"]["seams"])
    client.post(f"/api/productions/{ids.production}/undo")
    cue = cue_of(client, ids)
    assert (cue["slot_length_flicks"], cue["asks"], cue["fit_id"]) == (24 * 705_600_000, {"hold_bars": 2}, second["fit_id"])


def said(client: TestClient, ids: Ids, *seams: dict[str, Any]) -> list[dict[str, Any]]:
    answer = client.put(f"/api/cues/{ids.cue}/seams", json={"seams": list(seams)})
    assert answer.status_code == 200, answer.text
    return list(answer.json())


def name_of(seam: dict[str, Any]) -> dict[str, int]:
    return {name: seam[name] for name in ("leaves_samples", "enters_samples")}


def test_a_seam_is_judged_and_a_fit_named_and_undo_takes_either_back(
    client: TestClient, ids: Ids, fitted: dict[str, Any]
) -> None:
    undo, name = f"/api/productions/{ids.production}/undo", name_of(fitted["seams"][0])
    plain = {**name, "verdict": "", "words": "", "wish": "", "moved_to": None}
    assert fitted["seams"] == [plain]
    assert said(client, ids, {**name, "verdict": "failed", "words": "cuts a word"}) == [
        {**plain, "verdict": "failed", "words": "cuts a word"}
    ]
    assert said(client, ids, {**name, "verdict": "passed"})[0]["words"] == "cuts a word", "what is left out stays"
    assert client.post(undo).json()["history"]["undo"] == "judging a seam of 1m1"
    assert client.get(f"/api/cues/{ids.cue}/fit").json()["seams"][0]["verdict"] == "failed"
    assert said(client, ids, {**name, "verdict": None, "words": ""}) == []
    wrong = ({"verdict": "passed"}, {**name, "verdict": "fine"}, {**name, "wish": "moved"}, {**name, "moved_to": [1]})
    for body in wrong:
        assert client.put(f"/api/cues/{ids.cue}/seams", json={"seams": [body]}).status_code == 422
    client.patch(f"/api/fits/{fitted['fit_id']}", json={"name": "A"})
    assert client.post(undo).json()["history"]["redo"] == "naming a fit of 1m1"
    assert client.get(f"/api/cues/{ids.cue}/fits").json()[0]["name"] == ""


def test_what_is_said_of_a_seam_outlives_fits_tracks_and_corrections(
    client: TestClient, ids: Ids, fitted: dict[str, Any], loop_wav: Any
) -> None:
    name, cue = name_of(fitted["seams"][0]), f"/api/cues/{ids.cue}"
    said(client, ids, {**name, "verdict": "passed", "words": "clean"})
    # Another fit with the same seam shows it at once.
    client.patch(cue, json={"asks": {"silence_s": 0.5}})
    again = fit(client, ids)
    assert again["fit_id"] != fitted["fit_id"]
    assert [s["verdict"] for s in again["seams"]] == ["passed"]
    # Another track says nothing of it; with this one it is back.
    data, rate = sf.read(loop_wav)
    other = io.BytesIO()
    sf.write(other, data[: 36 * rate], rate, format="WAV")
    second = add_and_listen(client, ids, "other.wav", other.getvalue())
    client.patch(cue, json={"track_id": second["id"]})
    assert client.get(f"{cue}/seams").json() == []
    client.patch(cue, json={"track_id": fitted["track_id"]})
    assert [s["words"] for s in client.get(f"{cue}/seams").json()] == ["clean"]
    # Beats that are corrected take their seams along.
    client.post(f"/api/tracks/{fitted['track_id']}/corrections", json={"kind": "shift", "by_ms": 10})
    rate_hz = fitted["plan"]["rate"]
    moved = {key: at + rate_hz // 100 for key, at in name.items()}
    assert name_of(client.get(f"{cue}/seams").json()[0]) == pytest.approx(moved, abs=1)
    outdated = client.get(f"{cue}/fit").json()
    assert (outdated["is_outdated"], [s["verdict"] for s in outdated["seams"]]) == (True, ["passed"])


def test_seams_are_kept_left_out_or_moved_and_that_is_part_of_what_is_asked(
    client: TestClient, ids: Ids, fitted: dict[str, Any]
) -> None:
    first = name_of(fitted["seams"][0])
    said(client, ids, {**first, "wish": "forbidden"})
    assert client.get(f"/api/cues/{ids.cue}/fit").json()["is_missing"], "something else is asked for"
    without = fit(client, ids)
    assert first not in [name_of(s) for s in without["seams"]]
    wanted = name_of(without["seams"][0])
    said(client, ids, {**first, "wish": None}, {**wanted, "wish": "kept"})
    kept = fit(client, ids)
    assert (name_of(kept["seams"][0]), kept["seams"][0]["wish"]) == (wanted, "kept")
    # A seam that is moved is left out where it was, and kept where it went.
    said(client, ids, {**wanted, "wish": None}, {**first, "moved_to": list(wanted.values())})
    moved = client.get(f"/api/cues/{ids.cue}/seams").json()
    assert [(s["wish"], s["moved_to"]) for s in moved] == [("moved", list(wanted.values()))]
    assert [name_of(s) for s in fit(client, ids)["seams"]] == [wanted]
    # Going back to a fit goes back to what it was asked for.
    client.put(f"/api/cues/{ids.cue}/fit", json={"fit_id": fitted["fit_id"]})
    assert client.get(f"/api/cues/{ids.cue}/seams").json() == []
    client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(f"/api/cues/{ids.cue}/seams").json() == moved
    many = [{"leaves_samples": 100_000 + k * 40_000, "enters_samples": 1000 + k * 30_000, "wish": "kept"} for k in range(20)]
    assert len(said(client, ids, *many)) <= 21
    client.patch(f"/api/cues/{ids.cue}", json={"track_id": None})
    assert client.put(f"/api/cues/{ids.cue}/seams", json={"seams": many}).json()["code"] == "conflict"


def test_planning_keeps_nobody_waiting_and_the_cue_it_changes_is_held(
    app: FastAPI, client: TestClient, ids: Ids, fitted: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    """The cue asks for hits that are not those of the picture any more, so that fitting it changes it first."""
    picture = production_of(client, ids)["pictures"][0]["id"]
    hit = {"edit": "add_hit", "at_frames": 300, "label": "x", "kind": "beat", "weight": "nice", "tolerance_frames": 9}
    client.post(f"/api/pictures/{picture}/edits", json=hit)
    client.put(f"/api/cues/{ids.cue}/fit", json={"fit_id": fitted["fit_id"]})
    assert cue_of(client, ids)["asks"] == {"hits": []}
    begun, may_end, plan = Event(), Event(), Planner.plan

    def slowly(self: Planner, brief: Any) -> Any:
        begun.set()
        assert may_end.wait(timeout=60)
        return plan(self, brief)

    monkeypatch.setattr(Planner, "plan", slowly)
    with ThreadPoolExecutor(1) as pool:
        fitting = pool.submit(fit, client, ids)
        assert begun.wait(timeout=60)
        assert client.patch(f"/api/cues/{ids.cue}", json={"name": "Meanwhile"}).status_code == 200
        history = production_of(client, ids)["history"]
        may_end.set()
        assert fitting.result()["plan"] is not None
    assert history["undo"] == "naming the cue Meanwhile"
    assert client.post(f"/api/productions/{ids.production}/undo").json()["history"]["undo"] == "fitting 1m1 to its hits"


def test_undo_does_without_a_fit_that_went_with_its_track(client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    client.patch(f"/api/cues/{ids.cue}", json={"track_id": None})
    client.delete(f"/api/tracks/{fitted['track_id']}")
    assert client.post(f"/api/productions/{ids.production}/undo").status_code == 200
    cue = cue_of(client, ids)
    assert (cue["track_id"], cue["fit_id"]) == (None, None)


def test_a_fit_of_another_cue_is_not_chosen(app: FastAPI, client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    context: Context = app.state.context
    with context.database.transaction() as session:
        cue = session.get_one(Cue, ids.cue)
        other = Cue(production_id=ids.production, picture_id=cue.picture_id, number="1m9", name="Other", slot_length_flicks=9)
        session.add(other)
    refused = client.put(f"/api/cues/{other.id}/fit", json={"fit_id": fitted["fit_id"]})
    assert (refused.status_code, refused.json()["code"]) == (409, "conflict")
    assert client.put(f"/api/cues/{ids.cue}/fit", json={"fit_id": 10**8}).status_code == 404


def test_a_fit_that_cannot_be_read_is_made_anew(app: FastAPI, client: TestClient, ids: Ids, fitted: dict[str, Any]) -> None:
    context: Context = app.state.context
    with context.database.transaction() as session:
        session.get_one(Fit, fitted["fit_id"]).plan = {"version": 3}
    assert client.get(f"/api/cues/{ids.cue}/fit").json()["is_missing"]
    assert client.get(f"/api/cues/{ids.cue}/fits").json()[0]["length_s"] == 32
    again = fit(client, ids)
    assert again["plan"] == fitted["plan"]
    assert cue_of(client, ids)["fit_id"] == again["fit_id"]


def test_every_track_is_forecast_for_a_slot_as_it_is_then_fitted(client: TestClient, ids: Ids, loop_wav: Any) -> None:
    track = add_and_listen(client, ids, "loop.wav", loop_wav.read_bytes())
    assert client.patch(f"/api/cues/{ids.cue}", json={"track_id": track["id"], "length": "0:48"}).status_code == 200
    judged = client.get(f"/api/cues/{ids.cue}/forecasts").json()
    (outlook,) = judged["outlooks"]
    assert (judged["looked_at"], judged["n_tracks"], judged["next_after"]) == (1, 1, None)
    plan = client.post(f"/api/cues/{ids.cue}/fit").json()["plan"]
    assert (outlook["track_id"], outlook["seams"]) == (track["id"], len(plan["seams"]))
    assert 0 < outlook["suits"] <= 100
    assert outlook["words"].startswith(f"{len(plan['seams'])} ")
    ways = client.get(f"/api/cues/{ids.cue}/ways").json()
    assert next(w["method"] for w in ways if w["costs"]) == "blend"
    assert {w["method"] for w in ways if w["problem"]} == {"bend", "trim"}, "it is shorter than the slot"
    client.patch(f"/api/cues/{ids.cue}", json={"length": "3:00:00"})
    assert client.get(f"/api/cues/{ids.cue}/forecasts").json()["outlooks"][0]["words"] == "cannot be had"


def test_a_library_is_judged_page_by_page(client: TestClient, ids: Ids, loop_wav: Any) -> None:
    sound = loop_wav.read_bytes()
    ready = add_and_listen(client, ids, "loop.wav", sound)["id"]
    others = [add_file(client, ids, f"{k}.wav", sound + bytes([0, k]))["id"] for k in (1, 2)]
    after, seen = 0, []
    while after is not None:
        page = client.get(f"/api/cues/{ids.cue}/forecasts", params={"after": after, "most": 2}).json()
        seen.append((page["looked_at"], page["n_tracks"], [o["track_id"] for o in page["outlooks"] if o["track_id"] == ready]))
        after = page["next_after"]
    assert seen == [(2, 3, [ready]), (1, 3, [])]
    assert ready < min(others)
    assert client.get(f"/api/cues/{ids.cue}/forecasts", params={"most": 0}).status_code == 422


def test_the_beats_of_a_fit_come_out_as_a_map_a_table_and_a_click_that_agree(
    client: TestClient, ids: Ids, fitted: dict[str, Any]
) -> None:
    def file(form: str) -> bytes:
        answer = client.get(f"/api/fits/{fitted['fit_id']}/beats", params={"form": form})
        assert answer.status_code == 200
        assert answer.headers["content-disposition"].endswith(form)
        return answer.content

    sound, rate = sf.read(io.BytesIO(file(".wav")), dtype="float32")
    assert (sound.size, rate) == (fitted["plan"]["target_samples"], fitted["plan"]["rate"])
    loud = np.flatnonzero(sound > 0.3)
    clicks = loud[np.diff(loud, prepend=-rate) > rate // 10] / rate
    assert np.abs(np.diff(clicks) - 0.5).max() < 0.012, "a fit of a loop of 120 bpm keeps its beat, seams and give included"

    bars = list(csv.DictReader(io.StringIO(file(".csv").decode())))
    begins = np.array([float(bar["Seconds"]) for bar in bars])
    downbeats = clicks[sound[np.rint(clicks * rate).astype(int)] > 0.5]
    assert np.abs(begins - downbeats).max() < 2 / rate
    assert all(float(bar["Tempo"]) == pytest.approx(120, rel=0.02) for bar in bars[:-1])
    assert [bar["Bar"] for bar in bars] == [str(k + 1) for k in range(len(bars))]
    assert all(bar["Timecode"] for bar in bars)

    tempi, now_s = [], 0.0
    for message in mido.MidiFile(file=io.BytesIO(file(".mid"))):
        now_s += message.time
        if message.type == "set_tempo":
            tempi.append((now_s, mido.tempo2bpm(message.tempo)))
    assert all(min(abs(clicks - at)) < 1e-4 for at, _ in tempi if at > 0)
    assert client.get(f"/api/fits/{fitted['fit_id']}/beats", params={"form": ".exe"}).status_code == 422
    assert client.get("/api/fits/999999/beats", params={"form": ".mid"}).status_code == 404


def test_a_cue_follows_the_map_of_its_picture_or_one_from_midi_until_that_is_let_go(
    client: TestClient, ids: Ids, loop_wav: Any
) -> None:
    cue_path = f"/api/cues/{ids.cue}"
    refused = client.post(f"{cue_path}/follow").json()
    assert "no track yet" in refused["detail"]
    track = add_and_listen(client, ids, "loop.wav", loop_wav.read_bytes())
    cue = client.patch(cue_path, json={"track_id": track["id"], "length": "30"}).json()
    assert "no tempo map" in client.post(f"{cue_path}/follow").json()["detail"]
    address = f"/api/pictures/{cue['picture_id']}/tempo-map"
    bpm = client.get(f"/api/tracks/{track['id']}/chart").json()["tempo_bpm"]
    client.put(address, json={"bpm": 0.97 * bpm, "meter": 4, "starts_s": 1.5})
    followed = client.post(f"{cue_path}/follow").json()
    assert followed["asks"]["method"] == "bend"
    fitted = client.post(f"{cue_path}/fit").json()
    laid = client.get(address).json()
    bars = [at for at, beat in zip(laid["at_s"], laid["beat_in_bar"], strict=True) if beat == 0 and at < 30]

    def heard_bars() -> tuple[bytes, list[float]]:
        fit_id = client.post(f"{cue_path}/fit").json()["fit_id"]
        midi, table = (client.get(f"/api/fits/{fit_id}/beats", params={"form": form}) for form in (".mid", ".csv"))
        return midi.content, [float(row["Seconds"]) for row in csv.DictReader(io.StringIO(table.text))]

    midi, heard = heard_bars()
    assert len(heard) > 8
    assert all(min(abs(at - bar) for bar in bars) < 0.001 for at in heard), "each bar of the track is on one of the map"

    kept = client.patch(cue_path, json={"asks": {**followed["asks"], "held_bars": []}}).json()
    assert "held_bars" not in (kept["asks"] or {})
    again = client.post(f"{cue_path}/tempo-map", params={"file_name": "cue.mid"}, content=midi).json()
    assert len(again["asks"]["held_bars"]) >= len(heard) - 1
    assert heard_bars()[1][1:] == pytest.approx(heard[1:], abs=0.001)
    assert fitted["plan"]["method"] == "bend"
    client.put(address, json={"bpm": 0.7 * bpm, "meter": 4, "starts_s": 1.5})
    client.post(f"{cue_path}/follow")
    problem = client.post(f"{cue_path}/fit").json()["problem"]
    assert "slower than it is" in problem["detail"]
    client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(f"/api/productions/{ids.production}").json()["cues"][0]["asks"] == again["asks"]
    bad = client.post(f"{cue_path}/tempo-map", params={"file_name": "bad.mid"}, content=b"MThd").json()
    assert bad["code"] == "spot_invalid"
