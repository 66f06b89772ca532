"""Tempo on a picture: which beats land on which moments, and the curve of speed that brings them there."""

from evenseam.core.tempo.curve import bent
from evenseam.core.tempo.landing import Held, Moment, chosen

__all__ = ["Held", "Moment", "bent", "chosen"]
