"""Who may ask, and what browsers may do with the answers."""

import html
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from evenseam.api.doors import check_address
from evenseam.core.errors import SetUpError
from tests.api.conftest import Ids, add_and_listen
from tests.api.server import settings_for

OWN = "http://127.0.0.1:8620"
ELSEWHERE = [
    {"Origin": "http://other.example"},
    {"Origin": "null"},
    {"Origin": "http://127.0.0.1:9999"},
    {"Sec-Fetch-Site": "cross-site"},
    {"Sec-Fetch-Site": "same-site"},
    {"Host": "rebound.example"},
    {"Host": "rebound.example:8620", "Origin": "http://rebound.example:8620"},
    {"Host": "127.0.0.1.rebound.example"},
    {"Host": ""},
]


@pytest.mark.parametrize("headers", ELSEWHERE)
def test_pages_of_other_sites_get_nothing_and_change_nothing(client: TestClient, ids: Ids, headers: dict[str, str]) -> None:
    client.patch(f"/api/cues/{ids.cue}", json={"length": "30"})
    for method, path in (
        ("GET", f"/api/productions/{ids.production}"),
        ("POST", f"/api/productions/{ids.production}/undo"),
        ("POST", f"/api/productions/{ids.production}/tracks?file_name=x.wav"),
        ("PATCH", f"/api/cues/{ids.cue}"),
    ):
        refused = client.request(method, path, headers=headers, json={"length": "20"} if method == "PATCH" else None)
        assert refused.status_code == 403
        assert refused.json()["code"] == "not_from_here"
        assert refused.headers["x-content-type-options"] == "nosniff"
    assert client.get(f"/api/productions/{ids.production}").json()["history"]["undo"] == "setting the length to 0:30.000"


@pytest.mark.parametrize("headers", [{}, {"Origin": OWN}, {"Sec-Fetch-Site": "same-origin"}, {"Host": "localhost:8620"}])
def test_our_own_pages_and_programs_that_are_no_browser_are_answered(client: TestClient, headers: dict[str, str]) -> None:
    assert client.get("/api/productions", headers=headers).status_code == 200


def test_a_link_from_elsewhere_opens_the_page_but_not_the_api(client: TestClient) -> None:
    followed = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Dest": "document", "Sec-Fetch-Mode": "navigate"}
    assert client.get("/fit", headers=followed).status_code in (200, 404)  # 404 where the front end is not built
    assert client.get("/fit", headers={**followed, "Sec-Fetch-Dest": "iframe"}).status_code == 403
    assert client.get("/api/productions", headers=followed).status_code == 403


def test_a_file_is_given_out_to_be_saved_whatever_it_calls_itself(client: TestClient, ids: Ids, loop_wav: Path) -> None:
    track = add_and_listen(client, ids, "evil.html", loop_wav.read_bytes())
    answer = client.get(f"/api/tracks/{track['id']}/original")
    assert answer.headers["content-type"] == "application/octet-stream"
    assert answer.headers["content-disposition"].startswith("attachment")
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert "sandbox" in answer.headers["content-security-policy"]


def test_pages_may_load_scripts_of_ours_alone(client: TestClient) -> None:
    policy = client.get("/").headers["content-security-policy"]
    assert "script-src 'self';" in policy
    assert "frame-ancestors 'none'" in policy


def test_the_description_of_the_api_fetches_nothing(client: TestClient) -> None:
    page = client.get("/api/docs")
    assert page.status_code == 200
    assert "<script" not in page.text
    assert "http://" not in page.text.replace(OWN, "")
    for path in client.get("/api/openapi.json").json()["paths"]:
        assert html.escape(path) in page.text


@pytest.mark.parametrize("host", ["0.0.0.0", "::", "192.168.1.5", "example.org"])
def test_what_others_could_reach_is_refused_until_somebody_asks_who_is_there(tmp_path: Path, host: str) -> None:
    with pytest.raises(SetUpError, match="EVENSEAM_BEHIND_PROXY"):
        check_address(settings_for(tmp_path, host=host))
    check_address(settings_for(tmp_path, host=host, behind_proxy=True))
    check_address(settings_for(tmp_path, host="127.0.0.1"))
