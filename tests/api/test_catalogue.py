"""Licensing music from the catalogue, on good days and bad ones, over HTTP."""

import io
import json
from pathlib import Path

import httpx
import numpy as np
import pytest
import soundfile as sf
from fastapi import FastAPI
from fastapi.testclient import TestClient

from evenseam.catalogue.app import Weather
from evenseam.catalogue.stock import STOCK
from tests.api.conftest import CATALOGUE_WAIT_S, Ids, wait_for


def license_piece(client: TestClient, ids: Ids, piece: str, use: str = "web") -> httpx.Response:
    answer: httpx.Response = client.post(f"/api/productions/{ids.production}/catalogue/{piece}", json={"use": use})
    return answer


def lines(answer: httpx.Response) -> list[dict]:
    assert answer.status_code == 200, answer.text
    return [json.loads(line) for line in answer.text.splitlines()]


def scratch(app: FastAPI) -> list[Path]:
    return list(app.state.context.settings.scratch_dir.glob("upload-*"))


def test_a_piece_is_found_heard_licensed_and_becomes_a_track_with_its_terms(client: TestClient, ids: Ids, app: FastAPI) -> None:
    found = client.get("/api/catalogue", params={"words": "piano waltz"}).json()
    assert [p["title"] for p in found] == ["The Long Stair"]
    assert len(client.get("/api/catalogue").json()) == len(STOCK)
    assert client.get("/api/catalogue", params={"words": "bagpipe"}).json() == []
    preview = client.get("/api/catalogue/long-stair/preview")
    sound, _ = sf.read(io.BytesIO(preview.content))
    assert sound.ndim == 1
    assert abs(sound).max() > 0.05

    steps = lines(license_piece(client, ids, "long-stair", "exhibition"))
    shares = [s["progress"] for s in steps[:-1]]
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    heard = wait_for(lambda: client.get(f"/api/tracks/{steps[-1]['track_id']}").json(), lambda t: t["state"] != "listening")
    assert (heard["title"], heard["artist"], heard["meter"]) == ("The Long Stair", "Hanne Brandt", "3/4")
    assert heard["tags"] == ["piano", "cello", "waltz"]
    assert heard["licence"]["name"] == "Exhibition and cinema"
    assert heard["licence"]["piece_id"] == "long-stair"
    assert "H. Brandt" in heard["licence"]["terms"]
    assert scratch(app) == []

    again = lines(license_piece(client, ids, "long-stair", "exhibition"))
    assert again[-1]["track_id"] == heard["id"]
    assert client.get(f"/api/tracks/{heard['id']}").json()["licence"]["reference"] == heard["licence"]["reference"]


def test_with_a_cue_every_piece_says_what_to_expect_of_it(client: TestClient, ids: Ids) -> None:
    pieces = client.get("/api/catalogue", params={"cue_id": ids.cue}).json()
    assert all(0 < piece["outlook"]["suits"] <= 100 for piece in pieces)
    nearest = min(pieces, key=lambda piece: abs(np.log(piece["length_s"] / 72)))
    assert nearest["outlook"]["suits"] == max(piece["outlook"]["suits"] for piece in pieces)
    assert nearest["outlook"]["words"] in ("as it is", "about 1 seam")
    assert all(piece["outlook"] is None for piece in client.get("/api/catalogue").json())
    assert client.get("/api/catalogue", params={"cue_id": 999_999}).status_code == 404


@pytest.mark.parametrize(
    ("piece", "use", "words"),
    [
        ("iron-lantern", "web", "does not allow the music to be cut"),
        ("bright-corners", "cinema", "does not cover cinema, only web"),
    ],
)
def test_a_licence_that_forbids_the_use_is_refused_with_what_to_do(
    client: TestClient, ids: Ids, piece: str, use: str, words: str
) -> None:
    answer = license_piece(client, ids, piece, use)
    assert answer.status_code == 403
    problem = answer.json()
    assert problem["code"] == "licence_refused"
    assert words in problem["detail"]
    assert "Choose another piece" in problem["detail"]
    assert client.get(f"/api/productions/{ids.production}/tracks").json() == []


def test_a_catalogue_that_is_down_says_so_and_nothing_else_suffers(client: TestClient, ids: Ids, weather: Weather) -> None:
    weather.is_down = True
    for answer in (
        client.get("/api/catalogue"),
        license_piece(client, ids, "slow-orbit"),
        client.get("/api/catalogue/slow-orbit/preview"),
    ):
        assert answer.status_code == 502
        assert answer.json()["code"] == "catalogue_failed"
        assert "Try again later" in answer.json()["detail"]
    assert client.get(f"/api/productions/{ids.production}/tracks").status_code == 200


def test_a_catalogue_that_is_slow_is_not_waited_for_without_end(client: TestClient, ids: Ids, weather: Weather) -> None:
    weather.delay_s = CATALOGUE_WAIT_S * 3
    answer = client.get("/api/catalogue")
    assert (answer.status_code, answer.json()["code"]) == (504, "catalogue_slow")


def test_a_download_that_breaks_off_leaves_nothing_and_can_be_fetched_again(
    client: TestClient, ids: Ids, weather: Weather, app: FastAPI
) -> None:
    weather.breaks_off = True
    steps = lines(license_piece(client, ids, "slow-orbit"))
    assert steps[-1]["problem"]["code"] == "catalogue_failed"
    assert "try again" in steps[-1]["problem"]["detail"]
    assert scratch(app) == []
    assert client.get(f"/api/productions/{ids.production}/tracks").json() == []
    weather.breaks_off = False
    assert "track_id" in lines(license_piece(client, ids, "slow-orbit"))[-1]


def test_a_piece_or_a_production_that_is_not_there(client: TestClient, ids: Ids) -> None:
    assert license_piece(client, ids, "no-such-piece").json()["code"] == "catalogue_failed"
    assert license_piece(client, Ids(999_999, 0), "slow-orbit").status_code == 404


def test_what_the_stock_says_of_its_pieces_is_true() -> None:
    for piece in STOCK:
        info = sf.info(str(piece.file))
        assert info.duration == pytest.approx(piece.length_s, abs=0.1)


SOUND = b"OggS" + bytes(3000)


@pytest.mark.parametrize(
    ("data", "size", "code"),
    [
        (SOUND, 1000, "catalogue_failed"),
        (SOUND, len(SOUND), "catalogue_failed"),
        (b"<html>please sign in</html>" * 20, 540, "audio_unreadable"),
        (SOUND, 10**12, "too_large"),
    ],
    ids=["longer than said", "another file", "no sound", "too large"],
)
def test_a_file_that_is_not_what_was_licensed_is_refused_without_a_trace(
    client: TestClient, ids: Ids, app: FastAPI, monkeypatch: pytest.MonkeyPatch, data: bytes, size: int, code: str
) -> None:
    piece = STOCK[0].model_dump(mode="json")
    licence = {
        "reference": "SK-1",
        "piece": piece,
        "use": "web",
        "in_words": "",
        "file": "/f",
        "file_name": "a.ogg",
        "size_bytes": size,
        "sha256": "0" * 64,
    }

    def answer(request: httpx.Request) -> httpx.Response:
        return httpx.Response(201, json=licence) if request.method == "POST" else httpx.Response(200, content=data)

    service = httpx.AsyncClient(base_url="http://catalogue.test", transport=httpx.MockTransport(answer))
    monkeypatch.setattr(app.state.context.catalogue, "_http", service)
    assert lines(license_piece(client, ids, "slow-orbit"))[-1]["problem"]["code"] == code
    assert scratch(app) == []
    assert client.get(f"/api/productions/{ids.production}/tracks").json() == []
