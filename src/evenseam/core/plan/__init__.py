"""From a brief and a chart to plans: which passages play, where the seams lie, how the time between is spread."""

from evenseam.core.plan.brief import Brief
from evenseam.core.plan.plan import PLAN_VERSION, Anchor, Grade, Passage, Plan, Seam
from evenseam.core.plan.planner import Planner

__all__ = ["PLAN_VERSION", "Anchor", "Brief", "Grade", "Passage", "Plan", "Planner", "Seam"]
