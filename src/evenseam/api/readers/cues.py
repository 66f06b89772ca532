"""Cues to what goes out."""

from evenseam.api.schemas.cues import CueRead
from evenseam.store.models import Cue


def read_cue(cue: Cue) -> CueRead:
    """A cue row."""
    return CueRead.model_validate(cue)
