"""The catalogue client against services that answer badly: whatever comes, it is one plain sentence."""

import asyncio
from collections.abc import Callable

import httpx
import pytest

from evenseam.core.errors import EvenSeamError
from evenseam.services.catalogue_client import CatalogueClient, CatalogueError, CatalogueSlowError, Licence, LicenceRefusedError

PIECE = {
    "id": "a", "title": "A", "artist": "B", "tags": [], "tempo_bpm": 100.0, "meter": "4/4", "length_s": 60.0,
    "terms": {"name": "All", "uses": ["web"], "territory": "worldwide", "years": None, "may_be_edited": True, "credit": "B"},
}  # fmt: skip
LICENCE = Licence.model_validate(
    {
        "reference": "R",
        "piece": PIECE,
        "use": "web",
        "in_words": "",
        "file": "/f",
        "file_name": "a.ogg",
        "size_bytes": 4,
        "sha256": "0",
    }
)


def client(answer: Callable[[httpx.Request], httpx.Response]) -> CatalogueClient:
    made = CatalogueClient("http://catalogue.test", 1.0)
    made._http = httpx.AsyncClient(base_url="http://catalogue.test", transport=httpx.MockTransport(answer))
    return made


def failing(error: type[httpx.HTTPError]) -> Callable[[httpx.Request], httpx.Response]:
    def answer(request: httpx.Request) -> httpx.Response:
        raise error("no", request=request)  # type: ignore[call-arg]

    return answer


BAD = {
    "html": (lambda _: httpx.Response(200, html="<h1>welcome</h1>"), CatalogueError),
    "a list": (lambda _: httpx.Response(200, json=[]), CatalogueError),
    "pieces without terms": (lambda _: httpx.Response(200, json={"pieces": [{"id": "a"}]}), CatalogueError),
    "pieces that are none": (lambda _: httpx.Response(200, json={"pieces": 7}), CatalogueError),
    "an error in html": (lambda _: httpx.Response(500, html="<h1>oops</h1>"), CatalogueError),
    "an error without words": (lambda _: httpx.Response(503, json={}), CatalogueError),
    "too slow": (failing(httpx.ReadTimeout), CatalogueSlowError),
    "not there": (failing(httpx.ConnectError), CatalogueError),
    "broken off": (failing(httpx.ReadError), CatalogueError),
    "forbidden": (lambda _: httpx.Response(403, json={"detail": "Not for cinema."}), LicenceRefusedError),
}


@pytest.mark.parametrize("kind", BAD)
def test_a_bad_answer_is_one_plain_sentence(kind: str) -> None:
    answer, error = BAD[kind]
    with pytest.raises(error) as refused:
        asyncio.run(client(answer).search("waltz"))
    assert isinstance(refused.value, EvenSeamError)
    assert refused.value.detail.endswith(".")
    assert "<" not in refused.value.detail


@pytest.mark.parametrize("kind", ["an error in html", "too slow", "broken off", "forbidden"])
def test_a_download_that_fails_is_said_in_the_same_words(kind: str) -> None:
    answer, error = BAD[kind]

    async def download() -> None:
        async for _ in client(answer).download(LICENCE):
            pass

    with pytest.raises(error):
        asyncio.run(download())


def test_good_answers_come_through() -> None:
    asked: list[httpx.Request] = []

    def answer(request: httpx.Request) -> httpx.Response:
        asked.append(request)
        return httpx.Response(200, json={"total": 1, "pieces": [PIECE]})

    found = asyncio.run(client(answer).search("slow waltz"))
    assert [p.title for p in found] == ["A"]
    assert asked[0].url.params["words"] == "slow waltz"
