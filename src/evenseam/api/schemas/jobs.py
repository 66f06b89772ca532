"""Long work."""

from datetime import datetime
from typing import Literal

from evenseam.api.schemas.base import Answer


class JobRead(Answer):
    """A job on a thing: a track, a fit, a picture. `elapsed_s` runs while it runs, so that a page can tell the time left.

    `told`: what it has to say of what it did.
    """

    id: int
    kind: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    subject: str
    subject_id: int
    progress: float
    stage: str
    elapsed_s: float
    error: str | None
    told: str
    has_file: bool
    created_at: datetime
