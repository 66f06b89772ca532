"""Events as rows, on their way from the process where something happened to the pages of the others."""

from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from evenseam.store.models import Event, now

_KEPT = timedelta(minutes=10)


def add_events(session: Session, origin: str, bodies: Sequence[dict[str, Any]]) -> None:
    """What a process tells the others."""
    session.add_all(Event(origin=origin, body=body) for body in bodies)


def newest_event_id(session: Session) -> int:
    """The number of the last event there is, 0 if there is none."""
    return session.scalar(select(func.max(Event.id))) or 0


def events_after(session: Session, event_id: int, not_of: str) -> list[Event]:
    """Events of other processes with higher numbers, in their order."""
    query = select(Event).where(Event.id > event_id, Event.origin != not_of).order_by(Event.id)
    return list(session.scalars(query))


def forget_old_events(session: Session) -> None:
    """Pages that were away longer than this ask for everything anew."""
    session.execute(delete(Event).where(Event.created_at < now() - _KEPT))
