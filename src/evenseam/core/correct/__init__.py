"""Putting a chart right: what a person says of a track goes over what was heard, and is kept apart from it."""

from evenseam.core.correct.apply import corrected, grid_of, tapped
from evenseam.core.correct.corrections import Corrections, Mark, MarkKind, Point
from evenseam.core.correct.grid import Grid

__all__ = ["Corrections", "Grid", "Mark", "MarkKind", "Point", "corrected", "grid_of", "tapped"]
