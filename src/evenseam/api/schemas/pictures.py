"""Pictures and their films."""

from pydantic import Field

from evenseam.api.schemas.base import Answer, Input
from evenseam.api.schemas.jobs import JobRead


class RateRead(Answer):
    """A picture rate, exact."""

    num: int
    den: int
    drop_frame: bool


class ThumbsRead(Answer):
    """How the small pictures of a film lie on their sheet: every so many frames one, in rows."""

    every_frames: int
    per_row: int
    count: int
    width_px: int
    height_px: int


class FilmRead(Answer):
    """The film of a picture. `url` plays in browsers, and is null while there is no copy yet of one that does not."""

    url: str | None
    width_px: int
    height_px: int
    has_sound: bool
    thumbs_url: str | None
    thumbs: ThumbsRead | None


class PictureRead(Answer):
    """A picture. `sound_track_id` is the track with its own sound; `version_of_id` the picture whose marks it carries on."""

    id: int
    name: str
    rate: RateRead
    length_frames: int
    start_frames: int
    film: FilmRead | None
    job: "JobRead | None"
    sound_track_id: int | None
    version_of_id: int | None
    notes: list[str]
    revision: int


class BlankPicture(Input):
    """A picture that is only a length and a rate, as a person typed them; `start` is its first timecode."""

    name: str = Field(min_length=1, max_length=200)
    rate: str = Field(max_length=20)
    length: str = Field(max_length=64)
    start: str | None = Field(None, max_length=20)


class PictureUpdate(Input):
    """Fields of a picture to change; one undoable step. `start` is the timecode of its first frame."""

    revision: int | None = Field(None, ge=0)
    name: str | None = Field(None, min_length=1, max_length=200)
    start: str | None = Field(None, max_length=20)
