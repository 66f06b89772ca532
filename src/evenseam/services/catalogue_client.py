"""The one class that talks to the catalogue service."""

from collections.abc import AsyncIterator
from typing import Any, TypeVar
from urllib.parse import quote

import httpx
from pydantic import BaseModel, ValidationError

from evenseam.core.errors import EvenSeamError

Answer = TypeVar("Answer", bound=BaseModel)


class CatalogueError(EvenSeamError):
    """The catalogue does not answer, or answers with what cannot be used."""

    code = "catalogue_failed"


class CatalogueSlowError(CatalogueError):
    """The catalogue took too long."""

    code = "catalogue_slow"


class LicenceRefusedError(EvenSeamError):
    """The catalogue does not license a piece for what it is wanted for."""

    code = "licence_refused"


class Terms(BaseModel):
    """Under what terms a piece is offered."""

    name: str
    uses: list[str]
    territory: str
    years: int | None
    may_be_edited: bool
    credit: str


class Piece(BaseModel):
    """A piece that is offered."""

    id: str
    title: str
    artist: str
    tags: list[str]
    tempo_bpm: float
    meter: str
    length_s: float
    terms: Terms


class _Found(BaseModel):
    pieces: list[Piece]


class Licence(BaseModel):
    """A licence that was given, and where its file is."""

    reference: str
    piece: Piece
    use: str
    in_words: str
    file: str
    file_name: str
    size_bytes: int
    sha256: str


class CatalogueClient:
    """The catalogue service. Another service takes another class with these four methods.

    Every method raises CatalogueError when the service fails and CatalogueSlowError when it takes longer than `wait_s`.
    """

    def __init__(self, url: str, wait_s: float) -> None:
        self._http = httpx.AsyncClient(base_url=url, timeout=wait_s)

    async def close(self) -> None:
        """Let go of the connections."""
        await self._http.aclose()

    async def search(self, words: str) -> list[Piece]:
        """Pieces that all of `words` are found in."""
        found = await self._ask("GET", "/v1/pieces", params={"words": words, "most": 200})
        return _read(_Found, found).pieces

    async def preview(self, piece_id: str) -> tuple[bytes, str]:
        """Some seconds of a piece to choose by, and their media type."""
        heard = await self._ask("GET", f"/v1/pieces/{quote(piece_id, safe='')}/preview")
        kind = heard.headers.get("content-type", "")
        return heard.content, kind if kind.startswith("audio/") else "application/octet-stream"

    async def license(self, piece_id: str, use: str, job: str) -> Licence:
        """License a piece. Asking again gives the same licence. Raises: LicenceRefusedError too."""
        given = await self._ask("POST", "/v1/licences", json={"piece_id": piece_id, "use": use, "job": job})
        return _read(Licence, given)

    async def download(self, licence: Licence) -> AsyncIterator[bytes]:
        """The licensed file, block by block."""
        try:
            async with self._http.stream("GET", licence.file) as response:
                if response.is_error:
                    await response.aread()
                    raise _problem(response)
                async for block in response.aiter_bytes():
                    yield block
        except httpx.HTTPError as error:
            raise _failure(error) from None

    async def _ask(self, method: str, path: str, **more: Any) -> httpx.Response:
        try:
            response = await self._http.request(method, path, **more)
        except httpx.HTTPError as error:
            raise _failure(error) from None
        if response.is_error:
            raise _problem(response)
        return response


def _read(kind: type[Answer], response: httpx.Response) -> Answer:
    try:
        return kind.model_validate_json(response.content)
    except ValidationError:
        raise CatalogueError("The catalogue answered something that cannot be read. Try again later.") from None


def _failure(error: httpx.HTTPError) -> CatalogueError:
    if isinstance(error, httpx.TimeoutException):
        return CatalogueSlowError("The catalogue takes too long to answer. Nothing was lost; try again in a moment.")
    if isinstance(error, httpx.ConnectError):
        return CatalogueError("The catalogue does not answer. Your own tracks are not affected; try again later.")
    return CatalogueError("The connection to the catalogue broke off. Nothing was lost; try again.")


def _problem(response: httpx.Response) -> EvenSeamError:
    try:
        said = str(response.json()["detail"])
    except (ValueError, KeyError, TypeError):
        said = f"It answered {response.status_code}."
    if response.status_code == httpx.codes.FORBIDDEN:
        return LicenceRefusedError(said)
    return CatalogueError(f"The catalogue cannot do this now: {said} Try again later.", status=response.status_code)
