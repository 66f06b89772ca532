"""Pieces of the catalogue and their terms."""

from pydantic import Field

from evenseam.api.problems import Problem
from evenseam.api.schemas.base import Answer, Input
from evenseam.api.schemas.forecasts import OutlookRead


class TermsRead(Answer):
    """Under what terms a piece of the catalogue is offered; `years` is null without a limit."""

    name: str
    uses: list[str]
    territory: str
    years: int | None
    may_be_edited: bool
    credit: str


class PieceRead(Answer):
    """A piece of the catalogue. `outlook`: by its length and tempo alone, where it was asked for a cue."""

    id: str
    title: str
    artist: str
    tags: list[str]
    tempo_bpm: float
    meter: str
    length_s: float
    terms: TermsRead
    outlook: OutlookRead | None = None


class LicenceWanted(Input):
    """What a piece is wanted for."""

    use: str = Field(min_length=1, max_length=40)


class FetchRead(Answer):
    """A line of the answer while a licensed file comes in: how far it is, then the track, or what went wrong."""

    progress: float | None = None
    track_id: int | None = None
    problem: Problem | None = None
