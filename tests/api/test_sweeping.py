"""What nobody uses any more is freed, and nothing else."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

from fastapi import FastAPI
from fastapi.testclient import TestClient

from evenseam.services.context import Context
from evenseam.services.sweeping import sweep
from evenseam.store.media import chart_name, joins_name, sound_name
from evenseam.store.models import Film, Job
from tests.api.conftest import Ids, add_and_listen, wait_for

SHA = "ef" * 32


def test_only_what_no_row_names_and_nobody_can_be_making_goes(
    app: FastAPI, client: TestClient, ids: Ids, loop_wav: Path
) -> None:
    context: Context = app.state.context
    track = add_and_listen(client, ids, "kept.wav", loop_wav.read_bytes())
    client.patch(f"/api/cues/{ids.cue}", json={"track_id": track["id"], "length": "0:20"})
    fit = client.post(f"/api/cues/{ids.cue}/fit").json()["fit_id"]
    job = client.post(f"/api/fits/{fit}/renders", json={}).json()["id"]
    wait_for(lambda: client.get(f"/api/jobs/{job}").json(), lambda j: j["state"] == "done")
    old = chart_name(SHA).replace(".v", ".v0")
    for name in (sound_name(SHA), old, joins_name(SHA), f"renders/{10**9}.wav"):
        context.media.put_bytes(b"x", name)
    with context.database.transaction() as session:
        session.add(
            Film(sha256=SHA, size_bytes=1, suffix=".mp4", width_px=1, height_px=1, codec="x", has_sound=False, is_playable=True)
        )
    before = {name for name, _ in context.media.files()}

    assert sweep(context).files == 0, "whatever came today may be on its way to a row"
    assert {name for name, _ in context.media.files()} == before
    tomorrow = datetime.now(UTC) + timedelta(days=1)
    assert sweep(context, tomorrow).files >= 4
    left = {name for name, _ in context.media.files()}
    assert not any(SHA in name or str(10**9) in name for name in left)
    assert client.get(f"/api/jobs/{job}/file").status_code == 200
    assert client.get(f"/api/tracks/{track['id']}/chart").status_code == 200
    assert client.get(f"/api/tracks/{track['id']}/peaks").status_code == 200
    with context.database.transaction() as session:
        assert session.get(Film, SHA) is None

    sweep(context, datetime.now(UTC) + timedelta(days=40))
    assert client.get(f"/api/jobs/{job}").json()["has_file"] is False
    with context.database.transaction() as session:
        assert session.get_one(Job, job).state == "done"
    assert client.get(f"/api/tracks/{track['id']}/original").status_code == 200
