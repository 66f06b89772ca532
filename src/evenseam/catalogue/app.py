"""The stand-in's HTTP interface. It knows nothing of Even Seam; whatever it can do, a real service could do."""

import asyncio
import hashlib
import io
from collections.abc import AsyncIterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import soundfile as sf
from fastapi import FastAPI, HTTPException, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from evenseam.catalogue.stock import STOCK, Piece, Terms, Use

_PREVIEW_FROM_S, _PREVIEW_S, _PREVIEW_STEP = 20.0, 20.0, 2
_BLOCK_BYTES = 1 << 17


@dataclass
class Weather:
    """How the service is today, so that bad days can be tried: seconds before every answer and every block of a download,
    whether it fails, and whether downloads break off half way."""

    delay_s: float = 0.0
    is_down: bool = False
    breaks_off: bool = False

    def clear_up(self) -> None:
        """Fine again."""
        self.delay_s, self.is_down, self.breaks_off = 0.0, False, False


class Found(BaseModel):
    """What a search found: one page of the pieces, and how many there are."""

    total: int
    pieces: list[Piece]


class LicenceWanted(BaseModel):
    """Which piece is to be licensed, for what, and the customer's own name for the job."""

    piece_id: str
    use: Use
    job: str


class Licence(BaseModel):
    """A licence that was given. The same piece for the same use and job gives the same licence again."""

    reference: str
    piece: Piece
    use: Use
    in_words: str
    file: str
    file_name: str
    size_bytes: int
    sha256: str


def create_catalogue(weather: Weather | None = None) -> FastAPI:
    """Build the stand-in."""
    app, today = FastAPI(title="Music catalogue (stand-in)", docs_url=None, redoc_url=None), weather or Weather()
    given: dict[str, Licence] = {}

    async def answer() -> None:
        await asyncio.sleep(today.delay_s)
        if today.is_down:
            raise HTTPException(503, "The catalogue is closed for maintenance.")

    @app.get("/v1/pieces")
    async def search(words: str = Query("", max_length=200), first: int = Query(0, ge=0), most: int = Query(50, ge=1)) -> Found:
        await answer()
        wanted = words.lower().split()
        found = [p for p in STOCK if all(w in _text(p) for w in wanted)]
        return Found(total=len(found), pieces=found[first : first + most])

    @app.get("/v1/pieces/{piece_id}/preview")
    async def preview(piece_id: str) -> Response:
        await answer()
        return Response(await asyncio.to_thread(_preview, _piece(piece_id).file), media_type="audio/flac")

    @app.post("/v1/licences", status_code=201)
    async def licence(wanted: LicenceWanted) -> Licence:
        await answer()
        piece = _piece(wanted.piece_id)
        refusal = piece.terms.refusal(wanted.use)
        if refusal is not None:
            raise HTTPException(403, refusal)
        new = _licence(piece, wanted)
        return given.setdefault(new.reference, new)

    @app.get("/v1/licences/{reference}/file")
    async def file(reference: str) -> StreamingResponse:
        await answer()
        if reference not in given:
            raise HTTPException(404, "There is no such licence.")
        path = given[reference].piece.file
        length = {"Content-Length": str(path.stat().st_size)}
        return StreamingResponse(_blocks(path, today), media_type="audio/ogg", headers=length)

    return app


def _text(piece: Piece) -> str:
    tempo = f"{piece.tempo_bpm:.0f} {piece.meter}"
    return " ".join([piece.title, piece.artist, tempo, *piece.tags, piece.terms.name, *piece.terms.uses]).lower()


def _piece(piece_id: str) -> Piece:
    found = next((p for p in STOCK if p.id == piece_id), None)
    if found is None:
        raise HTTPException(404, "There is no such piece in the catalogue.")
    return found


def _licence(piece: Piece, wanted: LicenceWanted) -> Licence:
    key = hashlib.sha256(f"{piece.id} {wanted.use} {wanted.job}".encode()).hexdigest()[:8].upper()
    reference, data = f"SK-{key[:4]}-{key[4:]}", piece.file.read_bytes()
    return Licence(
        reference=reference,
        piece=piece,
        use=wanted.use,
        in_words=piece.terms.sentence(),
        file=f"/v1/licences/{reference}/file",
        file_name=f"{piece.title}.ogg",
        size_bytes=len(data),
        sha256=hashlib.sha256(data).hexdigest(),
    )


@cache
def _preview(path: Path) -> bytes:
    """Some seconds of a piece, in mono and at half its rate: to choose by, not to use."""
    with sf.SoundFile(str(path)) as file:
        file.seek(min(round(_PREVIEW_FROM_S * file.samplerate), file.frames // 2))
        sound = file.read(round(_PREVIEW_S * file.samplerate), dtype="float32", always_2d=True).mean(axis=1)
        rate = file.samplerate // _PREVIEW_STEP
    sound = sound[: sound.size // _PREVIEW_STEP * _PREVIEW_STEP].reshape(-1, _PREVIEW_STEP).mean(axis=1)
    ramp = np.minimum(1, np.minimum(np.arange(sound.size), np.arange(sound.size)[::-1]) / (0.2 * rate))
    out = io.BytesIO()
    sf.write(out, sound * ramp, rate, format="FLAC", subtype="PCM_16")
    return out.getvalue()


async def _blocks(path: Path, weather: Weather) -> AsyncIterator[bytes]:
    data = await asyncio.to_thread(path.read_bytes)
    for start in range(0, len(data), _BLOCK_BYTES):
        if weather.breaks_off and start > len(data) // 2:
            raise ConnectionResetError("the download breaks off")
        yield data[start : start + _BLOCK_BYTES]
        await asyncio.sleep(weather.delay_s)


__all__ = ["Found", "Licence", "LicenceWanted", "Terms", "Weather", "create_catalogue"]
