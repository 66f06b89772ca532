"""Charts put right over HTTP: undo, fits of the old chart, hearing again, clicks."""

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
from fastapi.testclient import TestClient

from evenseam.core.audio.encode import write_wav
from tests.api.conftest import Ids, add_and_listen, wait_for
from tests.synth import play

FLICKS = 705_600_000


def add_known(client: TestClient, ids: Ids, tmp_path: Path, bpm: float) -> dict[str, Any]:
    audio = play(bars=20, bpm=bpm).audio
    write_wav(tmp_path / "known.wav", audio.samples, audio.rate, "int16")
    track = add_and_listen(client, ids, "Known.wav", (tmp_path / "known.wav").read_bytes())
    assert client.patch(f"/api/cues/{ids.cue}", json={"track_id": track["id"]}).status_code == 200
    return track


def correct(client: TestClient, track: dict[str, Any], **step: Any) -> dict[str, Any]:
    answer = client.post(f"/api/tracks/{track['id']}/corrections", json=step)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_chart_is_put_right_undone_redone_and_outlives_hearing_again(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    track = add_known(client, ids, tmp_path, 111.0)
    url, production = f"/api/tracks/{track['id']}", f"/api/productions/{ids.production}"
    heard = client.get(f"{url}/chart").json()
    assert heard["corrected"] == []
    half = correct(client, track, kind="halve")
    assert abs(half["tempo_bpm"] - heard["tempo_bpm"] / 2) < 0.5
    one = half["beats"][1]
    shifted = correct(client, track, kind="beat_one", at_samples=one)
    assert one in shifted["pins"]
    assert shifted["corrected"] == ["beats"]
    listed = client.get(url).json()
    assert listed["tempo_bpm"] == half["tempo_bpm"]
    assert listed["chart_id"] != track["chart_id"]
    assert client.get(production).json()["history"]["undo"] == "setting beat one in Known"

    assert client.post(f"{production}/undo").status_code == 200
    assert client.get(f"{url}/chart").json()["beat_in_bar"] == half["beat_in_bar"]
    assert client.post(f"{production}/undo").status_code == 200
    assert client.get(f"{url}/chart").json() == heard
    assert client.get(url).json()["chart_id"] == track["chart_id"]
    for _ in range(2):
        client.post(f"{production}/redo")
    assert client.get(f"{url}/chart").json() == shifted

    assert client.post(f"{url}/listen").status_code == 202
    again = wait_for(lambda: client.get(url).json(), lambda t: t["chart_id"].split(".")[-1] == "2" and t["job"] is None)
    assert again["state"] == "ready"
    assert client.get(f"{url}/chart").json() == shifted
    assert client.delete(f"{url}/corrections").json() == heard
    assert client.delete(url).status_code == 204
    history = client.get(production).json()["history"]
    assert history["undo"].startswith("choosing")  # the steps of a track go with it; those of the cue stay


def test_every_step_does_what_it_says_and_bad_ones_change_nothing(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    track = add_known(client, ids, tmp_path, 107.0)
    heard = client.get(f"/api/tracks/{track['id']}/chart").json()
    bars = [b for b, p in zip(heard["beats"], heard["beat_in_bar"], strict=True) if p == 0]
    rate = heard["rate"]
    assert correct(client, track, kind="meter", meter="3/4")["beats_per_bar"] == 3
    assert abs(correct(client, track, kind="tempo", bpm=121)["tempo_bpm"] - 121) < 0.01
    client.delete(f"/api/tracks/{track['id']}/corrections")
    assert correct(client, track, kind="shift", by_ms=-20)["beats"][5] == heard["beats"][5] - round(rate / 50)
    client.delete(f"/api/tracks/{track['id']}/corrections")
    moved = correct(client, track, kind="move_bar", from_samples=bars[4], to_samples=bars[4] + 900)
    assert bars[4] + 900 in moved["pins"]
    assert correct(client, track, kind="free_bar", at_samples=bars[4] + 900)["pins"] == []
    assert len(correct(client, track, kind="double")["beats"]) > 1.9 * len(heard["beats"]) - 2
    taps = [round(bars[2] + k * 60 / 107 * rate) for k in range(8)]
    assert abs(correct(client, track, kind="tap", taps_samples=taps)["tempo_bpm"] - 107) < 1
    assert correct(client, track, kind="point", point="opening", at_samples=bars[1])["opening_samples"] == bars[1]
    assert "opening" not in correct(client, track, kind="point", point="opening", at_samples=None)["corrected"]
    trimmed = correct(client, track, kind="accept_trim")
    assert {"trim_start", "trim_end"} <= set(trimmed["corrected"])
    split = correct(client, track, kind="split_section", at_samples=bars[2] + 40)
    assert split["sections"][1]["start_samples"] - bars[2] < rate // 4
    named = correct(client, track, kind="rename_section", index=1, label="Lift")
    assert named["sections"][1]["label"] == "Lift"
    joined = correct(client, track, kind="merge_section", index=0)
    assert len(joined["sections"]) == len(named["sections"]) - 1
    span = {"mark": "guard", "start_samples": bars[3], "end_samples": bars[5]}
    assert len(correct(client, track, kind="add_mark", **span)["marks"]) == 1
    assert correct(client, track, kind="remove_mark", **span)["marks"] == []

    before = client.get(f"/api/tracks/{track['id']}/chart").json()
    for step, code in (
        ({"kind": "merge_section", "index": 99}, "correction_refused"),
        ({"kind": "tap", "taps_samples": [1, 2]}, "correction_refused"),
        ({"kind": "tempo", "bpm": 5}, "correction_refused"),
        ({"kind": "point", "point": "last_hit", "at_samples": 0}, "correction_refused"),
        ({"kind": "meter", "meter": "11/8"}, "request_invalid"),
        ({"kind": "dance"}, "request_invalid"),
    ):
        answer = client.post(f"/api/tracks/{track['id']}/corrections", json=step)
        assert answer.status_code == 422
        assert answer.json()["code"] == code, answer.text
        assert answer.json()["detail"]
    assert client.get(f"/api/tracks/{track['id']}/chart").json() == before


def test_fits_of_the_old_chart_say_so_and_are_fitted_again_on_request(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    track = add_known(client, ids, tmp_path, 103.0)
    client.patch(f"/api/cues/{ids.cue}", json={"slot_length_flicks": 30 * FLICKS})
    url = f"/api/cues/{ids.cue}/fit"
    old = client.post(url).json()
    assert old["plan"]
    assert not old["is_outdated"]
    bar = client.get(f"/api/tracks/{track['id']}/chart").json()["beats"][8]
    correct(client, track, kind="add_mark", mark="skip", start_samples=bar, end_samples=bar + 100_000)
    still = client.get(url).json()
    assert still == {**old, "is_outdated": True}
    new = client.post(url).json()
    assert not new["is_outdated"]
    assert new["fit_id"] != old["fit_id"]
    assert client.get(url).json() == new
    client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(url).json() == old
    sound = client.get(f"/api/fits/{new['fit_id']}/sound?start=0&stop=4000")
    assert len(sound.content) == 4000 * 2 * 4


def test_a_track_is_heard_with_a_click_on_its_beats(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    track = add_known(client, ids, tmp_path, 99.0)
    chart = client.get(f"/api/tracks/{track['id']}/chart").json()
    start, stop = chart["beats"][4] - 500, chart["beats"][6]

    made = client.get(f"/api/tracks/{track['id']}/programme?click=true").json()
    music, click = made["sounds"]
    assert [clip["bus"] for clip in made["programme"]["clips"]] == ["music", "click"]
    assert made["programme"]["clips"][0]["gain"]["points"][0]["gain_db"] < 0  # so that the click stands out
    heard = client.get(f"{music['url']}?start={start}&stop={stop}").content
    content = client.get(f"{click['url']}&start={start}&stop={stop}").content
    assert len(heard) == 2 * len(content)
    first = int(np.flatnonzero(np.abs(np.frombuffer(content, "<f4")) > 0.05)[0])
    assert abs(first - 500) <= 1
    assert client.get(f"/api/tracks/{track['id']}/sound?start=5&stop=5").status_code == 422
    assert client.get(f"/api/tracks/{track['id']}/sound?start=0&stop={40 * chart['rate']}").status_code == 422


def test_steps_that_come_at_the_same_time_are_all_kept(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    track = add_known(client, ids, tmp_path, 95.0)

    def mark(k: int) -> int:
        body = {"kind": "add_mark", "mark": "guard", "start_samples": 20_000 * k, "end_samples": 20_000 * k + 9_000}
        return client.post(f"/api/tracks/{track['id']}/corrections", json=body).status_code

    with ThreadPoolExecutor(8) as pool:
        assert set(pool.map(mark, range(16))) == {200}
    assert len(client.get(f"/api/tracks/{track['id']}/chart").json()["marks"]) == 16
