"""What people make of fits: which one is chosen, what it is called, what is said of its seams. One step of undo each."""

from typing import Literal

from evenseam.services.context import Context
from evenseam.services.fitting import CueFit, kept_fit
from evenseam.store.briefs import BriefDocument, hits_in_slot
from evenseam.store.database import again_on_deadlock
from evenseam.store.errors import ConflictError, NotFoundError
from evenseam.store.fits import get_fit, verdicts_of
from evenseam.store.history import change
from evenseam.store.holding import hold_production
from evenseam.store.models import Fit, Verdict
from evenseam.store.plans import read_plan
from evenseam.store.productions import get_cue

VerdictWord = Literal["passed", "failed"]


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
        asks = asked.model_copy(update={"hits": None if is_as_spotted else asked.hits or ()}).asks()
        fields = {"fit_id": fit_id, "track_id": fit.track_id, "slot_length_flicks": length, "asks": asks}
        change(session, f"choosing a fit of {cue.number}", (cue, fields))
        production_id = cue.production_id
    context.events.publish("production", production_id=production_id)
    context.events.publish("fit", cue_id=cue_id, production_id=production_id)
    return kept_fit(context, cue_id)


@again_on_deadlock
def name_fit(context: Context, fit_id: int, name: str) -> Fit:
    """Give a fit a name, or none; one step of undo. Raises: NotFoundError."""
    with context.database.transaction() as session:
        fit = get_fit(session, fit_id)
        hold_production(session, fit.cue.production_id)
        session.refresh(fit, ["name", "revision"])
        change(session, f"naming a fit of {fit.cue.number}", (fit, {"name": name}))
    _tell(context, fit)
    return fit


@again_on_deadlock
def say_of_seam(context: Context, fit_id: int, seam: tuple[int, int], verdict: VerdictWord | None, words: str) -> None:
    """Say what was heard at a seam (the samples of the track that it leaves and enters), or take it back; one step of undo.

    Raises: NotFoundError for a seam that the fit does not have.
    """
    with context.database.transaction() as session:
        fit = get_fit(session, fit_id)
        hold_production(session, fit.cue.production_id)
        seams = [(s.source_from_samples, s.source_to_samples) for s in read_plan(fit.plan).seams]
        if seam not in seams:
            raise NotFoundError("This fit has no such seam. Reload the page.", fit_id=fit_id)
        row = verdicts_of(session, fit_id).get(seam)
        if row is None:
            row = Verdict(fit=fit, source_from_samples=seam[0], source_to_samples=seam[1], verdict="", words="")
            session.add(row)
            session.flush()
        fields = {"verdict": verdict or "", "words": words}
        change(session, f"judging seam {seams.index(seam) + 1} of {fit.cue.number}", (row, fields))
    _tell(context, fit)


def _tell(context: Context, fit: Fit) -> None:
    context.events.publish("production", production_id=fit.cue.production_id)
    context.events.publish("fit", cue_id=fit.cue_id, production_id=fit.cue.production_id)
