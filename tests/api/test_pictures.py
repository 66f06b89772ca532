"""Pictures coming in over HTTP: films, lengths, edit lists, new versions."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

import av
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import select

from evenseam.core.exchange.marks import write_edl
from evenseam.core.picture import Film as CoreFilm
from evenseam.core.timebase import FLICKS_PER_S, FrameRate
from evenseam.demo.film.cuts import FILM, RECUT
from evenseam.demo.load import FILMS_FOLDER
from evenseam.services.context import Context
from evenseam.services.work.scanning import Scanned
from evenseam.store.jobs import add_job
from evenseam.store.models import Cue, Film, Job, Picture, now
from tests.api.conftest import Ids, add_and_listen, wait_for
from tests.films import Shape, make_film

CUT = ((1, 0, 40), (2, 30, 25), (3, 0, 50))


def production_of(client: TestClient, ids: Ids) -> dict[str, Any]:
    return dict(client.get(f"/api/productions/{ids.production}").json())


def picture_of(client: TestClient, ids: Ids, picture_id: int) -> dict[str, Any]:
    return next(p for p in production_of(client, ids)["pictures"] if p["id"] == picture_id)


def add_film(client: TestClient, ids: Ids, path: Path, **params: Any) -> dict[str, Any]:
    address = f"/api/productions/{ids.production}/pictures"
    answer = client.post(address, params={"file_name": path.name, **params}, content=path.read_bytes())
    assert answer.status_code == 201, answer.text
    made = answer.json()["id"]
    return dict(wait_for(lambda: picture_of(client, ids, made), lambda p: p["job"] is None))


def edit(client: TestClient, picture_id: int, **body: Any) -> dict[str, Any]:
    answer = client.post(f"/api/pictures/{picture_id}/edits", json=body)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_a_film_comes_in_with_its_length_timecode_pictures_cuts_and_sound(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    make_film(tmp_path / "Night Shoot.mov", CUT, Shape(timecode="01:00:00:00", sound_codec="pcm_s16le"))
    picture = add_film(client, ids, tmp_path / "Night Shoot.mov")
    assert (picture["name"], picture["length_frames"], picture["start_frames"]) == ("Night Shoot", 115, 90_000)
    assert client.get(f"/api/pictures/{picture['id']}/sheet").json()["suggested_cuts"] == [40, 65]
    assert client.get(picture["film"]["thumbs_url"]).headers["content-type"] == "image/jpeg"
    part = client.get(picture["film"]["url"], headers={"Range": "bytes=0-99"})
    assert part.status_code == 206
    assert len(part.content) == 100
    tracks = client.get(f"/api/productions/{ids.production}/tracks").json()
    assert [t["title"] for t in tracks if t["id"] == picture["sound_track_id"]] == ["Night Shoot: own sound"]


def test_a_film_browsers_cannot_play_gets_a_copy_and_says_so_until_then(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    make_film(tmp_path / "dailies.mov", CUT, Shape(Fraction(24000, 1001), "prores_ks", "yuv422p10le"))
    picture = add_film(client, ids, tmp_path / "dailies.mov")
    assert picture["rate"] == {"num": 24000, "den": 1001, "drop_frame": False}
    copy = tmp_path / "copy.mp4"
    copy.write_bytes(client.get(picture["film"]["url"]).content)
    with av.open(str(copy)) as container:
        assert container.streams.video[0].codec_context.name == "vp9"
        assert container.streams.video[0].frames == 115


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "film_unreadable"),
        (b"plain text, no film", "film_unreadable"),
        (b"\0\0\0\x20ftypisom" + b"\0" * 300, "film_unreadable"),
    ],
)
def test_what_is_no_film_is_refused_and_leaves_nothing(client: TestClient, ids: Ids, data: bytes, code: str) -> None:
    before = production_of(client, ids)
    refused = client.post(f"/api/productions/{ids.production}/pictures", params={"file_name": "x.mp4"}, content=data)
    assert (refused.status_code, refused.json()["code"]) == (415, code)
    assert production_of(client, ids) == before


def test_a_film_without_a_single_good_frame_is_taken_out_again_and_told(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    make_film(tmp_path / "bad.mkv", CUT)
    data = bytearray((tmp_path / "bad.mkv").read_bytes())
    data[2500:] = bytes(b ^ 0x5A for b in data[2500:])
    address = f"/api/productions/{ids.production}/pictures"
    answer = client.post(address, params={"file_name": "bad.mkv"}, content=bytes(data))
    if answer.status_code == 415:
        return  # the headers gave it away at once
    made = answer.json()["id"]
    gone = wait_for(lambda: production_of(client, ids)["pictures"], lambda ps: all(p["id"] != made or not p["job"] for p in ps))
    if all(p["id"] != made for p in gone):
        assert client.get(f"/api/productions/{ids.production}/refusals").json()[0]["name"] == "bad"


def test_a_picture_is_also_only_a_length_or_an_edit_list(client: TestClient, ids: Ids) -> None:
    address = f"/api/productions/{ids.production}/pictures"
    wanted = {"name": "Exhibit loop", "rate": "29.97df", "length": "00:05:00;02", "start": "01:00:00;00"}
    made = client.post(f"{address}/blank", json=wanted).json()
    assert (made["length_frames"], made["start_frames"], made["film"]) == (8992, 107_892, None)
    edl = write_edl(RECUT.sheet).encode()
    listed = client.post(f"{address}/list", params={"rate": "25", "file_name": "slides.edl"}, content=edl).json()
    assert (listed["name"], listed["length_frames"]) == ("slides", RECUT.sheet.length_frames)
    assert len(client.get(f"/api/pictures/{listed['id']}/shots").json()) == len(RECUT.sheet.shots)
    bad = client.post(f"{address}/blank", json={**wanted, "length": "0"}).json()
    assert bad["code"] == "spot_invalid"
    captions = client.post(
        f"{address}/list", params={"rate": "25", "file_name": "x.srt"}, content=b"1\n00:00:01,000 --> 00:00:02,000\nHi\n"
    )
    assert "no shots" in captions.json()["detail"]
    client.post(f"/api/productions/{ids.production}/undo")
    assert [p["name"] for p in production_of(client, ids)["pictures"]] == ["Film", "Exhibit loop"]
    client.patch(f"/api/pictures/{made['id']}", json={"name": "Loop", "start": "02:00:00;00"})
    client.delete(f"/api/pictures/{made['id']}")
    assert len(production_of(client, ids)["pictures"]) == 1
    client.post(f"/api/productions/{ids.production}/undo")
    assert picture_of(client, ids, made["id"])["start_frames"] == 215_784


@pytest.fixture
def spotted(client: TestClient, ids: Ids) -> int:
    """The picture of the production with the film's shots, a hit on every one of them, two lines and a second cue."""
    picture_id: int = production_of(client, ids)["pictures"][0]["id"]
    marks = f"/api/pictures/{picture_id}/marks"
    client.post(marks, params={"file_name": "film.edl"}, content=write_edl(FILM.sheet).encode())
    client.post(marks, params={"file_name": "film.srt"}, content=(FILMS_FOLDER / "open_night.srt").read_bytes())
    for shot in FILM.sheet.shots:
        edit(client, picture_id, edit="add_hit", at_frames=shot.start_frames + 20, label=shot.name, weight="must")
    client.post(f"/api/pictures/{picture_id}/cues", json={"start_frames": 1500, "end_frames": 1637, "name": "Trails"})
    return picture_id


def check_carried(client: TestClient, ids: Ids, old: int, new: dict[str, Any]) -> None:
    before, after = (client.get(f"/api/pictures/{p}/sheet").json() for p in (old, new["id"]))
    told = after["carried"]
    assert {h["label"] for h in after["hits"]} | {h["label"] for h in told["left_hits"]} == {h["label"] for h in before["hits"]}
    assert [h["label"] for h in told["left_hits"]] == ["At the eyepiece"]
    assert len(after["lines"]) + len(told["left_lines"]) == len(before["lines"])
    changes = {m["name"]: m["change"] for m in told["moved"]}
    assert changes["At the eyepiece"] == "out"
    assert changes["Telescope turns"] == "shorter"
    assert changes["Stars drift"] == "longer"
    starts = {s.name: s.start_frames for s in RECUT.sheet.shots}
    sources = {s.name: s.source_start_frames for s in RECUT.sheet.shots}
    for hit in after["hits"]:
        shot = next(s for s in FILM.sheet.shots if s.name == hit["label"])
        wanted = starts[shot.name] + shot.source_start_frames + 20 - sources[shot.name]
        assert abs(hit["at_frames"] - wanted) <= 1
    cues = [c for c in production_of(client, ids)["cues"] if c["picture_id"] == new["id"]]
    assert [c["number"] for c in cues] == ["1m1", "1m2"]
    assert cues[0]["look_again"]
    assert (cues[1]["name"], cues[1]["look_again"]) == ("Trails", False)
    assert cues[1]["slot_length_flicks"] == 137 * FLICKS_PER_S // 25


def test_a_new_edit_list_carries_everything_and_one_undo_takes_it_back(client: TestClient, ids: Ids, spotted: int) -> None:
    before = production_of(client, ids)
    address = f"/api/pictures/{spotted}/versions"
    client.put(f"/api/pictures/{spotted}/tempo-map", json={"bpm": 180, "meter": 3, "starts_s": 0.8})
    bend = {"edit": "bend", "most_pct": 25, "smooth": False}
    laid = client.post(f"/api/pictures/{spotted}/tempo-map/edits", json=bend).json()
    elsewhere = write_edl(replace(RECUT.sheet, start_frames=90_000)).encode()
    refused = client.post(address, params={"file_name": "recut.edl"}, content=elsewhere)
    assert refused.json()["code"] == "starts_elsewhere"
    assert "starts at 01:00:00:00" in refused.json()["detail"]
    made = client.post(address, params={"file_name": "recut.edl", "shift": True}, content=elsewhere).json()
    assert "moved to the picture's start" in made["notes"][0]
    assert made["name"] == "Film, version 2"
    assert made["version_of_id"] == spotted
    check_carried(client, ids, spotted, made)
    carried = client.get(f"/api/pictures/{made['id']}/tempo-map").json()
    places = {h["label"]: (h["at_frames"], h["id"]) for h in client.get(f"/api/pictures/{made['id']}/sheet").json()["hits"]}
    bar_one, *others = (places[s.name] for s in FILM.sheet.shots if s.name in places)
    in_order = [bar_one]
    for place in others:
        in_order += [place] if place > in_order[-1] else []
    assert len(in_order) > len(laid["held"]) - 3
    assert [h["hit_id"] for h in carried["held"]] == [hit_id for _, hit_id in in_order[1:]], "bars go along with their hits"
    met = {h["hit_id"] for h in carried["hits"] if h["is_met"]}
    assert met >= {hit_id for _, hit_id in in_order}
    client.post(f"/api/productions/{ids.production}/undo")
    after = production_of(client, ids)
    assert (after["pictures"], after["cues"]) == (before["pictures"], before["cues"])


def test_a_recut_of_shots_without_reels_is_asked_about_compared_and_carried(client: TestClient, ids: Ids) -> None:
    """The shot changes that were found are accepted, so no shot has a reel; then the recut comes as an edit list."""
    old = add_film(client, ids, FILMS_FOLDER / f"{FILM.slug}.mp4")["id"]
    edit(client, old, edit="accept_cuts")
    for shot in FILM.sheet.shots:
        edit(client, old, edit="add_hit", at_frames=shot.start_frames + 20, label=shot.name)
    eyepiece = next(s for s in FILM.sheet.shots if s.name == "At the eyepiece")
    for start, end, name in ((0, 1800, "Film"), (eyepiece.start_frames + 10, 1400, "From the eyepiece"), (690, 710, "Look")):
        client.post(f"/api/pictures/{old}/cues", json={"start_frames": start, "end_frames": end, "name": name})
    listed = write_edl(RECUT.sheet).encode()
    address = f"/api/pictures/{old}/versions"
    refused = client.post(address, params={"file_name": "recut.edl"}, content=listed)
    assert (refused.status_code, refused.json()["code"]) == (409, "shots_unknown")
    assert "Give the new film or the old edit list, or have the shots compared" in refused.json()["detail"]
    before = production_of(client, ids)

    look = f"/api/pictures/{old}/likeness"
    found = client.post(look, params={"file_name": "recut.edl"}, content=listed).json()
    assert production_of(client, ids) == before, "looking changes nothing"
    names = [s.name for s in FILM.sheet.shots]
    pairs = {s["name"]: names[s["old_index"]] for s in found["shots"] if s["sure_pct"] is not None}
    assert pairs == {s.name: s.name for s in RECUT.sheet.shots}
    unsure = [s["name"] for s in found["shots"] if (s["sure_pct"] or 100) < 80]
    assert unsure == ["Lantern path", "Telescope turns"], "one that moved, one that was trimmed at its head"
    moon = names.index("Moon")
    less = client.post(look, params={"file_name": "recut.edl", "refused": [moon]}, content=listed).json()
    assert less["n_carried"] == found["n_carried"] - 1, "the hit on it"

    made = client.post(address, params={"file_name": "recut.edl", "aligned": True, "refused": [moon]}, content=listed).json()
    told = client.get(f"/api/pictures/{made['id']}/sheet").json()["carried"]
    assert {h["label"] for h in told["left_hits"]} == {"At the eyepiece", "Moon"}
    shots = client.get(f"/api/pictures/{made['id']}/shots").json()
    assert [s["reel"] for s in shots] == [s.reel for s in RECUT.sheet.shots], "the list's own reels are kept"
    cues = {c["name"]: c for c in production_of(client, ids)["cues"] if c["picture_id"] == made["id"]}
    assert list(cues) == ["Film"]
    left = {s["name"]: s for s in told["left_slots"]}
    assert set(left) == {"From the eyepiece", "Look"}
    stars = next(s for s in RECUT.sheet.shots if s.name == "Stars drift")
    old_stars = next(s for s in FILM.sheet.shots if s.name == "Stars drift")
    into = old_stars.start_frames + 20 - (eyepiece.start_frames + 10)
    assert left["From the eyepiece"]["at_first_hit_frames"] == stars.start_frames + 20 - into
    assert (left["Look"]["at_first_hit_frames"], left["Look"]["at_old_time_frames"]) == (None, 690)

    place = f"/api/pictures/{made['id']}/left/{left['Look']['id']}"
    assert client.post(place, json={"start_frames": 10**6}).json()["code"] == "spot_invalid"
    placed = client.post(place, json={"start_frames": 700}).json()
    assert (placed["name"], placed["slot_start_frames"], placed["look_again"]) == ("Look", 700, True)
    assert client.post(place, json={"start_frames": 700}).status_code == 404, "it is placed"

    def still_left() -> list[str]:
        carried = client.get(f"/api/pictures/{made['id']}/sheet").json()["carried"]
        return [s["name"] for s in carried["left_slots"]]

    assert still_left() == ["From the eyepiece"]
    client.post(f"/api/productions/{ids.production}/undo")
    assert sorted(still_left()) == ["From the eyepiece", "Look"]
    assert placed["id"] not in {c["id"] for c in production_of(client, ids)["cues"]}


def test_a_cue_on_a_new_version_keeps_the_seams_that_it_can(client: TestClient, ids: Ids, spotted: int, loop_wav: Path) -> None:
    track = add_and_listen(client, ids, "loop.wav", loop_wav.read_bytes())
    client.patch(f"/api/cues/{ids.cue}", json={"track_id": track["id"]})
    hit = client.get(f"/api/pictures/{spotted}/sheet").json()["hits"][0]
    client.patch(f"/api/cues/{ids.cue}", json={"asks": {"pinned_bars": [{"hit_id": hit["id"], "source_samples": 96_000}]}})
    before = client.post(f"/api/cues/{ids.cue}/fit").json()["plan"]["seams"]
    address = f"/api/pictures/{spotted}/versions"
    new = client.post(address, params={"file_name": "recut.edl"}, content=write_edl(RECUT.sheet).encode()).json()
    cue = next(c for c in production_of(client, ids)["cues"] if c["picture_id"] == new["id"] and c["number"] == "1m1")
    [pin] = cue["asks"]["pinned_bars"]
    carried = {h["id"]: h["label"] for h in client.get(f"/api/pictures/{new['id']}/sheet").json()["hits"]}
    assert (carried[pin["hit_id"]], pin["source_samples"]) == (hit["label"], 96_000)
    after = client.post(f"/api/cues/{cue['id']}/fit").json()["plan"]
    assert after["target_samples"] == RECUT.sheet.length_frames * after["rate"] // 25

    span = {"start_frames": 0, "end_frames": RECUT.sheet.length_frames, "name": "Without a past"}
    fresh = client.post(f"/api/pictures/{new['id']}/cues", json=span).json()["id"]
    client.patch(f"/api/cues/{fresh}", json={"track_id": track["id"]})
    plain = client.post(f"/api/cues/{fresh}/fit").json()["plan"]

    def shared(plan: dict[str, Any]) -> int:
        sides = ("source_from_samples", "source_to_samples")
        return sum(any(all(abs(a[s] - b[s]) < plan["rate"] // 5 for s in sides) for a in before) for b in plan["seams"])

    assert shared(after) >= shared(plain)
    assert client.post(f"/api/cues/{ids.cue}/fit").json()["plan"]["seams"] == before, "the old version stays"


def test_a_film_that_was_stopped_is_looked_through_again(client: TestClient, ids: Ids, tmp_path: Path) -> None:
    make_film(tmp_path / "again.mp4", CUT)
    picture = add_film(client, ids, tmp_path / "again.mp4")
    edit(client, picture["id"], edit="drop_cuts")
    client.post(f"/api/pictures/{picture['id']}/scan")
    address = f"/api/pictures/{picture['id']}/sheet"
    assert wait_for(lambda: client.get(address).json()["suggested_cuts"], lambda cuts: bool(cuts)) == [40, 65]
    blank = production_of(client, ids)["pictures"][0]["id"]
    assert client.post(f"/api/pictures/{blank}/scan").json()["code"] == "spot_invalid"


def test_a_new_film_is_matched_by_how_it_looks_and_carries_everything(client: TestClient, ids: Ids) -> None:
    old = add_film(client, ids, FILMS_FOLDER / f"{FILM.slug}.mp4")["id"]
    marks = f"/api/pictures/{old}/marks"
    client.post(marks, params={"file_name": "film.edl"}, content=write_edl(FILM.sheet).encode())
    client.post(marks, params={"file_name": "film.srt"}, content=(FILMS_FOLDER / "open_night.srt").read_bytes())
    for shot in FILM.sheet.shots:
        edit(client, old, edit="add_hit", at_frames=shot.start_frames + 20, label=shot.name)
    for start, end, name in ((0, 1800, "Film"), (1500, 1637, "Trails")):
        client.post(f"/api/pictures/{old}/cues", json={"start_frames": start, "end_frames": end, "name": name})
    new = add_film(client, ids, FILMS_FOLDER / f"{RECUT.slug}.mp4", version_of=old)
    assert new["length_frames"] == RECUT.sheet.length_frames
    check_carried(client, ids, old, new)


def scanning(context: Context, ids: Ids, old_id: int) -> tuple[Job, Scanned]:
    """A job of looking through a new version of a picture, which a worker has just done, and what it found."""
    sha256 = "cd" * 32
    form = {"width_px": 1, "height_px": 1, "codec": "x", "has_sound": False, "is_playable": True}
    with context.database.transaction() as session:
        session.merge(Film(sha256=sha256, size_bytes=1, suffix=".mp4", **form))
        session.get_one(Picture, old_id).sheet.shots = [[0, 1800, f"film {sha256[:8]}", 0, ""]]
        session.flush()
        new = Picture(production_id=ids.production, name="New", rate_num=25, rate_den=1, length_frames=1800)
        new.film_sha256, new.version_of_id = sha256, old_id
        session.add(new)
        session.flush()
        job = add_job(session, ids.production, "film", ("picture", new.id))
        job.state, job.leased_by, job.leased_until = "running", context.jobs._book._owner, now() + timedelta(hours=1)
        session.flush()
    return job, Scanned(CoreFilm(FrameRate(25), 1800, 0, **form), (), {}, None, 0, ())


def test_what_a_scan_found_is_kept_once_however_often_it_is_told(app: FastAPI, client: TestClient, ids: Ids) -> None:
    """The database may go away between keeping and the answer: it is told again then."""
    context: Context = app.state.context
    old_id = production_of(client, ids)["pictures"][0]["id"]
    edit(client, old_id, edit="add_hit", at_frames=5, label="door")
    job, found = scanning(context, ids, old_id)
    for _ in range(3):
        context.jobs._book.succeed(job, context.jobs._book.kinds["film"].settle(job.id, found))
    assert client.get(f"/api/jobs/{job.id}").json()["state"] == "done"
    with context.database.transaction() as session:
        assert len(session.scalars(select(Cue).where(Cue.picture_id == job.subject_id)).all()) == 1
        assert [h["label"] for h in session.get_one(Picture, job.subject_id).sheet.hits or ()] == ["door"]


def test_undo_while_a_scan_ends_takes_back_its_own_and_nothing_that_was_carried(
    app: FastAPI, client: TestClient, ids: Ids
) -> None:
    context: Context = app.state.context
    production = f"/api/productions/{ids.production}"
    old_id = production_of(client, ids)["pictures"][0]["id"]
    for k in range(3):
        edit(client, old_id, edit="add_hit", at_frames=5 + k, label="carried")
    for n_threads, first in ((1, "undo"), (1, "end"), (2, "either"), (2, "either"), (2, "either")):
        job, found = scanning(context, ids, old_id)
        mine = edit(client, job.subject_id, edit="add_hit", at_frames=50, label="mine")
        assert [h["label"] for h in mine["hits"]] == ["mine"]
        settled = context.jobs._book.kinds["film"].settle(job.id, found)
        with ThreadPoolExecutor(n_threads) as both:
            ends = [partial(context.jobs._book.succeed, job, settled), partial(client.post, f"{production}/undo")]
            for done in [both.submit(end) for end in (ends[::-1] if first == "undo" else ends)]:
                done.result()
        sheet = client.get(f"/api/pictures/{job.subject_id}/sheet").json()
        assert [h["label"] for h in sheet["hits"]] == ["carried"] * 3
        client.post(f"{production}/redo")
        sheet = client.get(f"/api/pictures/{job.subject_id}/sheet").json()
        assert sorted(h["label"] for h in sheet["hits"]) == ["carried"] * 3 + ["mine"]
        client.post(f"{production}/undo")
