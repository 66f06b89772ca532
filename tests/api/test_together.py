"""Several people at once: nothing that was acknowledged is lost, and nobody is answered with a fault."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient

from tests.api.conftest import Ids

AT_ONCE = 8


def all_at_once(ask: Callable[[int], Any], times: int) -> list[Any]:
    with ThreadPoolExecutor(AT_ONCE) as pool:
        return list(pool.map(ask, range(times)))


def test_steps_of_a_frame_from_everywhere_add_up(client: TestClient, ids: Ids) -> None:
    answers = all_at_once(lambda _: client.patch(f"/api/cues/{ids.cue}", json={"start": "+1f"}), 120)
    assert {a.status_code for a in answers} == {200}
    production = f"/api/productions/{ids.production}"
    assert client.get(production).json()["cues"][0]["slot_start_frames"] == 120
    back = all_at_once(lambda _: client.post(f"{production}/undo"), 120)
    assert {a.status_code for a in back} == {200}
    assert client.get(production).json()["cues"][0]["slot_start_frames"] == 0
    assert client.post(f"{production}/undo").json()["code"] == "nothing_to_undo"


def test_cues_that_are_added_at_once_have_numbers_of_their_own(client: TestClient, ids: Ids) -> None:
    picture = client.get(f"/api/productions/{ids.production}").json()["pictures"][0]["id"]

    def add(k: int) -> int:
        body = {"start_frames": 10 * k, "end_frames": 10 * k + 5, "name": ""}
        return client.post(f"/api/pictures/{picture}/cues", json=body).status_code

    assert set(all_at_once(add, 24)) == {201}
    numbers = [c["number"] for c in client.get(f"/api/productions/{ids.production}").json()["cues"]]
    assert len(numbers) == len(set(numbers)) == 25


def test_hits_that_are_marked_at_once_are_all_there(client: TestClient, ids: Ids) -> None:
    picture = client.get(f"/api/productions/{ids.production}").json()["pictures"][0]["id"]

    def mark(k: int) -> int:
        body = {"edit": "add_hit", "at_frames": k, "label": f"hit {k}"}
        return client.post(f"/api/pictures/{picture}/edits", json=body).status_code

    assert set(all_at_once(mark, 40)) == {200}
    hits = client.get(f"/api/pictures/{picture}/sheet").json()["hits"]
    assert [h["at_frames"] for h in hits] == list(range(40))
    assert len({h["id"] for h in hits}) == 40


def test_one_file_that_comes_ten_times_at_once_is_one_track(client: TestClient, ids: Ids, loop_wav: Path) -> None:
    data = loop_wav.read_bytes()

    def upload(_: int) -> Any:
        return client.post(f"/api/productions/{ids.production}/tracks", params={"file_name": "same.wav"}, content=data)

    answers = all_at_once(upload, 10)
    assert all(a.status_code < 300 for a in answers), [a.text for a in answers]
    assert len({a.json()["id"] for a in answers}) == 1
    assert len(client.get(f"/api/productions/{ids.production}/tracks").json()) == 1
