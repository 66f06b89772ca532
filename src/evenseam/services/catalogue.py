"""Licensed music from a catalogue: what is offered for a cue, and taking in what was licensed."""

import asyncio
import hashlib
import tempfile
from collections.abc import AsyncIterator
from pathlib import Path

from evenseam.core.plan import Brief
from evenseam.core.plan.judging.forecast import Outlook
from evenseam.core.plan.judging.unheard import expected
from evenseam.services import tracks
from evenseam.services.catalogue_client import CatalogueError, Licence, Piece
from evenseam.services.context import Context
from evenseam.services.incoming import check_room
from evenseam.store.briefs import asked_of
from evenseam.store.productions import get_cue, get_production

_RATE = 48_000  # of the times that a piece is weighed by: its file is not here yet


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
