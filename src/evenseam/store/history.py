"""The history of a production: whatever is changed is changed here, as one step of undo of any number of things.

Every thing counts its changes in a revision. Steps that were taken back and not made again stay, as past ones: they tell
somebody who looked at an earlier revision what was done since.
"""

from collections.abc import Callable, Mapping, Sequence
from contextvars import ContextVar
from typing import Any, cast

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session, joinedload, selectinload

from evenseam.store.errors import NothingToUndoError
from evenseam.store.holding import hold_production
from evenseam.store.models import Cue, CueSeam, Fit, Patch, Picture, PictureMix, PictureSheet, Track, UndoStep
from evenseam.store.patches import patched

Thing = Cue | Track | Picture | PictureSheet | PictureMix | Fit | CueSeam
_KINDS: dict[str, type[Thing]] = {
    "cue": Cue,
    "track": Track,
    "picture": Picture,
    "sheet": PictureSheet,
    "mix": PictureMix,
    "fit": Fit,
    "seam": CueSeam,
}
_NAMES = {kind: name for name, kind in _KINDS.items()}
_NAMED: dict[str, type[Thing]] = {"track_id": Track, "sound_track_id": Track, "fit_id": Fit}
_LONGEST_WORDS = 200

# Who asks, for the history; empty while there is no sign-in. Set where requests come in.
acting: ContextVar[str] = ContextVar("acting", default="")


def change(session: Session, words: str, *changes: tuple[Thing, Mapping[str, Any]]) -> bool:
    """Change fields of things of one production as one step of undo; what was undone before can then no longer be redone.

    Fields that are as they should be already are no part of it. Returns: whether anything was different.
    """
    patches = []
    for thing, fields in changes:
        after = {name: value for name, value in fields.items() if getattr(thing, name) != value}
        if not after:
            continue
        before = {name: getattr(thing, name) for name in after}
        _apply(session, thing, after)
        patches.append(
            Patch(kind=_NAMES[type(thing)], thing_id=id_of(thing), before=before, after=after, revision=thing.revision)
        )
    if not patches:
        return False
    production_id = production_of(changes[0][0])
    undone = (UndoStep.production_id == production_id, UndoStep.undone.is_(True), UndoStep.is_past.is_(False))
    session.execute(update(UndoStep).where(*undone).values(is_past=True))
    session.add(UndoStep(production_id=production_id, words=words[:_LONGEST_WORDS], who=acting.get(), patches=patches))
    session.flush()
    return True


def step_history(session: Session, production_id: int, back: bool) -> UndoStep:
    """Undo the latest step, or redo the one undone last. Raises: NothingToUndoError."""
    hold_production(session, production_id)
    query = _steps(production_id, undone=not back).options(selectinload(UndoStep.patches))
    step = session.scalar(query.order_by(UndoStep.id.desc() if back else UndoStep.id.asc()).limit(1))
    if step is None:
        raise NothingToUndoError("There is nothing to undo." if back else "There is nothing to redo.")
    for patch in reversed(step.patches) if back else step.patches:
        thing = cast(Thing | None, session.get(_KINDS[patch.kind], patch.thing_id))
        if thing is None:
            continue  # deleted for good since
        was, becomes = (patch.after, patch.before) if back else (patch.before, patch.after)
        _apply(session, thing, {name: patched(getattr(thing, name), was.get(name), value) for name, value in becomes.items()})
        patch.revision = thing.revision
    step.undone = back
    session.flush()
    return step


def history_steps(session: Session, production_id: int) -> tuple[UndoStep | None, UndoStep | None]:
    """What undo and redo would take back and make again; None where there is nothing."""
    undo = session.scalar(_steps(production_id, undone=False).order_by(UndoStep.id.desc()).limit(1))
    redo = session.scalar(_steps(production_id, undone=True).order_by(UndoStep.id.asc()).limit(1))
    return undo, redo


def changed_since(session: Session, thing: Thing, revision: int, touches: Callable[[Patch], bool]) -> UndoStep | None:
    """The newest step that was made or taken back after a revision of a thing, and that touches what is asked for."""
    if thing.revision <= revision:
        return None
    query = select(Patch).where(Patch.kind == _NAMES[type(thing)], Patch.thing_id == id_of(thing), Patch.revision > revision)
    for patch in session.scalars(query.order_by(Patch.revision.desc(), Patch.id.desc()).options(joinedload(Patch.step))):
        if touches(patch):
            return patch.step
    return None


def highest_row_id(session: Session, sheet: PictureSheet) -> int:
    """The highest id that a mark ever had in the steps of a sheet; those of marks that redo would bring back are taken too."""
    mine = session.scalars(select(Patch).where(Patch.kind == "sheet", Patch.thing_id == id_of(sheet)))
    rows = [
        row
        for patch in mine
        for side in (patch.before, patch.after)
        for name in ("hits", "lines")
        for row in side.get(name) or ()
    ]
    return max((row["id"] for row in rows), default=0)


def forget_history(session: Session, kind: str, ids: Sequence[int]) -> None:
    """Drop what was done to things that are deleted for good; steps of them alone go, others keep what they did elsewhere."""
    mine = (Patch.kind == kind, Patch.thing_id.in_(ids))
    steps = list(session.scalars(select(Patch.step_id).where(*mine)))
    session.execute(delete(Patch).where(*mine))
    left = select(Patch.step_id).where(Patch.step_id.in_(steps))
    session.execute(delete(UndoStep).where(UndoStep.id.in_(steps), UndoStep.id.not_in(left)))


def production_of(thing: Thing) -> int:
    """The production that a thing belongs to."""
    match thing:
        case PictureSheet() | PictureMix():
            return thing.picture.production_id
        case Fit() | CueSeam():
            return thing.cue.production_id
    return thing.production_id


def id_of(thing: Thing) -> int:
    """The number a thing is found by; a sheet and a mix have that of their picture."""
    return thing.picture_id if isinstance(thing, PictureSheet | PictureMix) else thing.id


def _steps(production_id: int, undone: bool) -> Any:
    return select(UndoStep).where(
        UndoStep.production_id == production_id, UndoStep.is_past.is_(False), UndoStep.undone.is_(undone)
    )


def _apply(session: Session, thing: Thing, fields: Mapping[str, Any]) -> None:
    for name, value in fields.items():
        # What was deleted since cannot come back by undo: a cue is then without a track, or without a fit that was chosen.
        kind = _NAMED.get(name)
        is_gone = kind is not None and value is not None and session.get(kind, value) is None
        setattr(thing, name, None if is_gone else value)
    thing.revision += 1
    session.flush()
    if isinstance(thing, Cue):
        session.expire(thing, ["track"])
