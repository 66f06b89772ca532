"""From a brief and a chart to plans: which passages play, where the seams lie, how the time between is spread.

What is asked and what is answered is here, and light to import; `planner.Planner` does the work.
"""

from evenseam.core.plan.brief import DEFAULT_EARLY_PCT, DEFAULT_SILENCE_S, PLANNER_VERSION, Aim, Brief
from evenseam.core.plan.model import (
    OPENINGS,
    PLAN_VERSION,
    Fade,
    Grade,
    HitMet,
    Landing,
    Opening,
    OpeningKind,
    Passage,
    Pin,
    Plan,
    PlanError,
    Rest,
    Seam,
)

__all__ = [
    "DEFAULT_EARLY_PCT",
    "DEFAULT_SILENCE_S",
    "OPENINGS",
    "PLANNER_VERSION",
    "PLAN_VERSION",
    "Aim",
    "Brief",
    "Fade",
    "Grade",
    "HitMet",
    "Landing",
    "Opening",
    "OpeningKind",
    "Passage",
    "Pin",
    "Plan",
    "PlanError",
    "Rest",
    "Seam",
]
