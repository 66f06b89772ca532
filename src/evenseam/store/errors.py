"""What the store can say no to."""

from evenseam.core.errors import EvenSeamError


class NotFoundError(EvenSeamError):
    """There is no such row, or it was deleted."""

    code = "not_found"


class NotReadyError(EvenSeamError):
    """The thing exists, but the work that makes it usable is not done."""

    code = "not_ready"


class NothingToUndoError(EvenSeamError):
    """The end of the undo or redo history."""

    code = "nothing_to_undo"


class FitUnreadableError(EvenSeamError):
    """What was kept of a fit cannot be read."""

    code = "fit_unreadable"


class ConflictError(EvenSeamError):
    """The request does not fit the state the thing is in."""

    code = "conflict"
