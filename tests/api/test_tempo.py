"""The steady tempo of a picture over HTTP: the table, and what comes out is read back."""

import csv
import io
from typing import Any

import mido
import numpy as np
import pytest
import soundfile as sf
from fastapi.testclient import TestClient

from tests.api.conftest import Ids
from tests.api.test_pictures import edit, production_of

FPS, FIRST_FRAMES, BAR_FRAMES = 25, 25, 60  # bars of 2.4 s: 100 bpm in four


@pytest.fixture
def picture(client: TestClient, ids: Ids) -> int:
    picture = int(production_of(client, ids)["pictures"][0]["id"])
    for bar, label in ((0, "door"), (3, "turn"), (7, "title")):
        edit(client, picture, edit="add_hit", at_frames=FIRST_FRAMES + bar * BAR_FRAMES, label=label, weight="must")
    return picture


def tempi(client: TestClient, picture: int, **asked: Any) -> Any:
    return client.get(f"/api/pictures/{picture}/tempi", params=asked).json()


def test_the_tempi_of_the_hits_are_told_hit_by_hit_in_frames(client: TestClient, ids: Ids, picture: int) -> None:
    labels = {h["id"]: h["label"] for h in client.get(f"/api/pictures/{picture}/sheet").json()["hits"]}
    found = tempi(client, picture, low_bpm=90, high_bpm=110)
    best = found[0]
    assert best["bpm"] == pytest.approx(100, abs=0.3)
    assert [labels[h["hit_id"]] for h in best["hits"]] == ["door", "turn", "title"]
    assert all(h["is_met"] and h["beat"] == 1 and abs(h["off_frames"]) <= 0.5 for h in best["hits"])
    assert [b["bar"] - a["bar"] for a, b in zip(best["hits"], best["hits"][1:], strict=False)] == [3, 4]
    fixed = tempi(client, picture, low_bpm=90, high_bpm=110, starts_frames=FIRST_FRAMES)[0]
    assert (fixed["starts_s"], fixed["hits"][0]["bar"]) == (1.0, 1)
    any_metre = tempi(client, picture, low_bpm=90, high_bpm=110, meter=0)
    assert {one["meter"] for one in any_metre} <= {3, 4, 5, 7}
    assert all(h["is_met"] for h in any_metre[0]["hits"])
    wide = tempi(client, picture, low_bpm=45, high_bpm=220)
    assert any(bpm == pytest.approx(200, abs=0.6) for one in wide for bpm in [one["bpm"], *one["also_bpm"]])


def test_a_tempo_comes_out_as_a_map_a_table_and_a_click_that_agree(client: TestClient, picture: int) -> None:
    def file(form: str) -> bytes:
        answer = client.get(f"/api/pictures/{picture}/tempo", params={"form": form, "bpm": 100, "starts_s": 1.0})
        assert answer.status_code == 200
        assert f"100%20bpm{form}" in answer.headers["content-disposition"]
        return answer.content

    names, now_s = {}, 0.0
    for message in mido.MidiFile(file=io.BytesIO(file(".mid")), charset="utf-8"):
        now_s += message.time
        if message.type == "marker":
            names[message.text] = now_s
    assert names == pytest.approx({"door": 1.0, "turn": 1.0 + 3 * 2.4, "title": 1.0 + 7 * 2.4}, abs=1e-4)

    bars = list(csv.DictReader(io.StringIO(file(".csv").decode())))
    assert [(b["Bar"], b["Timecode"]) for b in bars[:2]] == [("1", "00:00:01:00"), ("2", "00:00:03:10")]
    assert all(float(b["Frames"]) == FIRST_FRAMES + k * BAR_FRAMES for k, b in enumerate(bars))
    assert float(bars[-1]["Seconds"]) < 72 <= float(bars[-1]["Seconds"]) + 2.4

    sound, rate = sf.read(io.BytesIO(file(".wav")))
    assert sound.size == 72 * rate
    loud = np.abs(sound) > 0.1
    starts = np.flatnonzero(loud & ~np.roll(np.convolve(loud, np.ones(4800))[: sound.size] > 0, 1))
    assert np.abs(starts - (rate + np.arange(starts.size) * rate * 0.6)).max() <= 2
    assert np.abs(sound[starts[0] : starts[0] + 200]).max() > 1.3 * np.abs(sound[starts[1] : starts[1] + 200]).max(), (
        "bars are told"
    )


def test_what_no_tempo_can_be_found_for_says_what_to_do(client: TestClient, ids: Ids, picture: int) -> None:
    assert "lower one first" in tempi(client, picture, low_bpm=120, high_bpm=90)["detail"]
    assert tempi(client, picture, low_bpm=5)["code"] == "request_invalid"
    marked = client.get(f"/api/pictures/{picture}/sheet").json()["hits"]
    edit(client, picture, edit="remove_hits", ids=[h["id"] for h in marked])
    assert "by 1 to 64 hits" in tempi(client, picture)["detail"]
    assert client.get("/api/pictures/999/tempi").status_code == 404


def test_a_tempo_is_laid_on_a_picture_taken_along_and_read_back_as_it_was(client: TestClient, ids: Ids, picture: int) -> None:
    address = f"/api/pictures/{picture}/tempo-map"
    assert client.get(address).json() is None
    assert client.get(f"{address}/file", params={"form": ".mid"}).status_code == 404
    laid = client.put(address, json={"bpm": 100, "meter": 4, "starts_s": 1.0}).json()
    assert laid["at_s"][:5] == pytest.approx([1.0, 1.6, 2.2, 2.8, 3.4], abs=1e-5)
    assert laid["beat_in_bar"][:5] == [0, 1, 2, 3, 0]
    assert [(h["bar"], h["beat"], h["is_met"]) for h in laid["hits"]] == [(1, 1, True), (4, 1, True), (8, 1, True)]

    files = {form: client.get(f"{address}/file", params={"form": form}).content for form in (".mid", ".csv", ".wav")}
    bars = list(csv.DictReader(io.StringIO(files[".csv"].decode())))
    sound, rate = sf.read(io.BytesIO(files[".wav"]))
    for bar in bars:
        at = round(float(bar["Seconds"]) * rate)
        assert np.abs(sound[at : at + 100]).max() > 0.5
    assert (bars[1]["Timecode"], bars[1]["Tempo"]) == ("00:00:03:10", "100.000")

    client.delete(address)
    assert client.get(address).json() is None
    read = client.post(address, params={"file_name": "cue.mid"}, content=files[".mid"]).json()
    assert read == laid, "bar one is where it was"
    client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(address).json() is None
    client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(address).json() == laid


def test_a_file_without_a_tempo_map_is_refused_and_the_map_stays(client: TestClient, picture: int) -> None:
    address = f"/api/pictures/{picture}/tempo-map"
    laid = client.put(address, json={"bpm": 90, "meter": 3}).json()
    for data in (b"", b"MThd nothing", b"\x00" * 2000):
        refused = client.post(address, params={"file_name": "bad.mid"}, content=data)
        assert (refused.status_code, refused.json()["code"]) == (422, "spot_invalid")
    assert client.put(address, json={"bpm": 5}).json()["code"] == "request_invalid"
    assert client.put(address, json={"bpm": 90, "starts_s": 80_000}).json()["code"] == "spot_invalid"
    assert client.get(address).json() == laid


def test_a_tempo_map_is_changed_step_by_step_tried_first_and_undone(client: TestClient, ids: Ids, picture: int) -> None:
    address = f"/api/pictures/{picture}/tempo-map"

    def change(where: str = "edits", **edit: Any) -> Any:
        return client.post(f"{address}/{where}", json=edit).json()

    assert "no tempo map" in change(edit="tempo", bar=1, bpm=90)["detail"]
    laid = client.put(address, json={"bpm": 96, "meter": 4, "starts_s": 1.0}).json()
    assert [h["is_met"] for h in laid["hits"]] == [True, False, False]
    turn = laid["hits"][1]
    assert [c["bar"] for c in turn["choices"]] == [turn["bar"] - 1, turn["bar"], turn["bar"] + 1]
    wanted = {"edit": "hold", "bar": 4, "at_frames": FIRST_FRAMES + 3 * BAR_FRAMES}
    tried = change("try", **wanted)
    assert client.get(address).json() == laid, "nothing is kept of what is tried"
    held = change(**wanted)
    assert held == tried
    assert held["held"] == [{"beat": 12, "hit_id": turn["hit_id"]}]
    assert held["bpm"][0] == pytest.approx(turn["choices"][1]["before_bpm"], abs=1e-3) == pytest.approx(100, abs=1e-3)
    bent = change(edit="bend", most_pct=5, smooth=True)
    assert all(h["is_met"] for h in bent["hits"])
    assert {h["hit_id"] for h in bent["held"]} == {h["hit_id"] for h in bent["hits"][1:]}
    shorter = change(edit="metre", bar=2, numerator=2, denominator=4, bars=1)
    assert shorter["metres"] == [{"bar": bar, "numerator": n, "denominator": 4} for bar, n in ((1, 4), (2, 2), (3, 4))]
    assert [h["is_met"] for h in shorter["hits"]] == [True, True, True], "what is held stays on its hit"
    for wrong, words in (
        ({"edit": "bend", "most_pct": 99}, "most_pct"),
        ({"edit": "metre", "bar": 999, "numerator": 4, "denominator": 4}, "no bar 999"),
        ({"edit": "hold", "bar": 5, "at_frames": 99_999}, "after its end"),
        ({"edit": "hold", "bar": 6, "at_frames": FIRST_FRAMES + 3 * BAR_FRAMES - 1}, "backwards"),
        ({"edit": "let_go", "bar": 6}, "not held"),
    ):
        assert words in client.post(f"{address}/edits", json=wrong).text
    assert len(change(edit="let_go", bar=4)["held"]) == len(shorter["held"]) - 1
    for left in (shorter, bent, held, laid):
        client.post(f"/api/productions/{ids.production}/undo")
        assert client.get(address).json() == left

    counted = client.get(f"{address}/file", params={"form": ".wav", "count_in": 2, "parts": 2, "accent": False})
    sound, rate = sf.read(io.BytesIO(counted.content))
    assert "from%204%20s%20before" in counted.headers["content-disposition"]
    assert sound.size == (72 + 4) * rate
    loud = np.abs(sound) > 0.1
    starts = np.flatnonzero(loud & ~np.roll(np.convolve(loud, np.ones(4800))[: sound.size] > 0, 1)) / rate
    assert starts[:40] == pytest.approx(5.0 - 8 * 0.625 + np.arange(1, 41) * 0.3125, abs=1e-4)
