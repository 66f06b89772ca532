"""One change at a time in a production: whoever changes it takes its row first, so that steps of undo never cross."""

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from evenseam.store.models import Cue, Picture, Production, Track


def hold_production(session: Session, production_id: int) -> None:
    """Wait for whoever changes a production now, and keep others waiting until the transaction ends."""
    session.execute(select(Production.id).where(Production.id == production_id).with_for_update())


def hold_production_of(session: Session, kind: type[Cue | Picture | Track], thing_id: int) -> None:
    """The same for the production of a thing. What is read after this is the newest there is."""
    table: Any = kind
    production_id = session.scalar(select(table.production_id).where(table.id == thing_id))
    if production_id is not None:
        hold_production(session, production_id)
