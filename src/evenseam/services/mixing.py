"""What is set on a picture: levels, fades and curves of its cues and buses; one step of undo each."""

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError
from sqlalchemy.orm import Session

from evenseam.core.errors import MixError
from evenseam.core.mix.levels import BUSES
from evenseam.services.context import Context
from evenseam.services.stale import plainly, stale
from evenseam.store.database import again_on_deadlock
from evenseam.store.errors import NotFoundError
from evenseam.store.history import change, changed_since
from evenseam.store.mixes import LevelDocument, document_in, kept_mix, with_level
from evenseam.store.models import Patch, Picture, PictureMix
from evenseam.store.patches import touches_row
from evenseam.store.productions import get_cue, get_picture


@again_on_deadlock
def set_level(
    context: Context, picture_id: int, of: int | str, fields: Mapping[str, Any], seen_revision: int | None
) -> Picture:
    """Set some of the level of a cue, by its id, or of a bus, by its name; what is left out stays as it is.

    Raises: NotFoundError, MixError for what cannot be, StaleError where somebody else set the same since it was looked at.
    """
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        name, column = _named(session, picture, of)
        mix = kept_mix(session, picture)
        session.refresh(mix)
        rows = getattr(mix, column)
        now = document_in(next((row for row in rows or () if row["id"] == of), {}))
        wanted = _changed(now, fields)
        _refuse_if_stale(session, mix, column, of, (now, wanted), seen_revision)
        changed = change(session, f"setting the level of {name}", (mix, {column: with_level(rows, of, wanted)}))
    if changed:
        context.events.publish("production", production_id=picture.production_id)
    return picture


def _named(session: Session, picture: Picture, of: int | str) -> tuple[str, str]:
    """What a cue or a bus is called, and the column that holds its level. Raises: NotFoundError."""
    if isinstance(of, int):
        cue = get_cue(session, of)
        if cue.picture_id != picture.id:
            raise NotFoundError("This cue is not on this picture. Reload the page.", cue_id=of)
        return cue.number, "cues"
    if of not in BUSES:
        raise NotFoundError(f"There is no bus '{of}'; there are {', '.join(BUSES)}.")
    return f"the bus {of}", "buses"


def _changed(now: LevelDocument, fields: Mapping[str, Any]) -> LevelDocument:
    """Raises: MixError."""
    try:
        wanted = LevelDocument.model_validate({**now.model_dump(), **fields})
    except ValidationError as error:
        told = error.errors()[0]
        raise MixError(f"{'.'.join(map(str, told['loc']))}: {told['msg']}.") from error
    wanted.level()
    return wanted


def _refuse_if_stale(
    session: Session, mix: PictureMix, column: str, of: int | str, sides: tuple[LevelDocument, LevelDocument], seen: int | None
) -> None:
    """Raises: StaleError where fields that are to be other were changed by somebody else since a revision."""
    now, wanted = (side.model_dump() for side in sides)
    names = [name for name in wanted if wanted[name] != now[name]]
    if seen is None or not names:
        return

    def touches(patch: Patch) -> bool:
        return touches_row(patch.before.get(column), patch.after.get(column), of, names)

    step = changed_since(session, mix, seen, touches)
    if step is not None:
        theirs, yours = (", ".join(_in_words(name, side[name]) for name in names) for side in (now, wanted))
        raise stale(step, theirs, yours, mix.revision)


def _in_words(name: str, value: Any) -> str:
    if name == "points":
        return f"{len(value)} points"
    return plainly(name, f"{value['length_flicks']} flicks" if isinstance(value, dict) else value)
