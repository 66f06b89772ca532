"""How long the forecasts of a large library take, asked for over HTTP page by page as the application does.

Usage: forecasts.py [N]   (10000 tracks if nothing is said: the first demo tracks again and again, each a recording of its own)
Prints how many tracks were looked at, and how long the first page and all of them took: read from disk, and asked for again.
"""

import hashlib
import sys
import time
from typing import Any

from sqlalchemy import insert, select
from tests.api.server import Application, own_catalogue, own_database, settings_for

from evenseam.demo.load import load_demo
from evenseam.demo.scores import SCORES
from evenseam.store.database import Database
from evenseam.store.media import MediaStore, forecast_name
from evenseam.store.models.library import Recording, Track

LISTENED_TO = 3
AT_ONCE = 1000


def heard_by(application: Application) -> None:
    """Start it, wait until all of its tracks are listened to, and stop it again."""
    application.start()
    while any(track["state"] != "ready" for track in application.api.get("/productions/1/tracks").json()):
        time.sleep(1)
    application.stop()


def repeat_tracks(database: Database, media: MediaStore, count: int) -> None:
    """Many tracks more: those that there are, under other digests."""
    with database.transaction() as session:
        tracks = [dict(row._mapping) for row in session.execute(select(Track.__table__))]
        recordings = {row.sha256: dict(row._mapping) for row in session.execute(select(Recording.__table__))}
        forecasts = {sha256: media.read(forecast_name(sha256)) for sha256 in recordings}
        rows: list[tuple[dict[str, Any], dict[str, Any]]] = []
        for k in range(count):
            track = {name: value for name, value in tracks[k % len(tracks)].items() if name != "id"}
            sha256 = hashlib.sha256(str(k).encode()).hexdigest()
            media.put_bytes(forecasts[track["sha256"]], forecast_name(sha256))
            rows.append((recordings[track["sha256"]] | {"sha256": sha256}, track | {"sha256": sha256}))
        for k in range(0, count, AT_ONCE):
            session.execute(insert(Recording.__table__), [recording for recording, _ in rows[k : k + AT_ONCE]])
            session.execute(insert(Track.__table__), [track for _, track in rows[k : k + AT_ONCE]])


def look_at_all(application: Application) -> None:
    """All pages of the forecasts of the first cue, timed."""
    cue = application.api.get("/productions/1").json()["cues"][0]["id"]
    began, first_s, after, found = time.perf_counter(), 0.0, 0, 0
    while after is not None:
        page = application.api.get(f"/cues/{cue}/forecasts", params={"after": after}).json()
        first_s = first_s or time.perf_counter() - began
        after, found = page["next_after"], found + len(page["outlooks"])
    print(f"{found} of {page['n_tracks']} tracks: the first page {first_s:.2f} s, all {time.perf_counter() - began:.2f} s")


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    with own_catalogue() as (catalogue_url, _), own_database() as (url, data):
        settings, database = settings_for(data), Database(url)
        settings.scratch_dir.mkdir(parents=True)
        media = MediaStore(settings.media_location, settings.scratch_dir / "cache")
        load_demo(database, media, SCORES[:LISTENED_TO])
        application = Application(url, data, catalogue_url)
        heard_by(application)
        repeat_tracks(database, media, count)
        database.dispose()
        application.start()
        for _ in range(3):
            look_at_all(application)
        application.stop()


if __name__ == "__main__":
    main()
