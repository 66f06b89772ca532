"""Two people at one thing: whoever asks for something absolute from an old look at it is told what was done meanwhile."""

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any

from sqlalchemy.orm import Session

from evenseam.core.errors import EvenSeamError
from evenseam.store.history import Thing, changed_since
from evenseam.store.models import Patch, UndoStep


class StaleError(EvenSeamError):
    """What is to be changed was changed by somebody else since it was looked at."""

    code = "stale"


def plainly(name: str, value: Any) -> str:
    """A field and its value in words."""
    shown = ", ".join(map(str, value)) if isinstance(value, list) else "" if value is None else str(value)
    return f"{name.replace('_', ' ')} “{shown}”" if shown else f"no {name.replace('_', ' ')}"


def refuse_if_stale(
    session: Session,
    thing: Thing,
    seen_revision: int | None,
    wanted: Mapping[str, Any],
    in_words: Callable[[str, Any], str] = plainly,
) -> None:
    """Raises: StaleError, with both versions in words, if fields that are to be changed were changed since a revision.

    Fields that nobody touched meanwhile may be changed whatever else was done, and relative changes add up: they do not come
    here. Without a revision whatever is asked for counts.
    """
    if seen_revision is None:
        return
    theirs, yours, step = [], [], None
    for name, value in wanted.items():
        if getattr(thing, name) == value:
            continue
        found = changed_since(session, thing, seen_revision, partial(_touches, name))
        if found is not None:
            step = step or found
            theirs.append(in_words(name, getattr(thing, name)))
            yours.append(in_words(name, value))
    if step is not None:
        raise stale(step, ", ".join(theirs), ", ".join(yours), thing.revision)


def _touches(name: str, patch: Patch) -> bool:
    return name in patch.after


def stale(step: UndoStep, theirs: str, yours: str, revision: int) -> StaleError:
    """The refusal: who did what, how it is now, and what was asked for."""
    what = f"taking back {step.words}" if step.undone else step.words
    detail = f"{step.who or 'Somebody else'} was faster, {what}. Now: {theirs}. Yours: {yours}. Nothing was changed."
    return StaleError(detail, revision=revision, theirs=theirs, yours=yours)
