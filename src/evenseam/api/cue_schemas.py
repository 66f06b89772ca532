"""Cues over HTTP: what is asked of a fit, what came of it, and what is said of it."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from evenseam.api.base import MOST_FLICKS, MOST_FRAMES, Answer, Input
from evenseam.api.problems import Problem
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
    Plan,
)
from evenseam.core.plan.choices import HitChoices
from evenseam.core.plan.costs import Costs

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


class CueRead(Answer):
    """A cue. The slot's length is in flicks (1/705,600,000 s). `revision` counts its changes."""

    id: int
    production_id: int
    picture_id: int
    number: str
    name: str
    slot_start_frames: int
    slot_length_flicks: int
    track_id: int | None
    colour: str
    notes: str
    status: str
    look_again: bool
    asks: dict[str, Any] | None
    fit_id: int | None
    revision: int


class CueFitRead(Answer):
    """The answer to what a cue asks for: a plan, or the problem that there is none, or neither while no track is chosen.

    `is_outdated`: the plan was made before the track's chart was corrected, or hits were moved.
    `is_missing`: nothing was planned for this yet. `choices`: the bars that could land on each hit.
    """

    fit_id: int | None
    track_id: int | None
    plan: Plan | None
    problem: Problem | None
    is_outdated: bool
    is_missing: bool
    choices: list[HitChoices]


class WayRead(Answer):
    """What one method makes of what a cue asks for: what it costs the listener, or why it makes nothing. Lower scores first."""

    method: str
    score: float | None
    costs: Costs | None
    problem: Problem | None


class ChangeRead(Answer):
    """One change that would have every must of a cue met: what is to be other, and the value that it then has.

    `tolerance_frames` is of the hits that are missed; `opening` and `landing` are left to the planner.
    """

    kind: Literal["give_pct", "max_seams", "hold_bars", "tolerance_frames", "opening", "landing"]
    value: float | None


class OutlookRead(Answer):
    """How music would do in the slot of a cue. `suits`: 0 to 100; `grade`: of its worst seam, empty without one or unheard."""

    suits: int
    cost: float | None
    seams: int
    grade: str
    speed_change_pct: float
    hits_within_reach: int
    words: str


class TrackOutlookRead(OutlookRead):
    """How a track of the library would do in the slot of a cue."""

    track_id: int


class ForecastsRead(Answer):
    """Outlooks of the next tracks of a library, what suits best first; those that were not listened to yet have none.

    `looked_at` tracks were gone through for it, of `n_tracks` in all. `next_after`: what to ask for next, null at the end.
    """

    outlooks: list[TrackOutlookRead]
    looked_at: int
    n_tracks: int
    next_after: int | None


class FitRead(Answer):
    """A fit in the list of a cue's. `origin`: planned, by hand, carried."""

    id: int
    track_id: int
    track_title: str
    name: str
    rank: int
    origin: str
    length_s: float
    n_seams: int
    is_chosen: bool
    created_at: datetime


class VerdictRead(Answer):
    """What was said of a seam, which is named by the samples of the track that it leaves and enters."""

    source_from_samples: int
    source_to_samples: int
    verdict: str
    words: str


class VerdictGiven(Input):
    """What is said of a seam; null takes it back."""

    source_from_samples: int = Field(ge=0)
    source_to_samples: int = Field(ge=0)
    verdict: Literal["passed", "failed"] | None
    words: str = Field("", max_length=2000)


class FitChoice(Input):
    """The fit that a cue goes back to."""

    fit_id: int


class FitName(Input):
    """What a fit is called; nothing takes its name away."""

    name: str = Field(max_length=200)


class CueUpdate(Input):
    """Fields of a cue to change; one undoable step. `revision`: that of the cue as it was looked at.

    `length`, `start` and `end` are what a person typed; `slot_length_flicks` and `slot_start_frames` are exact. A new start
    alone moves the slot, an `end` changes its length.
    """

    name: str | None = Field(None, min_length=1, max_length=200)
    number: str | None = Field(None, min_length=1, max_length=20)
    colour: Literal["amber", "sage", "sky", "rose", "violet", "sand"] | None = None
    status: Literal["open", "working", "review", "approved"] | None = None
    notes: str | None = Field(None, max_length=2000)
    look_again: bool | None = None
    start: str | None = Field(None, max_length=64)
    end: str | None = Field(None, max_length=64)
    slot_start_frames: int | None = Field(None, ge=0, le=MOST_FRAMES)
    track_id: int | None = None
    length: str | None = Field(None, max_length=64)
    slot_length_flicks: int | None = Field(None, gt=0, le=MOST_FLICKS)
    asks: CueAsks | None = None
    revision: int | None = Field(None, ge=0)


class CueCreate(Input):
    """A slot that is to become a cue, in frames of its picture; without a name it is called by its number."""

    start_frames: int = Field(ge=0, le=MOST_FRAMES)
    end_frames: int = Field(gt=0, le=MOST_FRAMES)
    name: str = Field("", max_length=200)


class Trial(Input):
    """What is tried: another length, or something else to ask for; what is left out stays as it is."""

    slot_length_flicks: int | None = Field(None, gt=0, le=MOST_FLICKS)
    asks: CueAsks | None = None


class RenderRequest(Input):
    """The form of the file."""

    sample_format: Literal["int16", "int24", "float32"] = "int24"
