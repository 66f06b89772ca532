"""Productions and their undo history."""

from fastapi import APIRouter

from evenseam.api.deps import ContextDep
from evenseam.api.readers.productions import read_production
from evenseam.api.schemas.productions import ProductionCreate, ProductionListed, ProductionRead, ProductionUpdate
from evenseam.store import productions as rows
from evenseam.store.database import again_on_deadlock
from evenseam.store.history import step_history

router = APIRouter(prefix="/api/productions", tags=["productions"])


@router.get("", operation_id="listProductions")
def list_productions(context: ContextDep) -> list[ProductionListed]:
    """All productions, those that are put away among them."""
    with context.database.transaction() as session:
        return [ProductionListed.model_validate(p) for p in rows.list_productions(session)]


@router.post("", operation_id="addProduction", status_code=201)
def add_production(context: ContextDep, wanted: ProductionCreate) -> ProductionListed:
    """Make a production, with nothing in it."""
    with context.database.transaction() as session:
        made = ProductionListed.model_validate(rows.add_production(session, wanted.name))
    context.events.publish("productions")
    return made


@router.patch("/{production_id}", operation_id="updateProduction")
def update_production(context: ContextDep, production_id: int, wanted: ProductionUpdate) -> ProductionListed:
    """Name a production, put it away, or take it out again; nothing in it is changed."""
    with context.database.transaction() as session:
        changed = rows.change_production(session, production_id, wanted.name, wanted.is_put_away)
        read = ProductionListed.model_validate(changed)
    context.events.publish("productions")
    context.events.publish("production", production_id=production_id)
    return read


@router.get("/{production_id}", operation_id="getProduction")
def get_production(context: ContextDep, production_id: int) -> ProductionRead:
    """A production with its pictures and cues."""
    with context.database.transaction() as session:
        return read_production(session, production_id)


@router.post("/{production_id}/undo", operation_id="undo")
def undo(context: ContextDep, production_id: int) -> ProductionRead:
    """Take back the latest change."""
    return _step(context, production_id, back=True)


@router.post("/{production_id}/redo", operation_id="redo")
def redo(context: ContextDep, production_id: int) -> ProductionRead:
    """Make the change undone last once more."""
    return _step(context, production_id, back=False)


@again_on_deadlock
def _step(context: ContextDep, production_id: int, back: bool) -> ProductionRead:
    with context.database.transaction() as session:
        step = step_history(session, production_id, back)
        read = read_production(session, production_id)
        sheets = [patch.thing_id for patch in step.patches if patch.kind in ("sheet", "picture")]
    # Other pages are told as well: the step may have been of tracks, cues, pictures and sheets.
    context.events.publish("tracks", production_id=production_id)
    context.events.publish("production", production_id=production_id)
    for picture_id in sheets:
        context.events.publish("picture", picture_id=picture_id, production_id=production_id)
    return read
