"""Fits: what came of what a cue asks for, and what is said of it."""

from datetime import datetime
from typing import Literal

from pydantic import Field

from evenseam.api.problems import Problem
from evenseam.api.schemas.asks import CueAsks
from evenseam.api.schemas.base import MOST_FLICKS, Answer, Input
from evenseam.core.plan import Plan
from evenseam.core.plan.judging.choices import HitChoices
from evenseam.core.plan.judging.costs import Costs


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


class Trial(Input):
    """What is tried: another length, or something else to ask for; what is left out stays as it is."""

    slot_length_flicks: int | None = Field(None, gt=0, le=MOST_FLICKS)
    asks: CueAsks | None = None


class RenderRequest(Input):
    """The form of the file."""

    sample_format: Literal["int16", "int24", "float32"] = "int24"
