"""What is asked of a fit, as it comes in."""

from typing import Annotated, Any, Literal

from pydantic import Field

from evenseam.api.schemas.base import MOST_FLICKS, Input
from evenseam.core.plan import (
    DEFAULT_EARLY_PCT,
    DEFAULT_FADE_S,
    DEFAULT_SILENCE_S,
    LONGEST_FADE_S,
    LONGEST_SILENCE_S,
    MOST_AIMS,
    MOST_GIVE_PCT,
    MOST_HELD_BARS,
    MOST_NAMED_BARS,
    MOST_NAMED_SEAMS,
    MOST_WEIGHT,
    MOST_WISHES,
    SHORTEST_FADE_S,
    LandingAsked,
    OpeningKind,
    Order,
)

_MOST_ROWS = 2**31 - 1
_Sample = Annotated[int, Field(ge=0, le=MOST_FLICKS)]  # no recording has more
SeamPlaces = Annotated[list[_Sample], Field(min_length=2, max_length=2)]  # samples of the track that a seam leaves and enters


class WishAsked(Input):
    """How full the music is to be over a span, in flicks from the start of the slot: 0 as thin as the track gets, 1 as full."""

    start_flicks: int = Field(ge=0, le=MOST_FLICKS)
    end_flicks: int = Field(ge=1, le=MOST_FLICKS)
    start_level: float = Field(ge=0, le=1, strict=False)
    end_level: float = Field(ge=0, le=1, strict=False)


class ListeningAsked(Input):
    """How much each respect counts in the choice of seams: 1 as is usual, 0 not at all."""

    groove: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)
    harmony: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)
    colour: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)
    level: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)
    voice: float = Field(1.0, ge=0, le=MOST_WEIGHT, strict=False)


class BarAsked(Input):
    """A bar of the cue's track, by a sample near its beat, and a hit of the picture."""

    hit_id: int = Field(ge=0, le=_MOST_ROWS)
    source_samples: int = Field(ge=0, le=MOST_FLICKS)


class BarHeld(Input):
    """A bar of the cue's track that a tempo map has at a moment, in flicks from the start of the slot."""

    source_samples: int = Field(ge=0, le=MOST_FLICKS)
    at_flicks: int = Field(ge=0, le=MOST_FLICKS)


class CueAsks(Input):
    """What is asked of the fits of a cue beside its slot; what is left out is left to the planner.

    Seams are samples of the cue's track that they leave and enter: those that are kept wherever they can be, and those that
    are not to be taken. Bars are pinned to a hit, which they then must meet, or kept off it; or all of them
    are held where a tempo map has them, which `bend` then follows.
    """

    method: Literal["blend", "rearrange", "loop", "stretch", "bend", "trim"] = "blend"
    give_pct: float | None = Field(None, ge=0, le=MOST_GIVE_PCT, strict=False)
    hold_bars: int | None = Field(None, ge=1, le=64)
    max_seams: int | None = Field(None, ge=0, le=1000)
    early_pct: float = Field(DEFAULT_EARLY_PCT, ge=0, le=100, strict=False)
    silence_s: float = Field(DEFAULT_SILENCE_S, ge=0, le=LONGEST_SILENCE_S, strict=False)
    opening: OpeningKind | None = None
    landing: LandingAsked = "ring_out"
    fade_s: float = Field(DEFAULT_FADE_S, ge=SHORTEST_FADE_S, le=LONGEST_FADE_S, strict=False)
    order: Order = "free"
    kept_seams: list[SeamPlaces] = Field([], max_length=MOST_NAMED_SEAMS)
    forbidden_seams: list[SeamPlaces] = Field([], max_length=MOST_NAMED_SEAMS)
    shape: list[WishAsked] = Field([], max_length=MOST_WISHES)
    listening: ListeningAsked = ListeningAsked()
    pinned_bars: list[BarAsked] = Field([], max_length=MOST_AIMS)
    forbidden_bars: list[BarAsked] = Field([], max_length=MOST_NAMED_BARS)
    held_bars: list[BarHeld] = Field([], max_length=MOST_HELD_BARS)

    def stored(self) -> dict[str, Any]:
        """As a cue keeps it."""
        return self.model_dump(exclude_defaults=True)
