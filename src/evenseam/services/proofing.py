"""What people make of fits: which one is chosen, what it is called, what is said of its seams. One step of undo each."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from evenseam.core.plan import SeamName
from evenseam.services.context import Context
from evenseam.services.fitting import CueFit, SeamSaid, kept_fit, seams_said
from evenseam.store.briefs import BriefDocument, hits_in_slot, seams_asked
from evenseam.store.database import again_on_deadlock
from evenseam.store.errors import ConflictError
from evenseam.store.fits import get_fit
from evenseam.store.history import Thing, change
from evenseam.store.holding import hold_production
from evenseam.store.models import Cue, Fit
from evenseam.store.plans import read_plan
from evenseam.store.productions import get_cue
from evenseam.store.seams import check_count, seam_of, wished

VerdictWord = Literal["passed", "doubtful", "failed"]
WishWord = Literal["kept", "forbidden"]


@dataclass(frozen=True, slots=True)
class SeamSay:
    """What is said of a seam: of its fields those that are other; a wish for another seam in its place as `moved_to`."""

    name: SeamName
    fields: dict[str, Any] = field(default_factory=dict)
    moved_to: SeamName | None = None


@again_on_deadlock
def choose_fit(context: Context, cue_id: int, fit_id: int) -> CueFit:
    """Go back to a fit that a cue had: its track and what it was asked for are the cue's again; one step of undo.

    Raises: NotFoundError, ConflictError for a fit of another cue, FitUnreadableError.
    """
    with context.database.transaction() as session:
        cue, fit = get_cue(session, cue_id, to_change=True), get_fit(session, fit_id)
        if fit.cue_id != cue_id:
            raise ConflictError("This fit belongs to another cue. Choose one of this cue.", fit_id=fit_id)
        read_plan(fit.plan)
        asked = BriefDocument.model_validate(fit.brief.document)
        length = asked.length_flicks
        # The hits may have moved since: then the cue asks for those that this fit aims at, until it is fitted again.
        is_as_spotted = (asked.hits or ()) == hits_in_slot(cue, length, asked)
        asks = asked.model_copy(update={"hits": None if is_as_spotted else asked.hits or ()}).kept()
        fields = {"fit_id": fit_id, "track_id": fit.track_id, "slot_length_flicks": length, "asks": asks}
        seams = [] if _asks_for(cue, fit, asked) else wished(session, cue, fit.track.sha256, _wishes(asked))
        change(session, f"choosing a fit of {cue.number}", (cue, fields), *seams)
    _tell(context, cue)
    return kept_fit(context, cue_id)


def _asks_for(cue: Cue, fit: Fit, asked: BriefDocument) -> bool:
    """Whether the fits of a cue are asked for the same seams as a fit was; one that was moved stays that."""
    return cue.track_id == fit.track_id and seams_asked(cue) == (asked.kept_seams, asked.forbidden_seams)


def _wishes(asked: BriefDocument) -> dict[tuple[int, int], str]:
    return {**dict.fromkeys(asked.kept_seams, "kept"), **dict.fromkeys(asked.forbidden_seams, "forbidden")}


@again_on_deadlock
def name_fit(context: Context, fit_id: int, name: str) -> Fit:
    """Give a fit a name, or none; one step of undo. Raises: NotFoundError."""
    with context.database.transaction() as session:
        fit = get_fit(session, fit_id)
        hold_production(session, fit.cue.production_id)
        session.refresh(fit, ["name", "revision"])
        change(session, f"naming a fit of {fit.cue.number}", (fit, {"name": name}))
    _tell(context, fit.cue)
    return fit


@again_on_deadlock
def say_of_seams(context: Context, cue_id: int, says: Sequence[SeamSay]) -> list[SeamSaid]:
    """Say of seams of a cue and its track how they were heard and whether they are wanted, or take it back; one step of undo.

    Returns: all that is said of them. Raises: NotFoundError, NotReadyError, ConflictError without a track or for too many.
    """
    with context.database.transaction() as session:
        cue = get_cue(session, cue_id, to_change=True)
        if cue.track is None:
            raise ConflictError("This cue has no track, so it has no seams yet. Choose one first.")
        sha256, beats = cue.track.sha256, context.planners.get(cue.track).chart.beats
        changes: list[tuple[Thing, dict[str, Any]]] = [
            (seam_of(session, cue, sha256, say.name, beats), _fields(say, beats)) for say in says
        ]
        asked = seams_asked(cue)
        change(session, _in_words(cue, says), *changes, *_another_fit(cue, says))
        if seams_asked(cue) != asked:
            check_count(cue, sha256)
        said = seams_said(cue, sha256, beats)
    _tell(context, cue)
    return said


def _in_words(cue: Cue, says: Sequence[SeamSay]) -> str:
    which = "a seam" if len(says) == 1 else f"{len(says)} seams"
    return f"judging {which} of {cue.number}" if _is_judged(says) else f"asking for other seams in {cue.number}"


def _is_judged(says: Sequence[SeamSay]) -> bool:
    return all(say.moved_to is None and "wish" not in say.fields for say in says)


def _another_fit(cue: Cue, says: Sequence[SeamSay]) -> list[tuple[Thing, dict[str, Any]]]:
    """Where other seams are asked for, another fit is chosen."""
    return [] if _is_judged(says) else [(cue, {"fit_id": None})]


def _fields(say: SeamSay, beats: Any) -> dict[str, Any]:
    fields = dict(say.fields)
    if say.moved_to is not None:
        to = say.moved_to.on(beats)
        fields |= {"wish": "moved", "moved_leaves_samples": to.leaves_samples, "moved_enters_samples": to.enters_samples}
    return fields


def _tell(context: Context, cue: Cue) -> None:
    context.events.publish("production", production_id=cue.production_id)
    context.events.publish("fit", cue_id=cue.id, production_id=cue.production_id)
