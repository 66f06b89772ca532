"""Programmes and their levels, as they go out and come in."""

from typing import Any, Literal

from pydantic import Field

from evenseam.api.schemas.base import Answer
from evenseam.core.render import Programme
from evenseam.store.mixes import LevelDocument


class SoundRead(Answer):
    """A sound that clips name: where stretches of it are asked for, at which rate it is its own, and in how many channels.

    `cue_id`: the cue it is a fit of, if it is one.
    """

    name: str
    kind: Literal["fit", "recording", "click"]
    url: str
    rate: int
    channels: int
    cue_id: int | None


class ProgrammeRead(Answer):
    """Everything that is heard of a picture, of a cue alone, or of a track.

    `of` names what it is a programme of, whatever sounds in it now; `revision` names this state of it. `unfitted`: cues with a
    track, and without a fit for what they ask now.
    """

    of: str
    revision: str
    programme: Programme
    sounds: list[SoundRead]
    unfitted: list[int]


class CueLevelRead(LevelDocument):
    """What is set of a cue."""

    cue_id: int


class BusLevelRead(LevelDocument):
    """What is set of a bus."""

    name: str


class MixRead(Answer):
    """What is set on a picture. `revision` counts its changes."""

    revision: int
    cues: list[CueLevelRead]
    buses: list[BusLevelRead]


class LevelSet(LevelDocument):
    """Some of a level to set; what is left out stays as it is. `revision`: that of the mix as it was looked at."""

    revision: int | None = Field(None, ge=0)

    def fields(self) -> dict[str, Any]:
        """What is to be other."""
        return {
            name: value for name, value in self.model_dump().items() if name in self.model_fields_set and name != "revision"
        }
