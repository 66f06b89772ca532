"""The chart of a track: what was heard, what a person put right of it, and the spans to keep, skip or guard.

Light to import: values and arithmetic only. `core/listen` makes charts.
"""

from evenseam.core.chart.chart import CHART_VERSION, Chart, Confidence, Loop, Section
from evenseam.core.chart.corrections import Corrections, MarkKind, Point, TrackMark
from evenseam.core.chart.grid import Grid, grid_of
from evenseam.core.chart.roles import Role, roles_of

__all__ = [
    "CHART_VERSION",
    "Chart",
    "Confidence",
    "Corrections",
    "Grid",
    "Loop",
    "MarkKind",
    "Point",
    "Role",
    "Section",
    "TrackMark",
    "grid_of",
    "roles_of",
]
