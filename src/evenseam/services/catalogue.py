"""Licensed music from a catalogue: the one class that talks to the service, and taking in what was licensed."""

import asyncio
import hashlib
import tempfile
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Any, TypeVar
from urllib.parse import quote

import httpx
from pydantic import BaseModel, ValidationError

from evenseam.core.errors import EvenSeamError
from evenseam.core.plan import Brief
from evenseam.core.plan.forecast import Outlook
from evenseam.core.plan.unheard import expected
from evenseam.services import tracks
from evenseam.services.context import Context
from evenseam.services.incoming import check_room
from evenseam.store.briefs import asked_of
from evenseam.store.productions import get_cue, get_production

_RATE = 48_000  # of the times that a piece is weighed by: its file is not here yet
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


async def search(context: Context, words: str, cue_id: int | None) -> list[tuple[Piece, Outlook | None]]:
    """Pieces that all of `words` are found in, each with what to expect of it in the slot of a cue, if one is named.

    Raises: as the client, and NotFoundError.
    """
    brief = None if cue_id is None else await asyncio.to_thread(_asked, context, cue_id)
    return [(piece, _expected(piece, brief) if brief else None) for piece in await context.catalogue.search(words)]


def _asked(context: Context, cue_id: int) -> Brief:
    with context.database.transaction() as session:
        return asked_of(get_cue(session, cue_id)).at(_RATE)


def _expected(piece: Piece, brief: Brief) -> Outlook:
    beat = round(60 * _RATE / piece.tempo_bpm) if piece.tempo_bpm > 0 else 0
    return expected(round(piece.length_s * _RATE), beat, brief.target_samples, brief.aims)


async def license_piece(context: Context, production_id: int, piece_id: str, use: str) -> Licence:
    """License a piece for a production. Raises: as the client, and NotFoundError."""
    with context.database.transaction() as session:
        job = f"{production_id} {get_production(session, production_id).name}"
    return await context.catalogue.license(piece_id, use, job)


async def fetch(context: Context, production_id: int, licence: Licence) -> AsyncIterator[float | int]:
    """Download a licensed file and take it in as a track. Yields shares from 0 to 1, then the track's id.

    Whatever breaks off leaves nothing behind but the licence, which can be fetched again.
    Raises: CatalogueError, TooLargeError, DiskFullError, AudioUnreadableError.
    """
    check_room(context, licence.size_bytes)
    digest, size = hashlib.sha256(), 0
    with tempfile.NamedTemporaryFile(dir=context.settings.scratch_dir, prefix="upload-", delete=False) as file:
        path = Path(file.name)
        try:
            async for block in context.catalogue.download(licence):
                if size == 0:
                    tracks.check_looks_like_sound(block)
                await asyncio.to_thread(file.write, block)
                digest.update(block)
                size += len(block)
                if size > licence.size_bytes:
                    break  # more than it was said to be: whatever it is, it is not the file
                yield size / licence.size_bytes
            file.flush()
            if digest.hexdigest() != licence.sha256:
                raise CatalogueError("The file came damaged. The licence holds: license it again, and it is fetched again.")
            yield await asyncio.to_thread(
                tracks.take_in, context, production_id, path, licence.sha256, licence.file_name, _origin(licence)
            )
        finally:
            path.unlink(missing_ok=True)


def _origin(licence: Licence) -> tracks.Origin:
    """What a track keeps of where it came from."""
    kept = {
        "name": licence.piece.terms.name,
        "terms": licence.in_words,
        "allowed": licence.piece.terms.uses,
        "reference": licence.reference,
        "piece_id": licence.piece.id,
    }
    return tracks.Origin(licence.piece.title, licence.piece.artist, tuple(licence.piece.tags), kept)
