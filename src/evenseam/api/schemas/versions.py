"""New versions of a picture: what moved, what was left, which shot is which."""

from pydantic import Field

from evenseam.api.schemas.base import MOST_FRAMES, Answer, Input
from evenseam.api.schemas.sheets import FrameSpan


class LikeShot(Answer):
    """A shot of an edit list and the old one that it seems to be; one of them is null for a shot that is new, or gone."""

    old_index: int | None
    name: str
    before: FrameSpan | None
    after: FrameSpan | None
    sure_pct: int | None


class LikenessRead(Answer):
    """Shots of an edit list beside those of a picture, and how many of its marks and cues would come along."""

    shots: list[LikeShot]
    n_carried: int
    n_marks: int


class PlaceCue(Input):
    """Where a cue is to start."""

    start_frames: int = Field(ge=0, le=MOST_FRAMES)
