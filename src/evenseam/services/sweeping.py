"""Freeing what nobody uses any more: files without a row, films without a picture, charts of earlier versions, old renders."""

import logging
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from evenseam.services.context import Context
from evenseam.store.media import cover_name, derived_names, film_derived_names, film_name, original_name
from evenseam.store.models import Brief, Film, Fit, Job, Picture, Recording

_log = logging.getLogger(__name__)
# Whatever is on its way in has a row by then: files come before their rows, and jobs write before they are kept.
_LEAST_AGE = timedelta(hours=12)
_RENDERS_KEPT = timedelta(days=30)


@dataclass(frozen=True, slots=True)
class Swept:
    """How many files went."""

    files: int


def sweep(context: Context, at: datetime | None = None) -> Swept:
    """Remove what no row names and no running job can be making, as seen at a moment (now). Safe at any time."""
    at = at or datetime.now(UTC)
    with context.database.transaction() as session:
        _forget_films(session)
        _forget_renders(session, at)
        session.execute(delete(Brief).where(Brief.digest.not_in(select(Fit.brief_digest))))
        used = _used(session)
    count = 0
    for name, changed in context.media.files():
        if name not in used and at - changed > _LEAST_AGE:
            context.media.remove(name)
            count += 1
    if count:
        _log.info("%d files that nobody uses were removed", count)
    return Swept(count)


def _forget_films(session: Session) -> None:
    """Films that no picture shows any more, hidden ones included: undo may bring those back."""
    shown = select(Picture.film_sha256).where(Picture.film_sha256.is_not(None))
    for film in session.scalars(select(Film).where(Film.sha256.not_in(shown))):
        session.delete(film)


def _forget_renders(session: Session, at: datetime) -> None:
    query = select(Job).where(Job.file.is_not(None), Job.finished_at < at - _RENDERS_KEPT)
    for job in session.scalars(query):
        job.file = None


def _used(session: Session) -> set[str]:
    """Every name that a row stands for."""
    names = {str(file) for file in session.scalars(select(Job.file).where(Job.file.is_not(None)))}
    for recording in session.scalars(select(Recording)):
        names |= {original_name(recording.sha256, recording.suffix), *derived_names(recording.sha256)}
        if recording.cover_suffix is not None:
            names.add(cover_name(recording.sha256, recording.cover_suffix))
    for film in session.scalars(select(Film)):
        names |= {film_name(film.sha256, film.suffix), *film_derived_names(film.sha256)}
    return names
