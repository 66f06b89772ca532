"""Productions: made, named, put away and taken out again; nothing in one touches another."""

from httpx import Client


def listed(client: Client) -> dict[str, bool]:
    return {p["name"]: p["is_put_away"] for p in client.get("/api/productions").json()}


def test_a_production_is_made_named_put_away_and_taken_out_again(client: Client) -> None:
    before = listed(client)
    made = client.post("/api/productions", json={"name": "  The   Long Field "}).json()
    assert made["name"] == "The Long Field"
    assert listed(client) == {**before, "The Long Field": False}
    address = f"/api/productions/{made['id']}"
    whole = client.get(address).json()
    assert (whole["pictures"], whole["cues"]) == ([], [])
    assert client.get(f"{address}/tracks").json() == []

    assert client.patch(address, json={"name": "Long Field"}).json()["name"] == "Long Field"
    client.patch(address, json={"is_put_away": True})
    assert listed(client) == {**before, "Long Field": True}
    assert client.get(address).json()["name"] == "Long Field", "it is kept, and can be looked at"
    client.patch(address, json={"is_put_away": False})
    assert listed(client) == {**before, "Long Field": False}


def test_names_that_are_none_are_refused_and_change_nothing(client: Client) -> None:
    before = listed(client)
    for name, status in (("", 422), ("   ", 422), ("x" * 201, 422)):
        assert client.post("/api/productions", json={"name": name}).status_code == status
    assert client.patch("/api/productions/999999", json={"name": "Nobody"}).status_code == 404
    assert listed(client) == before
