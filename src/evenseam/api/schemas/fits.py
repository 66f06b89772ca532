"""Fits: what came of what a cue asks for, and what is said of it."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from evenseam.api.problems import Problem
from evenseam.api.schemas.base import MOST_FLICKS, Answer, Input
from evenseam.core.plan import MOST_NAMED_SEAMS, Plan
from evenseam.core.plan.judging.choices import HitChoices
from evenseam.core.plan.judging.costs import Costs
from evenseam.store.briefs import Asks

Sample = Annotated[int, Field(ge=0, le=MOST_FLICKS)]  # no recording has more


class CueFitRead(Answer):
    """The answer to what a cue asks for: a plan, or the problem that there is none, or neither while no track is chosen.

    `is_outdated`: the plan was made before the track's chart was corrected, or hits were moved.
    `is_missing`: nothing was planned for this yet. `choices`: the bars that could land on each hit. `seams`: what is said of
    the plan's seams, in their order, whichever fit it was said of.
    """

    fit_id: int | None
    track_id: int | None
    plan: Plan | None
    problem: Problem | None
    is_outdated: bool
    is_missing: bool
    choices: list[HitChoices]
    seams: list["SeamSaidRead"]


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


class SeamSaidRead(Answer):
    """What is said of a seam, which is named by the samples of the track at which the beats lie that it leaves and enters."""

    leaves_samples: int
    enters_samples: int
    verdict: str
    words: str
    wish: str
    moved_to: list[int] | None


class SeamSays(Input):
    """What is said of a seam; what is left out stays as it is, null takes it back. `moved_to`: the one wanted in its place."""

    leaves_samples: Sample
    enters_samples: Sample
    verdict: Literal["passed", "doubtful", "failed"] | None = None
    words: str = Field("", max_length=2000)
    wish: Literal["kept", "forbidden"] | None = None
    moved_to: list[Sample] | None = Field(None, min_length=2, max_length=2)


class SeamsSay(Input):
    """What is said of some seams at once."""

    seams: list[SeamSays] = Field(min_length=1, max_length=2 * MOST_NAMED_SEAMS)


class FitChoice(Input):
    """The fit that a cue goes back to."""

    fit_id: int


class FitName(Input):
    """What a fit is called; nothing takes its name away."""

    name: str = Field(max_length=200)


class Trial(Input):
    """What is tried: another length, or something else to ask for; what is left out stays as it is."""

    slot_length_flicks: int | None = Field(None, gt=0, le=MOST_FLICKS)
    asks: Asks | None = None


class RenderRequest(Input):
    """The form of the file."""

    sample_format: Literal["int16", "int24", "float32"] = "int24"
