"""Tracks coming in, being listened to, and going."""

import hashlib
import os
import signal
from pathlib import Path

import numpy as np
import soundfile as sf
from fastapi import FastAPI
from fastapi.testclient import TestClient
from mutagen.flac import FLAC, Picture
from sqlalchemy import select

from evenseam.services.context import Context
from evenseam.services.tracks import listen_to_outdated
from evenseam.store.models import Job, Production, Track
from tests.api.conftest import Ids, add_and_listen, add_file, wait_for
from tests.conftest import drum_loop


def files_of(app: FastAPI) -> set[str]:
    media = app.state.context.settings.absolute_data_dir / "media"
    return {p.name for p in media.rglob("*") if p.is_file()}


def wav(tmp_path: Path, seconds: float, bpm: float) -> bytes:
    audio = drum_loop(seconds, bpm=bpm)
    path = tmp_path / "made.wav"
    sf.write(path, audio.samples.T, audio.rate)
    return path.read_bytes()


def another_production(app: FastAPI) -> int:
    context: Context = app.state.context
    with context.database.transaction() as session:
        production = Production(name="Another")
        session.add(production)
        session.flush()
        return production.id


def test_a_track_is_added_heard_and_found_with_its_chart(client: TestClient, ids: Ids, loop_wav: Path) -> None:
    track = add_and_listen(client, ids, "A_plain loop.wav", loop_wav.read_bytes())
    assert track["state"] == "ready"
    assert track["title"] == "A plain loop"
    assert track["n_samples"] == 40 * 22_050
    assert abs(track["tempo_bpm"] - 120) < 1
    chart = client.get(f"/api/tracks/{track['id']}/chart").json()
    assert chart["meter"] == "4/4"
    assert chart["beats_per_bar"] == 4
    assert chart["confidence"]["beat"] > 0.3
    assert len(chart["voice"]) == len(chart["intensity"]) == len(chart["beats"])
    assert -12 < chart["true_peak_dbtp"] < 3
    assert len(chart["beats"]) == len(chart["beat_in_bar"]) > 60
    peaks = client.get(f"/api/tracks/{track['id']}/peaks")
    assert int.from_bytes(peaks.content[16:20], "little") == -(-40 * 22_050 // 64)
    assert [t["id"] for t in client.get(f"/api/productions/{ids.production}/tracks").json()] == [track["id"]]


def test_what_an_earlier_version_heard_is_heard_again_at_the_next_start(
    app: FastAPI, client: TestClient, ids: Ids, tmp_path: Path
) -> None:
    track = add_and_listen(client, ids, "old.wav", wav(tmp_path, 31.0, 104.0))
    context: Context = app.state.context
    with context.database.transaction() as session:
        session.get_one(Track, track["id"]).recording.chart_version = 0
    assert client.get(f"/api/tracks/{track['id']}").json()["state"] != "ready"
    assert listen_to_outdated(context) == 1
    assert listen_to_outdated(context) == 0  # it waits already
    heard = wait_for(lambda: client.get(f"/api/tracks/{track['id']}").json(), lambda t: t["state"] == "ready")
    assert heard["tempo_bpm"] == track["tempo_bpm"]


def test_media_is_served_in_ranges(client: TestClient, ids: Ids, loop_wav: Path) -> None:
    data = loop_wav.read_bytes()
    track = add_file(client, ids, "loop.wav", data)
    part = client.get(f"/api/tracks/{track['id']}/original", headers={"Range": "bytes=100-199"})
    assert part.status_code == 206
    assert part.content == data[100:200]


def test_the_same_file_is_recognised_and_heard_once(app: FastAPI, client: TestClient, ids: Ids, tmp_path: Path) -> None:
    data = wav(tmp_path, 20.0, 101.0)
    first = add_and_listen(client, ids, "one.wav", data)
    again = add_file(client, ids, "two.wav", data)
    assert again["id"] == first["id"]
    context: Context = app.state.context
    with context.database.transaction() as session:
        assert len(list(session.scalars(select(Job).where(Job.kind == "listen", Job.subject_id == first["id"])))) == 1


def test_a_recording_that_is_being_heard_is_not_heard_for_another_production_too(
    app: FastAPI, client: TestClient, ids: Ids, tmp_path: Path
) -> None:
    data = wav(tmp_path, 60.0, 105.0)
    first = add_file(client, ids, "one.wav", data)
    other = another_production(app)
    second = add_file(client, Ids(other, 0), "two.wav", data)
    assert second["job"] is None or second["job"]["id"] == first["job"]["id"]
    done = wait_for(lambda: client.get(f"/api/tracks/{second['id']}").json(), lambda t: t["state"] != "listening")
    assert done["state"] == "ready"


def test_deleting_removes_only_what_nothing_else_uses(app: FastAPI, client: TestClient, ids: Ids, tmp_path: Path) -> None:
    before = files_of(app)
    data = wav(tmp_path, 15.0, 99.0)
    digest = hashlib.sha256(data).hexdigest()

    def own() -> set[str]:  # what another test set going may still be writing beside it
        return {name for name in files_of(app) if name.startswith(digest)}

    track = add_and_listen(client, ids, "one.wav", data)
    shared = add_file(client, Ids(another_production(app), 0), "shared.wav", data)
    assert shared["state"] == "ready", "what was heard once is not listened to again"
    assert len(own()) == 7
    assert client.delete(f"/api/tracks/{track['id']}").status_code == 204
    assert len(own()) == 7
    assert client.delete(f"/api/tracks/{shared['id']}").status_code == 204
    assert not own()
    assert before <= files_of(app)
    assert client.get(f"/api/tracks/{track['id']}").json()["code"] == "not_found"


def test_refuses_early_what_is_not_audio_or_too_large(app: FastAPI, client: TestClient, ids: Ids) -> None:
    url = f"/api/productions/{ids.production}/tracks"
    before = files_of(app)
    for data, code in (
        (b"", "audio_unreadable"),
        (b"%PDF-1.7 " * 100, "audio_unreadable"),
        (b"RIFF" + bytes(51_000_000), "too_large"),
    ):
        refused = client.post(url, params={"file_name": "x.wav"}, content=data)
        assert refused.headers["content-type"] == "application/problem+json"
        assert refused.json()["code"] == code, refused.text

    def endless():  # type: ignore[no-untyped-def]
        yield b"RIFF" + bytes(1000)
        for _ in range(60):
            yield bytes(1_000_000)

    assert client.post(url, params={"file_name": "x.wav"}, content=endless()).json()["code"] == "too_large"
    assert files_of(app) == before
    assert not list(app.state.context.settings.scratch_dir.glob("upload-*"))


def test_what_turns_out_to_be_no_music_leaves_its_name_and_the_reason_and_nothing_else(
    app: FastAPI, client: TestClient, ids: Ids, tmp_path: Path
) -> None:
    before = files_of(app)
    good = add_and_listen(client, ids, "good.wav", wav(tmp_path, 16.0, 95.0))
    kept = files_of(app)
    silence, wrong = tmp_path / "silence.wav", tmp_path / "wrong.wav"
    sf.write(silence, np.zeros(44_100 * 3), 44_100)
    sf.write(wrong, np.full(44_100 * 3, np.nan), 44_100, subtype="FLOAT")
    claims = bytearray(wav(tmp_path, 12.0, 100.0)[:60])  # a header that promises 4 GB, and nothing after it
    claims[4:8] = claims[40:44] = b"\xff\xff\xff\xff"
    hostile = {
        "broken.flac": (b"fLaC" + np.random.default_rng(4).bytes(5000), "damaged"),
        "cut.mp3": (b"ID3\x04\x00\x00\x00\x00\x00\x00" + b"\xff\xfb\x90\x00" * 3, ""),
        "silence.wav": (silence.read_bytes(), "silent"),
        "not numbers.wav": (wrong.read_bytes(), "not numbers"),
        "huge claim.wav": (bytes(claims), "shorter than a tenth"),
        "an m4a that is none.wav": (b"\x00\x00\x00\x20ftypM4A " + bytes(500), "damaged"),
    }
    for name, (data, _) in hostile.items():
        add_file(client, ids, name, data)
    url = f"/api/productions/{ids.production}"
    refused = wait_for(lambda: client.get(f"{url}/refusals").json(), lambda r: len(r) == len(hostile))
    for refusal in refused:
        assert hostile[refusal["name"]][1] in refusal["reason"], refusal
    assert [t["id"] for t in client.get(f"{url}/tracks").json()] == [good["id"]]
    assert files_of(app) == kept
    for refusal in refused:
        assert client.delete(f"/api/refusals/{refusal['id']}").status_code == 204
    assert client.get(f"{url}/refusals").json() == []
    client.delete(f"/api/tracks/{good['id']}")
    assert files_of(app) == before


PNG = b"\x89PNG\r\n\x1a\n" + bytes(40)


def test_labels_inside_a_file_are_read_and_can_be_changed(app: FastAPI, client: TestClient, ids: Ids, tmp_path: Path) -> None:
    before = files_of(app)
    path = tmp_path / "01 untitled.flac"
    audio = drum_loop(14.0, bpm=92)
    sf.write(path, audio.samples.T, audio.rate)
    flac = FLAC(path)
    flac["title"], flac["artist"], flac["genre"] = "Dome Lights\x07", "The Slit", "Ambient; Slow Build"
    picture = Picture()
    picture.data, picture.mime = PNG, "image/png"
    flac.add_picture(picture)
    flac.save()
    track = add_and_listen(client, ids, path.name, path.read_bytes())
    assert (track["title"], track["artist"]) == ("Dome Lights", "The Slit")
    assert track["tags"] == ["ambient", "slow build"]
    assert [s["label"] for s in track["sections"]]
    cover = client.get(f"/api/tracks/{track['id']}/cover")
    assert (cover.content, cover.headers["content-type"]) == (PNG, "image/png")
    changed = client.patch(f"/api/tracks/{track['id']}", json={"title": "Dome", "tags": ["Calm ", "calm", ""]}).json()
    assert (changed["title"], changed["tags"]) == ("Dome", ["calm"])
    client.post(f"/api/productions/{ids.production}/undo")
    assert client.get(f"/api/tracks/{track['id']}").json()["tags"] == ["ambient", "slow build"]
    assert client.delete(f"/api/tracks/{track['id']}").status_code == 204
    assert files_of(app) == before
    plain = add_and_listen(client, ids, "plain.wav", wav(tmp_path, 13.0, 98.0))
    assert client.get(f"/api/tracks/{plain['id']}/cover").status_code == 404


def busy_pids(app: FastAPI) -> list[int]:
    """The processes of the workers that have something to do. One that dies beside them would take a retry with it."""
    cluster = app.state.context.jobs._crew._cluster
    known = cluster.scheduler.workers
    busy = [n for n in cluster.workers.values() if n.worker_address in known and known[n.worker_address].processing]
    return [nanny.pid for nanny in busy if nanny.pid]


def test_a_worker_that_dies_is_replaced_and_its_job_tried_again(
    app: FastAPI, client: TestClient, ids: Ids, tmp_path: Path
) -> None:
    wait_for(lambda: app.state.context.jobs._crew._client, lambda c: c is not None)
    track = add_file(client, ids, "long.wav", wav(tmp_path, 200.0, 103.0))
    job_id = track["job"]["id"]
    wait_for(lambda: client.get(f"/api/jobs/{job_id}").json(), lambda j: j["state"] == "running")
    for pid in wait_for(lambda: busy_pids(app), bool):
        os.kill(pid, signal.SIGKILL)
    done = wait_for(lambda: client.get(f"/api/tracks/{track['id']}").json(), lambda t: t["state"] != "listening")
    assert done["state"] == "ready"


def test_a_running_job_can_be_cancelled_and_started_again(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    track = add_file(client, ids, "long.wav", wav(tmp_path, 240.0, 97.0))
    job_id = track["job"]["id"]
    wait_for(lambda: client.get(f"/api/jobs/{job_id}").json(), lambda j: j["state"] == "running")
    assert client.post(f"/api/jobs/{job_id}/cancel").json()["state"] == "cancelled"
    assert client.get(f"/api/tracks/{track['id']}").json()["state"] == "cancelled"
    assert client.post(f"/api/jobs/{job_id}/cancel").json()["code"] == "conflict"
    client.post(f"/api/tracks/{track['id']}/listen")
    done = wait_for(lambda: client.get(f"/api/tracks/{track['id']}").json(), lambda t: t["state"] != "listening")
    assert done["state"] == "ready"
